"""Requests as the screen sends them, a part changed at random: answered, or refused with a sentence, never a fault of ours."""

import copy
import json
import random

import pytest

PROJECT = "/api/projects/the-salt-heron-wardrobe"
REQUESTS = 500
ODD = [
    None, 0, -1, 1, 0.5, 1e300, 2**63, 10**25, "", "x", "\u202e", "é" * 300, "master:height", "node:height", "source:s1:height",
    [], {}, [[]], {"a": 1}, True, "op:height_from_color", "../../x", "ab" * 32, "%s", [1, 2, 3], 1e-320,
]  # fmt: skip


SPOTS = {"kind": "spots", "spots": [{"x": 0.4, "y": 0.4, "across": 0.03, "down": 0.02, "from_x": 0.2, "from_y": 0.1}]}
STRAIGHT = {"kind": "straighten", "points": [[0.1, 0.1], [0.9, 0.1], [0.9, 0.9], [0.1, 0.9]], "aspect": 1.0, "bulge": 0.05}


def places(content: object, path: tuple = ()) -> list[tuple]:
    """Paths to every part of a JSON value."""
    items = content.items() if isinstance(content, dict) else enumerate(content) if isinstance(content, list) else ()
    return [step for key, part in items for step in ((*path, key), *places(part, (*path, key)))]


def changed(body: dict, rng: random.Random) -> dict:
    """A copy with one to three parts replaced, taken out, or put under another name."""
    body = copy.deepcopy(body)
    for _ in range(rng.choice((1, 1, 1, 2, 3))):
        paths = places(body)
        if not paths:
            break
        *way, last = rng.choice(paths)
        box = body
        for step in way:
            box = box[step]
        what = rng.random()
        if what < 0.65:
            box[last] = copy.deepcopy(rng.choice(ODD))
        elif what < 0.8:
            del box[last]
        elif isinstance(box, dict):
            box[rng.choice(("x", "rise", "op", " ", "height"))] = box[last]
    return body


def request(row: dict, rng: random.Random, number: int) -> tuple[str, str, dict]:
    """One that the screen might send of this set."""
    recipe, expects, path = row["recipe"], row["head"], f"/api/sets/{row['id']}"
    master = rng.choice(list(recipe["masters"]) or ["height"])  # an earlier request may have emptied it
    move = rng.choice([{"kind": "turn", "quarters": 1}, {"kind": "crop", "left": 0, "top": 0, "width": 90, "height": 80}])
    shown, finding = rng.choice([master, "lit"]), rng.choice(["light-in-color", "size-differs"])
    return rng.choice([
        ("PUT", f"{path}/recipe", {"expects": expects, "recipe": recipe, "note": ""}),
        ("PUT", f"{path}/recipe", {"expects": expects, "recipe": recipe, "note": ""}),
        ("POST", "/api/previews", {"view": "x", "seq": number, "recipe": recipe, "wanted": shown, "size": 32}),
        ("POST", "/api/probes", {"recipe": recipe, "x": 0.4, "y": 0.4, "size": 32}),
        ("POST", f"{path}/origins", {"expects": expects, "master": master, "origin": rng.choice(["absent", "one-value"])}),
        ("POST", f"{path}/moves", {"expects": expects, "move": move}),
        ("PUT", f"{path}/steps", {"expects": expects, "steps": [rng.choice([SPOTS, STRAIGHT]), move]}),
        ("POST", "/api/prepared", {"recipe": recipe, "steps": [SPOTS, STRAIGHT]}),
        ("POST", "/api/repeats", {"recipe": recipe, "at": 0, "sides": [0.7, None], "overlap": 0.2, "is_quick": True}),
        ("POST", "/api/variants", {"recipe": recipe, "at": 0, "seed": 3, "cells": 2}),
        ("POST", "/api/spots", {"recipe": recipe, "at": 0, "x": 0.4, "y": 0.4, "across": 0.03, "down": 0.03}),
        ("POST", f"{path}/size", {"expects": expects, "size": {"longer": 96}}),
        ("POST", f"{path}/fixes", {"expects": expects, "finding": finding, "master": master}),
        ("POST", f"{PROJECT}/plans", {"sets": [row["id"]], "targets": ["gltf", "small-tiles"], "size": 64}),
    ])  # fmt: skip


@pytest.fixture()
def sets(client):
    """Sets as they are, and as they are left."""
    rows = client.get(f"{PROJECT}/sets").json()
    yield rows
    for row in rows:
        now = client.get(f"/api/sets/{row['id']}").json()
        client.post(f"/api/sets/{row['id']}/head", json={"expects": now["head"], "version": row["head"]})


def test_no_request_is_a_fault_of_ours(client, sets):
    rng, codes = random.Random(11), set()
    for number in range(REQUESTS):
        row = client.get(f"/api/sets/{rng.choice(sets)['id']}").json()
        method, path, body = request(row, rng, number)
        content = json.dumps(changed(body, rng) if rng.random() < 0.9 else body)
        answer = client.request(method, path, content=content, headers={"content-type": "application/json"})
        assert answer.status_code < 500, (method, path, content[:600], answer.text)
        codes.add(answer.status_code)
    assert {200, 422} <= codes


def test_a_fix_that_would_run_in_a_circle_is_refused(client, sets):
    for row in sets:
        for master in row["recipe"]["masters"]:
            body = {"expects": row["head"], "finding": "light-in-color", "master": master}
            answer = client.post(f"/api/sets/{row['id']}/fixes", json=body)
            assert answer.status_code in (200, 409, 422), answer.text
            assert client.get(f"/api/sets/{row['id']}").status_code == 200

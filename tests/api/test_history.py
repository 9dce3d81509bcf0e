"""What each step of a set did, names for versions, and going to any of them."""

from importlib import resources
from uuid import uuid4

import numpy as np

from asking import RAW
from copper_sieve.files import encode, read_bytes
from copper_sieve.store.database import open_pool

PROJECT = "/api/projects/the-salt-heron-wardrobe"


def a_set(client, name: str) -> dict:
    content = encode(np.random.default_rng(len(name)).integers(40, 200, (32, 32, 3)).astype(np.uint8), "png")
    look = client.post("/api/originals", params={"name": f"{name}.png"}, content=content, headers=RAW).json()
    entry = {"sha256": look["sha256"], "name": look["name"], "kind": "photo", "reads": {"RGB": "photo"}, "tiles": [True, True]}
    return client.post(f"{PROJECT}/sets", json={"name": name, "entries": [entry]}).json()


def test_a_copy_is_made_as_the_set_is_now_and_has_a_history_of_its_own(client):
    made = a_set(client, "Hist cheviot")
    path, recipe = f"/api/sets/{made['id']}", made["recipe"]
    recipe["facts"]["rise"] = 0.05
    made = client.put(f"{path}/recipe", json={"expects": made["head"], "recipe": recipe}).json()
    answer = client.post(f"{path}/copies", json={})
    copy = answer.json()
    assert answer.status_code == 201 and copy["name"] == "Hist cheviot 2" and copy["recipe"] == made["recipe"]
    assert client.post(f"/api/sets/{copy['id']}/copies", json={}).json()["name"] == "Hist cheviot 3"
    taken = client.post(f"{path}/copies", json={"name": "hist CHEVIOT"})
    assert taken.status_code == 409 and taken.json()["code"] == "name-taken"
    recipe["facts"]["rise"] = 0.02
    client.put(f"/api/sets/{copy['id']}/recipe", json={"expects": copy["head"], "recipe": recipe})
    assert client.get(path).json()["recipe"]["facts"]["rise"] == 0.05
    assert client.get(f"/api/sets/{copy['id']}/versions").json()[-1]["note"] == "copied from Hist cheviot"
    assert client.post(f"/api/sets/{uuid4()}/copies", json={}).status_code == 404


def test_a_copy_goes_into_another_project_under_its_own_name_unless_that_is_taken_there(client):
    made = a_set(client, "Hist loden")
    other = client.post("/api/projects", json={"title": "Hist winter"}).json()["name"]
    into = [client.post(f"/api/sets/{made['id']}/copies", json={"project": other}).json() for _ in range(2)]
    assert [one["name"] for one in into] == ["Hist loden", "Hist loden 2"] and into[0]["recipe"] == made["recipe"]
    assert {row["id"] for row in client.get(f"/api/projects/{other}/sets").json()} == {one["id"] for one in into}
    assert client.post(f"/api/sets/{made['id']}/copies", json={"project": "nowhere"}).status_code == 404


def test_each_step_says_what_it_did_and_any_can_be_gone_to(client):
    made = a_set(client, "Hist serge")
    path = f"/api/sets/{made['id']}"
    recipe = made["recipe"]
    recipe["nodes"]["height"]["params"]["contrast"] = 1.5
    fitted, recipe["facts"]["rise"] = recipe["facts"]["rise"], 0.05
    one = client.put(f"{path}/recipe", json={"expects": made["head"], "recipe": recipe}).json()
    two = client.post(
        f"{path}/origins", json={"expects": one["head"], "master": "metallic", "origin": "op:metallic_by_picks"}
    ).json()
    three = client.post(f"{path}/origins", json={"expects": two["head"], "master": "emissive", "origin": "one-value"}).json()
    rows = client.get(f"{path}/versions").json()
    assert [row["note"] for row in rows] == [
        "Emissive constant",
        "Metallic from color, by picks",
        f"Height: contrast 1 × → 1.5 ×; rise {fitted * 100:.4g} % → 5 %",
        "taken in",
    ]
    assert [row["is_head"] for row in rows] == [True, False, False, False]
    client.put(f"{path}/versions/{one['head']}/name", json={"name": "steep"})
    assert client.get(f"{path}/versions").json()[2]["name"] == "steep"
    assert client.get(f"{path}/versions/{one['head']}").json() == one["recipe"]
    back = client.post(f"{path}/head", json={"expects": three["head"], "version": one["head"]}).json()
    assert back["recipe"] == one["recipe"] and back["can_redo"]
    stale = client.post(f"{path}/head", json={"expects": three["head"], "version": made["head"]})
    assert stale.status_code == 409
    other = a_set(client, "Hist tulle")
    assert client.post(f"{path}/head", json={"expects": one["head"], "version": other["head"]}).status_code == 404
    for one_set in (made, other):
        client.delete(f"/api/sets/{one_set['id']}")


def test_only_what_works_is_offered_and_a_circle_is_refused_with_the_reason(client):
    made = a_set(client, "Hist felt")
    path = f"/api/sets/{made['id']}"
    offered = {c["key"] for c in client.get(f"{path}/origins", params={"head": made["head"]}).json()["height"]["choices"]}
    assert "op:height_by_picks" in offered and "op:height_from_normal" not in offered
    refused = client.post(
        f"{path}/origins", json={"expects": made["head"], "master": "height", "origin": "op:height_from_normal"}
    )
    assert refused.status_code == 422 and "circle" in refused.json()["detail"]
    client.delete(path)


def test_recipes_from_before_facts_had_states_are_called_what_they_are(client, database):
    """A given height at the rise that used to be taken for granted was assumed; another was told; edges were guessed."""
    rows = {row["name"]: row for row in client.get("/api/projects/the-salt-heron-wardrobe/sets").json()}
    migration = resources.files("copper_sieve.store") / "migrations" / "0005_how_facts_are_known.sql"
    with open_pool(database) as pool, pool.connection() as conn:
        heads = {name: rows[name]["head"] for name in ("Quilted satin", "Chunky knit", "Grained leather")}
        for head, rise in zip(heads.values(), (0.02, 0.05, 0.02)):
            conn.execute(
                "UPDATE recipe_version SET recipe = jsonb_set(recipe #- '{facts,rise_from}' #- '{facts,edges_from}',"
                " '{facts,rise}', %s::text::jsonb) WHERE id = %s",
                (str(rise), head),
            )
        conn.execute(migration.read_text("utf-8").encode())
        found = {
            name: conn.execute("SELECT recipe->'facts' AS facts FROM recipe_version WHERE id = %s", (head,)).fetchone()["facts"]
            for name, head in heads.items()
        }
        conn.rollback()
    assert [facts.get("rise_from") for facts in found.values()] == ["assumed", None, None]
    assert {facts["edges_from"] for facts in found.values()} == {"guessed"}


def of_width(client, made: dict, meters: float, corrections: dict | None = None) -> dict:
    """The set with a tile of that width, and with its photo corrected."""
    recipe = made["recipe"]
    recipe["facts"]["tile_size"] = meters
    recipe["sources"]["s1"]["corrections"] = corrections or {}
    asked = {"expects": made["head"], "recipe": recipe}
    return client.put(f"/api/sets/{made['id']}/recipe", json=asked).json()


def test_sets_of_other_density_are_told_and_matched_by_one_press(client):
    one, two = (of_width(client, a_set(client, f"Hist {n}"), w) for n, w in (("voile", 1.0), ("organdie", 4.0)))
    rows = {row["set"]: row for row in client.get(f"{PROJECT}/density").json()}
    assert set(rows) == {one["id"], two["id"]} and rows[two["id"]]["fix"] == "Match their density"
    asked = {"expects": two["head"], "finding": "density-differs", "master": None}
    matched = client.post(f"/api/sets/{two['id']}/fixes", json=asked).json()
    assert matched["recipe"]["facts"]["width"] == 128
    assert client.get(f"{PROJECT}/density").json() == []
    for made in (one, two):
        client.delete(f"/api/sets/{made['id']}")


def test_a_correction_is_a_step_with_a_sentence_and_nonsense_is_refused(client):
    made = of_width(client, a_set(client, "Hist batiste"), 1.0)
    moved = of_width(client, made, 1.0, {"photo": {"saturation": 1.4}})
    assert client.get(f"/api/sets/{made['id']}/versions").json()[0]["note"] == "Hist batiste.png: saturation 1 × → 1.4 ×"
    recipe = moved["recipe"] | {"sources": moved["recipe"]["sources"]}
    recipe["sources"]["s1"]["corrections"] = {"photo": {"saturation": 99}}
    refused = client.put(f"/api/sets/{made['id']}/recipe", json={"expects": moved["head"], "recipe": recipe})
    assert refused.status_code == 422 and "saturation" in refused.text
    client.delete(f"/api/sets/{made['id']}")


def test_settings_are_saved_under_names_and_offered_where_they_fit_and_change_something(client):
    first, second = a_set(client, "Kept twill"), a_set(client, "Other twill")
    recipe = first["recipe"]
    recipe["nodes"]["height"]["params"] = {"contrast": 1.7}
    first = client.put(f"/api/sets/{first['id']}/recipe", json={"expects": first["head"], "recipe": recipe}).json()
    settings = client.get(f"/api/sets/{first['id']}/settings").json()
    name = "étoffe douce"
    assert client.put(f"/api/settings/{name}", json=settings).status_code == 204
    assert client.put("/api/settings/none", json={"rise": 7, "masters": {}}).status_code == 422
    lacking = {"rise": 0.02, "masters": {**settings["masters"], "normal": {"op": "normal_from_object_space"}}}
    client.put("/api/settings/for object space", json={**lacking, "schema": 1})
    assert [row["name"] for row in client.get("/api/settings").json()] == ["for object space", name]

    def offers(made: dict) -> list[tuple[str, list[str]]]:
        return [(row["name"], row["changes"]) for row in client.get(f"/api/sets/{made['id']}/settings/fitting").json()]

    assert offers(first) == []  # it is made so already
    assert offers(second) == [(name, ["height"])]
    made = client.post(f"/api/sets/{second['id']}/settings", json={"expects": second["head"], "settings": settings}).json()
    assert made["recipe"]["nodes"]["height"]["params"]["contrast"] == 1.7 and offers(second) == []
    for one in (name, "for object space", "never there"):
        assert client.delete(f"/api/settings/{one}").status_code == 204
    assert client.get("/api/settings").json() == []


def test_a_fitted_rise_follows_the_picks_and_one_that_was_told_stays(client):
    made = a_set(client, "Picked crepe")
    path = f"/api/sets/{made['id']}"
    ask = {"expects": made["head"], "master": "height", "origin": "op:height_by_picks"}
    made = client.post(f"{path}/origins", json=ask).json()

    def with_picks(made: dict, *values: float) -> dict:
        recipe = made["recipe"]
        picks = [{"x": 0.2 + 0.3 * k, "y": 0.3, "value": value} for k, value in enumerate(values)]
        recipe["nodes"]["height_by_picks"]["params"] = {"picks": picks}
        return client.put(f"{path}/recipe", json={"expects": made["head"], "recipe": recipe}).json()

    def tilt(made: dict) -> float:
        slopes = client.get(f"{path}/slopes", params={"head": made["head"]}).json()
        return float(np.degrees(np.arctan(np.array(slopes) * made["recipe"]["facts"]["rise"])).mean())

    picked = with_picks(made, 0.9, 0.1)
    assert picked["recipe"]["facts"]["rise_from"] == "fitted" and 11 < tilt(picked) < 13
    late = {**picked, "recipe": {**picked["recipe"], "facts": {**picked["recipe"]["facts"], "rise": 0.001}}}
    picked = with_picks(late, 0.9, 0.1)  # by a hand that did not know yet what was fitted
    assert picked["recipe"]["facts"]["rise_from"] == "fitted" and 11 < tilt(picked) < 13
    picked["recipe"]["facts"] |= {"rise": 0.03, "rise_from": "told"}
    told = with_picks(picked, 0.9, 0.1)
    assert with_picks(told, 0.9, 0.2)["recipe"]["facts"]["rise"] == 0.03


def test_a_set_is_seen_as_it_would_start_before_it_does(client):
    made = a_set(client, "Hist gravel")
    path = f"/api/sets/{made['id']}"
    (start, *_) = [one["key"] for one in client.get("/api/starts").json() if one["key"] != "plain"]
    seen = client.get(f"{path}/starts/{start}").json()
    assert client.get(path).json()["head"] == made["head"]  # nothing is kept
    taken = client.post(f"{path}/starts", json={"expects": made["head"], "start": start}).json()
    assert seen == taken["recipe"] != made["recipe"]
    assert client.get(f"{path}/starts/velvet-moon").status_code == 404


def test_where_picks_leave_a_map_unsure_is_a_picture_and_other_maps_have_none(client):
    made = a_set(client, "Hist ochre")
    path = f"/api/sets/{made['id']}"
    ask = {"expects": made["head"], "master": "roughness", "origin": "op:roughness_by_picks"}
    picked = client.post(f"{path}/origins", json=ask).json()
    recipe = picked["recipe"]
    node = recipe["masters"]["roughness"].removeprefix("node:")
    recipe["nodes"][node]["params"]["picks"] = [{"x": 0.5, "y": 0.5, "value": 0.4}]
    now = client.put(f"{path}/recipe", json={"expects": picked["head"], "recipe": recipe}).json()
    answer = client.get(f"{path}/doubt", params={"head": now["head"], "master": "roughness"})
    alpha = read_bytes(answer.content, "doubt.png").codes[..., 3]
    assert alpha.shape == (32, 32) and alpha[16, 16] == 0 < alpha.max()
    refused = client.get(f"{path}/doubt", params={"head": now["head"], "master": "normal"})
    assert refused.status_code == 422 and "does not come from picks" in refused.json()["detail"]


def test_a_value_is_mixed_with_another_and_each_part_of_the_mix_is_named(client):
    made = a_set(client, "Hist brass")
    path = f"/api/sets/{made['id']}"

    def ask(at: dict, what: str, **said) -> dict:
        return client.post(f"{path}/{what}", json={"expects": at["head"], "master": "roughness", **said}).json()

    curved = client.post(
        f"{path}/origins", json={"expects": made["head"], "master": "curvature", "origin": "op:curvature_from_normal"}
    ).json()
    plain = ask(curved, "origins", origin="one-value")
    mixed = ask(plain, "origins", origin="mix:one-value")
    limited = ask(mixed, "masks", mask="folds")

    def parts(of: dict) -> list[tuple[str, str]]:
        row = next(m for m in of["masters"] if m["key"] == "roughness")
        return [(part["part"], part["op"]) for part in row["mixed"]]

    assert parts(plain) == [] and parts(mixed) == [("under", "constant"), ("in", "constant")]
    assert parts(limited) == [*parts(mixed), ("mask", "bends_mask")]
    said = [version["note"] for version in client.get(f"{path}/versions").json()]
    assert said[:2] == ["Roughness mixed in folds, by the curvature", "Roughness mixed"]
    client.delete(path)


def test_what_changes_nothing_is_no_step_and_a_stale_head_is_still_refused(client):
    made = a_set(client, "Hist still")
    path = f"/api/sets/{made['id']}"
    same = {"longer": max(made["recipe"]["facts"]["width"], made["recipe"]["facts"]["height"])}
    again = client.post(f"{path}/size", json={"expects": made["head"], "size": same}).json()
    assert again["head"] == made["head"] and len(client.get(f"{path}/versions").json()) == 1
    assert client.post(f"{path}/size", json={"expects": made["head"] + 1, "size": same}).status_code == 409
    client.delete(path)

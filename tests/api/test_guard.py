"""What is refused before a route sees it, and what the database's refusals become."""

import io
import re
import shutil
import threading
import zipfile
from concurrent.futures import ThreadPoolExecutor

import numpy as np
import pytest

from asking import RAW, ended
from copper_sieve.api.guard import MAX_JSON_BYTES
from copper_sieve.files import encode
from copper_sieve.store.constraints import refusal

PROJECT = "/api/projects/the-salt-heron-wardrobe"
COLOR = encode(np.random.default_rng(90).integers(0, 255, (24, 24, 3)).astype(np.uint8), "png")
OURS = "http://127.0.0.1"


def a_look(client, name="guard cloth.png") -> dict:
    return client.post("/api/originals", params={"name": name}, content=COLOR, headers=RAW).json()


def an_entry(client) -> dict:
    look = a_look(client)
    return {"sha256": look["sha256"], "name": look["name"], "kind": "photo"}


@pytest.mark.parametrize(
    "headers",
    [
        {"host": "testserver"},
        {"host": "evil.example"},
        {"host": "127.0.0.1.evil.example"},
        {"origin": "http://evil.example"},
        {"origin": "null"},
        {"origin": "https://127.0.0.1"},  # another scheme
        {"origin": "http://127.0.0.1:9"},  # another port
        {"origin": "http://localhost"},  # another name than the one that was asked
        {"sec-fetch-site": "cross-site", "sec-fetch-mode": "no-cors"},
    ],
)
def test_only_pages_of_ours_may_ask(client, headers):
    answer = client.get("/api/projects", headers=headers)
    assert (answer.status_code, answer.json()["code"]) == (403, "foreign-origin")


def test_scripts_are_kept_by_the_browser_for_good_and_the_page_that_names_them_is_not(client):
    page = client.get("/")
    named = re.findall(r'"(/assets/[^"]+)"', page.text)
    assert named and page.headers["cache-control"] == "no-store"
    for path in named:
        assert "immutable" in client.get(path).headers["cache-control"], path


@pytest.mark.parametrize("headers", [{}, {"origin": OURS}, {"sec-fetch-site": "same-origin"}, {"sec-fetch-site": "none"}])
def test_our_own_pages_may(client, headers):
    assert client.get("/api/projects", headers=headers).status_code == 200


@pytest.mark.parametrize("path", ["/", "/api/health", "/api/nothing", "/api/projects/none/sets"])
def test_every_answer_tells_the_browser_what_it_may_do(client, path):
    headers = client.get(path).headers
    policy = dict(part.strip().partition(" ")[::2] for part in headers["content-security-policy"].split(";"))
    assert (policy["script-src"], policy["default-src"], policy["frame-ancestors"]) == ("'self'", "'none'", "'none'")
    assert "unsafe" not in headers["content-security-policy"] and "'nonce-" in policy["style-src"]
    assert (headers["x-content-type-options"], headers["referrer-policy"]) == ("nosniff", "no-referrer")
    assert headers["x-frame-options"] == "DENY"


def test_the_page_names_the_nonce_of_its_own_answer(client):
    first, second = client.get("/"), client.get("/p/x/tray")
    nonces = [answer.headers["content-security-policy"].partition("'nonce-")[2].partition("'")[0] for answer in (first, second)]
    assert nonces[0] != nonces[1] and all(f'nonce="{n}"' in a.text for n, a in zip(nonces, (first, second)))


@pytest.mark.parametrize("kind", ["text/plain", "application/x-www-form-urlencoded", "multipart/form-data; boundary=x", None])
def test_forms_and_text_change_nothing(client, kind):
    headers = {} if kind is None else {"content-type": kind}
    before = len(client.get("/api/projects").json())
    answer = client.post("/api/projects", content=b'{"title": "Forged"}', headers=headers)
    assert answer.status_code == 415 and len(client.get("/api/projects").json()) == before


@pytest.mark.parametrize(
    "body",
    [
        b'{"title": "a\\u0000b"}',
        b'{"title": NaN}',
        b'{"title": "x", "y": Infinity}',
        b'{"title": 1e999}',
        b'{"title": ' + b"[" * 100_000 + b"]" * 100_000 + b"}",
        b'{"title": "\xff"}',
        b"{",
    ],
)
def test_odd_json_is_refused_with_a_sentence(client, body):
    answer = client.post("/api/projects", content=body, headers={"content-type": "application/json"})
    assert answer.status_code == 422 and answer.json()["code"] == "invalid-request"


def test_a_written_out_backslash_is_no_nul(client):
    answer = client.post("/api/projects", content=b'{"title": "a\\\\u0000b"}', headers={"content-type": "application/json"})
    assert answer.status_code == 201 and answer.json()["title"] == "a\\u0000b"


def test_what_is_too_large_is_heard_to_its_end_so_that_the_refusal_is(client):
    """Who is cut off while sending hears that alone, and not why."""
    pieces = iter([b"#" * 65536] * 40)
    answer = client.post("/api/targets/import", content=pieces, headers=RAW)
    assert (answer.status_code, answer.json()["code"]) == (413, "file-too-large")
    assert answer.json()["detail"].startswith("The target is over 1 MB, the most that is taken")
    assert next(pieces, None) is None


def test_bodies_have_a_limit_and_names_no_nul(client):
    large = client.post("/api/projects", json={"title": "x" * MAX_JSON_BYTES})
    assert (large.status_code, large.json()["code"]) == (413, "body-too-large")
    for address in ("/api/originals?name=a%00b", "/api/projects/a%00b/sets", "/api/originals?name=x&folder=%00"):
        assert client.post(address, content=COLOR, headers=RAW).status_code == 422
    assert client.post("/api/folders/looks", json={"place": "²/x"}).status_code == 404
    assert client.post("/api/folders/looks", json={"place": "0/" + "y" * 9000}).status_code == 404
    assert client.put("/api/profiles/" + "n" * 200, json={"sets": [[an_entry(client)]]}).status_code == 422


def test_numbers_beyond_the_databases_are_told(client):
    set_id = client.get(f"{PROJECT}/sets").json()[0]["id"]
    answer = client.post(f"/api/sets/{set_id}/step", json={"expects": 10**30, "step": "undo"})
    assert answer.status_code in (409, 422) and answer.json()["detail"]
    assert client.get(f"/api/sets/{set_id}/versions/{10**30}").status_code in (404, 422)


def side_by_side(work, count: int) -> list[int]:
    """Status codes of ``count`` requests that start at the same moment."""
    together = threading.Barrier(count)

    def one(number: int) -> int:
        together.wait()
        return work(number).status_code

    with ThreadPoolExecutor(count) as pool:
        return sorted(pool.map(one, range(count)))


def test_equal_names_at_once_are_told_and_one_is_kept(client):
    body = {"name": "At once", "entries": [an_entry(client)]}
    codes = side_by_side(lambda _: client.post(f"{PROJECT}/sets", json=body), 6)
    assert codes == [201, 409, 409, 409, 409, 409]
    made = next(s for s in client.get(f"{PROJECT}/sets").json() if s["name"] == "At once")
    client.delete(f"/api/sets/{made['id']}")
    assert client.post(f"{PROJECT}/sets", json=body).status_code == 201
    back = client.post(f"/api/sets/{made['id']}/restore")
    assert (back.status_code, back.json()["code"]) == (409, "name-taken")


def test_two_edits_of_one_target_and_two_equal_titles(client):
    titles = side_by_side(lambda _: client.post("/api/targets", json={"copy_of": "gltf", "title": "Same title"}), 5)
    assert titles == [201, 409, 409, 409, 409]
    own = next(row["target"] for row in client.get("/api/targets").json() if row["target"]["title"] == "Same title")

    def edit(number: int):
        changed = {**own, "notes": f"edit {number}"}
        return client.put(f"/api/targets/{own['key']}", json={"expects": own["version"], "target": changed})

    assert side_by_side(edit, 8) == [200, *[409] * 7]
    assert client.get(f"/api/targets/{own['key']}/file").text.count("edit ") == 1
    client.delete(f"/api/targets/{own['key']}")


def test_a_second_project_never_becomes_the_first(client):
    first = client.post("/api/projects", json={"title": "Night & Day"}).json()
    assert client.post("/api/projects", json={"title": "Night & Day"}).json() == first
    assert client.post("/api/projects", json={"title": "night, day"}).status_code == 409


def test_a_project_is_called_otherwise_and_put_away_and_keeps_its_address_and_its_sets(client):
    one, other = (client.post("/api/projects", json={"title": title}).json() for title in ("Loge", "Foyer"))
    at = f"/api/projects/{one['name']}"
    made = client.post(f"{at}/sets", json={"name": "kept", "entries": [an_entry(client)]}).json()
    assert client.put(at, json={"title": "Loge 2"}).json() == {**one, "title": "Loge 2"}
    assert client.put(at, json={"title": other["title"]}).status_code == 409
    assert client.put(at, json={"title": ""}).status_code == 422
    assert client.post("/api/projects", json={"title": "Loge 2"}).json()["name"] == one["name"]  # found by its title
    assert client.put(at, json={"is_away": True}).json()["is_away"]
    assert [row["id"] for row in client.get(f"{at}/sets").json()] == [made["id"]]
    assert not client.put(at, json={"is_away": False}).json()["is_away"]
    assert client.put("/api/projects/nowhere", json={}).status_code == 404
    anew = client.post("/api/projects", json={"title": "Loge"}).json()  # its name is free, and its address is not
    assert (anew["title"], anew["name"]) == ("Loge", "loge-2")
    assert client.post("/api/projects", json={"title": "Loge"}).json() == anew


def test_a_project_that_was_put_away_is_deleted_with_what_only_it_uses(client):
    one, other = (client.post("/api/projects", json={"title": title}).json()["name"] for title in ("Étage", "Entresol"))
    shared = an_entry(client)
    content = encode(np.random.default_rng(404).integers(0, 255, (32, 32, 3)).astype(np.uint8), "png")
    told = client.post("/api/originals", params={"name": "own.png"}, content=content, headers=RAW).json()
    own = {"sha256": told["sha256"], "name": "own.png", "kind": "photo"}
    at = f"/api/projects/{one}"
    made = [
        client.post(f"{at}/sets", json={"name": name, "entries": [file]}).json() for name, file in (("a", shared), ("b", own))
    ]
    client.delete(f"/api/sets/{made[1]['id']}")
    kept = client.post(f"/api/projects/{other}/sets", json={"name": "kept", "entries": [shared]}).json()
    ended(client, client.post(f"{at}/deliveries", json={"sets": [made[0]["id"]], "targets": ["engine-loose-down"]}).json())
    assert client.get(f"{at}/weight").json() == {"sets": 2, "bytes": len(content)}
    assert client.delete(at).status_code == 422  # it is in use
    client.put(at, json={"is_away": True})
    with client.app.state.sieve.pool.connection() as conn:
        conn.execute("UPDATE original SET created = created - interval '2 days' WHERE sha256 = %s", (own["sha256"],))
    assert client.delete(at).status_code == 204
    assert client.get(f"{at}/sets").status_code == 404 and client.get(f"/api/sets/{made[0]['id']}").status_code == 404
    assert client.get(f"/api/originals/{own['sha256']}/thumbnail").status_code == 404
    drawn = client.get(f"/api/sets/{kept['id']}/swatch", params={"head": kept["head"], "show": "base_color", "px": 32})
    assert drawn.status_code == 200
    assert client.delete(at).status_code == 404


def delivered(client, name: str) -> dict:
    made = client.post(f"{PROJECT}/sets", json={"name": name, "entries": [an_entry(client)]}).json()
    run = client.post(f"{PROJECT}/deliveries", json={"sets": [made["id"]], "targets": ["engine-orm-down"]}).json()
    run = ended(client, run)
    assert run["state"] == "done", run
    return run


def test_a_folders_name_is_never_used_twice_and_what_is_served_is_what_was_delivered(client, data):
    first = delivered(client, "Served one")
    folder = data / "deliveries" / first["folder"]
    with zipfile.ZipFile(io.BytesIO(client.get(f"/api/deliveries/{first['id']}/zip").content)) as archive:
        names = archive.namelist()
    assert sum(name.endswith("hand-over.md") for name in names) == 1
    assert sum(name.endswith(".tga") for name in names) == [*first["rows"].values()].count("written")
    (folder / "foreign.txt").write_text("not ours")
    with zipfile.ZipFile(io.BytesIO(client.get(f"/api/deliveries/{first['id']}/zip").content)) as archive:
        assert archive.namelist() == names
    one = next(folder.rglob("*.tga"))
    one.write_bytes(one.read_bytes()[:-1] + b"!")
    answer = client.get(f"/api/deliveries/{first['id']}/zip")
    assert (answer.status_code, answer.json()["code"]) == (409, "files-changed") and one.name in answer.json()["detail"]
    shutil.rmtree(folder)
    second = delivered(client, "Served two")
    assert second["folder"] != first["folder"]
    assert client.get(f"/api/deliveries/{first['id']}/zip").status_code == 422


def test_a_full_disk_is_said_to_be_one(client, monkeypatch):
    import psycopg

    assert refusal(psycopg.errors.DiskFull("no space left on device"))[0] == "disk-full"
    monkeypatch.setattr(
        "copper_sieve.work.intake.keeping.keep_original", lambda *a, **k: (_ for _ in ()).throw(OSError(28, "full"))
    )
    answer = client.post("/api/originals", params={"name": "full.png"}, content=COLOR, headers=RAW)
    assert (answer.status_code, answer.json()["code"]) == (507, "disk-full") and "Nothing was lost" in answer.json()["detail"]


def test_a_fault_of_ours_is_answered_and_logged(client, monkeypatch, caplog):
    monkeypatch.setattr("copper_sieve.api.routes.projects.projects.list_projects", lambda conn: 1 / 0)
    answer = client.get("/api/projects")
    assert (answer.status_code, answer.json()["code"]) == (500, "our-fault") and "nosniff" in answer.headers.values()
    assert "ZeroDivisionError" in caplog.text and "Traceback" in caplog.text


def test_recipes_are_checked_when_they_are_kept(client):
    row = client.get(f"{PROJECT}/sets").json()[0]
    recipe = row["recipe"]

    def put(changed: dict):
        return client.put(f"/api/sets/{row['id']}/recipe", json={"expects": row["head"], "recipe": changed})

    source = next(iter(recipe["sources"]))
    unknown = {**recipe["sources"], source: {**recipe["sources"][source], "sha256": "ab" * 32}}
    many = {f"n{k}": {"op": "constant", "params": {"value": 0.1}} for k in range(501)}
    for changed in (
        {**recipe, "sources": unknown},
        {**recipe, "nodes": many},
        {**recipe, "nodes": {**recipe["nodes"], "x": {"op": "height_from_color", "inputs": {}}}},
        {**recipe, "facts": {**recipe["facts"], "width": 10**7}},
        {**recipe, "facts": {**recipe["facts"], "rise": 7}},
    ):
        answer = put(changed)
        assert answer.status_code == 422 and answer.json()["detail"], answer.text
    assert put(recipe).status_code == 200


@pytest.mark.parametrize(
    "said",
    [
        {"reads": {"A": "opacity"}},  # it has no alpha
        {"reads": {"RGB": "dreams"}},
        {"reads": {"Q": "height"}},
        {"reads": {"RGB": "photo"}, "spans": {"RGB": [0.5, 0.5]}},
        {"name": "n" * 5000},
        {"kind": "dreams"},
        {"sha256": "ab" * 32},
    ],
)
def test_a_file_is_only_taken_in_as_what_it_can_be(client, said):
    body = {"name": "Odd reads", "entries": [an_entry(client) | said]}
    answer = client.post(f"{PROJECT}/sets", json=body)
    assert answer.status_code in (404, 422) and len(answer.json()["detail"]) > 15, answer.text
    assert "Odd reads" not in {row["name"] for row in client.get(f"{PROJECT}/sets").json()}


def test_odd_lessons_are_refused(client):
    odd = an_entry(client) | {"reads": {"Q": "height"}}
    assert client.put("/api/profiles/Odd", json={"sets": [[odd, odd]]}).status_code == 422

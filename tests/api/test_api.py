"""Intake, history and delivery through the API, over a real PostgreSQL."""

import io
import zipfile

import numpy as np
import pytest
from typer.testing import CliRunner

from asking import RAW, ended
from copper_sieve.cli import app
from copper_sieve.core.findings import FINDINGS
from copper_sieve.demo.materials import MATERIALS
from copper_sieve.files import encode, read, write
from copper_sieve.store.database import open_pool
from copper_sieve.store.originals import original_exists, sweep_originals

PROJECT = "/api/projects/the-salt-heron-wardrobe"


def drop(client, name: str, content: bytes) -> dict:
    answer = client.post("/api/originals", params={"name": name}, content=content, headers=RAW)
    assert answer.status_code == 200, answer.text
    return answer.json()


def take_in(client, name: str, size: int = 96) -> tuple[dict, bytes]:
    content = encode(np.random.default_rng(len(name)).integers(0, 255, (size, size, 3)).astype(np.uint8), "png")
    look = drop(client, f"{name}.png", content)
    entry = {"sha256": look["sha256"], "name": look["name"], "kind": look["kind"]}
    made = client.post(f"{PROJECT}/sets", json={"name": name, "entries": [entry]})
    assert made.status_code == 201, made.text
    return made.json(), content


def test_demo_is_there_and_answers_pictures(client):
    wardrobe = {material.name for material in MATERIALS}
    sets = [s for s in client.get(f"{PROJECT}/sets").json() if s["name"] in wardrobe]  # other tests' sets lie beside them
    assert len(sets) == len(wardrobe) == 7
    for row in sets:
        swatch = client.get(f"/api/sets/{row['id']}/swatch", params={"head": row["head"]})
        assert swatch.headers["content-type"] == "image/png"
    found = {s["name"]: client.get(f"/api/sets/{s['id']}/assay", params={"head": s["head"]}).json() for s in sets}
    assert {name: [row["finding"]["id"] for row in rows] for name, rows in found.items() if rows} == {
        "Chunky knit": ["no-base-color"],
        **{name: ["roughness-guessed"] for name in ("Glow ribbon", "Grained leather", "Lace trim")},  # nobody was asked yet
    }


def test_screen_path_and_terminal_write_the_same_images(client, tmp_path):
    made, content = take_in(client, "crêpe de Chine")
    request = {"sets": [made["id"]], "targets": ["engine-orm-down", "gltf"]}
    delivery = ended(client, client.post(f"{PROJECT}/deliveries", json=request).json())
    assert delivery["state"] == "done" and delivery["done_units"] == delivery["total_units"], delivery["problem"]
    archive = zipfile.ZipFile(io.BytesIO(client.get(f"/api/deliveries/{delivery['id']}/zip").content))
    (tmp_path / "crêpe de Chine.png").write_bytes(content)
    for target in request["targets"]:
        out = tmp_path / target
        done = CliRunner().invoke(app, ["make", str(tmp_path / "crêpe de Chine.png"), "--target", target, "--out", str(out)])
        assert done.exit_code == 0
        for path in out.iterdir():
            assert archive.read(f"crêpe de Chine/{target}/{path.name}") == path.read_bytes()


def test_history_undo_redo_and_a_stale_head(client):
    made, _ = take_in(client, "taffeta")
    recipe = made["recipe"]
    fitted, recipe["facts"]["rise"] = recipe["facts"]["rise"], 0.05
    url = f"/api/sets/{made['id']}"
    written = client.put(f"{url}/recipe", json={"expects": made["head"], "recipe": recipe}).json()
    assert written["recipe"]["facts"]["rise"] == 0.05 and written["can_undo"]
    late = client.put(f"{url}/recipe", json={"expects": made["head"], "recipe": recipe})
    assert late.status_code == 409 and late.json()["code"] == "head-moved"
    undone = client.post(f"{url}/step", json={"expects": written["head"], "step": "undo"}).json()
    assert undone["recipe"]["facts"]["rise"] == fitted and undone["can_redo"]
    redone = client.post(f"{url}/step", json={"expects": undone["head"], "step": "redo"}).json()
    assert redone["head"] == written["head"]


def test_a_fix_is_one_step_that_can_be_undone(client):
    made, _ = take_in(client, "sateen")
    url = f"/api/sets/{made['id']}"
    found = client.get(f"{url}/assay", params={"head": made["head"]}).json()
    assert [row["finding"]["id"] for row in found] == ["no-origin", "roughness-guessed", "noisy-photo"]
    asked = {"expects": made["head"], "finding": "roughness-guessed", "leave": True}
    left = client.post(f"{url}/fixes", json=asked).json()
    assert left["recipe"]["nodes"] == made["recipe"]["nodes"] and left["recipe"]["answered"] == ["roughness-guessed"]
    found = client.get(f"{url}/assay", params={"head": left["head"]}).json()
    assert [row["finding"]["id"] for row in found] == ["no-origin", "noisy-photo"]
    made = client.post(f"{url}/step", json={"expects": left["head"], "step": "undo"}).json()
    refused = client.post(f"{url}/fixes", json={"expects": made["head"], "finding": "green-misread"})
    assert refused.status_code == 422 and "does not come from a file" in refused.json()["detail"]
    brocade = next(s for s in client.get(f"{PROJECT}/sets").json() if s["name"] == "Gilt brocade")
    fix = {"expects": brocade["head"], "finding": "green-misread"}
    turned = client.post(f"/api/sets/{brocade['id']}/fixes", json=fix).json()
    rows = client.get(f"/api/sets/{brocade['id']}/assay", params={"head": turned["head"]}).json()
    assert {row["finding"]["id"]: row["fix"] for row in rows}["green-misread"] == FINDINGS["green-misread"].fix
    undone = client.post(f"/api/sets/{brocade['id']}/step", json={"expects": turned["head"], "step": "undo"}).json()
    assert undone["recipe"] == brocade["recipe"]


def test_preview_latest_wins_and_refuses_nonsense(client):
    made, _ = take_in(client, "organza")
    ask = {"view": "v", "seq": 2, "recipe": made["recipe"], "wanted": "height", "size": 64}
    answer = client.post("/api/previews", json=ask)
    assert answer.status_code == 200 and len(answer.content) == 64 * 64 * 4
    assert client.post("/api/previews", json={**ask, "seq": 1}).status_code == 204
    made["recipe"]["nodes"]["height"]["params"] = {"contrast": 99}
    refused = client.post("/api/previews", json={**ask, "seq": 3, "recipe": made["recipe"]})
    assert refused.status_code == 422 and refused.headers["content-type"] == "application/problem+json"


def test_cancel_leaves_no_file(client, data):
    made, _ = take_in(client, "velvet", size=2048)
    delivery = client.post(f"{PROJECT}/deliveries", json={"sets": [made["id"]], "targets": ["gltf"]}).json()
    client.post(f"/api/deliveries/{delivery['id']}/cancel")
    delivery = ended(client, delivery)
    assert delivery["state"] == "cancelled"
    assert not (data / "deliveries" / delivery["folder"]).exists()
    assert not list((data / "deliveries").glob("**/.building-*"))


def test_unreadable_upload_is_an_answer_and_foreign_pages_are_refused(client):
    assert drop(client, "a.png", b"text")["findings"][0]["id"] == "unreadable"
    assert client.get("/api/health", headers={"origin": "http://elsewhere.example"}).status_code == 403


def test_a_delivery_is_proved_from_its_files_on_disk(client, data):
    made = client.get(f"{PROJECT}/sets").json()[2]
    request = {"sets": [made["id"]], "targets": ["engine-loose-down"]}
    delivery = ended(client, client.post(f"{PROJECT}/deliveries", json=request).json())
    at, query = f"/api/deliveries/{delivery['id']}/proof", {"set": made["name"], "target": "engine-loose-down"}
    assert all(c["is_right"] for c in client.get(f"{at}/files", params={**query, "role": "normal"}).json()["channels"])
    ball, pictures = client.get(f"{at}/ball", params=query).json(), client.get(f"{at}/ball/pictures", params=query)
    px = int(pictures.headers["x-width"])
    values = np.frombuffer(pictures.content, np.float16).reshape(2, 3, px, px, 3).astype(np.float32)
    off = 255 * np.abs(values[0] - values[1]).mean()
    assert ball["lost"] == [] and 0 <= off <= max(lamp["whole_mean"] for lamp in ball["lamps"]) + 0.1
    planned = client.get(f"/api/deliveries/{delivery['id']}/plan", params=query).json()["files"][1]["name"]
    path = data / "deliveries" / delivery["folder"] / made["name"] / "engine-loose-down" / planned
    codes = read(path).codes.copy()
    codes[..., 1] = 255 - codes[..., 1]  # somebody turned green over
    write(path, codes, format="png")
    turned = client.get(f"{at}/files", params={**query, "role": "normal"}).json()["channels"]
    assert [c["is_right"] for c in turned] == [True, False, True]
    assert client.get(f"{at}/files", params={**query, "role": "gloss"}).status_code == 422
    assert client.get(f"{at}/ball", params={**query, "set": "nobody"}).status_code == 404


def test_a_preview_shows_what_a_target_would_see(client):
    recipe = client.get(f"{PROJECT}/sets").json()[1]["recipe"]
    ask = {"view": "proof", "seq": 1, "recipe": recipe, "size": 64}

    def layers(**more):
        answer = client.post("/api/previews", json={**ask, **more, "seq": next(counter)})
        assert answer.status_code == 200, answer.text
        names, size = answer.headers["x-layers"].split(), [int(answer.headers[name]) for name in ("x-height", "x-width")]
        layers = np.frombuffer(answer.content, np.float16).reshape(len(names), *size, 4).astype(np.float32)
        return dict(zip(names, layers))

    counter = iter(range(2, 99))
    masters, split, bare = (layers(wanted="lit", target=key) for key in (None, "path-specular", "small-tiles"))
    assert list(masters) == ["color", "shape", "shine", "glow"] and list(split) == [*masters, "mirror"]
    assert not split["shine"][..., 2].any()
    metal, reflectance = masters["shine"][..., 2:3], masters["shine"][..., 3:]
    mirrored = masters["color"][..., :3] * metal + reflectance * (1 - metal)
    np.testing.assert_allclose(split["mirror"][..., :3], mirrored, atol=0.01)
    assert not bare["shine"][..., 2].any() and metal.any()
    refused = client.post("/api/previews", json={**ask, "wanted": "metallic", "target": "small-tiles", "seq": 99})
    assert refused.status_code == 422 and "sees no metallic" in refused.json()["detail"]


def test_a_plan_says_how_long_it_takes_by_what_goes_and_nothing_where_all_lies_there(client):
    made, _ = take_in(client, "sailcloth", size=256)

    def plan(**said) -> dict:
        body = {"sets": [made["id"]], "targets": ["engine-loose-down"], "into": "own", **said}
        return client.post(f"{PROJECT}/plans", json=body).json()[0]

    whole = plan()["seconds"]
    assert whole > 0 and whole == pytest.approx(4 * plan(size=128)["seconds"])
    unwanted = [{"set": made["id"], "target": "engine-loose-down", "role": plan()["files"][0]["role"]}]
    assert plan(unwanted=unwanted)["seconds"] < whole
    body = {"sets": [made["id"]], "targets": ["engine-loose-down"], "into": "own"}
    assert ended(client, client.post(f"{PROJECT}/deliveries", json=body).json())["state"] == "done"
    assert plan()["seconds"] == 0


def test_two_deliveries_started_together_never_share_a_folder(client):
    made, _ = take_in(client, "damask")
    request = {"sets": [made["id"]], "targets": ["gltf"]}
    runs = [client.post(f"{PROJECT}/deliveries", json=request).json() for _ in range(2)]
    assert runs[0]["folder"] != runs[1]["folder"]
    assert [ended(client, run)["state"] for run in runs] == ["done", "done"]


def test_sweeping_keeps_what_a_recipe_names(client, database):
    made, _ = take_in(client, "brocatelle")
    used = next(iter(made["recipe"]["sources"].values()))["sha256"]
    orphan = drop(client, "orphan.png", encode(np.full((4, 4), 77, np.uint8), "png"))["sha256"]
    with open_pool(database) as pool, pool.connection() as conn:
        conn.execute("UPDATE original SET created = now() - interval '2 days'")
        sweep_originals(conn)
        assert original_exists(conn, used) and not original_exists(conn, orphan)

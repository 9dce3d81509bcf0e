"""Sets as one file: saved, looked into by anybody, taken in elsewhere, and refused whole where something is wrong."""

import io
import json
import zipfile

import numpy as np
import pytest
from typer.testing import CliRunner

from asking import RAW, asking, ended, zipped
from copper_sieve.api.app import create_app
from copper_sieve.cli import app as terminal
from copper_sieve.core.errors import SieveError
from copper_sieve.files import encode
from copper_sieve.files.meshes import obj_document
from shapes import box

COLOR = np.random.default_rng(91).integers(40, 210, (32, 32, 3)).astype(np.uint8)


@pytest.fixture()
def app(database, tmp_path):
    with asking(create_app(database, tmp_path / "data", warm=False)) as client:
        yield client


def project(client, title: str) -> str:
    return f"/api/projects/{client.post('/api/projects', json={'title': title}).json()['name']}"


def dropped(client, name: str, codes: np.ndarray) -> dict:
    return client.post("/api/originals", params={"name": name}, content=encode(codes, "png"), headers=RAW).json()


def made(client, path: str, name: str, **kinds: dict) -> dict:
    entries = [{"sha256": look["sha256"], "name": look["name"], "kind": kind} for kind, look in kinds.items()]
    return client.post(f"{path}/sets", json={"name": name, "entries": entries}).json()


def saved(client, path: str, *ids: str) -> tuple[str, bytes]:
    answer = client.get(f"{path}/saved-sets", params={"set": ids})
    assert answer.status_code == 200, answer.text
    return answer.headers["content-disposition"], answer.content


def taken(client, path: str, content: bytes, name: str = "voile.sets.zip"):
    return client.post(f"{path}/saved-sets", params={"name": name}, content=content, headers=RAW)


def test_sets_come_back_as_they_were_with_every_file(app):
    path = project(app, "Saved from")
    look = dropped(app, "voile_basecolor.png", COLOR)
    rough = dropped(app, "voile_roughness.png", COLOR[..., 0].copy())
    first = made(app, path, "Étoffe", base_color=look, roughness=rough)
    second = made(app, path, "étoffe plain", base_color=look)  # it shares a file
    disposition, content = saved(app, path)
    assert "Saved%20from.sets.zip" in disposition
    with zipfile.ZipFile(io.BytesIO(content)) as archive:
        assert archive.namelist() == ["sets.json", "Étoffe/voile_basecolor.png", "Étoffe/voile_roughness.png"]
        assert archive.read("Étoffe/voile_basecolor.png") == encode(COLOR, "png")  # of use to anybody, as it came
    looked = app.post("/api/archives", params={"name": "voile.sets.zip"}, content=content, headers=RAW).json()
    assert looked == {"files": [], "meshes": [], "problems": [], "saved": ["Étoffe", "étoffe plain"]}
    there = project(app, "Saved to")
    app.post(f"{there}/sets", json={"name": "étoffe", "entries": [{"sha256": look["sha256"], "name": "x", "kind": "base_color"}]})
    answer = taken(app, there, content)
    assert answer.status_code == 201, answer.text
    assert [one["name"] for one in answer.json()] == ["Étoffe 2", "étoffe plain"]
    for before, after in zip((first, second), answer.json()):
        assert after["recipe"] == before["recipe"] and not after["can_undo"]
    assert saved(app, there, answer.json()[1]["id"])[1] == saved(app, path, second["id"])[1]  # same sets, same bytes


def test_another_computer_needs_nothing_but_the_file(app):
    path = project(app, "Saved alone")
    color = dropped(app, "alone.png", COLOR[::-1].copy())
    one = made(app, path, "Alone", base_color=color)
    mesh = app.post("/api/meshes", params={"name": "box.obj"}, content=obj_document(box((1, 1, 1))), headers=RAW).json()
    worn = {"low": {key: mesh[key] for key in ("sha256", "name", "print", "triangles")}}
    body = {"expects": one["head"], "recipe": {**one["recipe"], "worn": worn}}
    one = app.put(f"/api/sets/{one['id']}/recipe", json=body).json()
    content = saved(app, path, one["id"])[1]
    assert set(zipfile.ZipFile(io.BytesIO(content)).namelist()) == {"sets.json", "Alone/alone.png", "Alone/box.obj"}
    with app.app.state.sieve.pool.connection() as conn:  # as a database that has never seen them
        conn.execute("UPDATE texture_set SET head = NULL, deleted = now() WHERE id = %s", (one["id"],))
        conn.execute("DELETE FROM recipe_version WHERE set_id = %s", (one["id"],))
        conn.execute("DELETE FROM original WHERE sha256 = ANY(%s)", ([color["sha256"], mesh["sha256"]],))
    (again,) = taken(app, path, content).json()
    assert again["recipe"] == one["recipe"] and again["name"] == "Alone"
    drawn = app.get(f"/api/sets/{again['id']}/swatch", params={"head": again["head"], "show": "base_color", "px": 64})
    assert drawn.status_code == 200 and app.get(f"/api/meshes/{mesh['sha256']}/look", params={"name": "box.obj"}).is_success


def retold(old: bytes, new: bytes):
    """A change of what says which sets there are."""
    return lambda files: {**files, "sets.json": files["sets.json"].replace(old, new)}


@pytest.mark.parametrize(
    ("change", "says"),
    [
        (lambda files: {**files, "Voile/wrong.png": encode(255 - COLOR, "png")}, "wrong.png is not in it as it was saved"),
        (lambda files: {"sets.json": files["sets.json"]}, "wrong.png is not in it"),
        (lambda files: {**files, "sets.json": files["sets.json"][:-20]}, "cannot be read"),
        (retold(b'"schema": 1, "files"', b'"schema": 99, "files"'), "newer version"),
        (retold(b'"width": 32', b'"width": "x"'), "not as this program"),
        (retold(b'"sets"', b'"of another program"'), "holds no saved sets"),
        (lambda files: {name: content for name, content in files.items() if name != "sets.json"}, "no saved sets"),
    ],
)
def test_what_is_wrong_is_said_and_nothing_is_taken_in(app, change, says):
    path = project(app, "Saved wrong")
    color = np.random.default_rng(sum(map(ord, says))).integers(0, 255, (32, 32, 3)).astype(np.uint8)
    one = made(app, path, f"Voile {len(says)} {says[:5]}", base_color=dropped(app, "wrong.png", color))
    with zipfile.ZipFile(io.BytesIO(saved(app, path, one["id"])[1])) as archive:
        files = {name: archive.read(name) for name in archive.namelist()}
    told = json.loads(files["sets.json"])
    for source in told["sets"][0]["recipe"]["sources"].values():  # a file that is not here already
        source["sha256"] = "0" * 64 if says.startswith("wrong") else source["sha256"]
    files["sets.json"] = json.dumps(told).encode()
    before = app.get(f"{path}/sets").json()
    answer = taken(app, path, zipped(change(files)))
    assert answer.status_code == 422 and says in answer.json()["detail"], answer.text
    assert app.get(f"{path}/sets").json() == before


def test_what_was_unpacked_and_packed_again_with_its_folder_is_the_same(app, tmp_path):
    path = project(app, "Saved and packed")
    one = made(app, path, "Voile", base_color=dropped(app, "voile.png", COLOR))
    with zipfile.ZipFile(io.BytesIO(saved(app, path)[1])) as archive:
        files = {f"my folder/{name}": archive.read(name) for name in archive.namelist()}
    assert [again["recipe"] for again in taken(app, path, zipped(files)).json()] == [one["recipe"]]
    (tmp_path / "again.zip").write_bytes(zipped(files))
    asked = ["deliver", str(tmp_path / "again.zip"), "--target", "gltf", "--out", str(tmp_path / "out")]
    assert CliRunner().invoke(terminal, asked).exit_code == 0


def test_no_set_is_no_file(app):
    assert app.get(f"{project(app, 'Saved nothing')}/saved-sets").status_code == 422


@pytest.mark.parametrize("name", ["Brass button", "Hammered gong"])  # one is worn by a mesh, and padded beyond its islands
def test_from_the_terminal_saved_sets_are_delivered_to_the_byte_as_from_the_screen(client, data, tmp_path, name):
    demo = "/api/projects/the-salt-heron-wardrobe"
    own = next(one for one in client.get(f"{demo}/sets").json() if one["name"] == name)
    (tmp_path / "one.set.zip").write_bytes(saved(client, demo, own["id"])[1])
    body = {"sets": [own["id"]], "targets": ["gltf"], "into": "new", "size": 64}
    run = ended(client, client.post(f"{demo}/deliveries", json=body).json())
    there = data / "deliveries" / run["folder"] / name / "gltf"
    asked = ["deliver", str(tmp_path / "one.set.zip"), "--target", "gltf", "--out", str(tmp_path / "out"), "--size", "64"]
    told = CliRunner().invoke(terminal, [*asked, "--json"])
    assert told.exit_code == 0, told.output
    made = {path.name: path.read_bytes() for path in (tmp_path / "out").iterdir()}
    assert made == {path.name: path.read_bytes() for path in there.iterdir()} and len(made) > 3


def test_the_terminal_takes_a_target_of_ones_own_and_says_what_is_not_in_a_file(app, tmp_path):
    path = project(app, "Saved for the terminal")
    look = dropped(app, "voile_basecolor.png", COLOR)
    made(app, path, "Voile", base_color=look)
    made(app, path, "Other", base_color=look)
    (tmp_path / "two.sets.zip").write_bytes(saved(app, path)[1])
    own = app.get("/api/targets/engine-loose-down/file").text.replace('key = "engine-loose-down"', 'key = "my-own"')
    (tmp_path / "own.toml").write_text(own)
    asked = ["deliver", str(tmp_path / "two.sets.zip"), "--out", str(tmp_path / "out"), "--target"]
    told = CliRunner().invoke(terminal, [*asked, str(tmp_path / "own.toml"), "--set", "Voile"])
    assert told.exit_code == 0, told.output
    assert list((tmp_path / "out").glob("*asecolor*")) or list((tmp_path / "out").glob("*aseColor*"))
    for more, says in (
        (["gltf", "--set", "Nobody"], "holds no set Nobody. It holds Voile, Other."),
        ([str(tmp_path / "none.toml")], "holds no target"),
        (["nowhere"], "is named by its file"),
    ):
        told = CliRunner().invoke(terminal, [*asked, *more])
        assert told.exit_code == 2 and says in " ".join(told.output.split()), told.output
    (tmp_path / "pictures.zip").write_bytes(zipped({"felt.png": encode(COLOR, "png")}))
    told = CliRunner().invoke(
        terminal, ["deliver", str(tmp_path / "pictures.zip"), "--target", "gltf", "--out", str(tmp_path / "o")]
    )
    assert isinstance(told.exception, SieveError) and "holds no saved sets" in str(told.exception)

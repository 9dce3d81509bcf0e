"""What a project does by itself: what was delivered follows its set, and a set follows the files of its folder."""

import threading
from pathlib import Path

import numpy as np
import pytest

from asking import RAW, asking, ended, eventually
from copper_sieve.api.app import create_app
from copper_sieve.files import encode
from copper_sieve.store.database import open_pool
from copper_sieve.work import following

TARGET, OTHER = "engine-loose-down", "gltf"
COLOR = np.random.default_rng(71).integers(40, 210, (32, 32, 3)).astype(np.uint8)


@pytest.fixture()
def folder(tmp_path) -> Path:
    inside = tmp_path / "root" / "voile"
    inside.mkdir(parents=True)
    return inside


@pytest.fixture()
def client(database, tmp_path, folder, monkeypatch):
    monkeypatch.setattr(following, "ROUND_S", 0.1)
    monkeypatch.setattr(following, "REST_S", 0.2)
    with asking(create_app(database, tmp_path / "data", folders=[folder.parent], warm=False)) as client:
        yield client


class Project:
    """A project of its own, with one set in it."""

    def __init__(self, client, title: str, *, set_name: str = "Voile", place: str | None = None) -> None:
        self.client = client
        self.path = f"/api/projects/{client.post('/api/projects', json={'title': title}).json()['name']}"
        if place is None:
            told = client.post("/api/originals", params={"name": "voile.png"}, content=encode(COLOR, "png"), headers=RAW).json()
            look = told | {"kind": "base_color", "place": None}
        else:
            look = client.post("/api/folders/looks", json={"place": place}).json()[0]
        entry = {key: look[key] for key in ("sha256", "name", "kind", "place")}
        self.set = client.post(f"{self.path}/sets", json={"name": set_name, "entries": [entry]}).json()

    def keeps_up(self, **what: bool) -> None:
        assert self.client.put(self.path, json=what).status_code == 200

    def deliver(self, targets: list[str], **more) -> dict:
        body = {"sets": [self.set["id"]], "targets": targets, **more}
        return ended(self.client, self.client.post(f"{self.path}/deliveries", json=body).json())

    def change(self, **facts) -> None:
        now = self.now()
        recipe = {**now["recipe"], "facts": {**now["recipe"]["facts"], **facts}}
        answer = self.client.put(f"/api/sets/{now['id']}/recipe", json={"expects": now["head"], "recipe": recipe})
        assert answer.status_code == 200, answer.text
        self.set = answer.json()

    def now(self) -> dict:
        return next(one for one in self.client.get(f"{self.path}/sets").json() if one["id"] == self.set["id"])

    def kept(self) -> dict:
        return self.client.get(f"{self.path}/kept-up").json()

    def lines(self) -> list[dict]:
        return self.client.get(f"{self.path}/deliveries").json()

    def followed(self) -> dict | None:
        """The delivery that was made by itself of the set as it is now, once it is over."""
        last, head = self.kept()["delivery"], self.now()["head"]
        is_it = last is not None and last["state"] == "done" and last["heads"].get(self.set["id"]) == head
        return last if is_it else None


def there(folder: Path) -> dict[str, tuple[bytes, int]]:
    return {path.name: (path.read_bytes(), path.stat().st_mtime_ns) for path in folder.iterdir()}


def test_what_was_delivered_follows_a_change_in_its_folder_and_as_it_was_chosen(client, tmp_path):
    project = Project(client, "Following voile")
    first = project.deliver([TARGET], size=16)
    folder = tmp_path / "data" / "deliveries" / first["folder"] / "Voile" / TARGET
    apart = project.deliver([OTHER], into="new")
    before = there(folder)
    project.change(rise=0.09)
    assert project.kept() == {"heads": {}, "problems": {}, "delivery": None}  # nobody asked for it
    project.keeps_up(delivers_changes=True)
    eventually(project.followed)
    eventually(lambda: all(not line["stale"] for line in project.lines()))  # each in its own folder
    assert {line["folder"] for line in project.lines()} == {first["folder"], apart["folder"]}
    after = there(folder)
    changed = {name for name in before if before[name] != after[name]}
    assert changed and after.keys() == before.keys()
    assert {name for name in changed if name.endswith("normal.png") or "Normal" in name or "_N" in name}
    plans = client.post(f"{project.path}/plans", json={"sets": [project.set["id"]], "targets": [TARGET], "size": 16}).json()
    assert {file["disk"] for file in plans[0]["files"] if file["left_out"] is None} == {"same"}


def test_a_target_that_was_left_behind_by_hand_comes_after(client):
    project = Project(client, "Following each target")
    project.deliver([TARGET])
    project.change(rise=0.05)
    project.deliver([OTHER])  # in a folder of its own
    assert [line["stale"] for line in project.lines()] == [False, True]
    project.keeps_up(delivers_changes=True)
    eventually(lambda: not any(line["stale"] for line in project.lines()))
    sent = {one["target"]: line["heads"] for line in project.lines() for one in line["sent"]}
    assert sent == {key: {project.set["id"]: project.set["head"]} for key in (TARGET, OTHER)}


def test_a_change_of_a_targets_table_is_delivered_too(client, database, tmp_path):
    project = Project(client, "Following a table")
    target = client.post("/api/targets", json={"title": "Followed", "copy_of": TARGET}).json()
    first = project.deliver([target["key"], OTHER])
    folder = tmp_path / "data" / "deliveries" / first["folder"] / "Voile" / target["key"]
    before = there(folder)
    assert not project.lines()[0]["stale"]
    (color, *others) = target["files"]
    changed = {**target, "files": [{**color, "word": "paint"}, *others]}

    def keep(expects: str) -> dict:
        answer = client.put(f"/api/targets/{target['key']}", json={"expects": expects, "target": changed})
        assert answer.status_code == 200, answer.text
        return answer.json()

    kept = keep(target["version"])
    assert [line["stale"] for line in project.lines()] == [True]
    project.keeps_up(delivers_changes=True)
    eventually(lambda: [(line["state"], line["stale"]) for line in project.lines()] == [("done", False)])
    assert {name for name in there(folder) if name not in before} == {"Voile_paint.png"}
    keep(kept["version"])
    with open_pool(database) as pool, pool.connection() as conn:  # as an older program wrote it
        told = "UPDATE own_target SET toml = replace(toml, 'green = ', 'green   =   ') WHERE key = %s AND toml ~ 'green = '"
        assert conn.execute(told, [target["key"]]).rowcount == 1
    assert not project.lines()[0]["stale"]  # another version and date alone are no other table
    assert client.delete(f"/api/targets/{target['key']}").status_code == 204


def test_what_somebody_else_changed_is_left_and_said(client, tmp_path):
    project = Project(client, "Following voile with care")
    first = project.deliver([TARGET])
    folder = tmp_path / "data" / "deliveries" / first["folder"] / "Voile" / TARGET
    changed = sorted(folder.glob("*.*"))[0]
    changed.write_bytes(b"by hand")
    project.keeps_up(delivers_changes=True)
    project.change(rise=0.07)
    said = eventually(lambda: project.kept()["problems"].get(project.set["id"]))
    assert changed.name in said and changed.read_bytes() == b"by hand"
    replaced = {"set": "Voile", "target": TARGET, "name": changed.name, "answer": "replace"}
    project.deliver([TARGET], answers=[replaced])
    eventually(lambda: not project.kept()["problems"])  # somebody has looked after it


def test_a_folder_that_was_taken_away_is_not_made_again(client, tmp_path):
    project = Project(client, "Following nowhere")
    first = project.deliver([TARGET])
    (tmp_path / "data" / "deliveries" / first["folder"]).rename(tmp_path / "elsewhere")
    project.keeps_up(delivers_changes=True)
    project.change(rise=0.07)
    said = eventually(lambda: project.kept()["problems"].get(project.set["id"]))
    assert first["folder"] in said and len(project.lines()) == 1


def test_newer_files_are_taken_unless_somebody_went_back_from_them(client, folder):
    picture = folder / "voile_basecolor.png"
    picture.write_bytes(encode(COLOR, "png"))
    project = Project(client, "Following a folder", place="0/voile")
    project.keeps_up(takes_newer=True)
    picture.write_bytes(b"half a pict")
    said = eventually(lambda: project.kept()["problems"].get(project.set["id"]))
    assert "voile_basecolor.png" in said and project.now()["head"] == project.set["head"]
    picture.write_bytes(encode(255 - COLOR, "png"))
    (folder / "voile_roughness.png").write_bytes(encode(COLOR[..., 0].copy(), "png"))
    eventually(lambda: len(project.now()["recipe"]["sources"]) == 2)
    newer = project.now()
    assert project.kept()["heads"] == {newer["id"]: newer["head"]} and not project.kept()["problems"]
    back = client.post(f"/api/sets/{newer['id']}/step", json={"expects": newer["head"], "step": "undo"}).json()
    picture.write_bytes(encode(COLOR[::-1].copy(), "png"))  # of the next one, at the latest, the rounds have gone on
    eventually(lambda: project.now()["head"] != back["head"])
    taken = project.now()["recipe"]["sources"]
    assert len(taken) == 1  # the roughness that was undone has not come again


def test_a_delivery_into_a_folder_stands_for_all_that_lies_there(client):
    project = Project(client, "Following two", set_name="First voile")
    second = client.post(f"{project.path}/sets", json={"name": "Second voile", "entries": [_entry(project.set)]}).json()
    body = {"sets": [project.set["id"], second["id"]], "targets": [TARGET]}
    whole = ended(client, client.post(f"{project.path}/deliveries", json=body).json())
    project.change(rise=0.06)
    again = project.deliver([TARGET])
    (line,) = project.lines()
    assert line["id"] == again["id"] and not line["stale"]
    assert line["heads"] == {project.set["id"]: project.set["head"], second["id"]: second["head"]}
    assert {one["set"]: one["delivery"] for one in line["sent"]} == {"First voile": again["id"], "Second voile": whole["id"]}


def test_a_set_is_delivered_as_it_is_only_where_every_target_has_it_so(client):
    project = Project(client, "Following in one folder")
    project.deliver([TARGET, OTHER])
    before = project.set["head"]
    project.change(rise=0.05)
    project.deliver([TARGET])
    (line,) = project.lines()
    assert line["stale"] and line["heads"] == {project.set["id"]: before}
    project.deliver([OTHER])
    (line,) = project.lines()
    assert not line["stale"] and line["heads"] == {project.set["id"]: project.set["head"]}


def test_many_deliveries_by_itself_leave_one_row_of_each(client):
    project = Project(client, "Following on and on")
    first = project.deliver([TARGET])
    project.keeps_up(delivers_changes=True)
    made = []
    for rise in (0.05, 0.06, 0.07):
        project.change(rise=rise)
        made.append(eventually(project.followed)["id"])
    gone = [one for one in made if client.get(f"/api/deliveries/{one}").status_code == 404]
    assert gone == made[:1] and client.get(f"/api/deliveries/{first['id']}").status_code == 200


def test_the_thread_ends_with_the_server(database, tmp_path):
    before = set(threading.enumerate())
    with asking(create_app(database, tmp_path / "data", warm=False)):
        (following,) = [one for one in threading.enumerate() if one.name == "following" and one not in before]
    assert not following.is_alive()


def _entry(made: dict) -> dict:
    source = next(iter(made["recipe"]["sources"].values()))
    return {"sha256": source["sha256"], "name": source["name"], "kind": "base_color"}


def test_a_fault_of_ours_in_one_project_is_said_and_stops_no_other(client, monkeypatch):
    broken, sound = Project(client, "Following badly", set_name="Bad voile"), Project(client, "Following well")
    for project in (broken, sound):
        project.deliver([TARGET])
        project.keeps_up(delivers_changes=True)
    plain = following.begin

    def begin(deliverer, order):
        assert order.project not in broken.path, "not as we thought"
        return plain(deliverer, order)

    monkeypatch.setattr(following, "begin", begin)
    broken.change(rise=0.05)
    said = eventually(lambda: list(broken.kept()["problems"].values()))
    assert "AssertionError: not as we thought" in said[0]
    sound.change(rise=0.05)
    assert eventually(sound.followed)

"""A delivery done again: only what changed is written, in place, and nothing of anybody else is touched without a word."""

import numpy as np
import pytest

from asking import RAW, ended
from copper_sieve.files import encode

PROJECT = "/api/projects/the-salt-heron-wardrobe"
TARGET = "engine-loose-down"


def settled(client, delivery: dict) -> dict:
    delivery = ended(client, delivery)
    assert delivery["state"] == "done", delivery["problem"]
    return delivery


def taken_in(client, name: str) -> dict:
    content = encode(np.random.default_rng(len(name)).integers(0, 255, (64, 64, 3)).astype(np.uint8), "png")
    look = client.post("/api/originals", params={"name": f"{name}.png"}, content=content, headers=RAW).json()
    entry = {"sha256": look["sha256"], "name": look["name"], "kind": "base_color"}
    return client.post(f"{PROJECT}/sets", json={"name": name, "entries": [entry]}).json()


class Job:
    """One set for one target, delivered once, and its folder."""

    def __init__(self, client, data, name: str) -> None:
        self.client, self.set = client, taken_in(client, name)
        self.request = {"sets": [self.set["id"]], "targets": [TARGET]}
        self.first = self.deliver()
        self.folder = data / "deliveries" / self.first["folder"] / name / TARGET

    def deliver(self, **more) -> dict:
        answer = self.client.post(f"{PROJECT}/deliveries", json={**self.request, **more})
        assert answer.status_code == 201, answer.text
        return settled(self.client, answer.json())

    def states(self, **more) -> dict[str, str]:
        (plan,) = self.client.post(f"{PROJECT}/plans", json={**self.request, **more}).json()
        return {file["role"]: file["disk"] for file in plan["files"] if file["left_out"] is None}

    def change(self, master: str, **params) -> None:
        recipe = self.set["recipe"]
        node = recipe["nodes"][master]
        recipe = {**recipe, "nodes": {**recipe["nodes"], master: {**node, "params": {**node["params"], **params}}}}
        answer = self.client.put(f"/api/sets/{self.set['id']}/recipe", json={"expects": self.set["head"], "recipe": recipe})
        assert answer.status_code == 200, answer.text
        self.set = answer.json()

    def there(self) -> dict[str, tuple[bytes, int]]:
        return {path.name: (path.read_bytes(), path.stat().st_mtime_ns) for path in self.folder.iterdir()}

    def path(self, role: str):
        asked = {"set": self.set["name"], "target": TARGET}
        plan = self.client.get(f"/api/deliveries/{self.first['id']}/plan", params=asked).json()
        return next(self.folder / f["name"] for f in plan["files"] if f["role"] == role)


@pytest.fixture()
def job(client, data, request):
    return Job(client, data, f"tunic {request.node.name[5:30]}")


def test_only_the_map_that_changed_is_written_in_place(job):
    before = job.there()
    assert set(job.states().values()) == {"same"}
    nothing = job.client.post(f"{PROJECT}/deliveries", json=job.request)
    assert nothing.status_code == 422 and "nothing to write" in nothing.json()["detail"]
    job.change("roughness", mean=0.9)
    assert {role for role, state in job.states().items() if state != "same"} == {"roughness"}
    again = job.deliver()
    assert again["folder"] == job.first["folder"]
    after = job.there()
    assert {name for name in after if after[name] != before.get(name)} == {job.path("roughness").name}
    assert set(job.states().values()) == {"same"}
    assert job.client.get(f"/api/deliveries/{again['id']}/zip").status_code == 200  # every file, not only what was written
    listed = [row for row in job.client.get(f"{PROJECT}/deliveries").json() if row["folder"] == again["folder"]]
    assert [row["id"] for row in listed] == [again["id"]]


def test_what_somebody_else_changed_is_not_touched_without_a_word(job):
    normal = job.path("normal")
    normal.write_bytes(b"painted over")
    job.change("normal", strength=2.0)
    assert job.states()["normal"] == "by-hand"
    refused = job.client.post(f"{PROJECT}/deliveries", json=job.request)
    assert refused.status_code == 422 and normal.read_bytes() == b"painted over"
    said = {"set": job.set["name"], "target": TARGET, "name": normal.name}
    job.deliver(answers=[{**said, "answer": "beside"}])
    assert normal.read_bytes() == b"painted over" and (job.folder / f"{normal.stem} (2).png").is_file()
    job.deliver(answers=[{**said, "answer": "replace"}])
    kept = [path for path in job.folder.iterdir() if "(before" in path.name]
    assert [path.read_bytes() for path in kept] == [b"painted over"] and normal.read_bytes() != b"painted over"


def test_a_foreign_file_in_the_way_asks_and_a_missing_one_is_new(job):
    roughness = job.path("roughness")
    roughness.unlink()
    assert job.states()["roughness"] == "new"
    job.deliver()
    assert roughness.is_file() and set(job.states().values()) == {"same"}


def test_what_the_set_has_no_more_is_listed_and_removed_only_on_a_tick(job):
    unwanted = [{"set": job.set["id"], "target": TARGET, "role": "occlusion"}]
    (plan,) = job.client.post(f"{PROJECT}/plans", json={**job.request, "unwanted": unwanted}).json()
    name = job.path("occlusion").name
    assert list(plan["gone"]) == [name]
    job.change("roughness", mean=0.8)
    job.deliver(unwanted=unwanted)
    assert job.path("occlusion").is_file()
    job.change("roughness", mean=0.7)
    job.deliver(unwanted=unwanted, remove=[f"{job.set['name']}/{TARGET}/{name}", "../../elsewhere"])
    assert not job.path("occlusion").exists()


def test_another_folder_is_the_choice_beside_it(job):
    assert job.states(into="new")["roughness"] is None
    other = job.deliver(into="new")
    assert other["folder"] != job.first["folder"]
    job.change("roughness", mean=0.6)
    assert job.deliver()["folder"] == other["folder"]  # the newest is gone on in


def test_sets_of_one_folder_do_not_forget_each_other(client, data):
    one, two = (taken_in(client, f"glove {side}") for side in ("left", "right"))
    both = {"sets": [one["id"], two["id"]], "targets": [TARGET]}
    settled(client, client.post(f"{PROJECT}/deliveries", json=both).json())
    node = one["recipe"]["nodes"]["roughness"]
    recipe = {**one["recipe"], "nodes": {**one["recipe"]["nodes"], "roughness": {**node, "params": {"mean": 0.9}}}}
    client.put(f"/api/sets/{one['id']}/recipe", json={"expects": one["head"], "recipe": recipe})
    settled(client, client.post(f"{PROJECT}/deliveries", json={**both, "sets": [one["id"]]}).json())
    plans = client.post(f"{PROJECT}/plans", json=both).json()
    assert {file["disk"] for plan in plans for file in plan["files"] if file["left_out"] is None} == {"same"}


def test_a_project_remembers_its_usual_targets(client):
    answer = client.put(f"{PROJECT}/usual", json={"usual": ["gltf", TARGET, "gltf"]}).json()
    assert answer["usual"] == ["gltf", TARGET]
    assert next(p for p in client.get("/api/projects").json() if p["name"] in PROJECT)["usual"] == ["gltf", TARGET]
    assert client.put(f"{PROJECT}/usual", json={"usual": ["nowhere"]}).status_code == 404
    client.put(f"{PROJECT}/usual", json={"usual": []})

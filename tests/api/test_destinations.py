"""Targets that go below a named folder of the server: where files land, again, what is not ours, and what leads out."""

import io
import zipfile
from pathlib import Path

import pytest
from test_again import PROJECT, TARGET, settled, taken_in

from asking import asking
from copper_sieve.api.app import create_app
from copper_sieve.work.deliveries.destinations import Destination, Destinations


@pytest.fixture()
def root(tmp_path) -> Path:
    (tmp_path / "game").mkdir()
    return tmp_path / "game"


@pytest.fixture()
def client(database, tmp_path, root):
    with asking(create_app(database, tmp_path / "data", into={"game": root}, warm=False)) as client:
        yield client
        client.delete(f"{PROJECT}/destinations/{TARGET}")


def sent_to(client, **told) -> None:
    answer = client.put(f"{PROJECT}/destinations/{TARGET}", json={"root": "game", "below": "Art/Cloth", **told})
    assert answer.status_code == 200, answer.text


def delivered(client, *sets: dict, **more) -> dict:
    body = {"sets": [one["id"] for one in sets], "targets": [TARGET], **more}
    answer = client.post(f"{PROJECT}/deliveries", json=body)
    assert answer.status_code == 201, answer.text
    return settled(client, answer.json())


def test_files_land_where_the_target_was_sent_and_again_only_what_changed(client, root):
    made = taken_in(client, "sent sarong")
    sent_to(client)
    first = delivered(client, made)
    folder = root / "Art" / "Cloth" / "sent sarong"
    names = {place.rpartition("/")[2] for place, state in first["rows"].items() if state == "written"}
    assert {path.name for path in folder.iterdir()} == names  # and nothing else: notes would be imported
    assert sorted(root.iterdir()) == [root / "Art"]
    (plan,) = client.post(f"{PROJECT}/plans", json={"sets": [made["id"]], "targets": [TARGET]}).json()
    assert plan["place"] == "game/Art/Cloth/sent sarong"
    assert {file["disk"] for file in plan["files"] if file["left_out"] is None} == {"same"}

    next(folder.glob("*.png")).write_bytes(b"painted over")
    (plan,) = client.post(f"{PROJECT}/plans", json={"sets": [made["id"]], "targets": [TARGET]}).json()
    assert [file["disk"] for file in plan["files"] if file["left_out"] is None].count("by-hand") == 1

    into_its_own = delivered(client, made, into="new")  # beside it: a folder of the delivery's own
    assert into_its_own["sent"][0]["place"] is None


def test_its_zip_and_its_proof_read_the_files_where_they_lie(client, root):
    made = taken_in(client, "sent stole")
    sent_to(client, each=["target", "set"])
    done = delivered(client, made)
    folder = root / "Art" / "Cloth" / TARGET / "sent stole"
    archive = zipfile.ZipFile(io.BytesIO(client.get(f"/api/deliveries/{done['id']}/zip").content))
    packed = {name.rpartition("/")[2]: archive.read(name) for name in archive.namelist() if f"sent stole/{TARGET}/" in name}
    assert packed == {path.name: path.read_bytes() for path in folder.iterdir()}
    asked = {"target": TARGET, "set": "sent stole"}
    plan = client.get(f"/api/deliveries/{done['id']}/plan", params=asked).json()
    asked["role"] = next(f["role"] for f in plan["files"] if f["kind"] == "image" and f["left_out"] is None)
    proof = client.get(f"/api/deliveries/{done['id']}/proof/files", params=asked)
    assert proof.status_code == 200 and all(channel["is_right"] for channel in proof.json()["channels"])


def test_what_lies_there_of_somebody_else_is_asked_about(client, root):
    made = taken_in(client, "sent shawl")
    sent_to(client, each=[])
    (plan,) = client.post(f"{PROJECT}/plans", json={"sets": [made["id"]], "targets": [TARGET]}).json()
    name = next(f["name"] for f in plan["files"] if f["left_out"] is None)
    (root / "Art" / "Cloth").mkdir(parents=True)
    theirs = root / "Art" / "Cloth" / name
    theirs.write_bytes(b"theirs")
    delivered(client, made)
    assert theirs.read_bytes() == b"theirs"


def test_what_was_whole_before_a_failure_is_known_as_ours(client, root):
    made = [taken_in(client, name) for name in ("sent toga", "sent tunic")]
    sent_to(client)
    (root / "Art" / "Cloth").mkdir(parents=True)
    (root / "Art" / "Cloth" / "sent tunic").write_bytes(b"a file where a folder has to be")
    body = {"sets": [one["id"] for one in made], "targets": [TARGET]}
    run = client.post(f"{PROJECT}/deliveries", json=body).json()
    with pytest.raises(AssertionError):
        settled(client, run)
    assert sorted(path.name for path in (root / "Art" / "Cloth").iterdir()) == ["sent toga", "sent tunic"]
    plans = client.post(f"{PROJECT}/plans", json=body).json()
    assert {f["disk"] for f in plans[0]["files"] if f["left_out"] is None} == {"same"}


def test_two_targets_that_would_write_the_same_file_do_not(client):
    made = taken_in(client, "sent scarf")
    sent_to(client, each=[])
    other = "engine-smooth-up"
    client.put(f"{PROJECT}/destinations/{other}", json={"root": "game", "below": "Art/Cloth", "each": []})
    plans = client.post(f"{PROJECT}/plans", json={"sets": [made["id"]], "targets": [TARGET, other]}).json()
    written = [{f["name"].casefold() for f in plan["files"] if f["left_out"] is None} for plan in plans]
    assert not written[0] & written[1]
    client.delete(f"{PROJECT}/destinations/{other}")


@pytest.mark.parametrize(
    ("told", "status"),
    [({"root": "elsewhere"}, 404), ({"below": "../out"}, 422), ({"below": ".. /x"}, 422), ({"each": ["map"]}, 422)],
)
def test_what_leads_elsewhere_is_refused(client, told, status):
    answer = client.put(f"{PROJECT}/destinations/{TARGET}", json={"root": "game", "below": "", **told})
    assert answer.status_code == status, answer.text


def test_a_link_that_leads_out_is_not_followed(tmp_path, root):
    (root / "way").symlink_to(tmp_path)
    destinations = Destinations(tmp_path / "deliveries", {"game": root})
    place = Destination("game", "way", ()).place({})
    with pytest.raises(Exception, match="leads out"):
        destinations.folder_of("", "felt", TARGET, place)

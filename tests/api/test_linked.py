"""Folders on the server: nothing outside of them is reached, and a set follows the files it was made of."""

import os

import numpy as np
import pytest

from asking import asking
from copper_sieve.api.app import create_app
from copper_sieve.core.errors import UnknownKey
from copper_sieve.files import encode
from copper_sieve.work.folders import Folders

PROJECT = "/api/projects/the-salt-heron-wardrobe"
COLOR = np.random.default_rng(30).integers(40, 210, (32, 32, 3)).astype(np.uint8)


@pytest.fixture()
def folder(tmp_path):
    inside = tmp_path / "root" / "tulle, été"
    inside.mkdir(parents=True)
    (inside / "tulle_basecolor.png").write_bytes(encode(COLOR, "png"))
    (tmp_path / "secret.png").write_bytes(encode(255 - COLOR, "png"))
    (tmp_path / "root" / ".hidden").mkdir()
    (tmp_path / "root" / ".hidden" / "x.png").write_bytes(encode(COLOR, "png"))
    return inside


def test_only_what_lies_below_a_root_is_reached(folder, tmp_path):
    root = tmp_path / "root"
    os.symlink(tmp_path / "secret.png", root / "link.png")
    os.symlink(tmp_path, root / "out")
    folders = Folders([root])
    assert folders.listing() == {"0/tulle, été": 1}
    for place in ("0/../secret.png", "0/link.png", "0/out/secret.png", "1/x", "tulle", "0/nothing", ""):
        with pytest.raises(UnknownKey):
            folders.path_of(place)
    assert folders.path_of("0/tulle, été") == folder


def test_a_changed_file_is_told_and_taken_with_one_press(database, data, folder):
    with asking(create_app(database, data, folders=[folder.parent], warm=False)) as client:
        place = next(row["place"] for row in client.get("/api/folders").json())
        look = client.post("/api/folders/looks", json={"place": place}).json()[0]
        same = ("sha256", "name", "kind", "reads", "tiles", "place")
        body = {"name": "Linked tulle", "entries": [{key: look[key] for key in same}]}
        made = client.post(f"{PROJECT}/sets", json=body).json()
        path = f"/api/sets/{made['id']}"

        def found(head: int) -> dict[str, str | None]:
            rows = client.get(f"{path}/assay", params={"head": head}).json()
            return {row["finding"]["id"]: row["fix"] for row in rows}

        assert "source-changed" not in found(made["head"])
        (folder / "tulle_basecolor.png").write_bytes(encode(COLOR[::2, ::2].copy(), "png"))
        assert found(made["head"])["source-changed"] == "Take the newer files"
        newer = client.post(f"{path}/refresh", json={"expects": made["head"]}).json()
        source = next(iter(newer["recipe"]["sources"].values()))
        assert (source["width"], source["place"]) == (16, look["place"]) and "source-changed" not in found(newer["head"])
        back = client.post(f"{path}/step", json={"expects": newer["head"], "step": "undo"}).json()
        assert back["recipe"] == made["recipe"] and "source-changed" in found(back["head"])
        client.delete(path)


def test_a_file_added_to_the_folder_is_told_and_taken_in_with_one_press(database, data, folder):
    with asking(create_app(database, data, folders=[folder.parent], warm=False)) as client:
        place = next(row["place"] for row in client.get("/api/folders").json())
        look = client.post("/api/folders/looks", json={"place": place}).json()[0]
        same = ("sha256", "name", "kind", "reads", "tiles", "place")
        body = {"name": "Growing tulle", "entries": [{key: look[key] for key in same}]}
        made = client.post(f"{PROJECT}/sets", json=body).json()
        path = f"/api/sets/{made['id']}"
        (folder / "tulle_roughness.png").write_bytes(encode(COLOR[..., 0].copy(), "png"))
        (folder / "another_roughness.png").write_bytes(encode(COLOR[..., 0].copy(), "png"))  # of another set
        (folder / "tulle_metallic.png").write_bytes(b"not a picture")
        assert made["id"] in client.get(f"{PROJECT}/changed").json()
        found = [row for row in client.get(f"{path}/assay", params={"head": made["head"]}).json() if row["fix"] == "Take it in"]
        assert {row["finding"]["text"].split(" lies")[0] for row in found} == {"tulle_roughness.png", "tulle_metallic.png"}
        newer = client.post(f"{path}/refresh", json={"expects": made["head"]}).json()
        names = {source["name"]: source["place"] for source in newer["recipe"]["sources"].values()}
        assert names == {look["name"]: look["place"], "tulle_roughness.png": f"{place}/tulle_roughness.png"}
        assert newer["recipe"]["masters"]["roughness"].startswith("source:")
        again = client.post(f"{path}/refresh", json={"expects": newer["head"]})
        assert again.status_code == 422 and "tulle_metallic.png: no map can be read" in again.json()["detail"]
        client.delete(path)
        for name in ("tulle_roughness.png", "another_roughness.png", "tulle_metallic.png"):
            (folder / name).unlink()

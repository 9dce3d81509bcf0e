"""What the store keeps of sets and deliveries beyond their recipes: names, what was put away, usual targets, folders."""

import io
from uuid import uuid4

import pytest

from copper_sieve.core.errors import UnknownKey
from copper_sieve.core.recipe import BakedFrom, Facts, Recipe, Source, TileFile, source_ref
from copper_sieve.store import deliveries, projects, sets
from copper_sieve.store.database import open_pool
from copper_sieve.store.originals import keep_original, original_exists, sweep_originals
from copper_sieve.store.sets import NameTaken

HASHES = [f"{k:064x}" for k in range(0xABC0, 0xABC4)]


@pytest.fixture()
def conn(database):
    with open_pool(database) as pool, pool.connection() as conn:
        for sha in HASHES:
            keep_original(conn, sha256=sha, name=f"{sha[-4:]}.png", size_bytes=3, content=io.BytesIO(b"abc"))
        yield conn
        conn.rollback()


def recipe(*hashes: str) -> Recipe:
    """A color; in tiles where there is more than one file."""
    files = [TileFile(sha256=sha, name=f"{sha[-4:]}.png", width=8, height=8) for sha in hashes]
    beside = {1001 + k: file for k, file in enumerate(files) if k}
    source = Source(**files[0].model_dump(), reads={"RGB": "base_color"}, tile=1001 if beside else None, beside=beside)
    return Recipe(facts=Facts(width=8, height=8), sources={"s1": source}, masters={"base_color": source_ref("s1", "base_color")})


@pytest.fixture()
def project(conn):
    name = f"p{uuid4().hex[:8]}"
    return projects.create_project(conn, name=name, title=name).id


def test_a_set_is_renamed_unless_another_has_the_name(conn, project):
    first = sets.create_set(conn, project_id=project, name="felt", recipe=recipe(HASHES[0]))
    sets.create_set(conn, project_id=project, name="lace", recipe=recipe(HASHES[1]))
    sets.rename_set(conn, first, "FELT")  # its own name in other letters is free
    sets.rename_set(conn, first, "tweed")
    assert sets.get_set(conn, first).name == "tweed"
    with pytest.raises(NameTaken, match="Lace"):
        sets.rename_set(conn, first, "Lace")
    with pytest.raises(UnknownKey):
        sets.rename_set(conn, uuid4(), "any")


def test_a_history_begins_with_how_the_set_came_about(conn, project):
    made = sets.create_set(conn, project_id=project, name="felt", recipe=recipe(HASHES[0]))
    kept = sets.get_set(conn, made).recipe
    copy = sets.create_set(conn, project_id=project, name="felt 2", recipe=kept, note="copied from felt")
    assert [sets.list_versions(conn, one)[-1].note for one in (made, copy)] == ["taken in", "copied from felt"]
    assert sets.get_set(conn, copy).recipe == kept


def test_what_was_put_away_is_listed_and_comes_back_unless_its_name_was_given_away(conn, project):
    gone = sets.create_set(conn, project_id=project, name="felt", recipe=recipe(HASHES[0]))
    sets.remove_set(conn, gone, removed=True)
    assert [(row.id, row.name) for row in sets.list_removed(conn, project)] == [(gone, "felt")]
    other = sets.create_set(conn, project_id=project, name="felt", recipe=recipe(HASHES[1]))
    with pytest.raises(NameTaken):
        sets.remove_set(conn, gone, removed=False)
    sets.rename_set(conn, other, "another felt")
    sets.remove_set(conn, gone, removed=False)
    assert sets.list_removed(conn, project) == [] and sets.get_set(conn, gone).name == "felt"


def test_usual_targets_keep_their_order(conn, project):
    projects.set_usual(conn, project, ["gltf", "engine-orm-down"])
    (row,) = (row for row in projects.list_projects(conn) if row.id == project)
    assert row.usual == ["gltf", "engine-orm-down"]


def test_files_of_every_tile_are_kept_while_a_recipe_names_them(conn, project):
    sets.create_set(conn, project_id=project, name="coat", recipe=recipe(*HASHES[:3]))
    conn.execute("UPDATE original SET created = now() - interval '2 days' WHERE sha256 = ANY(%s)", (HASHES,))
    sweep_originals(conn)
    assert [original_exists(conn, sha) for sha in HASHES] == [True, True, True, False]


def test_where_a_bake_missed_in_a_tile_is_kept_with_its_map(conn, project):
    whole = recipe(*HASHES[:2])
    baked = BakedFrom(map="normal", low=HASHES[3], missed_in_tiles={1002: HASHES[2]})
    source = whole.sources["s1"].model_copy(update={"baked": baked})
    sets.create_set(conn, project_id=project, name="cuff", recipe=whole.model_copy(update={"sources": {"s1": source}}))
    conn.execute("UPDATE original SET created = now() - interval '2 days' WHERE sha256 = ANY(%s)", (HASHES,))
    sweep_originals(conn)
    assert [original_exists(conn, sha) for sha in HASHES] == [True, True, True, False]


def test_a_folder_is_what_the_last_delivery_left_there_whole(conn, project):
    def done(folder: str, told: str | None, state: str = "done", is_again: bool = False):
        key = deliveries.create_delivery(conn, project_id=project, folder=folder, plan=[], heads={}, is_again=is_again)
        manifest = None if told is None else {"deliveries": [], "told": told}
        deliveries.update_delivery(conn, key, state=state, manifest=manifest)
        conn.execute("UPDATE delivery SET created = clock_timestamp() WHERE id = %s", (key,))

    done("p/1", "first")
    done("p/2", "other")
    done("p/1", "again", is_again=True)
    done("p/1", None, state="failed", is_again=True)
    done("p/2", "left in the middle", state="cancelled", is_again=True)
    newest = [(folder, said["told"]) for folder, said in deliveries.done_manifests(conn, project)]
    assert newest == [("p/2", "left in the middle"), ("p/1", "again")]
    assert deliveries.folder_manifest(conn, "p/1")["told"] == "again"
    assert deliveries.folder_manifest(conn, "p/3") == {}


def test_a_stopped_server_takes_away_only_folders_that_were_new(conn, project):
    for folder, is_again in (("p/new", False), ("p/old", True)):
        deliveries.create_delivery(conn, project_id=project, folder=folder, plan=[], heads={}, is_again=is_again)
    assert "p/new" in (left := deliveries.stop_interrupted(conn)) and "p/old" not in left

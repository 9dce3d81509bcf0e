"""A database of every earlier number, with data in it, becomes today's; and what must always hold is a rule of the schema."""

import io
import json
import re
from importlib import resources
from uuid import uuid4

import psycopg
import pytest
from psycopg import sql

from copper_sieve.core.operations import OPERATIONS
from copper_sieve.core.recipe import Recipe, params_of
from copper_sieve.store import deliveries, sets
from copper_sieve.store.constraints import RULES, refusal
from copper_sieve.store.database import MigrationChanged, migrate, open_pool
from copper_sieve.store.originals import keep_original, original_bytes
from copper_sieve.store.statements import statements

NUMBERS = sorted(f.name for f in (resources.files("copper_sieve.store") / "migrations").iterdir() if f.name.endswith(".sql"))
SHA = "a" * 64
# As the first program wrote it: no states of facts, no parameters that were left at their defaults.
RECIPE = {
    "schema": 1,
    "facts": {"width": 8, "height": 8, "rise": 0.02},
    "sources": {"s1": {"sha256": SHA, "name": "a.png", "width": 8, "height": 8, "reads": {"RGB": "base_color"}}},
    "nodes": {
        "height": {"op": "height_from_color", "inputs": {"color": "master:base_color"}, "params": {"contrast": 0.7}},
        "normal": {"op": "normal_from_height", "inputs": {"height": "master:height"}},
    },
    "masters": {"base_color": "source:s1:base_color", "height": "node:height", "normal": "node:normal"},
}
FILES = [
    {"role": "a", "left_out": None},
    {"role": "b", "left_out": "left out by you"},
    {"role": "c", "left_out": "the set has no opacity"},
]


@pytest.fixture
def empty(database):
    """A database of its own on the tests' server, taken away afterwards."""
    name = f"t{uuid4().hex}"
    with psycopg.connect(database, autocommit=True) as server:
        server.execute(sql.SQL("CREATE DATABASE {}").format(sql.Identifier(name)))
        try:
            with open_pool(psycopg.conninfo.make_conninfo(database, dbname=name)) as pool, pool.connection() as conn:
                yield conn
        finally:
            server.execute(sql.SQL("DROP DATABASE {} WITH (FORCE)").format(sql.Identifier(name)))


def filled(conn) -> dict:
    """Two steps of one set and a delivery, written as the first program wrote them; the set's and the delivery's ids."""
    project = conn.execute("INSERT INTO project (name, title) VALUES ('p', 'P') RETURNING id").fetchone()["id"]
    conn.execute("INSERT INTO original (sha256, name, size_bytes) VALUES (%s, 'a.png', 3)", (SHA,))
    conn.execute("INSERT INTO original_chunk VALUES (%s, 0, 'abc')", (SHA,))
    made = conn.execute("INSERT INTO texture_set (project_id, name) VALUES (%s, 'silk') RETURNING id", (project,)).fetchone()[
        "id"
    ]
    parent = None
    for note in ("taken in", "changed"):
        row = conn.execute(
            "INSERT INTO recipe_version (set_id, parent, recipe, note) VALUES (%s, %s, %s, %s) RETURNING id",
            (made, parent, json.dumps(RECIPE), note),
        )
        parent = row.fetchone()["id"]
    conn.execute("UPDATE texture_set SET head = %s WHERE id = %s", (parent, made))
    plan = [{"plan": {"set": "silk", "target": "gltf", "target_title": "Open scene", "files": FILES}, "recipe": RECIPE}]
    delivery = conn.execute(
        "INSERT INTO delivery (project_id, state, folder, plan, heads) VALUES (%s, 'done', 'p/1', %s, '{}') RETURNING id",
        (project, json.dumps(plan)),
    ).fetchone()["id"]
    return {"set": made, "delivery": delivery, "project": project}


@pytest.mark.parametrize("number", NUMBERS)
def test_a_database_of_each_earlier_number_becomes_todays(empty, number):
    assert migrate(empty, up_to=number)[-1] == number
    ids = filled(empty)
    assert migrate(empty) == [later for later in NUMBERS if later > number]
    row = sets.get_set(empty, ids["set"])
    assert row.name == "silk" and row.parent is not None and row.before is not None
    params = {name: params_of(node) for name, node in row.recipe.nodes.items()}
    assert params["height"].contrast == 0.7 and params["normal"] == OPERATIONS["normal_from_height"].params()
    assert original_bytes(empty, SHA) == b"abc"
    delivery = deliveries.whole_delivery(empty, ids["delivery"])
    (job,) = delivery.plan
    if number < "0013":  # what is written from there on says by itself what it sends
        assert delivery.sent == [{"set": "silk", "target": "gltf", "target_title": "Open scene", "place": None}]
    if number < "0006":  # what is written from there on is written in full
        assert row.recipe.nodes["normal"].params["strength"] == 1 and row.recipe.nodes["height"].params["contrast"] == 0.7
        assert [(f["left_out"], f.get("why")) for f in job["plan"]["files"]] == [
            (None, None), ("unwanted", "left out by you"), ("nothing", "the set has no opacity")]  # fmt: skip
    assert migrate(empty) == []


def test_a_migration_that_is_not_what_it_was_is_told(empty):
    migrate(empty)
    empty.execute("UPDATE migration SET sha256 = %s WHERE name = %s", ("0" * 64, NUMBERS[2]))
    with pytest.raises(MigrationChanged, match=NUMBERS[2]):
        migrate(empty)


def broken(conn, statement: str, told: tuple = ()) -> psycopg.Error:
    with pytest.raises(psycopg.Error) as refused, conn.transaction():
        conn.execute(statement, told)
    return refused.value


def test_what_must_hold_is_refused_by_the_rule_of_its_name(empty):
    migrate(empty)
    ids = filled(empty)
    other = empty.execute(
        "INSERT INTO texture_set (project_id, name) VALUES (%s, 'wool') RETURNING id", (ids["project"],)
    ).fetchone()["id"]
    head = sets.get_set(empty, ids["set"]).head
    version = "INSERT INTO recipe_version (set_id, parent, recipe, note) VALUES (%s, %s, '{}', '')"
    cases = {
        "set_head_is_own": ("UPDATE texture_set SET head = %s WHERE id = %s", (head, other)),
        "version_parent_is_own": (version, (other, head)),
        "set_name_unique": ("INSERT INTO texture_set (project_id, name) VALUES (%s, 'SILK')", (ids["project"],)),
        "set_name_length": ("INSERT INTO texture_set (project_id, name) VALUES (%s, %s)", (ids["project"], "é" * 61)),
        "project_name_unique": ("INSERT INTO project (name, title) VALUES ('p', 'Other')", ()),
        "project_title_unique": ("INSERT INTO project (name, title) VALUES ('other', 'P')", ()),
        "version_name_length": ("UPDATE recipe_version SET name = %s", ("n" * 81,)),
        "own_target_pkey": ("INSERT INTO own_target (key, toml) VALUES ('k', ''), ('k', '')", ()),
    }
    assert set(cases) == set(RULES)
    for rule, case in cases.items():
        problem = broken(empty, *case)
        assert problem.diag.constraint_name == rule
        assert refusal(problem) == RULES[rule]


ASKED = {  # what a screen asks again and again, by family and name
    "sets": ("list_sets", "get_set", "list_heads", "list_versions", "version_recipe"),
    "deliveries": ("get_delivery", "list_deliveries"),
    "originals": ("original_headers", "original_chunks"),
}
TOLD = {
    "project_id": uuid4(),
    "set_id": uuid4(),
    "delivery_id": uuid4(),
    "version": 1,
    "most": 200,
    "sha256": SHA,
    "sha256s": [SHA],
}


@pytest.mark.parametrize(("family", "name"), [(f, n) for f, names in ASKED.items() for n in names])
def test_what_a_screen_repeats_reads_no_table_from_end_to_end(empty, family, name):
    migrate(empty)
    filled(empty)
    empty.execute("SET LOCAL enable_seqscan = off")  # small tables are read whole; this asks whether an index would serve
    plan = json.dumps(empty.execute("EXPLAIN (FORMAT JSON) " + statements(family)[name], TOLD).fetchone()["QUERY PLAN"])
    assert "Seq Scan" not in plan and "Index" in plan


def test_every_statement_is_one_that_the_database_takes(empty):
    """Prepared without being run: names of columns and tables are right."""
    migrate(empty)
    for family in ("sets", "deliveries", "originals", "profiles", "targets"):
        for name, text in statements(family).items():
            if not text.startswith("LOCK"):
                plain = re.sub(r"%\(\w+\)s", "NULL", text)
                assert empty.execute(f"EXPLAIN {plain}".encode()).fetchone(), name


def test_a_file_is_kept_once_and_given_back_whole(empty):
    migrate(empty)
    content = bytes(range(256)) * 5000  # more than one chunk
    for _ in range(2):
        keep_original(empty, sha256=SHA, name="a", size_bytes=len(content), content=io.BytesIO(content))
    assert original_bytes(empty, SHA) == content


def test_recipes_as_they_were_first_written_are_valid_now():
    assert Recipe.model_validate(RECIPE).facts.rise_from == "told"

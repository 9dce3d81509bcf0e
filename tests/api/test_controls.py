"""What a person may tell of a step, as the screen draws it."""

from copper_sieve.core.operations import OPERATIONS


def test_every_way_of_an_operation_says_how_each_of_its_parameters_is_told(client):
    rows = {(row["key"], row["number"]): row["params"] for row in client.get("/api/operations").json()}
    for operation in OPERATIONS.values():
        for way in operation.ways:
            controls = rows[way.key, way.number]
            assert [row["name"] for row in controls] == list(way.params.model_fields)
            made = way.params(**{row["name"]: row["default"] for row in controls if row["kind"] != "value"})
            assert made == way.params()
            for row in controls:
                assert row["title"] and row["description"], (way.key, row["name"])
                assert row["kind"] not in ("number", "whole") or row["minimum"] < row["maximum"], (way.key, row["name"])
                assert (row["kind"] == "choice") == bool(row["options"]), (way.key, row["name"])


def test_a_choice_names_its_words_and_a_number_its_unit(client):
    rows = {row["name"]: row for row in client.get("/api/noise").json()}
    assert rows["kind"]["options"] == [
        {"key": "grain", "title": "Grain"},
        {"key": "cloud", "title": "Clouds"},
        {"key": "cell", "title": "Cells"},
    ]
    assert (rows["amount"]["unit"], rows["amount"]["scale"]) == ("%", 100)


def test_values_that_have_names_come_with_them(client):
    marked = [
        mark
        for row in client.get("/api/operations").json()
        for control in row["params"]
        for mark in control["marks"]
        if row["key"].startswith("roughness")
    ]
    assert {"name", "value"} == set(marked[0])
    assert all(0 <= mark["value"] <= 1 for mark in marked)

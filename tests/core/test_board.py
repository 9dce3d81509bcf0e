"""The board of holes is right for a target that no code knows."""

from test_target import THIRD

from copper_sieve.core.target import board_of, read_target
from copper_sieve.targets import shipped_targets


def test_a_third_target_is_drawn_from_its_table():
    board = board_of(read_target(THIRD))
    holes = {(file.role, hole.letter): hole for file in board.files for hole in file.holes}
    drawn = {place: (hole.master, hole.feed) for place, hole in holes.items()}
    assert drawn[("data", "R")] == ("roughness", "inverted")  # gloss
    assert drawn[("data", "G")] == ("metallic", "inverted")
    assert drawn[("data", "B")] == ("height", "straight")
    assert drawn[("data", "A")] == (None, "constant") and holes[("data", "A")].absent == 0.5
    assert drawn[("normal", "R")] == ("normal", "inverted")  # y, and green is down
    assert drawn[("normal", "G")] == ("normal", "straight")  # x
    assert (holes[("data", "B")].low, holes[("data", "B")].high) == (0.25, 0.75)
    assert abs(holes[("data", "R")].absent - 0.4) < 1e-6
    assert {row.key for row in board.rows if not row.carried} == {"opacity", "reflectance", "curvature", "emissive"}


def test_every_shipped_channel_has_one_hole():
    for target in shipped_targets().values():
        board = board_of(target)
        assert [len(file.holes) for file in board.files] == [len(file.channels) for file in target.files]
        assert all(hole.master in {row.key for row in board.rows} for file in board.files for hole in file.holes if hole.master)

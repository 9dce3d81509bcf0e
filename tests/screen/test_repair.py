"""Maps repaired by eye, by as few moves as were promised."""

import numpy as np
from demo_sets import make_set
from jobs import delivered, done, open_at
from playwright.sync_api import expect
from test_moves import COLOR, GRAY, UP

from asking import eventually
from copper_sieve.files import read


def test_normals_read_the_wrong_way_round_are_seen_and_turned_over(page, server, data, project):
    key = project("repair", "engine-loose-down")
    down = UP * np.array([1, 0, 1], np.uint8) + (255 - UP) * np.array([0, 1, 0], np.uint8)
    made = make_set(server, "Wavy", {"base_color": COLOR, "normal": down, "height": GRAY}, green="up", project=key)
    hands = open_at(page, key, f"bench/{made['id']}")
    page.get_by_role("region", name="Viewer").wait_for()
    hands.press("t")  # both readings under a lamp; the body is not displaced by the height
    page.get_by_role("img", name="Light comes from here").wait_for()
    hands.click(page.get_by_role("region", name="Lineage").get_by_role("button", name="Normal given"))
    hands.press("g")
    eventually(lambda: server.get(f"/sets/{made['id']}").json()["head"] != made["head"])
    hands.press("Control+Enter")
    done(page)
    normal = read(next(path for name, path in delivered(server, data, key).items() if "normal" in name)).codes
    assert int(np.abs(normal.astype(int) - down).max()) <= 1
    assert hands.moves <= 5


def test_a_photo_that_does_not_repeat_with_normals_the_wrong_way_round(page, server, data, project):
    key = project("repair of a photo", "engine-loose-down")
    down = UP * np.array([1, 0, 1], np.uint8) + (255 - UP) * np.array([0, 1, 0], np.uint8)
    maps = {"base_color": COLOR[:, :50], "normal": down[:, :50], "height": GRAY[:, :50]}
    made = make_set(server, "Torn", maps, green="up", project=key)
    hands = open_at(page, key, f"bench/{made['id']}")
    page.get_by_role("region", name="Viewer").wait_for()
    hands.click(page.get_by_role("region", name="Lineage").get_by_role("button", name="Normal given"))
    hands.press("g")
    hands.click(page.get_by_role("button", name="Prepare the pictures"))
    hands.click(page.get_by_role("button", name="Make it repeat"))
    expect(page.get_by_role("radio", name="3 × 3, as it repeats")).to_be_checked()
    hands.press("Control+Enter")
    done(page)
    normal = read(next(path for name, path in delivered(server, data, key).items() if "normal" in name)).codes.astype(int)
    assert normal.shape[1] < 50
    for axis in (0, 1):
        jumps = np.abs(np.diff(normal, axis=axis)).mean((1 - axis, 2))
        assert np.abs(normal.take(0, axis) - normal.take(-1, axis)).mean() < 1.3 * np.percentile(jumps, 95)
    slope = np.corrcoef(normal[..., 1].ravel(), down[: normal.shape[0], : normal.shape[1], 1].ravel())[0, 1]
    assert slope > 0.3  # green is read as it is written, and written as it is read
    assert hands.moves <= 5

"""Pictures of surroundings: what is kept of them, and what is refused."""

import cv2
import numpy as np
import pytest

from asking import RAW
from copper_sieve.files import encode

PROJECT = "/api/projects/the-salt-heron-wardrobe"


def sky(width: int = 64) -> np.ndarray:
    """Blue above, dark below, and a lamp a thousand times as bright as white."""
    light = np.zeros((width // 2, width, 3), np.float32)
    light[: width // 4] = (0.2, 0.4, 0.8)
    light[4:6, 10:12] = 1000
    return light


def bring(client, name: str, content: bytes):
    return client.post(f"{PROJECT}/environments", params={"name": name}, content=content, headers=RAW)


def light_of(client, made: dict) -> np.ndarray:
    answer = client.get(f"/api/environments/{made['id']}/light")
    size = int(answer.headers["x-height"]), int(answer.headers["x-width"]), 4
    return np.frombuffer(answer.content, np.float16).reshape(size)


@pytest.mark.parametrize("way", ["exr", "hdr"])
def test_light_comes_back_as_it_was_with_lamps_brighter_than_white(client, way):
    light = sky()
    content = encode(light, "exr") if way == "exr" else cv2.imencode(".hdr", light[..., ::-1])[1].tobytes()
    made = bring(client, f"été {way}.{way}", content)
    assert made.status_code == 201 and not made.json()["is_bounded"]
    back = light_of(client, made.json())
    np.testing.assert_allclose(back[..., :3], light, rtol=0.01)
    assert (back[..., 3] == 1).all()
    assert made.json()["name"] in [row["name"] for row in client.get(f"{PROJECT}/environments").json()]
    assert client.delete(f"/api/environments/{made.json()['id']}").status_code == 204
    assert client.get(f"/api/environments/{made.json()['id']}/light").status_code == 404


def test_a_large_picture_is_kept_small_in_linear_light(client):
    checks = np.indices((1024, 2048)).sum(0) % 2 * np.uint8(255)
    made = bring(client, "checks.png", encode(np.repeat(checks[..., None].astype(np.uint8), 3, -1), "png")).json()
    assert (made["width"], made["height"], made["is_bounded"]) == (1024, 512, True)
    np.testing.assert_allclose(light_of(client, made)[..., :3], 0.5, atol=1e-3)  # of the light, not of its codes
    client.delete(f"/api/environments/{made['id']}")


@pytest.mark.parametrize(
    "name, content, says",
    [
        ("square.exr", encode(np.ones((32, 32, 3), np.float32), "exr"), "32 × 32"),
        ("night.exr", encode(np.zeros((16, 32, 3), np.float32), "exr"), "black all over"),
        ("letter.hdr", b"dear colleague", "holds text"),
        ("cut.hdr", b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n-Y 32 +X 64\n\x02", "damaged"),
        ("side.hdr", b"#?RADIANCE\nFORMAT=32-bit_rle_rgbe\n\n+X 64 -Y 32\n\x02", "top left"),
    ],
)
def test_what_is_no_sphere_is_refused_and_nothing_is_kept(client, name, content, says):
    before = client.get(f"{PROJECT}/environments").json()
    answer = bring(client, name, content)
    assert answer.status_code == 422 and says in answer.json()["detail"] and name in answer.json()["detail"]
    assert client.get(f"{PROJECT}/environments").json() == before


def test_a_file_that_was_dropped_at_intake_is_kept_as_light_without_being_sent_again(client):
    content = encode(sky(), "exr")
    look = client.post("/api/originals", params={"name": "studio.exr"}, content=content, headers=RAW).json()
    assert [one["id"] for one in look["findings"]] == ["surroundings"]
    made = client.post(f"{PROJECT}/environments/{look['sha256']}", params={"name": look["name"]})
    assert made.status_code == 201 and made.json()["name"] == "studio.exr"
    again = bring(client, "studio.exr", content).json()
    assert (light_of(client, made.json()) == light_of(client, again)).all()
    assert client.post(f"{PROJECT}/environments/{'0' * 64}", params={"name": "gone.exr"}).status_code == 404

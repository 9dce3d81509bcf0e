"""Watermarks are told from materials, which come again only nearly, or in all of their detail."""

import cv2
import numpy as np
import pytest
from bench.photos import SURFACES, photo_of
from PIL import Image, ImageDraw, ImageFont

from copper_sieve.core.prepare.marks import marks_step

STEP = (230, 150)
SIZE = 1024


def gray(codes: np.ndarray) -> np.ndarray:
    return np.ascontiguousarray(codes[..., :3].astype(np.float32).mean(-1) / 255)


def marked(codes: np.ndarray, alpha: float, step=STEP) -> np.ndarray:
    """Letters in half-transparent white over the whole picture."""
    letters = Image.new("L", step, 0)
    ImageDraw.Draw(letters).text((10, step[1] // 2 - 16), "SAMPLE", fill=255, font=ImageFont.load_default(32))
    rows, columns = codes.shape[:2]
    over = np.tile(np.asarray(letters), (rows // step[1] + 1, columns // step[0] + 1))[:rows, :columns, None] / 255 * alpha
    return (codes * (1 - over) + 255 * over).round().astype(np.uint8)


def as_jpeg(codes: np.ndarray, quality: int) -> np.ndarray:
    return cv2.imdecode(
        cv2.imencode(".jpg", np.ascontiguousarray(codes), (cv2.IMWRITE_JPEG_QUALITY, quality))[1], cv2.IMREAD_COLOR
    )


@pytest.mark.parametrize("name", SURFACES)
def test_no_material_is_taken_for_marks_however_it_is_stored(name):
    codes = photo_of(name, SIZE).codes[..., :3]
    assert marks_step(gray(codes)) is None
    assert marks_step(gray(as_jpeg(codes, 20))) is None
    assert marks_step(gray(cv2.resize(codes, (384, 384), interpolation=cv2.INTER_AREA))) is None
    assert marks_step(gray(np.tile(codes[:512, :512], (2, 2, 1)))) is None  # all of it comes again


@pytest.mark.parametrize("name", ["Gravel", "Brick, light joints", "Stone", "Glazed tiles"])  # on cloth they drown in the weave
def test_letters_laid_over_it_are_found_by_their_step(name):
    codes = photo_of(name, SIZE).codes[..., :3]
    for shown in (marked(codes, 0.25), as_jpeg(marked(codes, 0.35), 60)):
        step = marks_step(gray(shown))
        assert step is not None and (step[0] % STEP[0], step[1] % STEP[1]) == (0, 0), step


@pytest.mark.parametrize(("right", "down"), [(240, 30), (200, 90)])
def test_a_place_painted_over_with_others_of_the_photo_comes_again_and_is_no_mark(right, down):
    codes = photo_of("Gravel", SIZE).codes[..., :3].copy()
    for x, y in ((20, 20), (120, 200), (260, 400), (300, 540)):
        codes[y + down :, x + right :][:140, :140] = codes[y:, x:][:140, :140].copy()
    assert marks_step(gray(codes)) is None


@pytest.mark.parametrize("tone", [0.4, 0.6, 1.35])
@pytest.mark.parametrize("grain", [3, 6])
def test_what_a_machine_punched_or_printed_in_rows_is_no_mark(tone, grain):
    """Dots to the texel on a ground that is nowhere the same."""
    y, x = np.mgrid[:SIZE, :SIZE]
    is_dot = np.hypot((x - 64) % 128 - 64, (y - 64) % 128 - 64) < 36
    ground = 140 + np.random.default_rng(4).normal(0, grain, (SIZE, SIZE))
    codes = np.clip(np.where(is_dot, tone * ground, ground), 0, 255).round().astype(np.uint8)[..., None].repeat(3, 2)
    assert marks_step(gray(codes)) is None
    assert marks_step(gray(as_jpeg(codes, 85))) is None


@pytest.mark.parametrize("factor", range(1, 9))
def test_the_blocks_of_what_was_enlarged_are_no_marks(factor):
    """Pixel art, and made-up ground: each value a square of texels, one odd spot on it."""
    y, x = np.mgrid[:256, :256] / 256
    for seed in range(6):
        cells = np.random.default_rng(seed).random((256 // factor + 1,) * 2).astype(np.float32)
        ground = np.kron(cells, np.ones((factor, factor), np.float32))[:256, :256]
        assert marks_step(ground) is None
        assert marks_step(np.where(np.hypot(x - 0.62, y - 0.38) < 0.015, 1, ground).astype(np.float32)) is None


@pytest.mark.parametrize("shape", [(1, 1), (8, 300), (95, 95), (97, 131)])
def test_small_and_plain_pictures_hold_none(shape):
    assert marks_step(np.full(shape, 0.5, np.float32)) is None
    assert marks_step(np.random.default_rng(3).random(shape).astype(np.float32)) is None

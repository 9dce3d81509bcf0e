"""Files of several pictures: layered documents, pages, named channel groups; what one cannot give does not stop the rest."""

import io
import sys

import numpy as np
import OpenImageIO as oiio
import pytest
import tifffile
from PIL import Image
from psd_tools import PSDImage
from psd_tools.constants import Resource
from psd_tools.psd.image_resources import ImageResource, VersionInfo

from copper_sieve.core.errors import FileTooLarge, NotAnImage, UnsupportedImage
from copper_sieve.files import layer_names, layers, read_bytes
from copper_sieve.files.layers import MAX_LAYERS, MOST_TEXELS
from copper_sieve.work.intake.looking import is_by_layers, look_at_bytes, look_into_layers

HIGH, WIDE = 24, 40
rng = np.random.default_rng(3)
COLOR = rng.integers(0, 256, (HIGH, WIDE, 3)).astype(np.uint8)
GRAY = rng.integers(0, 256, (HIGH, WIDE)).astype(np.uint8)


LETTERS = {"vectors": "XYZ", "slopes": "XY"}  # of groups whose channels are no colors


def document(**told: tuple[np.ndarray, int, int]) -> bytes:
    """A layered document of ``name=(pixels, left, top)``; the last lies on top."""
    made = PSDImage.new("RGB", (WIDE, HIGH))
    for name, (pixels, left, top) in told.items():
        made.create_pixel_layer(Image.fromarray(pixels).convert("RGBA"), name=name, left=left, top=top)
    kept = io.BytesIO()
    made.save(kept)
    return kept.getvalue()


def pages(titles: list[str], deep: bool = False) -> bytes:
    kept = io.BytesIO()
    with tifffile.TiffWriter(kept) as writer:
        for k, title in enumerate(titles):
            codes = np.roll(COLOR, k, 0).astype(np.uint16) * 257 if deep else np.roll(COLOR, k, 0)
            writer.write(codes, photometric="rgb", metadata=None, extratags=[(285, 2, 0, title, True)] if title else [])
    return kept.getvalue()


def groups(tmp_path, **told: np.ndarray) -> bytes:
    """An EXR with a channel group per name; ``main`` has none."""
    names = [
        letter if key == "main" else f"{key}.{letter}"
        for key, v in told.items()
        for letter in LETTERS.get(key, "RGB")[: v.shape[2]]
    ]
    spec = oiio.ImageSpec(WIDE, HIGH, len(names), "half")
    spec.channelnames = names
    path = tmp_path / "layered.exr"
    out = oiio.ImageOutput.create(str(path))
    assert out.open(str(path), spec) and out.write_image(np.concatenate(list(told.values()), 2))
    out.close()
    return path.read_bytes()


def test_a_document_is_read_as_it_was_seen_and_by_layers():
    content = document(roughness=(np.dstack([GRAY] * 3), 0, 0), basecolor=(COLOR, 0, 0))
    merged = read_bytes(content, "wall.psd")
    assert merged.format == "psd" and (merged.codes[..., :3] == COLOR).all()
    assert layer_names(content) == ["roughness", "basecolor"]
    below, top = layers(content, "wall.psd")
    assert (top.picture.codes == COLOR).all() and (below.picture.codes[..., 0] == GRAY).all()
    assert (read_bytes(below.content, "roughness.tif").codes == below.picture.codes).all()


def test_a_layer_lies_where_it_lies_and_one_outside_is_said():
    content = document(patch=(COLOR[:8, :8], 30, 20), outside=(COLOR[:4, :4], 100, 100))
    patch, outside = layers(content, "wall.psd")
    codes = patch.picture.codes
    assert codes.shape == (HIGH, WIDE, 4) and (codes[20:, 30:38, :3] == COLOR[:4, :8]).all()
    assert (codes[20:, 30:38, 3] == 255).all() and codes[:20, :, 3].max() == 0
    assert isinstance(outside.problem, UnsupportedImage) and "outside" in outside.problem.message


def test_pages_have_names_or_numbers_and_keep_their_depth():
    content = pages(["albedo", "", "albedo"], deep=True)
    assert layer_names(content) == ["albedo 1", "page 2", "albedo 2"]
    found = list(layers(content, "sheet.tif"))
    assert [one.picture.depth for one in found] == [16] * 3
    assert (found[1].picture.codes == np.roll(COLOR, 1, 0).astype(np.uint16) * 257).all()
    assert (read_bytes(content, "sheet.tif").codes == found[0].picture.codes).all()
    assert layer_names(pages(["alone"])) == []


def test_channel_groups_of_an_exr(tmp_path):
    values = (COLOR / 255).astype(np.float16).astype(np.float32)
    content = groups(tmp_path, main=values, roughness=values[..., :1], normal=values * 2 - 1)
    assert sorted(layer_names(content)) == ["main", "normal", "roughness.R"]
    found = {one.name: one.picture for one in layers(content, "all.exr")}
    np.testing.assert_allclose(found["normal"].codes, values * 2 - 1, atol=2e-3)
    assert found["roughness.R"].codes.ndim == 2 and found["main"].depth == 16
    np.testing.assert_array_equal(read_bytes(content, "all.exr").codes, values)


def test_an_exr_of_groups_alone_is_seen_as_its_fullest_and_comes_by_its_layers(tmp_path):
    values = (COLOR / 255).astype(np.float16).astype(np.float32)
    content = groups(tmp_path, rough=values[..., :1], normal=values * 2 - 1, albedo=values)
    looked = look_at_bytes(content, "bake.exr")
    assert looked.header is not None and is_by_layers(looked)
    assert "seen as its albedo." in next(found.text for found in looked.findings if found.id == "read-as")
    np.testing.assert_array_equal(read_bytes(content, "bake.exr").codes, values)
    assert sorted(one.name for one in layers(content, "bake.exr")) == ["albedo", "normal", "rough.R"]
    told = groups(tmp_path, vectors=values * 2 - 1, slopes=values[..., :2])
    found = {one.name: one.picture.codes for one in layers(told, "bake.exr")}
    np.testing.assert_allclose(found["vectors"], values * 2 - 1, atol=2e-3)
    np.testing.assert_array_equal(found["slopes"][..., :2], values[..., :2])
    masks = groups(tmp_path, left=values[..., :1], right=values[..., 1:2])
    np.testing.assert_array_equal(read_bytes(masks, "masks.exr").codes, values[..., 0])


def test_a_document_without_its_merged_picture_is_seen_as_its_lowest_layer():
    made = PSDImage.open(io.BytesIO(document(roughness=(np.dstack([GRAY] * 3), 0, 0), basecolor=(COLOR, 0, 0))))
    told = VersionInfo(version=1, has_composite=False, writer="us", reader="us", file_version=1)
    made.image_resources[Resource.VERSION_INFO] = ImageResource(key=Resource.VERSION_INFO, data=told.tobytes())
    kept = io.BytesIO()
    made.save(kept)
    looked = look_at_bytes(kept.getvalue(), "wall.psd")
    assert is_by_layers(looked) and looked.layers == ("roughness", "basecolor")
    assert "lowest layer." in next(found.text for found in looked.findings if found.id == "read-as")
    assert (read_bytes(kept.getvalue(), "wall.psd").codes[..., 0] == GRAY).all()


def test_too_many_layers_are_refused_and_the_merged_picture_stays():
    content = pages([f"layer {k}" for k in range(MAX_LAYERS + 1)])
    with pytest.raises(FileTooLarge, match=f"at most {MAX_LAYERS}"):
        list(layers(content, "many.tif"))
    assert read_bytes(content, "many.tif").codes.shape == (HIGH, WIDE, 3)
    (said, _), *rest = look_into_layers(content, "many.tif")
    assert not rest and said.findings[0].grade == "stop"


def test_pages_are_taken_however_large_together_and_refused_with_what_to_do(monkeypatch):
    content = pages(["basecolor", "height", "roughness"])
    texels = 3 * WIDE * HIGH
    monkeypatch.setattr(sys.modules[layers.__module__], "MOST_TEXELS", texels)
    assert len(list(layers(content, "wall.tif"))) == 3
    monkeypatch.setattr(sys.modules[layers.__module__], "MOST_TEXELS", texels - 1)
    with pytest.raises(FileTooLarge, match="Take the merged picture, or save fewer or smaller pages"):
        list(layers(content, "wall.tif"))
    assert MOST_TEXELS >= 8 * 8192**2  # eight maps of the largest usual size


def test_damage_is_the_files_fault_and_stays_its_own():
    for content in (document(basecolor=(COLOR, 0, 0)), pages(["a", "b"])):
        for cut in (40, len(content) // 2):
            try:
                assert layer_names(content[:cut]) is not None
                list(layers(content[:cut], "cut"))
                read_bytes(content[:cut], "cut")
            except (NotAnImage, UnsupportedImage, FileTooLarge):
                pass


def test_layers_named_as_maps_are_meant_and_others_offered():
    maps = look_at_bytes(document(basecolor=(COLOR, 0, 0), roughness=(COLOR, 0, 0)), "çuha.psd")
    paint = look_at_bytes(document(sketch=(COLOR, 0, 0), ink=(COLOR, 0, 0)), "çuha.psd")
    assert is_by_layers(maps) and not is_by_layers(paint)
    assert {f.id for f in paint.findings} >= {"has-layers"}
    content = document(basecolor=(COLOR, 0, 0), roughness=(np.dstack([GRAY] * 3), 0, 0))
    looked = [one for one, _ in look_into_layers(content, "çuha.psd")]
    assert [(one.name, one.look.kind, one.set_stem) for one in looked] == [
        ("çuha_basecolor.tif", "base_color", "çuha"),
        ("çuha_roughness.tif", "roughness", "çuha"),
    ]

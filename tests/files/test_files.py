"""Codes come back from every format; bad files say what is wrong."""

import io
import struct

import numpy as np
import OpenImageIO as oiio
import pytest
import tifffile
from bench.mutations import by_library, pfm
from PIL import Image, ImageOps

from copper_sieve.core.errors import FileTooLarge, NotAnImage, UnsupportedImage
from copper_sieve.core.target import FORMATS
from copper_sieve.files import encode, holds, read_bytes, write

_TYPES = {(8, "uint"): np.uint8, (16, "uint"): np.uint16, (16, "float"): np.float16, (32, "float"): np.float32}
ALL = [(f, kind, channels) for f, row in FORMATS.items() if not row.lossy for kind in row.depths for channels in row.channels]


@pytest.mark.parametrize(("format", "kind", "channels"), ALL)
def test_codes_come_back_and_bytes_repeat(format, kind, channels):
    rng, shape = np.random.default_rng(0), (11, 7) if channels == 1 else (11, 7, channels)
    codes = (
        rng.random(shape).astype(_TYPES[kind])
        if kind[1] == "float"
        else rng.integers(0, 1 << kind[0], shape).astype(_TYPES[kind])
    )
    content = encode(codes, format)
    picture = read_bytes(content, f"x{FORMATS[format].suffix}")
    assert picture.codes.shape == codes.shape and (picture.codes == codes).all()
    assert (picture.depth, picture.sample) == kind
    assert encode(codes, format) == content


def saved(image: Image.Image, format: str, **options) -> bytes:
    out = io.BytesIO()
    image.save(out, format, **options)
    return out.getvalue()


def huge_png() -> bytes:
    whole = encode(np.zeros((1, 1), np.uint8), "png")
    return whole[:16] + (30000).to_bytes(4, "big") * 2 + whole[24:]


RGB = Image.fromarray(np.random.default_rng(1).integers(0, 255, (16, 16, 3)).astype(np.uint8))
BAD = {
    "text": (b"not a picture at all", NotAnImage, "holds text"),
    "no picture": (b"\x01\x02\x03\x04" * 9, NotAnImage, "01 02 03 04 .* or a mesh as glTF, OBJ, PLY or STL"),
    "empty": (b"", NotAnImage, "empty"),
    "cut off": (encode(np.zeros((64, 64, 3), np.uint8), "png")[:60], NotAnImage, "cut off"),
    "30000 px": (huge_png(), FileTooLarge, "30000"),
    "cmyk": (saved(RGB.convert("CMYK"), "JPEG"), UnsupportedImage, "RGB"),
    "animated": (saved(RGB, "WEBP", save_all=True, append_images=[RGB.rotate(90)], duration=50), UnsupportedImage, "2 frames"),
    "cut jpeg": (saved(RGB, "JPEG")[:400], NotAnImage, "cut off"),
}


@pytest.mark.parametrize("case", BAD)
def test_bad_files_say_what_is_wrong(case):
    content, error, says = BAD[case]
    with pytest.raises(error, match=says):
        read_bytes(content, "stoff à carreaux.png")


@pytest.mark.parametrize(
    ("name", "content", "says"),
    [
        ("spin.gif", b"GIF89a", "a GIF.* Save one picture of it"),
        ("felt.7z", b"7z\xbc\xaf'\x1c\0\4", "an archive of another kind than .zip. Unpack it"),
        ("felt.tar.gz", b"\x1f\x8b\x08\0", "an archive of another kind"),
        ("felt_normal.ktx2", b"\xabKTX 20\xbb\r\n\x1a\n", "packed for graphics cards.* as PNG, TIFF or EXR"),
        ("plate.dpx", b"SDPX" + bytes(60), "a film frame"),
        ("crate.FBX", b"\0\1\2\3", "a mesh in a format that is not read here. Export it as glTF"),
        ("crate.usdz", b"PK\x03\x04", "a USD scene in a format that is not read here"),
        ("felt.mtlx", b'<?xml version="1.0"?>', "a material without its pictures"),
        ("felt.ora", b"PK\x03\x04", "packed as a zip under another ending"),
    ],
)
def test_a_file_of_a_kind_that_is_read_nowhere_is_called_what_it_is(name, content, says):
    with pytest.raises(UnsupportedImage, match=f"^{name}: is .*{says}"):
        read_bytes(content, name)


READ_ONLY = [
    *((suffix, kind, channels) for suffix in (".jxl", ".sgi") for kind in (np.uint8, np.uint16) for channels in (1, 3, 4)),
    *((".ppm", kind, channels) for kind in (np.uint8, np.uint16) for channels in (1, 3)),
    *((".jp2", np.uint8, channels) for channels in (1, 3, 4)),
    (".jp2", np.uint16, 1),
]


@pytest.mark.parametrize(("suffix", "kind", "channels"), READ_ONLY)
def test_what_is_read_and_never_written_comes_as_it_is_stored(suffix, kind, channels):
    codes = np.random.default_rng(4).integers(0, np.iinfo(kind).max + 1, (24, 30, channels)).astype(kind)
    if (suffix == ".ppm" and channels == 4) or (suffix == ".jp2" and kind is np.uint16 and channels > 1):
        pytest.skip("no such file can be made here")
    plain = codes[..., 0] if channels == 1 else codes
    content = saved(Image.fromarray(plain), "JPEG2000") if suffix == ".jp2" else by_library(codes, suffix, jpegxl_distance=0.0)
    picture = read_bytes(content, f"toile{suffix}")
    assert np.array_equal(picture.codes, plain)
    assert (picture.depth, picture.sample) == (codes.dtype.itemsize * 8, "uint")


@pytest.mark.parametrize("order", ["<", ">"])
@pytest.mark.parametrize("channels", [1, 3])
def test_a_float_map_stands_upright_in_either_order_of_bytes(order, channels):
    values = np.random.default_rng(5).normal(0, 2, (24, 30, channels)).astype(np.float32)
    picture = read_bytes(pfm(values[..., 0] if channels == 1 else values, order), "dune_height.pfm")
    assert np.array_equal(picture.codes.reshape(values.shape), values)
    assert (picture.depth, picture.sample) == (32, "float")


def test_palette_and_orientation():
    palette = read_bytes(saved(RGB.convert("P"), "PNG"), "p.png")
    assert palette.channels == 3 and palette.notes == ("palette",)
    exif = Image.Exif()
    exif[0x0112] = 6  # turned a quarter
    turned = read_bytes(saved(Image.new("RGB", (20, 10)), "JPEG", exif=exif), "t.jpg")
    assert (turned.width, turned.height) == (10, 20)


@pytest.mark.parametrize("packing", ["raw", "group4", "tiff_lzw", "packbits"])
@pytest.mark.parametrize("white", [0, 1])
def test_a_tiff_whose_white_is_nought_is_black_first_however_it_is_packed(packing, white):
    """262 says which end is white; the library writes 1 and 8 bits to match it, and 16 bits as they are."""
    ramp = Image.linear_gradient("L")
    pictures = {8: ramp, 1: ramp.convert("1"), 16: Image.fromarray(np.asarray(ramp).astype(np.uint16) * 257)}
    for bits, picture in pictures.items():
        if packing == "group4" and bits != 1:
            continue
        read = read_bytes(saved(picture, "TIFF", compression=packing, tiffinfo={262: 1 - white}), "ramp.tif")
        stored = np.asarray(picture) * (255 if bits == 1 else 1)
        wanted = ~stored if bits == 16 and white == 1 else stored
        np.testing.assert_array_equal(read.codes, wanted, err_msg=f"{bits} bits")
        assert ("1 bit" in read.done) == (bits == 1)


def test_numbers_that_no_map_holds_are_read_as_the_nearest_that_one_does_and_it_is_said():
    ramp = np.linspace(0, 1, 48).reshape(6, 8)
    for kind, held in ((np.float64, ramp), (np.uint32, (ramp * (2**32 - 1)).astype(np.uint32))):
        file = io.BytesIO()
        tifffile.imwrite(file, held.astype(kind), photometric="minisblack")
        read = read_bytes(file.getvalue(), "Höhe.tif")
        np.testing.assert_allclose(read.codes, ramp, atol=1e-7)
        assert (read.depth, read.sample) == (32, "float") and "read as" in read.done
    file = io.BytesIO()
    tifffile.imwrite(file, (ramp * 900 - 100).astype(np.int16), photometric="minisblack")
    read = read_bytes(file.getvalue(), "Höhe.tif")
    np.testing.assert_array_equal(read.codes, (ramp * 900 - 100).astype(np.int16))
    assert (read.depth, read.sample) == (32, "float") and "read as they are" in read.done
    file = io.BytesIO()
    tifffile.imwrite(file, ramp.astype(np.int8), photometric="minisblack")
    with pytest.raises(UnsupportedImage, match=r"int8 numbers; expected .* Save it with 16 bits"):
        read_bytes(file.getvalue(), "Höhe.tif")


@pytest.mark.parametrize(("mode", "clear", "channels"), [("L", 0, 2), ("RGB", (0, 0, 0), 4), ("P", 0, 4), ("1", 0, 2)])
def test_one_value_that_is_clear_is_an_alpha(mode, clear, channels):
    read = read_bytes(saved(Image.linear_gradient("L").convert(mode), "PNG", transparency=clear), "leaf.png")
    assert read.channels == channels and {read.codes[0, 0, -1], read.codes[-1, -1, -1]} == {0, 255}


def test_tiled_files_hold_every_smaller_copy_and_repeat_their_bytes(tmp_path):
    codes = np.random.default_rng(2).random((48, 70, 3)).astype(np.float16)
    content = encode(codes, "exr-tiled", color="linear")
    assert content == encode(codes, "exr-tiled", color="linear")
    path = tmp_path / "täglich.exr"
    path.write_bytes(content)
    image = oiio.ImageInput.open(str(path))
    specs = [image.spec(0, k) for k in range(7)]
    assert [(s.width, s.height) for s in specs] == [(70, 48), (35, 24), (17, 12), (8, 6), (4, 3), (2, 1), (1, 1)]
    assert specs[0].tile_width == 64 and specs[0].getattribute("textureformat") == "Plain Texture"
    halved = image.read_image(0, 1, 0, 3, oiio.FLOAT)
    np.testing.assert_allclose(halved, codes.astype(np.float32).reshape(24, 2, 35, 2, 3).mean((1, 3)), atol=1e-3)
    last = image.read_image(0, 6, 0, 3, oiio.FLOAT)
    np.testing.assert_allclose(last.mean(), codes.astype(np.float32).mean(), atol=0.02)


@pytest.mark.parametrize("shape", [(1, 1), (3, 4000, 2), (1500, 1100, 3), (1100, 2100)])
def test_a_written_png_is_known_again_and_any_changed_byte_is_noticed(shape):
    codes = np.random.default_rng(6).integers(0, 9, shape).astype(np.uint16 if len(shape) == 2 else np.uint8)
    content = encode(codes, "png")
    other = codes.copy()
    other.reshape(-1)[-1] ^= 1
    assert (read_bytes(content, "x.png").codes == codes).all() and holds(content, codes, "png", "x.png")
    assert not holds(content, other, "png", "x.png")
    assert shape == (1, 1) or not holds(content, codes[:, :1], "png", "x.png")
    for at in (9, len(content) // 2, len(content) - 6):
        assert not holds(content[:at] + bytes([content[at] ^ 64]) + content[at + 1 :], codes, "png", "x.png")
    assert not any(holds(content[:-cut], codes, "png", "x.png") for cut in (1, 11, 20))


def test_a_failed_write_leaves_nothing(tmp_path):
    with pytest.raises(UnsupportedImage):
        write(tmp_path / "x.tga", np.zeros((2, 2), np.uint16), format="tga")
    assert list(tmp_path.iterdir()) == []


@pytest.mark.parametrize("number", range(1, 9))
def test_a_tiff_is_turned_upright_as_its_tag_says(number):
    codes = np.random.default_rng(number).integers(0, 256, (5, 7, 3)).astype(np.uint8)
    kept = io.BytesIO()
    tifffile.imwrite(kept, codes, photometric="rgb", extratags=[(274, "H", 1, number, True)])
    picture = read_bytes(kept.getvalue(), "a.tif")
    with Image.fromarray(codes) as image:
        image.getexif()[274] = number
        upright = np.asarray(ImageOps.exif_transpose(image))
    np.testing.assert_array_equal(picture.codes, upright)
    assert ("turned upright" in picture.done) == (number != 1)


@pytest.mark.parametrize("kind", [np.uint8, np.uint16, np.float32])
def test_colors_that_a_tiff_stores_dimmed_by_their_alpha_are_as_they_were(kind):
    rng = np.random.default_rng(9)
    full = 1.0 if kind == np.float32 else float(np.iinfo(kind).max)
    colors, alpha = rng.random((16, 16, 3)), np.round(rng.random((16, 16, 1)) * 4) / 4
    stored = np.concatenate([colors * alpha, alpha], 2) * full
    kept = io.BytesIO()
    tifffile.imwrite(kept, (stored if kind == np.float32 else stored.round()).astype(kind), photometric="rgb", extrasamples=[1])
    picture = read_bytes(kept.getvalue(), "a.tif")
    assert "dimmed by their alpha" in picture.done
    seen = alpha[..., 0] > 0
    np.testing.assert_allclose(
        picture.codes[seen][:, :3] / full, colors[seen], atol=4.1 / full if full > 1 else 1e-6
    )  # half a code of either, at a quarter
    assert not picture.codes[~seen][:, :3].any()


def test_a_tiff_that_only_says_its_colors_are_dimmed_is_left_as_it_is():
    codes = np.random.default_rng(9).integers(100, 256, (8, 8, 4)).astype(np.uint8)
    codes[..., 3] = 50
    kept = io.BytesIO()
    tifffile.imwrite(kept, codes, photometric="rgb", extrasamples=[1])
    picture = read_bytes(kept.getvalue(), "a.tif")
    assert picture.done == "" and np.array_equal(picture.codes, codes)


@pytest.mark.parametrize(("extra", "kept"), [(["unassalpha", "unspecified"], "RGBA"), (["unspecified"] * 2, "RGB")])
@pytest.mark.parametrize("planar", ["contig", "separate"])
def test_of_a_tiff_with_spare_channels_the_color_is_read_and_that_there_are_more_is_told(extra, kept, planar):
    codes, held = np.random.default_rng(9).integers(0, 256, (8, 12, 5)).astype(np.uint8), io.BytesIO()
    stored = codes if planar == "contig" else np.moveaxis(codes, -1, 0)
    tifffile.imwrite(held, stored, photometric="rgb", extrasamples=extra, planarconfig=planar)
    picture = read_bytes(held.getvalue(), "a.tif")
    assert np.array_equal(picture.codes, codes[..., : len(kept)]) and f"5 channels; only {kept} are read" in picture.done


def test_a_phone_photo_with_more_pictures_behind_it_is_the_one_that_is_seen():
    """As phones save how far away things are, or how bright a screen may show them."""
    photo, behind = (Image.fromarray(np.random.default_rng(k).integers(0, 256, (16, 24, 3)).astype(np.uint8)) for k in (1, 2))
    alone = read_bytes(saved(photo, "JPEG", quality=95, subsampling=0), "a.jpg")
    both = read_bytes(saved(photo, "MPO", quality=95, subsampling=0, save_all=True, append_images=[behind]), "a.jpg")
    np.testing.assert_array_equal(both.codes, alone.codes)
    assert alone.done == "" and "more pictures behind" in both.done


def dds(*, caps: int = 0, tenth: tuple[int, int] | None = None) -> bytes:
    """A header of 4 × 4 px without packing, or with the newer part: its flags, and how many pictures there are."""
    head = bytearray(128)
    head[:4], head[84:88] = b"DDS ", b"DX10" if tenth else bytes(4)
    struct.pack_into("<4I", head, 4, 124, 0x1007, 4, 4)
    struct.pack_into("<2I", head, 76, 32, 0x4 if tenth else 0x41)
    struct.pack_into("<5I", head, 88, 32, 0xFF0000, 0xFF00, 0xFF, 0xFF000000)
    struct.pack_into("<2I", head, 108, 0x1000, caps)
    more = struct.pack("<5I", 28, 3, *tenth, 0) if tenth else b""
    return bytes(head) + more + bytes(4 * 4 * 4 * 6)


@pytest.mark.parametrize(
    ("content", "says"),
    [
        (dds(caps=0xFE00), "cube of six"),
        (dds(tenth=(4, 1)), "cube of six"),
        (dds(caps=0x200000), "stack of pictures"),
        (dds(tenth=(0, 3)), "stack of pictures"),
        (dds(), None),
        (dds(tenth=(0, 1)), None),
    ],
)
def test_a_block_texture_of_several_pictures_is_no_map(content, says):
    if says is None:
        assert read_bytes(content, "a.dds").codes.shape == (4, 4, 4)
    else:
        with pytest.raises(UnsupportedImage, match=says):
            read_bytes(content, "a.dds")

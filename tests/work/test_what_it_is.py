"""Every file is what it is: alphas, packed words, maps known by their picture alone, other sizes, a target's own files."""

import numpy as np
import pytest

from copper_sieve.core.checks.fixes import mended
from copper_sieve.core.checks.recipe import size_findings
from copper_sieve.core.derive import normal_from_height
from copper_sieve.core.intake import FileEntry, plan_set
from copper_sieve.core.intake.names import level_of, packed_reads, read_name, tile_of
from copper_sieve.core.recipe import Cache, Evaluation, Facts, Recipe, Source
from copper_sieve.core.target import NamedFile, offered
from copper_sieve.files import encode
from copper_sieve.targets import shipped_targets
from copper_sieve.work.intake.grouping import read_by_sets, recipe_for, sets_of
from copper_sieve.work.intake.looking import Gathered, look_at_bytes

PX = 96
Y, X = np.mgrid[:PX, :PX] / PX
rng = np.random.default_rng(12)
HILLS = (0.5 + 0.3 * np.sin(2 * np.pi * (3 * X + np.sin(2 * np.pi * Y) / 4)) * np.cos(2 * np.pi * 4 * Y)).astype(np.float32)
NORMAL = normal_from_height(HILLS, 0.08) * 0.5 + 0.5
SHINE = (0.45 + 0.25 * np.sin(2 * np.pi * (7 * Y + 2 * X))).astype(np.float32)
MASK = (np.sin(40 * X) > 0.5).astype(np.float32)
COLOR = np.dstack([0.5 + 0.3 * HILLS, 0.3 + 0.4 * HILLS, 0.2 + 0.2 * HILLS]) + rng.normal(0, 0.01, (PX, PX, 3))


def png(*planes: np.ndarray) -> bytes:
    return encode((np.dstack(planes).clip(0, 1) * 255 + 0.5).astype(np.uint8).squeeze(), "png")


@pytest.mark.parametrize(
    ("alpha", "is_read_as"),
    [(HILLS, "height"), (1 - HILLS, "height"), (SHINE, "gloss"), (MASK, None), (0.5 + 0.5 * MASK * HILLS, None)],
    ids=["height", "inverted height", "gloss", "a mask", "neither"],
)
def test_the_alpha_of_normals_is_told_by_its_slopes(alpha, is_read_as):
    looked = look_at_bytes(png(NORMAL, alpha), "weft_normal.png")
    assert looked.look.reads == {"RGB": "normal"} | ({"A": is_read_as} if is_read_as else {})
    assert ("normal-alpha-open" in {found.id for found in looked.findings}) == (is_read_as is None)


def test_a_picture_without_color_that_is_called_as_its_set_is_its_color():
    snow = {"drift.png": png(*[0.8 + 0.1 * HILLS] * 3), "drift_nm.png": png(NORMAL)}
    files = [Gathered(name, look_at_bytes(content, name), lambda: b"") for name, content in snow.items()]
    assert files[0].looked.look.kind == "unknown"
    read = [file.looked for file in read_by_sets(files)]
    recipe, _ = recipe_for(read)
    assert recipe.masters["base_color"].part == "base_color" and "drift_nm.png" in read[0].look.because[0]
    assert "unknown-kind" not in {found.id for found in read[0].findings}


def test_normals_are_told_whatever_is_left_black_around_them():
    black = png(np.where(np.hypot(X - 0.5, Y - 0.5)[..., None] < 0.35, NORMAL, 0))
    look = look_at_bytes(black, "sheet.png").look
    assert (look.kind, look.green.answer) == ("normal", "up") and "98%" not in look.because[0]


def test_normals_that_are_not_of_unit_length_are_told_so():
    steep = normal_from_height(HILLS, 0.2)
    long = png(steep[..., :2] / steep[..., 2:] * 0.5 + 0.5, np.ones((PX, PX)))
    looks = [look_at_bytes(long, name).look for name in ("weft_nm.png", "weft_n.png")]  # one letter alone could be anything
    assert all(look.kind == "normal" and any("of unit length on" in why for why in look.because) for look in looks)


def test_one_letter_means_another_map_where_the_picture_is_in_color():
    look = look_at_bytes(png(COLOR), "weft_g.png").look
    assert (look.kind, look.reads, look_at_bytes(png(SHINE), "weft_g.png").look.kind) == (
        "emissive",
        {"RGB": "emissive"},
        "gloss",
    )


def test_our_own_file_of_normals_with_gloss_is_read_back_as_it_was_meant():
    sheet = next(file for file in shipped_targets()["arch-gloss-alpha"].files if "A" in file.channels and file.role != "albedo")
    assert sheet.channels["A"].quantity == "gloss"
    looked = look_at_bytes(png(NORMAL, SHINE), "weft_normal.png")
    assert looked.look.reads == {"RGB": "normal", "A": "gloss"}


def test_the_words_of_packed_files_in_any_order_and_casing():
    same = {"R": "metallic", "G": "roughness", "B": "occlusion"}
    for word in ("MRO", "mro", "MetallicRoughnessAO", "metal_rough_occlusion", "metalness-roughness-ao"):
        found = read_name(f"weft_{word}.png")
        assert found.kind and packed_reads(found.kind.partition(":")[2]) == same, word
    pair = {"G": "roughness", "B": "metallic"}
    for word in ("roughnessMetallic", "metalRough", "MetallicRoughness", "rough_metal"):
        assert packed_reads(read_name(f"weft_{word}.png").kind.partition(":")[2]) == pair, word
    drawn = look_at_bytes(png(SHINE, MASK, 0 * MASK), "weft_roughnessMetallic.png").look
    assert drawn.reads == {"R": "roughness", "G": "metallic"}  # blue is empty, so it is not as the standard has it
    assert look_at_bytes(png(0 * MASK, SHINE, MASK), "weft_roughnessMetallic.png").look.reads == pair


@pytest.mark.parametrize("name", ["weft_mask_v2.png", "weft_Mask_v02.png", "weft_masks_v3.tga", "weft_mask.png"])
def test_a_packed_file_that_is_called_a_mask_is_no_opacity(name):
    for planes in ((MASK, SHINE, HILLS, SHINE.T), (SHINE, MASK, 1 - 0.2 * MASK.T), (MASK, MASK.T, SHINE)):
        look = look_at_bytes(png(*planes), name).look
        assert "opacity" not in look.reads.values() and look.kind == "packed"
    if "masks" not in name:
        assert look_at_bytes(png(MASK), name).look.reads == {"L": "opacity"}


def test_grays_in_three_channels_and_gray_speculars():
    gloss = look_at_bytes(png(SHINE, SHINE, SHINE), "weft_gloss.png").look
    assert (gloss.kind, gloss.reads) == ("gloss", {"RGB": "gloss"})
    files = {"weft_color.png": png(COLOR), "weft_specular.png": png(SHINE)}
    recipe, _ = recipe_for(look_at_bytes(content, name) for name, content in files.items())
    assert "specular_level" in {key for source in recipe.sources.values() for key in source.reads.values()}
    assert recipe.masters["reflectance"].endswith(":specular_level")


def test_a_gray_picture_is_offered_as_a_photo_too():
    assert "photo" in look_at_bytes(png(HILLS), "IMG_2031.png").look.guesses
    assert look_at_bytes(png(0 * HILLS + 0.5), "IMG_2032.png").look.guesses == ()


def test_sets_are_named_without_tiles_and_levels():
    names = ("bench_LOD1_N.tga", "bench_N_LOD1.tga", "bench_UDIM1002_N.tga", "bench_u2_v1_N.tga", "bench_N.UDIM1002.exr")
    assert {read_name(name).stem for name in names} == {"bench"}
    assert [level_of(name) for name in names[:2]] == [1, 1] and [tile_of(name) for name in names[2:]] == [1002] * 3
    levels = [look_at_bytes(png(COLOR), f"bench_LOD{k}_BaseColor.png") for k in range(2)]
    assert set(sets_of(levels)) == {"bench LOD0", "bench LOD1"}


def test_a_map_known_by_its_picture_alone_joins_the_set_of_its_name_and_size():
    color, other = look_at_bytes(png(COLOR), "linen_col.png"), look_at_bytes(png(COLOR[::2, ::2]), "lin_col.png")
    by_picture = look_at_bytes(png(NORMAL), "linen_nn.png")
    for order in ([color, other, by_picture], [by_picture, other, color]):
        assert {name: len(files) for name, files in sets_of(order).items()} == {"linen": 2, "lin": 1}
    smaller = look_at_bytes(png(NORMAL[::2, ::2]), "linen_nn.png")
    assert set(sets_of([color, smaller])) == {"linen", "linen_nn"}


def test_names_that_say_nothing_or_what_is_shown_are_no_maps():
    for name in ("brick_wall_normal_day.jpg", "rough stone 02.jpg", "goat_ram.jpg", "metal plate.jpg", "height of summer.jpg"):
        look = look_at_bytes(png(COLOR), name).look
        assert look.kind == "photo", (name, look.kind)
    assert look_at_bytes(png(NORMAL), "Normal_Brick_02.png").look.stem == "Brick_02"


def a_recipe(height: int, width: int) -> Recipe:
    maps = {"base_color": (PX, PX), "roughness": (height, width)}
    sources = {
        key: Source(sha256=f"{k:064x}", name=f"{key}.png", height=h, width=w, reads={"RGB": key})
        for k, (key, (h, w)) in enumerate(maps.items())
    }
    return Recipe(facts=Facts(width=PX, height=PX), sources=sources, masters={key: f"source:{key}:{key}" for key in maps})


def evaluated(recipe: Recipe) -> Evaluation:
    def load(source: Source) -> np.ndarray:
        columns = np.linspace(0, 255, source.width).astype(np.uint8)
        return np.broadcast_to(columns[None, :, None], (source.height, source.width, 3)).copy()

    return Evaluation(recipe, None, load, Cache(1 << 26))


@pytest.mark.parametrize(("height", "width", "id"), [(PX // 2, PX // 2, "size-differs"), (PX, 2 * PX, "aspect-differs")])
def test_another_size_is_told_and_mended_with_one_press(height, width, id):
    recipe = a_recipe(height, width)
    (found,) = size_findings(evaluated(recipe))
    assert (found.id, found.master) == (id, "roughness")
    after = mended(recipe, found.id, found.master)
    assert not list(size_findings(evaluated(after)))
    rough = evaluated(after).master("roughness")
    assert rough.shape == (PX, PX)
    quarters = (0.375, 0.625) if id == "aspect-differs" else (0.25, 0.75)  # a crop keeps the middle, nothing is squeezed
    np.testing.assert_allclose([rough[5, PX // 4], rough[5, PX * 3 // 4]], quarters, atol=0.02)


def test_one_picture_in_two_channels_is_told_for_given_files():
    twice = look_at_bytes(png(SHINE, SHINE, MASK), "weft_orm.png")
    assert "same-in-two-channels" in {found.id for found in twice.findings}
    assert "same-in-two-channels" not in {f.id for f in look_at_bytes(png(HILLS, SHINE, MASK), "weft_orm.png").findings}


def test_a_targets_own_files_are_offered_to_be_read_by_its_table():
    targets = list(shipped_targets().values())
    for key in ("engine-mra-down", "engine-smooth-up", "arch-gloss-alpha", "small-tiles"):
        target = shipped_targets()[key]
        names = []
        for file in target.files:
            parts = (
                "weft" if not isinstance(p, str) and p.part == "set" else p if isinstance(p, str) else file.word
                for p in file.name
            )
            names.append(NamedFile("".join(parts) + {"png": ".png", "tga": ".tga", "tiff": ".tif", "exr": ".exr"}[file.format],
                                   len(file.channels)))  # fmt: skip
        found = offered(targets, names)
        assert key in {target.key for target, _ in found}, key
    assert offered(targets, [NamedFile("weft_normal.png", 3)]) == []  # one alone may be so by chance
    assert offered(targets, [NamedFile("a.png", 3), NamedFile("b.png", 3)]) == []


def test_a_rival_of_another_shape_never_decides_the_sets_size():
    entries = [FileEntry("0" * 64, "a.png", 64, 64, 8, {"RGB": "base_color"}),
               FileEntry("1" * 64, "b.png", 256, 128, 8, {"L": "height"}, fit="crop")]  # fmt: skip
    recipe = plan_set(entries)
    assert (recipe.facts.width, recipe.facts.height) == (64, 64) and recipe.sources["s2"].fit == "crop"

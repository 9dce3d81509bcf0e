"""Every finding: a case that has the fault, and the same case without it. One that is not in the tables has no test."""

import io
import tempfile
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
import pytest
import tifffile
from PIL import Image, ImageCms

from copper_sieve.core.checks import files, photo, plan, recipe, target, tiles
from copper_sieve.core.checks.fixes import FIXES, mended
from copper_sieve.core.checks.maps import undetermined
from copper_sieve.core.checks.project import density_finding
from copper_sieve.core.derive import normal_from_height
from copper_sieve.core.findings import FINDINGS
from copper_sieve.core.intake.workflow import with_specular_level
from copper_sieve.core.mesh_sentences import MESH_FIXES, MESH_SENTENCES
from copper_sieve.core.plan import planned
from copper_sieve.core.recipe import Cache, Evaluation, Facts, Meshes, Node, Recipe, with_origin
from copper_sieve.core.target import Target
from copper_sieve.files import encode
from copper_sieve.targets import shipped_target
from copper_sieve.work.intake.grouping import recipe_for
from copper_sieve.work.intake.looking import gather, load_codes, look_at_bytes
from copper_sieve.work.reformatting import Called, NewFormat, Remade, remade
from copper_sieve.work.sets import derived_anew
from core.test_checks import FAULTS as ON_MAPS

PX = 64
rng = np.random.default_rng(8)
Y, X = np.mgrid[:PX, :PX] / PX
HILLS = (0.5 + 0.3 * np.sin(2 * np.pi * (3 * X + np.sin(2 * np.pi * Y) / 4)) * np.cos(8 * np.pi * Y)).astype(np.float32)
COLOR = np.clip(np.dstack([0.5 + 0.3 * HILLS, 0.3 + 0.4 * HILLS, 0.2 + 0.2 * HILLS]) + rng.normal(0, 0.02, (PX, PX, 3)), 0, 1)
UP = normal_from_height(HILLS, 0.08) * 0.5 + 0.5
DOWN = UP * [1, -1, 1] + [0, 1, 0]
FLAT = np.broadcast_to([0.5, 0.5, 1.0], UP.shape)
RIDGES = normal_from_height((0.5 + 0.4 * np.sin(16 * np.pi * Y)) * np.ones_like(X), 0.02) * 0.5 + 0.5  # of one dimension
SAND = (0.4 + rng.normal(0, 0.05, (256, 256, 1)) * [1.0, 0.9, 0.7]).astype(np.float32)
LETTERS = np.tile(rng.random((64, 64)) > 0.8, (4, 4))[..., None] * 0.1
GLINTS = np.dstack([0.4 + 0.3 * HILLS] * 3)  # how strong highlights are, as sets had it before they were measured
GRAY = (0.45 + 0.25 * np.sin(2 * np.pi * (7 * Y + 2 * X))).astype(np.float32)
SLOPE = (0.5 + 0.02 * np.sin(2 * np.pi * Y)) * np.ones_like(X)  # so gentle that 8 bits make stairs of it
MASK = (np.sin(40 * X) > 0.5).astype(np.float32)
DOMES = np.maximum(np.sin(8 * np.pi * X) * np.sin(8 * np.pi * Y), 0)
FLANKS = np.dstack([0.5 + 0.8 * (np.roll(DOMES, -1, 0) - DOMES)] * 3)  # the same under a lamp above
LINES = np.where((np.arange(PX) % 16 < 2)[:, None, None], 0.8, COLOR * 0.3 + 0.2)  # light joints
VEINS = np.where((np.arange(PX) % 32 < 2)[:, None, None], 0.1, COLOR * 0.01 + 0.7)
RAMP = np.clip(COLOR * 0.9 * np.exp(-1.2 * X)[..., None], 0, 1)  # the light falls off to the right
GRAINY = np.clip(COLOR * 0.05 + 0.4 + rng.normal(0, 0.04, (PX, PX, 1)), 0, 1)
FRAMED = np.pad(COLOR[4:-4, 4:-4], ((4, 4), (4, 4), (0, 0)), constant_values=1)
SHADED = np.where((X + 0.1 * np.sin(6 * Y) > 0.6)[..., None], GRAINY * 0.6, GRAINY)  # on one side
LEAF = np.where((np.hypot(X - 0.5, Y - 0.5) < 0.3)[..., None], COLOR * 0.5, 0.95)  # on a white ground
NET = np.where((np.abs(np.sin(12 * X) * np.sin(12 * Y)) < 0.3)[..., None], 0.85, 0.1) * np.ones((PX, PX, 3))
SPECKS = rng.random((PX, PX)).astype(np.float32)
BALL = rng.normal(0, 1, (PX, PX, 3))
BALL = BALL / np.linalg.norm(BALL, axis=-1, keepdims=True) * 0.5 + 0.5  # they point all ways
Pixels = np.ndarray | bytes


def bytes_of(pixels: Pixels, deep: bool = False) -> bytes:
    if isinstance(pixels, bytes):
        return pixels
    if pixels.max() > 1:
        return encode(pixels.astype(np.float32), "exr")
    return encode((pixels.clip(0, 1) * (65535 if deep else 255) + 0.5).astype(np.uint16 if deep else np.uint8), "png")


def with_profile(pixels: np.ndarray, profile: bytes) -> bytes:
    held = io.BytesIO()
    Image.fromarray((pixels * 255).astype(np.uint8)).save(held, "PNG", icc_profile=profile)
    return held.getvalue()


def as_jpeg(pixels: np.ndarray) -> bytes:
    held = io.BytesIO()
    Image.fromarray((pixels * 255).astype(np.uint8)).save(held, "JPEG", quality=40)
    return held.getvalue()


SRGB = ImageCms.ImageCmsProfile(ImageCms.createProfile("sRGB")).tobytes()
LAB = ImageCms.ImageCmsProfile(ImageCms.createProfile("LAB")).tobytes()
AVIF = bytes(cv2.imencode(".avif", (COLOR[..., ::-1] * 255).astype(np.uint8))[1])


def paged() -> bytes:
    kept = io.BytesIO()
    with tifffile.TiffWriter(kept) as writer:
        for codes in (COLOR, 1 - COLOR):
            writer.write((codes * 255).astype(np.uint8), photometric="rgb", metadata=None)
    return kept.getvalue()


PAGES = paged()
Found = Callable[[], set[str]]


def file(name: str, pixels: Pixels) -> Found:
    return lambda: {f.id for f in look_at_bytes(bytes_of(pixels), name).findings}


def of_set(
    deep: bool = False, change: Callable[[Recipe], Recipe] = lambda recipe: recipe, meshes: Meshes | None = None, **maps: Pixels
) -> Evaluation:
    """A set of files named tulle_MAP.png."""
    contents = [bytes_of(pixels, deep) for pixels in maps.values()]
    looked = [look_at_bytes(content, f"tulle_{key}.png") for key, content in zip(maps, contents)]
    held = {one.sha256: content for one, content in zip(looked, contents)}
    made, findings = recipe_for(looked)
    assert made is not None, findings
    return Evaluation(change(made), None, lambda source: load_codes(source, held.__getitem__), Cache(1 << 26), meshes=meshes)


def intake(**maps: Pixels) -> Found:
    """What is said while files become a set."""
    return lambda: {f.id for f in recipe_for(look_at_bytes(bytes_of(p), f"tulle_{k}.png") for k, p in maps.items())[1]}


def on_set(**told) -> Found:
    return lambda: {f.id for check in (*recipe.CHECKS, *photo.CHECKS, *recipe.PLANNED_TOO) for f in check(of_set(**told))}


def looked_at(made: Recipe) -> Recipe:
    return with_origin(made, "base_color", "op:albedo_from_photo")


def grooved(made: Recipe) -> Recipe:
    return facts(rise=0.1, rise_from="fitted")(with_origin(made, "height", "op:height_from_grooves"))


def calmed(made: Recipe) -> Recipe:
    node = made.nodes["height"].model_copy(update={"params": {"detail": (0, 0.7, 1, 0.6, 0)}})
    return made.model_copy(update={"nodes": {**made.nodes, "height": node}})


def in_format(format: str, pixels: Pixels, deep: bool = False, longest_px: int | None = None) -> Found:
    def found() -> set[str]:
        wanted = NewFormat(format, longest_px=longest_px, sampling="nearest")
        (made,) = remade([Called("tulle.any", lambda: bytes_of(pixels, deep))], wanted)
        assert isinstance(made, Remade)
        return {f.id for f in made.findings}

    return found


def cut(pixels: np.ndarray, op: str) -> Found:
    """A photo whose opacity was just asked to come from its color."""
    seen = of_set(photo=pixels)
    made = seen.of(derived_anew(seen, "opacity", f"op:{op}"))
    return lambda: {f.id for check in photo.CHECKS for f in check(made)}


def tiled(*roughness: int) -> Found:
    """A set of two tiles, whose roughness has files for some of them."""
    files = [(f"tulle_basecolor.{tile}.png", COLOR) for tile in (1001, 1002)]
    files += [(f"tulle_roughness.{tile}.png", GRAY) for tile in roughness]
    made, _ = recipe_for(look_at_bytes(bytes_of(pixels), name) for name, pixels in files)
    assert made is not None
    return lambda: {f.id for check in tiles.CHECKS for f in check(Evaluation(made, None, lambda source: COLOR, Cache(1 << 20)))}


def on_maps(**told) -> Found:
    return lambda: {marked.finding.id for marked in undetermined(of_set(**told))}


def on_plan(
    key: str = "engine-orm-down", role: str = "", changed: dict | None = None, channels: dict | None = None, **told
) -> Found:
    """What is said of a plan and of its target's table, whose file ``role`` (the first by default) is changed."""

    def found() -> set[str]:
        table = shipped_target(key).model_dump(mode="json", by_alias=True)
        for row in [row for row in table["files"] if row["role"] == (role or table["files"][0]["role"])]:
            row |= (changed or {}) | {"channels": row["channels"] | (channels or {})}
        made, evaluation = Target.model_validate(table), of_set(**told)
        files = planned(evaluation, made, "tulle").files
        seen, written = plan.Planned(evaluation, made, files), {f.role: f.name for f in files if f.is_written}
        of_plan = {f.id for check in plan.CHECKS for f in check(seen)}
        return of_plan | {f.id for check in target.CHECKS for f in check(target.Tabled(made, written))}

    return found


def facts(**changed) -> Callable[[Recipe], Recipe]:
    return lambda made: made.model_copy(update={"facts": made.facts.model_copy(update=changed)})


def without(*keys: str) -> Callable[[Recipe], Recipe]:
    return lambda made: made.model_copy(update={"masters": {k: r for k, r in made.masters.items() if k not in keys}})


def by_an_older_way(number: int) -> Callable[[Recipe], Recipe]:
    def change(made: Recipe) -> Recipe:
        (name,) = [n for n, source in made.sources.items() if "normal" in source.reads.values()]
        inputs = {slot: f"source:{name}:normal" for slot in ("own", "other")}
        node = Node(op="mixed_normals", algorithm=number, inputs=inputs)
        whole = made.model_dump(by_alias=True) | {"nodes": {"m": node}, "masters": {"normal": "node:m"}}
        return Recipe.model_validate(whole)

    return change


def dense(width: int, other: int) -> Found:
    """Two sets of tiles one meter wide."""
    one, two = (Recipe(facts=Facts(width=w, height=w, tile_size=1)) for w in (width, other))
    return lambda: {found.id for found in [density_finding(one, [two])] if found is not None}


def smooth_steps(made: Recipe) -> Recipe:
    return mended(made, "stepped-height")


def picked(*values: float) -> Callable[[Recipe], Recipe]:
    def change(made: Recipe) -> Recipe:
        made = with_origin(made, "metallic", "op:metallic_by_picks")
        name, node = made.node_of("metallic")
        picks = [{"x": 0.5, "y": 0.5, "value": value} for value in values]
        return made.model_copy(update={"nodes": {**made.nodes, name: node.model_copy(update={"params": {"picks": picks}})}})

    return change


def _read_as(made: Recipe, now: str, then: str) -> Recipe:
    """The recipe whose file of ``now`` is read as ``then``."""
    whole = made.model_dump(by_alias=True)
    for source in whole["sources"].values():
        source["reads"] = {letters: then if key == now else key for letters, key in source["reads"].items()}
    whole["masters"] = {key: ref.replace(f":{now}", f":{then}") for key, ref in whole["masters"].items()}
    return Recipe.model_validate(whole)


def _ending(made: Recipe) -> Recipe:
    return facts(edges=made.facts.edges.model_copy(update={"x": "mirror"}))(made)


def left(relation: files.Relation) -> Found:
    return lambda: {files.left_to(relation, "a.png", "b.png", ["height"]).id}


def shaded(made: Recipe) -> Recipe:
    return with_origin(made, "base_color", "op:color_with_occlusion")


def in_folder(name: str, content: bytes) -> Found:
    def found() -> set[str]:
        with tempfile.TemporaryDirectory() as folder:
            (Path(folder) / name).write_bytes(content)
            return {f.id for one in gather([Path(folder) / name]) for f in one.looked.findings}

    return found


def metallic_set(**told) -> dict:
    return {"basecolor": COLOR, "roughness": GRAY, "metallic": HILLS, "ao": SPECKS, **told}


NO_Z = {"B": {"constant": 1}}
TWICE = {"A": {"quantity": "gloss", "invert": True}}
INSIDE = np.where(MASK[..., None] > 0, UP, UP * [1, 1, -1] + [0, 0, 1])
TWO = {"basecolor": COLOR, "height": HILLS, "normal": UP}
SQUARE = {"basecolor": COLOR, "roughness": GRAY}
CASES: dict[str, tuple[Found, Found]] = {
    # files
    "unreadable": (file("a_height.png", b"no picture"), file("a_height.png", GRAY)),
    "not-a-picture": (in_folder("a.txt", b"text"), in_folder("a_height.png", bytes_of(GRAY))),
    "name-changed": (file("con.png", COLOR), file("silk.png", COLOR)),
    "named-otherwise": (file("a_mask.png", COLOR), file("a_mask.png", GRAY)),
    "unknown-kind": (file("a.png", GRAY), file("a_height.png", GRAY)),
    "surroundings": (file("studio.exr", np.tile(COLOR, (1, 2, 1)) * 4), file("studio.exr", COLOR * 4)),
    "object-space": (file("a_normal.png", BALL), file("a_normal.png", UP)),
    "no-channel-table": (
        file("a_packed.png", np.dstack([GRAY, HILLS, SPECKS])),
        file("a_orm.png", np.dstack([GRAY, HILLS, SPECKS])),
    ),
    "green-unsure": (file("a_normal.png", RIDGES), file("a_normal.png", FLAT)),
    "green-contradicts": (file("a_normal_dx.png", UP), file("a_normal_dx.png", DOWN)),
    "axes-swapped": (file("a_normal.png", np.ascontiguousarray(UP[..., [1, 0, 2]])), file("a_normal.png", UP)),
    "lossy-normal": (file("a_normal.jpg", as_jpeg(UP)), file("a_normal.png", UP)),
    "too-small": (file("a_height.png", GRAY[:4, :4]), file("a_height.png", GRAY)),
    "alpha-unclear": (file("a_basecolor.png", np.dstack([COLOR, SPECKS])), file("a_basecolor.png", COLOR)),
    "normal-alpha-open": (file("a_normal.png", np.dstack([UP, MASK])), file("a_normal.png", np.dstack([UP, HILLS]))),
    "same-channels": (file("a_orm.png", np.dstack([GRAY] * 3)), file("a_orm.png", np.dstack([GRAY, HILLS, SPECKS]))),
    "gray-as-color": (file("a_height.png", np.dstack([GRAY] * 3)), file("a_height.png", GRAY)),
    "same-in-two-channels": (
        file("a_orm.png", np.dstack([GRAY, GRAY, SPECKS])),
        file("a_orm.png", np.dstack([GRAY, HILLS, SPECKS])),
    ),
    "gray-of-color": (file("a_height.png", COLOR), file("a_height.png", GRAY)),
    "channel-empty": (
        file("a_orm.png", np.dstack([0 * GRAY, HILLS, SPECKS])),
        file("a_orm.png", np.dstack([GRAY, HILLS, SPECKS])),
    ),
    "profile-on-data": (file("a_normal.png", with_profile(UP, SRGB)), file("a_basecolor.png", with_profile(COLOR, SRGB))),
    "beyond-range": (
        file("a_roughness.exr", encode((HILLS * 1.5).astype(np.float32), "exr")),
        file("a_roughness.exr", encode(HILLS.astype(np.float32), "exr")),
    ),
    "other-primaries": (
        file("a_basecolor.exr", encode((COLOR / 255).astype(np.float32), "exr", color="acescg")),
        file("a_basecolor.exr", encode((COLOR / 255).astype(np.float32), "exr", color="linear")),
    ),
    "profile-not-applied": (
        file("a_basecolor.png", with_profile(COLOR, LAB)),
        file("a_basecolor.png", with_profile(COLOR, SRGB)),
    ),
    "broken-values": (
        file("a_height.exr", encode(np.where(HILLS > 0.6, np.nan, HILLS).astype(np.float32), "exr")),
        file("a_height.exr", encode(HILLS, "exr")),
    ),
    # files beside each other
    "copy-left-out": (intake(roughness=GRAY, rough=GRAY), intake(roughness=GRAY)),
    "worse-left-out": (left("worse"), left("copy")),
    "rival-maps": (intake(roughness=GRAY, rough=HILLS), intake(roughness=GRAY)),
    "preview-left-out": (
        intake(basecolor=COLOR, roughness=GRAY, height=HILLS, preview=COLOR * 0.8),
        intake(basecolor=COLOR, roughness=GRAY, height=HILLS),
    ),
    "nothing-usable": (intake(what=SPECKS), intake(roughness=GRAY)),
    # a set
    "no-base-color": (on_set(height=HILLS), on_set(**SQUARE)),
    "no-origin": (on_set(photo=COLOR), on_set(photo=COLOR, change=facts(origin="made for a test"))),
    "gray-specular": (on_set(basecolor=COLOR, specular=GRAY), on_set(diffuse=COLOR, specular=GRAY)),
    "shine-contradicts": (
        on_set(basecolor=COLOR, gloss=GRAY, change=lambda made: _read_as(made, "gloss", "roughness")),
        on_set(basecolor=COLOR, gloss=GRAY),
    ),
    "rise-assumed": (
        on_set(basecolor=COLOR, height=HILLS),
        on_set(basecolor=COLOR, height=HILLS, change=facts(rise_from="told")),
    ),
    "rise-measurable": (on_set(**TWO), on_set(**TWO, change=facts(rise_from="measured"))),
    "rise-asked": (on_set(**{**TWO, "normal": normal_from_height(SPECKS, 0.05) * 0.5 + 0.5}), on_set(**TWO)),
    "size-differs": (on_set(basecolor=COLOR, roughness=GRAY[::2, ::2]), on_set(**SQUARE)),
    "tile-missing": (tiled(1001), tiled(1001, 1002)),
    "aspect-differs": (on_set(basecolor=COLOR, roughness=GRAY[:40]), on_set(**SQUARE)),
    "picks-contradict": (on_set(basecolor=COLOR, change=picked(1, 0)), on_set(basecolor=COLOR, change=picked(1, 1))),
    "light-lines": (on_set(photo=LINES), on_set(photo=1 - LINES)),
    "lit-from-a-side": (on_set(photo=FLANKS), on_set(photo=np.dstack([DOMES] * 3))),
    "plain-ground": (on_set(photo=LEAF), on_set(photo=COLOR)),
    "relief-or-color": (on_set(photo=VEINS, change=grooved), on_set(photo=VEINS)),
    "uneven-light": (on_set(photo=RAMP), on_set(photo=COLOR)),
    "darker-part": (on_set(photo=SHADED), on_set(photo=RAMP)),
    "light-evened": (on_set(photo=RAMP, change=looked_at), on_set(photo=RAMP)),
    "roughness-guessed": (on_set(photo=COLOR), on_set(photo=COLOR, change=lambda made: mended(made, "roughness-guessed"))),
    "nearly-plain": (on_set(photo=COLOR * 0.02 + 0.5), on_set(photo=LINES)),
    "noisy-photo": (on_set(photo=GRAINY, change=calmed), on_set(photo=np.dstack([HILLS] * 3) * 0.8, change=calmed)),
    "opacity-around": (cut(LEAF, "opacity_by_range"), cut(COLOR, "opacity_by_range")),
    "opacity-between": (cut(NET, "opacity_from_color"), cut(COLOR, "opacity_from_color")),
    "opacity-assumed": (cut(COLOR, "opacity_by_range"), cut(LEAF, "opacity_by_range")),
    "clipped": (on_set(photo=np.where(MASK[..., None] > 0, 1.0, COLOR)), on_set(photo=COLOR)),
    "framed": (on_set(photo=FRAMED), on_set(photo=COLOR)),
    "watermarked": (on_set(photo=SAND + LETTERS), on_set(photo=SAND)),
    "older-way": (on_set(normal=UP, change=by_an_older_way(1)), on_set(normal=UP, change=by_an_older_way(2))),
    "specular-missing": (on_set(diffuse=COLOR), on_set(diffuse=COLOR, specular=COLOR * 0.2)),
    "half-metal": (on_set(diffuse=COLOR, specular=GLINTS), on_set(diffuse=COLOR, specular=COLOR * 0 + 0.22)),
    "specular-as-level": (
        on_set(diffuse=COLOR, specular=GLINTS, change=with_specular_level),
        on_set(diffuse=COLOR, specular=COLOR * 0 + 0.22, change=with_specular_level),
    ),
    "stepped-height": (on_set(**SQUARE, height=SLOPE), on_set(**SQUARE, height=SLOPE, change=smooth_steps)),
    "density-differs": (dense(1024, 512), dense(1024, 1024)),
    "uneven-pixels": (on_set(**SQUARE, change=facts(width=48, sampling="nearest")), on_set(**SQUARE, change=facts(width=48))),
    "read-as": (file("tulle.avif", AVIF), file("tulle.png", COLOR)),
    "has-layers": (file("tulle.tif", PAGES), file("tulle.png", COLOR)),
    "source-unused": (on_set(**SQUARE, change=without("roughness")), on_set(**SQUARE)),
    "workflow-undetermined": (
        on_maps(diffuse=COLOR * 0.25, specular=COLOR * 0.3),
        on_maps(diffuse=COLOR, specular=COLOR * 0 + 0.22),
    ),
    # a plan
    "master-missing": (
        on_plan(channels={"R": {"quantity": "base_color", "component": "r", "fill": "stop"}}, height=HILLS),
        on_plan(**SQUARE),
    ),
    "written-flat": (
        on_plan("gltf", "normal", changed={"required": "it must be there"}, roughness=GRAY),
        on_plan("gltf", "normal", changed={"required": "it must be there"}, **SQUARE),
    ),
    "does-not-repeat": (
        on_plan("small-tiles", **SQUARE, change=_ending),
        on_plan("small-tiles", **SQUARE),
    ),
    "name-clash": (on_plan(changed={"name": [{"part": "set"}, "_ORM"]}, **metallic_set()), on_plan(**metallic_set())),
    "name-refused": (on_plan(changed={"name": ["con"]}, **SQUARE), on_plan(**SQUARE)),
    "channels-alike": (on_plan(**metallic_set(metallic=GRAY)), on_plan(**metallic_set())),
    "sign-lost": (
        on_plan(role="normal", channels=NO_Z, **SQUARE, normal=INSIDE),
        on_plan(role="normal", channels=NO_Z, **SQUARE, normal=UP),
    ),
    "occlusion-twice": (on_plan(**metallic_set(), change=shaded), on_plan(**metallic_set())),
    "bands-in-8-bit": (on_plan(**SQUARE, normal=UP, deep=True), on_plan(**SQUARE, normal=UP)),
    "unused-master": (on_plan("engine-orm-down", **SQUARE, curvature=GRAY), on_plan("engine-orm-down", **SQUARE)),
    # a target's table
    "turned-twice": (
        on_plan("engine-smooth-up", "metallic_alpha", channels=TWICE, **SQUARE),
        on_plan("engine-smooth-up", **SQUARE),
    ),
    "signed-as-color": (on_plan(role="normal", changed={"color": "srgb"}, **SQUARE, normal=UP), on_plan(**SQUARE, normal=UP)),
    "data-in-alpha": (on_plan("engine-smooth-up", **SQUARE), on_plan("gltf", **SQUARE)),
    # a picture in another format
    "reformat-cut": (in_format("png", GRAY * 3), in_format("exr", GRAY * 3)),
    "reformat-rounded": (in_format("tga", GRAY, deep=True), in_format("tiff", GRAY, deep=True)),
    "reformat-alpha": (in_format("jpeg", np.dstack([COLOR, MASK])), in_format("tga", np.dstack([COLOR, MASK]))),
    "reformat-lossy": (in_format("jpeg", GRAY), in_format("jpeg", COLOR)),
    "reformat-uneven": (in_format("png", GRAY[:63, :47], longest_px=32), in_format("png", GRAY[:60, :48], longest_px=32)),
}


@pytest.mark.parametrize("id", CASES)
def test_it_is_found_where_it_is_and_not_where_it_is_not(id):
    fires, silent = CASES[id]
    assert id in fires()
    assert id not in silent()


def test_every_finding_has_its_case():
    """Those on maps have theirs in tests/core/test_checks.py; the last row are other rooms' own."""
    from_elsewhere = {
        "repeated",
        "not-repeated",
        "varied",
        "not-varied",
        "our-fault",
        "source-changed",
        "source-added",
        "not-of-target",
    }
    on_meshes = set(MESH_SENTENCES)  # in test_mesh_findings
    of_baked = {id for id in FINDINGS if id.startswith("baked-")} | {"occlusions"}  # in test_baked_findings
    assert set(CASES) | set(ON_MAPS) | from_elsewhere | on_meshes | of_baked == set(FINDINGS)
    in_sets = {"source-changed", "source-added", "rise-measurable", "density-differs", "does-not-repeat", "plain-ground"}
    in_sets.add("lit-from-a-side")
    mended_elsewhere = {*MESH_FIXES, *in_sets}
    assert {id for id, row in FINDINGS.items() if row.fix} == {*FIXES} | mended_elsewhere

"""What is said of maps that were baked, and of the mesh that wears the set: when it is so, and only then."""

from collections.abc import Callable
from typing import Any

import pytest

from copper_sieve.core.checks.maps import assay_maps
from copper_sieve.core.checks.recipe import CHECKS
from copper_sieve.core.convert.green import WhichGreen
from copper_sieve.core.findings import FINDINGS
from copper_sieve.core.prepare.moves import Turn
from copper_sieve.core.recipe import BakedFrom, MeshRef, Recipe, Worn, account_of, changes, source_ref, with_origin, with_step
from work.test_every_finding import DOWN, GRAY, UP, of_set, on_set

LOW = MeshRef(sha256="0" * 64, name="pin_low.obj", print="1" * 64, triangles=12)
HIGH = MeshRef(sha256="0" * 64, name="pin_high.obj", print="2" * 64, triangles=900)
Change = Callable[[Recipe], Recipe]


def worn(key: str = "normal", told: dict[str, Any] | None = None, **mesh: Any) -> Change:
    """The recipe worn by a pin, and the map baked from it as ``told``."""

    def change(made: Recipe) -> Recipe:
        baked = BakedFrom.model_validate({"map": key, "low": LOW.print, "high": (HIGH.print,)} | (told or {}))
        name = made.masters[key].name
        sources = {**made.sources, name: made.sources[name].model_copy(update={"baked": baked})}
        return made.model_copy(update={"sources": sources, "worn": Worn(low=LOW, high=(HIGH,), **mesh)})

    return change


def in_tiles(change: Change) -> Change:
    def changed(made: Recipe) -> Recipe:
        made = change(made)
        return made.model_copy(update={"sources": {k: s.model_copy(update={"tile": 1001}) for k, s in made.sources.items()}})

    return changed


def with_second_occlusion(is_mixed: bool) -> Change:
    """Beside the given occlusion a baked one."""

    def change(made: Recipe) -> Recipe:
        first = made.sources[made.masters["occlusion"].name]
        baked = first.model_copy(update={"name": "pin_occlusion.png", "baked": BakedFrom(map="occlusion", low=LOW.print)})
        made = made.model_copy(update={"sources": {**made.sources, "mesh_occlusion": baked}})
        return with_origin(made, "occlusion", f"mix:{source_ref('mesh_occlusion', 'occlusion')}") if is_mixed else made

    return change


class Untiled:
    """The meshes of a set, as far as what is found asks for them: a picture is repeated over this one."""

    def tiles(self, worn: Worn) -> tuple[int, ...]:
        return ()


CASES = {
    "baked-stale": (worn(told={"low": "3" * 64}), worn()),
    "baked-missed": (worn(told={"missed": 0.01}), worn(told={"missed": 0.0})),
    "baked-moved": (lambda made: with_step(worn()(made), Turn(quarters=1)), worn()),
    "baked-in-tiles": (in_tiles(worn()), in_tiles(lambda made: made)),
    "occlusions": (with_second_occlusion(False), with_second_occlusion(True)),
}


@pytest.mark.parametrize("id", CASES)
def test_it_is_found_where_it_is_and_not_where_it_is_not(id):
    maps = {"normal": UP, "occlusion": GRAY}
    fires, silent = (on_set(**maps, change=change, meshes=Untiled())() for change in CASES[id])
    assert id in fires and id not in silent


def test_slopes_of_a_baked_normal_are_told_over_the_meshs_and_need_not_close():
    def read_as_up(made: Recipe) -> Recipe:
        sources = {name: source.model_copy(update={"green": "up"}) for name, source in made.sources.items()}
        return made.model_copy(update={"sources": sources})

    brought, baked = (of_set(normal=DOWN, change=change) for change in (read_as_up, lambda made: worn()(read_as_up(made))))
    assert ["green-misread"] == [one.finding.id for one in assay_maps(brought)] and not assay_maps(baked)


@pytest.mark.parametrize(("by", "is_told"), [(1.3, False), (1.7, True)])
def test_a_brought_normal_of_a_mesh_is_asked_about_only_where_it_tells_clearly(monkeypatch, by, is_told):
    down = WhichGreen("down", 0.6, 2 * by / (1 + by), 2 / (1 + by), "")
    monkeypatch.setattr("copper_sieve.core.checks.maps.which_green", lambda normal: down)
    seen = of_set(normal=UP, change=lambda made: made.model_copy(update={"worn": Worn(low=LOW)}))
    assert ("green-misread" in {one.finding.id for one in assay_maps(seen)}) == is_told
    assert "green-misread" in {one.finding.id for one in assay_maps(of_set(normal=UP))}  # no mesh: its slopes must close


def test_rays_that_miss_alike_are_told_once():
    def change(made: Recipe) -> Recipe:
        return worn("occlusion", {"missed": 0.0112})(worn(told={"missed": 0.0112})(made))

    seen = of_set(normal=UP, occlusion=GRAY, change=change)
    (told,) = [f for check in CHECKS for f in check(seen) if f.id == "baked-missed"]
    assert told.text.startswith("Normal, Ambient occlusion: 1.12% of the rays")


def test_every_finding_on_baked_maps_has_its_case():
    assert {id for id in FINDINGS if id.startswith("baked-")} | {"occlusions"} == set(CASES)


@pytest.mark.parametrize(
    ("told", "mesh", "why"),
    [
        ({"high": ("4" * 64,)}, {}, "the high mesh is another one"),
        ({"cage": "5" * 64}, {}, "the cage is gone"),
        ({}, {"cage": LOW}, "a cage was added"),
        ({"offset": 1.2}, {"offset": 2.0}, "the offset is 2 % now, and was 1.2 %"),
        ({"material": 1}, {}, "the low mesh is another one"),
        ({"map": "position", "high": ("4" * 64,)}, {}, ""),
    ],
)
def test_it_says_what_has_changed_since(told, mesh, why):
    made = worn(told=told, **mesh)(of_set(normal=UP).recipe)
    assert made.worn is not None
    assert ", ".join(made.sources[made.masters["normal"].name].baked.stale(made.worn)) == why
    assert ("out of date" in account_of(made, "normal")[0]) == bool(why)


def test_history_says_what_was_done_with_a_mesh():
    bare = of_set(normal=UP).recipe
    first = bare.model_copy(update={"worn": Worn(low=LOW)})
    then = bare.model_copy(update={"worn": Worn(low=LOW, high=(HIGH,), cage=LOW, offset=2, is_padded=False)})
    assert changes(bare, first) == "worn by pin_low.obj"
    said = changes(first, then)
    assert all(one in said for one in ("baked from pin_high.obj", "cage pin_low.obj", "offset 2 %", "do not go on beyond"))
    assert changes(then, bare) == "worn by no mesh"

"""How sets are made, apart from their files: read, used for other sets, and saved under names."""

from __future__ import annotations

from typing import Annotated
from uuid import UUID

from fastapi import APIRouter, Path

from ...core.errors import RecipeInvalid
from ...core.recipe import Recipe, Settings, fit_of, settings_of, with_settings
from ...store import sets
from ...store.saved_settings import forget_saved, keep_saved, list_saved
from ..answers import changed_set
from ..models.sets import FittingSettings, SavedSettings, SettingsRequest, TextureSet
from ..state import State

__all__ = ["router"]

router = APIRouter()


@router.get("/sets/{set_id}/settings")
def settings(state: State, set_id: UUID) -> Settings:
    """How this set is made, to save as a file or to use for another set."""
    with state.pool.connection() as conn:
        return settings_of(sets.get_set(conn, set_id).recipe)


@router.post("/sets/{set_id}/settings")
def use_settings(state: State, set_id: UUID, request: SettingsRequest) -> TextureSet:
    """Make this set as another was made, as one step of its history; given maps stay."""
    return changed_set(state, set_id, request.expects, lambda recipe: with_settings(recipe, request.settings)[0])


@router.get("/sets/{set_id}/settings/fitting")
def fitting(state: State, set_id: UUID) -> list[FittingSettings]:
    """Saved settings that would change this set and lack nothing here, the one that was saved last first."""
    with state.pool.connection() as conn:
        recipe, saved = sets.get_set(conn, set_id).recipe, list_saved(conn)
    found = ((name, _changes(recipe, one)) for name, one in saved.items())
    return [FittingSettings(name=name, settings=saved[name], changes=masters) for name, masters in found if masters]


def _changes(recipe: Recipe, wanted: Settings) -> list[str]:
    """The masters that would change; none where something is lacking, or a parameter is not allowed any more."""
    try:
        fit = fit_of(recipe, wanted)
    except RecipeInvalid:
        return []
    return [] if fit.lacking else fit.changes


@router.get("/settings")
def every_saved(state: State) -> list[SavedSettings]:
    """Settings that were saved, the one that was saved last first."""
    with state.pool.connection() as conn:
        return [SavedSettings(name=name, settings=one) for name, one in list_saved(conn).items()]


@router.put("/settings/{name}", status_code=204)
def save(state: State, name: Annotated[str, Path(min_length=1, max_length=80)], wanted: Settings) -> None:
    """Save settings under a name, in place of what had it."""
    with state.pool.connection() as conn:
        keep_saved(conn, name, wanted)


@router.delete("/settings/{name}", status_code=204)
def forget(state: State, name: str) -> None:
    """Forget saved settings; sets that were made by them stay as they are."""
    with state.pool.connection() as conn:
        forget_saved(conn, name)

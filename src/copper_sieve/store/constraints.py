"""What the database refuses, in a person's words: by the rule that was broken, or by what is wrong with the database."""

from __future__ import annotations

from types import MappingProxyType

import psycopg

__all__ = ["FULL", "RULES", "DatabaseError", "refusal"]

DatabaseError = psycopg.Error
_NEWER = "Look at the newer state, then change it again."
# Code and sentence by the name of the constraint; every named rule of the schema that a person can run into is here.
RULES = MappingProxyType(
    {
        "set_name_unique": ("name-taken", "There is a set of that name in this project already. Give this one another name."),
        "set_name_length": ("invalid-request", "A set's name has 1 to 120 bytes. Give it another one."),
        "set_head_is_own": ("head-moved", f"That version belongs to another set. {_NEWER}"),
        "version_parent_is_own": ("head-moved", f"That step follows a version of another set. {_NEWER}"),
        "version_name_length": ("invalid-request", "A version's name has 1 to 80 letters."),
        "project_name_unique": ("name-taken", "There is a project of that name already. Give this one another name."),
        "project_title_unique": ("name-taken", "There is a project of that title already. Give this one another."),
        "own_target_pkey": ("name-taken", "A target of that title was kept at the same moment. Try again."),
    }
)
FULL = "The disk is full. Nothing was lost, and nothing was kept half: make room, then try again."
_GONE = "The database does not answer; it is started again by itself. Nothing was lost: try again in a moment."
_MEANWHILE = ("name-taken", "That was kept at the same moment from elsewhere. Look at the newer state.")


def refusal(problem: psycopg.Error) -> tuple[str, str] | None:
    """Code and sentence of an error of the database that is no fault of ours, or None."""
    rule = RULES.get(problem.diag.constraint_name or "")
    if isinstance(problem, psycopg.errors.IntegrityError) and rule is not None:
        return rule
    if isinstance(problem, psycopg.errors.UniqueViolation):
        return _MEANWHILE
    if isinstance(problem, psycopg.errors.DeadlockDetected | psycopg.errors.SerializationFailure):
        return "head-moved", "That was changed from elsewhere at the same moment. Try again."
    if isinstance(problem, psycopg.errors.IntegrityError | psycopg.errors.DataError):
        said = " ".join(str(problem).splitlines()[:1])
        return "invalid-request", f"The database refuses a value: {said}."
    if isinstance(problem, psycopg.errors.DiskFull | psycopg.errors.InsufficientResources):
        return "disk-full", FULL
    if isinstance(problem, psycopg.OperationalError | psycopg.InterfaceError):
        return "database-gone", _GONE
    return None

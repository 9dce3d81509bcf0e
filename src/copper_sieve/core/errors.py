"""One class per case. Each carries a stable ``code``, a sentence, and the facts as attributes."""

from __future__ import annotations

from typing import Any

__all__ = [
    "Cancelled",
    "FileTooLarge",
    "MeshInvalid",
    "NotAnImage",
    "RecipeInvalid",
    "ShapeMismatch",
    "SieveError",
    "TargetInvalid",
    "UnknownKey",
    "UnsupportedImage",
]


class SieveError(Exception):
    """Base of every error a person can cause; its text names the rule, what was read and the way out."""

    code = "error"

    def __init__(self, message: str, **facts: Any) -> None:
        super().__init__(message)
        self.message = message
        self.facts = facts


class NotAnImage(SieveError):
    """The bytes are no picture of a kind we read, or end before the picture does."""

    code = "not-an-image"


class UnsupportedImage(SieveError):
    """A picture, but of a form that would be misread: many frames, CMYK, and so on."""

    code = "unsupported-image"


class FileTooLarge(SieveError):
    """The header promises more pixels, or the upload more bytes, than the stated limit."""

    code = "file-too-large"


class MeshInvalid(SieveError):
    """The bytes are no mesh of a kind we read, or what they hold is no surface."""

    code = "mesh-invalid"


class ShapeMismatch(SieveError):
    """Two arrays or maps that must agree in size do not."""

    code = "shape-mismatch"


class RecipeInvalid(SieveError):
    """A recipe names something that is not there, or runs in a circle."""

    code = "recipe-invalid"


class TargetInvalid(SieveError):
    """A target's table breaks a rule of the target model."""

    code = "target-invalid"


class UnknownKey(SieveError):
    """A key that is not in the list of known ones."""

    code = "unknown-key"

    def __init__(self, what: str, key: str, known: list[str]) -> None:
        super().__init__(f"{what} must be one of {', '.join(known)} (got {key!r}).", key=key, known=known)


class Cancelled(Exception):
    """Somebody asked for the work to stop. Not an error: nothing is wrong with the input."""


class NameTaken(SieveError):
    """Something else is called so already."""

    code = "name-taken"

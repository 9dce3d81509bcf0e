"""Errors as RFC 9457 problem documents. The only place that knows HTTP status codes."""

from __future__ import annotations

import errno
import logging
from types import MappingProxyType

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from ..core.errors import SieveError
from ..store.constraints import FULL, DatabaseError, refusal

__all__ = ["ProblemDocument", "install_problems", "problem_response", "unexpected"]

_log = logging.getLogger("copper_sieve.api")
_STATUS = MappingProxyType(
    {
        "unknown-key": 404,
        "head-moved": 409,
        "name-taken": 409,
        "files-changed": 409,
        "file-too-large": 413,
        "not-an-image": 422,
        "unsupported-image": 422,
        "disk-full": 507,
        "database-gone": 503,
    }
)
_OTHERWISE = 422
_OWN = "Value error, "  # what the validator puts before a sentence of ours


class ProblemDocument(BaseModel):
    """What every error answers."""

    type: str = "about:blank"
    title: str
    status: int
    detail: str
    code: str
    errors: list[dict[str, str]] = []


def problem_response(status: int, code: str, detail: str, errors: list[dict[str, str]] | None = None) -> JSONResponse:
    """One problem document."""
    title = code.replace("-", " ").capitalize()
    document = ProblemDocument(title=title, status=status, detail=detail, code=code, errors=errors or [])
    return JSONResponse(document.model_dump(), status, media_type="application/problem+json")


def unexpected(problem: Exception) -> JSONResponse:
    """The answer to what nobody foresaw; the log keeps where it came from."""
    return problem_response(500, "our-fault", f"A fault of ours: {type(problem).__name__}: {problem}")


def _said(errors: list[dict[str, str]]) -> str:
    """What is wrong with a request: our own sentences, or where there are none the validator's with the places they speak of."""
    own = [error["message"].removeprefix(_OWN) for error in errors if error["message"].startswith(_OWN)]
    return " ".join(own) or "; ".join(f"{error['at']}: {error['message']}" for error in errors)


def install_problems(app: FastAPI) -> None:
    """Answer every error of ours, of the database, of validation and of routing in the same form."""

    @app.exception_handler(SieveError)
    def ours(request: Request, problem: SieveError) -> JSONResponse:
        _log.info("refused %s %s: %s", request.method, request.url.path, problem.message)
        return problem_response(_STATUS.get(problem.code, _OTHERWISE), problem.code, problem.message)

    @app.exception_handler(DatabaseError)
    def database(request: Request, problem: DatabaseError) -> JSONResponse:
        found = refusal(problem)
        if found is None:
            _log.error("failed %s %s", request.method, request.url.path, exc_info=problem)
            return unexpected(problem)
        _log.warning("refused %s %s: %s", request.method, request.url.path, problem)
        return problem_response(_STATUS.get(found[0], _OTHERWISE), *found)

    @app.exception_handler(OSError)
    def disk(request: Request, problem: OSError) -> JSONResponse:
        _log.error("failed %s %s", request.method, request.url.path, exc_info=problem)
        if problem.errno in (errno.ENOSPC, errno.EDQUOT):
            return problem_response(_STATUS["disk-full"], "disk-full", FULL)
        return unexpected(problem)

    @app.exception_handler(RequestValidationError)
    def invalid(request: Request, problem: RequestValidationError) -> JSONResponse:
        errors = [{"at": ".".join(map(str, e["loc"])), "message": e["msg"]} for e in problem.errors()]
        return problem_response(422, "invalid-request", _said(errors), errors)

    @app.exception_handler(HTTPException)
    def routing(request: Request, problem: HTTPException) -> JSONResponse:
        return problem_response(problem.status_code, "http-error", str(problem.detail))

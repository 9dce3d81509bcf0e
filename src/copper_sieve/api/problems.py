"""Errors as RFC 9457 problem documents. The only place that knows HTTP status codes."""

from __future__ import annotations

from types import MappingProxyType

from fastapi import FastAPI, Request
from fastapi.exceptions import RequestValidationError
from fastapi.responses import JSONResponse
from pydantic import BaseModel
from starlette.exceptions import HTTPException

from ..core.errors import SieveError

__all__ = ["ProblemDocument", "install_problems", "problem_response"]

_STATUS = MappingProxyType(
    {
        "unknown-key": 404,
        "head-moved": 409,
        "name-taken": 409,
        "file-too-large": 413,
        "not-an-image": 422,
        "unsupported-image": 422,
    }
)
_OTHERWISE = 422


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


def install_problems(app: FastAPI) -> None:
    """Answer every error of ours, of validation and of routing in the same form."""

    @app.exception_handler(SieveError)
    def ours(request: Request, problem: SieveError) -> JSONResponse:
        return problem_response(_STATUS.get(problem.code, _OTHERWISE), problem.code, problem.message)

    @app.exception_handler(RequestValidationError)
    def invalid(request: Request, problem: RequestValidationError) -> JSONResponse:
        errors = [{"at": ".".join(map(str, e["loc"])), "message": e["msg"]} for e in problem.errors()]
        detail = "; ".join(f"{e['at']}: {e['message']}" for e in errors)
        return problem_response(422, "invalid-request", detail, errors)

    @app.exception_handler(HTTPException)
    def routing(request: Request, problem: HTTPException) -> JSONResponse:
        return problem_response(problem.status_code, "http-error", str(problem.detail))

    @app.exception_handler(Exception)
    def unexpected(request: Request, problem: Exception) -> JSONResponse:
        return problem_response(500, "our-fault", f"A fault of ours: {type(problem).__name__}: {problem}")

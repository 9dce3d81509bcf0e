"""What stands before the routes: whose pages may ask, which bodies are taken, and what every answer says to the browser."""

from __future__ import annotations

import json
import logging
import re
import secrets
from collections.abc import Iterable
from typing import Any
from urllib.parse import unquote_plus

from starlette.concurrency import run_in_threadpool
from starlette.datastructures import Headers, MutableHeaders
from starlette.types import ASGIApp, Message, Receive, Scope, Send

from .problems import problem_response, unexpected

__all__ = ["Guard"]

_log = logging.getLogger("copper_sieve.api")
HOSTS = frozenset({"127.0.0.1", "localhost", "[::1]"})
JSON, RAW = "application/json", "application/octet-stream"
MAX_JSON_BYTES = 2 << 20
_OFF_THE_LOOP_BYTES = 64 << 10  # larger bodies are parsed on a thread
_CHANGING = frozenset({"POST", "PUT", "PATCH", "DELETE"})
_NUL_ESCAPE = re.compile(rb"(?<!\\)(?:\\\\)*\\u0000")
_PORT = re.compile(r":\d{1,5}$")
_POLICY = (
    "default-src 'none'; script-src 'self'; style-src 'self' 'nonce-{nonce}'; img-src 'self' blob: data:; font-src 'self';"
    " connect-src 'self'; worker-src 'self' blob:; base-uri 'none'; form-action 'none'; frame-ancestors 'none'"
)
_ALWAYS = {
    "x-content-type-options": "nosniff",
    "x-frame-options": "DENY",
    "referrer-policy": "no-referrer",
    "cross-origin-opener-policy": "same-origin",
    "cross-origin-resource-policy": "same-origin",
}


class _Refused(Exception):
    def __init__(self, status: int, code: str, detail: str) -> None:
        self.status, self.code, self.detail = status, code, detail


class Guard:
    """Refuses what no page of ours would send, before a route sees it.

    The request's state has ``nonce``, by which the page names the styles that its own scripts add.
    """

    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        nonce = secrets.token_urlsafe(16)
        scope.setdefault("state", {})["nonce"] = nonce

        async def say(message: Message) -> None:
            if message["type"] == "http.response.start":
                headers = MutableHeaders(scope=message)
                headers.update(_ALWAYS)
                headers["content-security-policy"] = _POLICY.format(nonce=nonce)
            await send(message)

        try:
            headers = Headers(scope=scope)
            _check_asker(scope, headers)
            _check_address(scope)
            given = await _checked_body(scope, headers, receive)
        except _Refused as no:
            await problem_response(no.status, no.code, no.detail)(scope, receive, say)
            return
        has_begun = False

        async def say_and_note(message: Message) -> None:
            nonlocal has_begun
            has_begun = True
            await say(message)

        try:
            await self._app(scope, given, say_and_note)
        except Exception as problem:
            _log.error("failed %s %s", scope["method"], scope["path"], exc_info=problem)
            if has_begun:
                raise
            await unexpected(problem)(scope, receive, say)


def _check_asker(scope: Scope, headers: Headers) -> None:
    """Only this host by its own names, and of other pages none."""
    host, origin = headers.get("host", ""), headers.get("origin")
    is_ours = _PORT.sub("", host) in HOSTS
    from_us = origin is None or origin == f"{scope['scheme']}://{host}"
    is_foreign_site = headers.get("sec-fetch-site") in ("cross-site", "same-site") and headers.get("sec-fetch-mode") != "navigate"
    if not is_ours or not from_us or is_foreign_site:
        raise _Refused(403, "foreign-origin", "Only pages of this application may ask. Open it by its own address.")


def _check_address(scope: Scope) -> None:
    if "\0" in scope["path"] or "\0" in unquote_plus(scope["query_string"].decode("latin-1")):
        raise _Refused(422, "invalid-request", "The address holds a NUL, which no name can. Take it out.")


async def _checked_body(scope: Scope, headers: Headers, receive: Receive) -> Receive:
    """``receive`` as it was, or one that hands over a JSON body that was read whole and found sound."""
    if scope["method"] not in _CHANGING or not _has_body(headers):
        return receive
    kind = headers.get("content-type", "").partition(";")[0].strip().lower()
    if kind == RAW:
        return receive
    if kind != JSON:
        raise _Refused(415, "unsupported-body", f"A body must be {JSON} or, for files, {RAW} (got {kind or 'none named'}).")
    body = await _whole(receive)
    check = _check_json
    await run_in_threadpool(check, body) if len(body) > _OFF_THE_LOOP_BYTES else check(body)
    return _replayed(body, receive)


def _has_body(headers: Headers) -> bool:
    return headers.get("content-length", "0") != "0" or "transfer-encoding" in headers


async def _whole(receive: Receive) -> bytes:
    body, more = bytearray(), True
    while more:
        message = await receive()
        if message["type"] == "http.disconnect":
            break
        if len(body) <= MAX_JSON_BYTES:  # the rest is heard and forgotten, or the refusal would not be heard
            body += message.get("body", b"")
        more = message.get("more_body", False)
    if len(body) > MAX_JSON_BYTES:
        raise _Refused(413, "body-too-large", f"A JSON body may have {MAX_JSON_BYTES >> 20} MB at most. Send less at a time.")
    return bytes(body)


def _replayed(body: bytes, receive: Receive) -> Receive:
    waiting: Iterable[Message] = iter([{"type": "http.request", "body": body, "more_body": False}])

    async def again() -> Message:
        return next(waiting, None) or await receive()  # type: ignore[call-overload]

    return again


def _check_json(body: bytes) -> None:
    """Numbers are numbers, text holds no NUL, and it is nested no deeper than anything of ours is."""
    if _NUL_ESCAPE.search(body):
        raise _Refused(422, "invalid-request", "A text in the request holds a NUL, which no name or title can. Take it out.")
    try:
        json.loads(body, parse_constant=_no_constant, parse_float=_finite)
    except RecursionError:
        raise _Refused(422, "invalid-request", "The request is nested too deeply to be read.") from None
    except UnicodeDecodeError:
        raise _Refused(422, "invalid-request", "The request is no UTF-8 text.") from None
    except json.JSONDecodeError as problem:
        raise _Refused(422, "invalid-request", f"The request is no valid JSON: {problem}.") from None


def _no_constant(name: str) -> Any:
    raise _Refused(422, "invalid-request", f"Every number must be finite (got {name}).")


def _finite(text: str) -> float:
    value = float(text)
    if value in (float("inf"), float("-inf")):
        raise _Refused(422, "invalid-request", f"Every number must be finite (got {text[:20]}).")
    return value

"""A body of bytes as it comes: in memory while it is small, else in a file that goes with the request."""

from __future__ import annotations

import tempfile
from collections.abc import AsyncGenerator
from contextlib import asynccontextmanager
from typing import IO, Any

from fastapi import Request

from ..core.errors import FileTooLarge
from ..files.archives import MAX_FILE_BYTES

__all__ = ["RAW_BODY", "received"]

RAW_BODY: dict[str, Any] = {"requestBody": {"content": {"application/octet-stream": {}}}}
_IN_MEMORY = 8 << 20


@asynccontextmanager
async def received(request: Request, name: str, most_bytes: int = MAX_FILE_BYTES) -> AsyncGenerator[IO[bytes], None]:
    """Yields the whole body, to be read from its start.

    Raises FileTooLarge once the rest was heard, and forgotten: who is cut off while sending hears nothing but that.
    """
    size = 0
    with tempfile.SpooledTemporaryFile(_IN_MEMORY) as content:
        async for chunk in request.stream():
            size += len(chunk)
            if size <= most_bytes:
                content.write(chunk)
        if size > most_bytes:
            most = f"{most_bytes >> 30} GB" if most_bytes >> 30 else f"{most_bytes >> 20} MB"
            raise FileTooLarge(f"{name} is over {most}, the most that is taken. Make it smaller, or bring it in parts.")
        content.seek(0)
        yield content  # type: ignore[misc]  # it has all that is asked of a binary file

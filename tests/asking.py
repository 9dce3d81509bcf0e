"""How tests speak to the application: as a page of its own does."""

import io
import time
import zipfile
from collections.abc import Callable
from typing import Any, TypeVar

from fastapi.testclient import TestClient

Found = TypeVar("Found")

PATIENCE_S = 60
RAW = {"content-type": "application/octet-stream"}


def asking(app) -> TestClient:
    """A client that uses one of the application's own names."""
    return TestClient(app, base_url="http://127.0.0.1")


def eventually(ask: Callable[[], Found], patience_s: float = PATIENCE_S) -> Found:
    """What is asked, once it is something true."""
    end = time.monotonic() + patience_s
    while not (found := ask()):
        assert time.monotonic() < end, "waited too long"
        time.sleep(0.02)  # between questions, which would keep a processor from what is waited for
    return found


def ended(client: Any, run: dict, at: str = "/api/deliveries") -> dict:
    """A delivery, or whatever else runs, once it is over."""

    def over() -> dict | None:
        found = client.get(f"{at}/{run['id']}").json()
        return None if found["state"] in ("waiting", "running") else found

    return eventually(over)


def zipped(files: dict[str, bytes]) -> bytes:
    """A zip of these files."""
    out = io.BytesIO()
    with zipfile.ZipFile(out, "w", zipfile.ZIP_DEFLATED) as archive:
        for name, content in files.items():
            archive.writestr(name, content)
    return out.getvalue()

"""How tests speak to the application: as a page of its own does."""

from fastapi.testclient import TestClient

RAW = {"content-type": "application/octet-stream"}


def asking(app) -> TestClient:
    """A client that uses one of the application's own names."""
    return TestClient(app, base_url="http://127.0.0.1")

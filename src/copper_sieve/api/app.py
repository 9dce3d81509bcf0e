"""Put the application together: routes, problems, the built screen, and what runs beside them."""

from __future__ import annotations

import logging
import sys
import threading
from collections.abc import AsyncGenerator, Mapping, Sequence
from contextlib import asynccontextmanager
from pathlib import Path
from types import MappingProxyType
from typing import Any

from fastapi import FastAPI, Request
from fastapi.responses import HTMLResponse, Response
from fastapi.staticfiles import StaticFiles

from .. import __version__
from ..core.recipe import Cache
from ..store.bakes import stop_interrupted_bakes
from ..store.database import open_pool
from ..store.deliveries import stop_interrupted
from ..store.originals import sweep_originals
from ..work.deliveries.destinations import Destinations
from ..work.deliveries.running import Deliverer, content_from
from ..work.folders import Folders
from ..work.following import Follower
from ..work.memory import cache_bytes
from ..work.meshes import Baker, KeptMeshes
from ..work.pictures import warm_up
from .guard import Guard
from .headers import FOREVER
from .problems import ProblemDocument, install_problems, problem_response
from .routes import (
    bakes,
    deliveries,
    environments,
    history,
    intake,
    linked,
    originals,
    preparing,
    profiles,
    projects,
    proofs,
    saving,
    sets,
    settings,
    targets,
    views,
)
from .routes import destinations as places
from .routes import meshes as bodies
from .state import AppState

__all__ = ["create_app"]

_log = logging.getLogger("copper_sieve.api")
_TURN_S = 0.001  # how long a thread that computes keeps the interpreter while the event loop waits for it
_SCREEN = Path(__file__).parents[3] / "web" / "dist"
_NONCE = "NONCE-OF-THE-ANSWER"  # as it stands in the built page


class _NamedByHash(StaticFiles):
    """The screen's scripts and styles, whose names change with what is in them."""

    def file_response(self, *args: Any, **kwargs: Any) -> Response:
        response = super().file_response(*args, **kwargs)
        response.headers.update(FOREVER)
        return response


def create_app(
    url: str, data: Path, *, folders: Sequence[Path] = (), into: Mapping[str, Path] = MappingProxyType({}), warm: bool = True
) -> FastAPI:
    """The application over the database at ``url``.

    Deliveries are written below ``data`` or below the folders ``into``, by name; sets may be linked to ``folders``.
    """

    @asynccontextmanager
    async def lifespan(app: FastAPI) -> AsyncGenerator[None, None]:
        destinations = Destinations(data / "deliveries", into)
        sys.setswitchinterval(_TURN_S)
        with open_pool(url) as pool:
            with pool.connection() as conn:
                interrupted = stop_interrupted(conn)
                stop_interrupted_bakes(conn)
                sweep_originals(conn)
            destinations.sweep(interrupted)
            cache = Cache(cache_bytes())
            meshes = KeptMeshes(content_from(pool), cache)
            deliverer = Deliverer(pool, destinations, cache, meshes)
            watched = Folders(folders)
            follower = Follower(pool, watched, deliverer)
            state = AppState(pool, data, cache, deliverer, watched, meshes, Baker(pool, meshes), follower)
            app.state.sieve = state
            if warm:
                threading.Thread(target=warm_up, name="warm-up", daemon=True).start()
            _log.info("serving, %d deliveries were interrupted", len(interrupted))
            yield
            state.follower.close()
            state.deliverer.close()
            state.baker.close()

    app = FastAPI(
        title="Copper Sieve",
        version=__version__,
        lifespan=lifespan,
        openapi_url="/api/openapi.json",
        docs_url=None,
        redoc_url=None,
        responses={"4XX": {"model": ProblemDocument, "description": "Problem"}},
    )
    install_problems(app)
    app.add_middleware(Guard)

    for module in (
        projects,
        sets,
        saving,
        intake,
        originals,
        profiles,
        linked,
        bodies,
        bakes,
        history,
        preparing,
        settings,
        views,
        targets,
        deliveries,
        places,
        environments,
        proofs,
    ):
        app.include_router(module.router, prefix="/api")
    if _SCREEN.is_dir():
        app.mount("/assets", _NamedByHash(directory=_SCREEN / "assets"), name="assets")

        page = (_SCREEN / "index.html").read_text("utf-8")

        @app.get("/{path:path}", include_in_schema=False)
        def screen(request: Request, path: str) -> Response:
            if path.startswith("api/"):
                return problem_response(404, "no-such-resource", f"There is nothing at /{path}.")
            return HTMLResponse(page.replace(_NONCE, request.state.nonce), headers={"cache-control": "no-store"})

    for route in app.routes:  # what the routes take and give is worked out when one is first asked: now, before anybody waits
        route.matches({"type": "http", "method": "GET", "path": "/api/nothing", "root_path": "", "headers": []})
    return app

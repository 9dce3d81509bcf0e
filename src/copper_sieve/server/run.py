"""Start everything in order, end everything in order."""

from __future__ import annotations

import fcntl
import logging
import os
import signal
import socket
import sys
from collections.abc import Generator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from types import MappingProxyType

from ..store.database import migrate, open_pool
from .postgres import running_postgres
from .problem import ServerProblem

__all__ = ["run_server"]


@contextmanager
def _only_one(data: Path, address: str) -> Generator[None, None, None]:
    """Hold the data folder; a second start learns who holds it."""
    data.mkdir(parents=True, exist_ok=True)
    with (data / "lock").open("a+") as lock:
        try:
            fcntl.flock(lock, fcntl.LOCK_EX | fcntl.LOCK_NB)
        except BlockingIOError:
            lock.seek(0)
            raise ServerProblem(f"these data are being served already at {lock.read().strip()}. Open that, or stop it.") from None
        lock.truncate(0)
        lock.write(f"{address} (process {os.getpid()})")
        lock.flush()
        yield


def _listen(port: int) -> socket.socket:
    listener = socket.socket()
    listener.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
    try:
        listener.bind(("127.0.0.1", port))
    except OSError as problem:
        raise ServerProblem(f"port {port} is taken by another program. Choose another with --port.") from problem
    return listener


def run_server(
    *,
    data: Path,
    port: int,
    demo: bool,
    prepare: bool,
    folders: Sequence[Path] = (),
    into: Mapping[str, Path] = MappingProxyType({}),
) -> None:
    """Serve until SIGINT or SIGTERM. Raises ServerProblem with what to do.

    Sets may be linked to ``folders``; targets may be delivered below the folders ``into``, by name.
    """
    data = data.resolve()
    missing = [str(folder) for folder in folders if not folder.is_dir()]
    if missing:
        raise ServerProblem(f"there is no folder {', '.join(missing)}. Make it, or leave out --folder.")
    unusable = [str(folder) for folder in into.values() if not folder.is_dir() or not os.access(folder, os.W_OK)]
    if unusable:
        raise ServerProblem(f"nothing can be written into {', '.join(unusable)}. Make that folder, or leave out --into.")
    address = f"http://127.0.0.1:{port}"
    try:
        with _only_one(data, address):
            listener = None if prepare else _listen(port)
            with running_postgres(data) as url:
                _prepare(url, demo)
                if listener is None:
                    print(f"Copper Sieve is set up in {data}.", flush=True)
                    return
                _serve(url, data, listener, address, folders, into)
    except PermissionError as problem:
        raise ServerProblem(f"{problem.filename} may not be written. Choose another folder with --data.") from problem


def _prepare(url: str, demo: bool) -> None:
    with open_pool(url) as pool:
        with pool.connection() as conn:
            migrate(conn)
        if demo:
            from ..demo import load_demo

            load_demo(pool)


def _serve(
    url: str, data: Path, listener: socket.socket, address: str, folders: Sequence[Path], into: Mapping[str, Path]
) -> None:
    import uvicorn

    from ..api.app import create_app

    logging.basicConfig(level=logging.INFO, format="%(asctime)s %(levelname)s %(name)s: %(message)s", stream=sys.stderr)
    own = data / "folders"  # what a person puts here can be linked without a word to the server
    own.mkdir(exist_ok=True)
    shelf = data / "shelf"
    shelf.mkdir(exist_ok=True)
    app = create_app(url, data, folders=[own, *folders], into={"shelf": shelf, **into})
    server = uvicorn.Server(uvicorn.Config(app, log_level="warning", timeout_graceful_shutdown=3, access_log=False))
    for number in (signal.SIGINT, signal.SIGTERM):
        signal.signal(number, lambda *_: setattr(server, "should_exit", True))
    server.install_signal_handlers = lambda: None  # type: ignore[attr-defined]
    print(f"Copper Sieve is at {address}  (Ctrl+C stops it)", flush=True)
    server.run(sockets=[listener])

"""The real server as a process: one per data folder, nothing left behind, data kept, a kill survived."""

import contextlib
import os
import signal
import socket
import subprocess
import sys
import tempfile
from pathlib import Path

import httpx
import numpy as np
import pytest

from asking import PATIENCE_S, RAW, eventually
from copper_sieve.files import encode, read

PICTURES = (".png", ".tga", ".jpg")


@pytest.fixture()
def data():
    with tempfile.TemporaryDirectory(dir="/tmp") as folder:
        Path(folder).chmod(0o755)  # the database's user must be able to enter it
        yield Path(folder)


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


def start(data: Path, port: int) -> subprocess.Popen:
    command = [sys.executable, "-m", "copper_sieve.cli", "serve", "--data", str(data), "--port", str(port), "--no-demo"]
    return subprocess.Popen(command, stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True)


def answered(process: subprocess.Popen, ask):
    """What the server answers, once it is something true; an error of the network counts as not yet."""

    def found():
        assert process.poll() is None, process.stderr.read()
        with contextlib.suppress(httpx.TransportError):
            return ask()

    return eventually(found)


@contextlib.contextmanager
def served(data: Path, port: int):
    process = start(data, port)
    try:
        with httpx.Client(base_url=f"http://127.0.0.1:{port}/api", timeout=PATIENCE_S) as client:
            answered(process, lambda: client.get("/health").is_success)
            yield client, process
    finally:
        if process.poll() is None:
            process.send_signal(signal.SIGTERM)
        process.communicate(timeout=PATIENCE_S)


def database_pid(data: Path) -> int:
    return int((data / "postgres" / "postmaster.pid").read_text().split()[0])


def lives(pid: int) -> bool:
    return Path(f"/proc/{pid}").exists() and "\nState:\tZ" not in Path(f"/proc/{pid}/status").read_text()


def a_set(client: httpx.Client, size: int) -> tuple[str, str]:
    """A project and a set made from a photo of ``size`` px."""
    project = client.post("/projects", json={"title": "Côté cour"}).json()["name"]
    content = encode(np.random.default_rng(1).integers(0, 255, (size, size, 3)).astype(np.uint8), "png")
    look = client.post("/originals", params={"name": "voile.png"}, content=content, headers=RAW).json()
    entry = {"sha256": look["sha256"], "name": look["name"], "kind": "photo"}
    made = client.post(f"/projects/{project}/sets", json={"name": "voile", "entries": [entry]})
    return project, made.json()["id"]


def whole_files(folder: Path) -> list[Path]:
    """What lies in a folder by its own name, not by one that it has while it is written."""
    return [
        path
        for path in folder.rglob("*")
        if path.is_file() and not any(part[0] == "." for part in path.relative_to(folder).parts)
    ]


def test_one_server_per_data_folder_and_port_and_the_data_stay(data):
    port = free_port()
    with served(data, port) as (client, process):
        project, set_id = a_set(client, 64)
        second, third = start(data, free_port()), start(data / "other", port)
        said = second.communicate(timeout=PATIENCE_S)[1]
        assert second.returncode == 1 and f"http://127.0.0.1:{port}" in said and said.count("\n") == 1
        said = third.communicate(timeout=PATIENCE_S)[1]
        assert third.returncode == 1 and f"port {port} is taken" in said and "--port" in said
        database = database_pid(data)
        assert lives(database)
    assert process.returncode == 0 and not lives(database)
    with served(data, free_port()) as (client, _):
        assert [s["id"] for s in client.get(f"/projects/{project}/sets").json()] == [set_id]


def test_a_killed_server_leaves_no_half_written_file(data):
    with served(data, free_port()) as (client, process):
        project, set_id = a_set(client, 1024)
        asked = {"sets": [set_id], "targets": ["engine-orm-down", "gltf"]}
        run = client.post(f"/projects/{project}/deliveries", json=asked).json()["id"]
        answered(process, lambda: client.get(f"/deliveries/{run}").json()["rows"])
        database = database_pid(data)
        os.kill(process.pid, signal.SIGKILL)
    eventually(lambda: not lives(database))
    for path in whole_files(data / "deliveries"):
        if path.suffix in PICTURES:
            assert read(path).width == 1024
        elif path.suffix == ".html":
            assert path.read_text().endswith("</html>\n")
    with served(data, free_port()) as (client, _):
        found = client.get(f"/deliveries/{run}").json()
        assert found["state"] == "failed" and "Deliver again" in found["problem"]
        assert not [p for p in (data / "deliveries").rglob("*") if p.is_file()]

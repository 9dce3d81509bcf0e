"""The server, a backend of its database and the whole database, killed at random moments of deliveries: is anything lost?

``python -m bench.kills`` kills 300 times; a test kills a few times by the same code. Everything runs on loopback, in a folder
of its own, and only processes that were started here are killed.
"""

from __future__ import annotations

import contextlib
import os
import random
import signal
import socket
import subprocess
import sys
import tempfile
import time
from collections import Counter
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import httpx
import numpy as np

from copper_sieve.files import encode

__all__ = ["VICTIMS", "Trial"]

PATIENCE_S = 60
VICTIMS = ("server", "backend", "postmaster")
_PX = 900
_RAW = {"content-type": "application/octet-stream"}


def free_port() -> int:
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        return probe.getsockname()[1]


@dataclass
class Trial:
    """One server on one folder, everything it acknowledged, and what was found missing."""

    data: Path
    rng: random.Random
    sets: dict[str, int] = field(default_factory=dict)  # head by id
    runs: list[str] = field(default_factory=list)
    outcomes: Counter[str] = field(default_factory=Counter)
    lost: list[str] = field(default_factory=list)

    def __post_init__(self) -> None:
        self.port = free_port()
        self.client = httpx.Client(base_url=f"http://127.0.0.1:{self.port}/api", timeout=10)
        self.log = (self.data / "server.log").open("ab")
        self._start()
        self.project = self._sure(lambda: self.client.post("/projects", json={"title": "Kills"}))["name"]

    def _start(self) -> None:
        command = [sys.executable, "-m", "copper_sieve.cli", "serve", "--data", str(self.data), "--port", str(self.port)]
        self.process = subprocess.Popen([*command, "--no-demo"], stdout=self.log, stderr=self.log)
        self._healthy()

    def _healthy(self) -> None:
        self._until(lambda: self.client.get("/health").is_success)

    def _until(self, condition):
        end = time.monotonic() + PATIENCE_S
        while time.monotonic() < end:
            with contextlib.suppress(httpx.TransportError):
                if found := condition():
                    return found
            time.sleep(0.02)  # between questions
        raise AssertionError(f"waited {PATIENCE_S} s in vain")

    def _sure(self, ask) -> Any:
        """Ask until there is an answer that is no 503."""
        return self._until(lambda: (answer := ask()).status_code < 500 and answer.json())

    def _pid(self) -> int:
        return int((self.data / "postgres" / "postmaster.pid").read_text().split()[0])

    def _backends(self) -> list[int]:
        """Processes of the database that serve connections."""
        children = Path(f"/proc/{self._pid()}/task/{self._pid()}/children").read_text().split()
        lines = {int(pid): Path(f"/proc/{pid}/cmdline").read_bytes() for pid in children}
        return [pid for pid, line in lines.items() if b" app " in line.replace(b"\0", b" ")]

    def kill(self, victim: str) -> None:
        """Begin a delivery of a new set, kill ``victim`` at some moment of it, and see what is left."""
        self._begin()
        time.sleep(self.rng.random() * 0.7)  # the random moment
        if victim == "server":
            self.process.kill()
            self.process.wait()
            self._until(self._is_database_gone)
            self._start()
        else:
            with contextlib.suppress(ProcessLookupError, FileNotFoundError, IndexError):
                pid = self._pid() if victim == "postmaster" else self.rng.choice(self._backends())
                os.kill(pid, signal.SIGKILL)
            self._healthy()
        self._hold()

    def _is_database_gone(self) -> bool:
        try:
            return not Path(f"/proc/{self._pid()}").exists()
        except (FileNotFoundError, IndexError):  # it takes its file along
            return True

    def _begin(self) -> None:
        codes = np.random.default_rng(self.rng.getrandbits(32)).integers(0, 255, (_PX, _PX, 3)).astype(np.uint8)
        name = f"cloth {len(self.sets)}"
        ask = {"params": {"name": f"{name}.png"}, "content": encode(codes, "png"), "headers": _RAW}
        look = self._sure(lambda: self.client.post("/originals", **ask))
        entry = {"sha256": look["sha256"], "name": look["name"], "kind": "photo"}
        made = self._sure(lambda: self.client.post(f"/projects/{self.project}/sets", json={"name": name, "entries": [entry]}))
        self.sets[made["id"]] = made["head"]
        asked = {"sets": [made["id"]], "targets": ["engine-orm-down"]}
        self.runs.append(self._sure(lambda: self.client.post(f"/projects/{self.project}/deliveries", json=asked))["id"])

    def _hold(self) -> None:
        """Everything that was acknowledged is there, and the last delivery is whole or leaves nothing."""
        there = {row["id"]: row["head"] for row in self._sure(lambda: self.client.get(f"/projects/{self.project}/sets"))}
        self.lost += [f"set {id}" for id, head in self.sets.items() if there.get(id) != head]
        path = f"/deliveries/{self.runs[-1]}"
        run = self._until(lambda: (now := self._sure(lambda: self.client.get(path)))["state"] in ("done", "failed") and now)
        self.outcomes[run["state"]] += 1
        folder = self.data / "deliveries" / run["folder"]
        if run["state"] == "done":
            packed = self.client.get(f"{path}/zip")  # which holds every file against what was written
            if packed.status_code != 200:
                self.lost.append(f"files of {run['id']}: {packed.text}")
        else:
            self.lost += [f"left behind: {p.name}" for p in folder.rglob("*") if p.is_file()]
            if not run["problem"]:
                self.lost.append(f"no reason for {run['id']}")

    def end(self) -> None:
        """Stop what was started."""
        self.process.send_signal(signal.SIGTERM)
        self.process.wait(timeout=PATIENCE_S)
        self.client.close()
        self.log.close()


def main(count: int) -> None:
    rng, began = random.Random(7), time.monotonic()
    with tempfile.TemporaryDirectory(dir="/tmp") as folder:
        Path(folder).chmod(0o755)  # the database's user must be able to enter it
        trial = Trial(Path(folder), rng)
        killed: Counter[str] = Counter()
        try:
            for number in range(count):
                victim = VICTIMS[number % len(VICTIMS)]
                trial.kill(victim)
                killed[victim] += 1
        finally:
            print((Path(folder) / "server.log").read_text()[-3000:] if trial.lost else "")
            trial.end()
        said = ", ".join(f"{victim} {number}" for victim, number in killed.items())
        print(f"{sum(killed.values())} kills in {time.monotonic() - began:.0f} s ({said}); deliveries: {dict(trial.outcomes)};")
        print(f"lost: {len(trial.lost)} {trial.lost[:10]}")
    sys.exit(bool(trial.lost))


if __name__ == "__main__":
    main(int(sys.argv[1]) if len(sys.argv) > 1 else 300)

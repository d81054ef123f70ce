"""A real server in a process of its own, and people signed in to it: for load, torture and benchmarks."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import time
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from threading import Thread

import httpx2 as httpx

from reedling.standins.field import DEMO_PASSWORD

COMMAND = str(Path(sys.executable).parent / "reedling")
ROOT = Path(__file__).parents[1]


LOOKED_AT_AGAIN_S = 0.2


class Memory:
    """The most memory that a process and those it began held at one time; what they share counts once.

    It is looked at five times a second: what is held for a shorter time may be missed.
    """

    def __init__(self, pid: int) -> None:
        self._pid = pid
        self.peak_kb = 0
        Thread(target=self._watch, daemon=True).start()

    def _watch(self) -> None:
        while Path(f"/proc/{self._pid}").exists():
            self.peak_kb = max(self.peak_kb, self._held_kb())
            time.sleep(LOOKED_AT_AGAIN_S)

    def _held_kb(self) -> int:
        held = 0
        try:
            tasks = Path(f"/proc/{self._pid}/task").iterdir()
            begun = {int(pid) for task in tasks for pid in (task / "children").read_text().split()}
            for pid in (self._pid, *begun):
                held += int(Path(f"/proc/{pid}/smaps_rollup").read_text().split("\nPss:")[1].split()[0])
        except (OSError, IndexError):
            # It is ending.
            return 0
        return held


class Server:
    """A server over a data folder, on a free port of the loopback address."""

    def __init__(self, folder: Path, *, demo: bool = True) -> None:
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = int(probe.getsockname()[1])
        self.folder = folder
        self.environment = {
            **os.environ,
            "REEDLING_DATA": str(folder),
            "REEDLING_PORT": str(self.port),
            "REEDLING_DEMO": "yes" if demo else "no",
            "REEDLING_WEB": str(ROOT / "web/dist"),
        }
        self.process: subprocess.Popen[bytes] | None = None
        self.memory: Memory | None = None
        self.parent: subprocess.Popen[str] | None = None
        self.child = 0
        self.log = folder.parent / f"{folder.name}-{self.port}.log"

    @property
    def address(self) -> str:
        """Where it is reached."""
        return f"http://127.0.0.1:{self.port}"

    def start(self) -> float:
        """Start and wait until it is ready; gives the seconds that took."""
        began = time.perf_counter()
        self.process = subprocess.Popen(
            [COMMAND, "serve"], env=self.environment, stdout=subprocess.DEVNULL, stderr=self.log.open("ab")
        )
        self.memory = Memory(self.process.pid)
        while time.perf_counter() - began < 120:
            try:
                if httpx.get(f"{self.address}/api/v1/health", timeout=2).status_code == 200:
                    return time.perf_counter() - began
            except httpx.HTTPError:
                time.sleep(0.02)
            if self.process.poll() is not None:
                break
        raise RuntimeError(f"the server did not start; see {self.log}")

    def start_child(self) -> float:
        """As :meth:`start`, in a child of a process that has imported everything already."""
        if self.parent is None:
            self.parent = subprocess.Popen(
                [sys.executable, "-m", "tests.fork_served"],
                env=self.environment,
                cwd=ROOT,
                text=True,
                stdin=subprocess.PIPE,
                stdout=subprocess.PIPE,
                stderr=self.log.open("ab"),
            )
        assert self.parent.stdin is not None
        assert self.parent.stdout is not None
        began = time.perf_counter()
        self.parent.stdin.write("go\n")
        self.parent.stdin.flush()
        while not (line := self.parent.stdout.readline().strip()).isdigit():
            pass
        self.child = int(line)
        while time.perf_counter() - began < 120:
            try:
                if httpx.get(f"{self.address}/api/v1/health", timeout=2).status_code == 200:
                    return time.perf_counter() - began
            except httpx.HTTPError:
                time.sleep(0.005)
        raise RuntimeError(f"the server did not start; see {self.log}")

    def kill_child(self) -> None:
        """End the child at once (SIGKILL), and wait until it has ended."""
        os.kill(self.child, signal.SIGKILL)
        assert self.parent is not None
        assert self.parent.stdout is not None
        while self.parent.stdout.readline().strip() != "ended":
            pass
        self.child = 0

    def end_parent(self) -> None:
        """End the child and the process that started it."""
        if self.child:
            self.kill_child()
        if self.parent is not None:
            assert self.parent.stdin is not None
            self.parent.stdin.close()
            self.parent.wait(timeout=20)

    def kill(self) -> None:
        """End it at once, as a power cut does to a process (SIGKILL)."""
        assert self.process is not None
        self.process.send_signal(signal.SIGKILL)
        self.process.wait()

    def stop(self) -> None:
        """End it in good order."""
        if self.process is not None and self.process.poll() is None:
            self.process.terminate()
            self.process.wait(timeout=20)

    def peak_mb(self) -> float:
        """The most memory that it and the process for long work have held at one time so far, in megabytes."""
        assert self.memory is not None
        return self.memory.peak_kb / 1024

    def client(self, username: str) -> httpx.Client:
        """Somebody signed in; an empty name stays outside."""
        made = httpx.Client(base_url=self.address, timeout=60)
        if username:
            answer = made.post("/api/v1/session", json={"username": username, "password": DEMO_PASSWORD})
            answer.raise_for_status()
        return made


@contextmanager
def serving(folder: Path) -> Iterator[Server]:
    """A server, ended afterwards."""
    server = Server(folder)
    server.start()
    try:
        yield server
    finally:
        server.stop()

"""Sessions, programs that speak with them, servers and brokers, for tests of the bridge."""

from __future__ import annotations

import os
import re
import signal
import socket
import subprocess
import sys
import time
import unittest
from collections.abc import Callable
from typing import Any

import mooring
from mooring.access import address
from mooring.bridge.messages.coding import encode
from mooring.bridge.session import Peer, Session
from mooring.bridge.transports.websocket import WebSocketServer
from mooring.simulation.playing import Player
from tests.support import ROOT, folder_for

PATIENCE = 120.0
Test = unittest.TestCase | type[unittest.TestCase]


def until(look: Callable[[], Any], what: str) -> Any:
    """What comes of looking until there is something to see."""
    ends = time.monotonic() + PATIENCE
    while time.monotonic() < ends:
        if found := look():
            return found
        time.sleep(0.005)
    raise AssertionError(f"waited in vain for {what}")


def clean(test: Test) -> Callable[..., Any]:
    return test.addClassCleanup if isinstance(test, type) else test.addCleanup


def session_for(test: Test, what: Any, *, speed: float = 1.0, **options: Any) -> Session:
    """A session over a simulation that stands still; stepped by hand, or played."""
    ours = {name: options.pop(name) for name in ("lockstep", "lost", "tap") if name in options}
    session = Session(Player(mooring.Simulation(what, **options), speed), **ours)
    clean(test)(session.player.close)
    clean(test)(session.close)
    return session


def listening(test: Test, session: Any, **options: Any) -> str:
    """Where a session is served."""
    server = WebSocketServer(session, address(first=18640, scheme="ws"), **options)
    clean(test)(server.close)
    return server.where.url


class Voice:
    """A program without a transport."""

    def __init__(self, session: Any, name: str = "voice") -> None:
        self.session, self.peer = session, Peer(name)
        self.heard: list[dict[str, Any]] = []
        assert session.join(self.peer) == ""
        (self.welcome,) = [m for m in self.say("hello", name=name) if m["kind"] == "welcome"]

    def say(self, kind: str, **fields: Any) -> list[dict[str, Any]]:
        """Say something with an id; what is heard by then."""
        return self.bytes(encode({"kind": kind, "id": len(self.heard), **fields}, binary=True))

    def bytes(self, data: bytes | str) -> list[dict[str, Any]]:
        self.session.heard(self.peer, data)
        return self.listen()

    def listen(self) -> list[dict[str, Any]]:
        new = list(iter(self.peer.take, None))
        self.heard += new
        return new

    def answer(self, kind: str, **fields: Any) -> dict[str, Any]:
        """Say something; its answer."""
        return next(m for m in self.say(kind, **fields) if m["kind"] == "answer")

    def events(self) -> list[str]:
        self.listen()
        return [message["what"] for message in self.heard if message["kind"] == "event"]


class Broker:
    """Debian's Mosquitto on a free port."""

    def __init__(self, test: Test) -> None:
        with socket.socket() as trial:
            trial.bind(("127.0.0.1", 0))
            self.port = trial.getsockname()[1]
        self.file = folder_for(test) / "mosquitto.conf"
        self.file.write_text(f"listener {self.port} 127.0.0.1\nallow_anonymous true\n")
        self.process: subprocess.Popen[bytes] | None = None
        clean(test)(self.stop)
        self.start()

    def url(self, base: str) -> str:
        return f"mqtt://127.0.0.1:{self.port}/{base}"

    def start(self) -> None:
        path = os.pathsep.join((os.environ["PATH"], "/usr/sbin"))
        self.process = subprocess.Popen(
            ["mosquitto", "-c", str(self.file)], stderr=subprocess.DEVNULL,
            env={**os.environ, "PATH": path},
        )  # fmt: skip
        until(self._answers, "the broker")

    def _answers(self) -> bool:
        try:
            socket.create_connection(("127.0.0.1", self.port), 1).close()
        except OSError:
            return False
        return True

    def stop(self) -> None:
        if self.process is not None:
            self.process.terminate()
            self.process.wait()
            self.process = None


class Command:
    """A command of Mooring that listens, in a process of its own."""

    def __init__(self, test: Test, *arguments: Any) -> None:
        start = [sys.executable, "-u", "-c", "from mooring.cli import main; main()"]
        self.process = subprocess.Popen(
            [*start, *map(str, arguments)], stdout=subprocess.PIPE, stderr=subprocess.STDOUT,
            text=True, cwd=ROOT,
        )  # fmt: skip
        self.said = ""
        clean(test)(self.kill)
        for line in self.process.stdout:
            self.said += line
            if "Ctrl-C" in line:
                break
        found = re.search(r"wss?://\S+", self.said)
        assert found, self.said
        self.url = found[0]

    def kill(self) -> None:
        self.process.kill()
        self.process.wait()
        self.process.stdout.close()

    def end(self, *, how: int | None = signal.SIGINT) -> str:
        """End it, or wait until it ends by itself; what it said."""
        if how is not None:
            self.process.send_signal(how)
        self.said += self.process.communicate(timeout=PATIENCE)[0]
        return self.said

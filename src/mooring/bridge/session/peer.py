"""`Peer`: a program that is connected, whatever the transport."""

from __future__ import annotations

import math
import threading
import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any, Literal

MOST_WAITING = 2000
"""Messages that wait to be read by a slow program; with more it is let go."""
BURST = 5000
"""Messages a second that a program may send."""
_SMOOTH = 0.1


@dataclass
class Watching:
    """What a program wants to hear.

    Attributes:
        state, poses: how often [Hz]; 0 for not at all.
        frames: whose poses; all frames if None.
        sensors: whose measurements.
        pictures: channels of cameras.
        format: of color pictures.
    """

    state: float = 0.0
    poses: float = 0.0
    frames: tuple[str, ...] | None = None
    sensors: tuple[str, ...] = ()
    pictures: tuple[str, ...] = ("color", "depth")
    format: Literal["png", "jpeg"] = "png"


class Peer:
    """A program that is connected.

    What waits to be sent is kept short: of what is renewed (states, poses, measurements) only the
    newest waits, and how many were left out is counted.

    Attributes:
        name: what it calls itself; empty before it said hello.
        where: it is, in words.
        binary: whether it speaks CBOR.
        watching: what it wants to hear.
        heard, sent, left_out: how many messages.
        last: when something was heard, by the clock of this machine [s].
        rate: messages heard a second, smoothed.
        wake: called when something waits to be sent.
        tap: called with it and each message that is sent.
        states: how many states were made for it; each bears its number, so that it sees which ones
            it missed.
        overrun: whether so much waits that the program is to be let go.
    """

    def __init__(self, where: str, wake: Callable[[], None] = lambda: None) -> None:
        """Just connected."""
        self.name = ""
        self.where = where
        self.binary = False
        self.watching = Watching()
        self.heard = self.sent = self.left_out = 0
        self.last = time.monotonic()
        self.rate = 0.0
        self.states = self._last_state = 0
        self.wake = wake
        self.tap: Callable[[Peer, dict[str, Any]], None] | None = None
        self.overrun = False
        self._told_left_out = 0
        self._complained = -math.inf
        self._woken = False
        self._tokens = float(BURST)
        self._lock = threading.Lock()
        self._together: list[dict[str, Any]] = []
        self._waiting: deque[dict[str, Any] | str] = deque()
        self._newest: dict[str, dict[str, Any]] = {}

    @property
    def called(self) -> str:
        """Its name, or where it is."""
        return self.name or self.where

    def note_heard(self) -> bool:
        """Count a message; whether it may be listened to, or comes too soon after so many."""
        now = time.monotonic()
        passed = max(now - self.last, 1e-6)
        self.last = now
        self.heard += 1
        self.rate += min(1.0, passed / _SMOOTH * 0.2) * (1 / passed - self.rate)
        self._tokens = min(float(BURST), self._tokens + passed * BURST)
        if self._tokens < 1.0:
            return False
        self._tokens -= 1.0
        return True

    def may_complain(self) -> bool:
        """Whether it is time to answer that it says too much: once a second."""
        if self.last - self._complained < 1.0:
            return False
        self._complained = self.last
        return True

    def send(self, message: dict[str, Any], renewed: str = "", *, more: bool = False) -> None:
        """Let a message wait to be sent.

        Args:
            message: with its kind.
            renewed: of what it is the newest; an older one that still waits is left out.
            more: whether another follows at once, with which it goes.
        """
        with self._lock:
            self.states += message["kind"] == "state"
            if more:
                self._together.append(message)
                return
            self._waiting.extend(self._together)
            self._together.clear()
            if not renewed:
                self._waiting.append(message)
            elif renewed in self._newest:
                self.left_out += 1
                self._newest[renewed] = message
            else:
                self._newest[renewed] = message
                self._waiting.append(renewed)
            self.overrun = len(self._waiting) > MOST_WAITING
            wake = not self._woken or self.overrun
            self._woken = self._woken or wake
        if wake:
            self.wake()

    @property
    def waits(self) -> bool:
        """Whether something waits to be sent."""
        return bool(self._waiting)

    @property
    def wait(self) -> float:
        """How long to let a program wait that says too much [s]."""
        return 0.0 if self._tokens >= 1.0 else 0.05

    def take(self) -> dict[str, Any] | None:
        """The next message to be sent; None if none waits."""
        with self._lock:
            if not self._waiting:
                self._woken = False
                return None
            self.sent += 1
            said = self._waiting.popleft()
            message = self._newest.pop(said) if isinstance(said, str) else said
            missed = 0
            if message["kind"] == "state":
                missed, self._last_state = self.states - self._last_state - 1, self.states
        if self.tap is not None:
            # Without what differs from run to run.
            self.tap(self, message)
        if message["kind"] != "state":
            return message
        return {**message, "number": self.states, "left_out": missed, "sent": time.time()}

    def newly_left_out(self) -> int:
        """How many were left out since this was last asked."""
        more, self._told_left_out = self.left_out - self._told_left_out, self.left_out
        return more

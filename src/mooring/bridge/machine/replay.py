"""`Replayed`: a log of a bridge, said again to a controller, which is compared with what it said.

A failure at the machine is repeated at the desk: the controller hears what it heard then, at the
same pace, or in lock-step as fast as it answers; orders that differ from those of the log are told.
"""

from __future__ import annotations

import math
import threading
import time
from pathlib import Path
from typing import Any

from mooring.bridge.logs import read_log
from mooring.bridge.messages import INCOMING, OUTGOING
from mooring.bridge.messages.coding import decode
from mooring.bridge.session.peer import Peer
from mooring.bridge.session.reading import RefusedError, read_message
from mooring.errors import InputError, MooringError

_SAID = OUTGOING.keys() - {"welcome", "answer", "findings"}
_MOST_TOLD = 20
_TOLERANCE = 1e-9


class Replayed:
    """A log that is served, as a `Session` is.

    Attributes:
        peers: who is connected.
        who: the program of the log that is repeated.
        differences: what the controller says otherwise now.
        over: set when the log has been said to its end.
    """

    def __init__(self, file: Path, *, who: str | None = None, speed: float = 1.0) -> None:
        """Read a log.

        Args:
            file: of a bridge.
            who: the program to repeat; the one that had the say if not given.
            speed: times that of the log.

        Raises:
            InputError: it is no log, or nobody of that name is in it.
        """
        table = read_log(file)
        takers = [m for m in table.itertuples() if m.way == "in" and m.kind == "take"]
        self.who: str = who or (str(takers[0].who) if takers else "")
        mine = table[table["who"] == self.who]
        welcomes = [m for w, m in zip(mine["kind"], mine["message"], strict=True) if w == "welcome"]
        if not welcomes:
            known = ", ".join(dict.fromkeys(table["who"])) or "nobody"
            raise InputError(f"{file}: {self.who!r} heard no welcome in it; there are {known}")
        self._welcome: dict[str, Any] = {**welcomes[0], "source": "replay"}
        rows = list(zip(mine["clock"], mine["way"], mine["message"], strict=True))
        self._out = [(c, m) for c, way, m in rows if way == "out" and m["kind"] in _SAID]
        self._orders = [_orders(m) for _, way, m in rows if way == "in" and _orders(m)]
        self.lockstep = any(m.get("turn") for _, m in self._out)
        self._welcome["lockstep"] = self.lockstep
        self.speed = speed
        self.peers: list[Peer] = []
        self.differences: list[str] = []
        self.over = threading.Event()
        self._lock = threading.RLock()
        self._next = self._answered = 0
        self._holder: Peer | None = None
        self._closed = threading.Event()

    def join(self, peer: Peer) -> str:
        """Let a program in."""
        with self._lock:
            self.peers.append(peer)
        return ""

    def left(self, peer: Peer, why: str = "") -> None:
        """A program is gone."""
        del why
        with self._lock:
            if peer in self.peers:
                self.peers.remove(peer)
            if peer is self._holder:
                self._holder = None

    @property
    def answered(self) -> int:
        """How many messages with orders were compared."""
        return self._answered

    def wait_for_answers(self, patience: float = 2.0) -> None:
        """Give the controller a moment to say its last orders."""
        ends = time.monotonic() + patience
        while self.peers and self._answered < len(self._orders) and time.monotonic() < ends:
            time.sleep(0.01)

    def close(self) -> None:
        """Say no more."""
        self._closed.set()
        self.over.set()

    def heard(self, peer: Peer, data: bytes | str) -> None:
        """A program said something."""
        peer.note_heard()
        try:
            said = decode(data)
            message = read_message(said)
        except (MooringError, RefusedError) as error:
            code = error.code if isinstance(error, RefusedError) else "malformed"
            self._answer(peer, None, "", code, str(error))
            return
        peer.binary = isinstance(data, bytes) and data[:1] != b"{"
        with self._lock:
            self._do(peer, message.kind, message, said)

    def _do(self, peer: Peer, kind: str, message: Any, said: dict[str, Any]) -> None:
        if kind == "hello":
            peer.name = message.name
            peer.send(self._welcome)
            return
        if kind == "bye":
            self.left(peer)
            return
        if kind == "take":
            if self._holder is not None and self._holder is not peer:
                self._answer(peer, message.id, kind, "taken", "somebody else has the say")
                return
            if message.lockstep is not None and message.lockstep != self.lockstep:
                how = "in lock-step" if self.lockstep else "while time went on"
                self._answer(peer, message.id, kind, "not-here", f"this was recorded {how}")
                return
            self._holder = peer
            self._answer(peer, message.id, kind)
            if self.lockstep:
                self._to_turn(peer)
            else:
                threading.Thread(target=self._say, args=(peer,), daemon=True).start()
            return
        if orders := _orders(said):
            self._compare(orders)
        if kind == "advance":
            self._to_turn(peer)
        elif message.id is not None:
            self._answer(peer, message.id, kind)

    def _compare(self, orders: list[dict[str, Any]]) -> None:
        """What is said now against what was said then."""
        if self._answered >= len(self._orders):
            self._differ("it says more than it said then")
            return
        then = self._orders[self._answered]
        self._answered += 1
        if words := _difference(then, orders):
            time_ = self._out[max(0, self._next - 1)][1].get("time", math.nan)
            self._differ(f"at {time_:g} s {words}")

    def _differ(self, words: str) -> None:
        if len(self.differences) < _MOST_TOLD:
            self.differences.append(words)

    def _to_turn(self, peer: Peer) -> None:
        """Say everything up to the next turn."""
        while self._next < len(self._out):
            message = self._out[self._next][1]
            self._next += 1
            peer.send(message)
            if message.get("turn"):
                break
        if not any(message.get("turn") for _, message in self._out[self._next :]):
            self.over.set()

    def _say(self, peer: Peer) -> None:
        """Say everything at the pace at which it was said."""
        began, first = time.monotonic(), self._out[0][0] if self._out else 0.0
        for clock, message in self._out:
            wait = began + (clock - first) / self.speed - time.monotonic()
            if self._closed.wait(max(0.0, wait)) or self._holder is not peer:
                return
            self._next += 1
            peer.send(message)
        self.over.set()

    def _answer(self, peer: Peer, number: Any, to: str, code: str = "", words: str = "") -> None:
        peer.send({"kind": "answer", "id": number, "to": to, "ok": not code, "code": code,
                   "words": words})  # fmt: skip


def _orders(message: dict[str, Any]) -> list[dict[str, Any]]:
    """What of a message makes something move."""
    kind = message.get("kind")
    if kind == "advance":
        return [dict(order) for order in message.get("orders", ())]
    if kind in INCOMING and INCOMING[kind].moves:
        return [{k: v for k, v in message.items() if k not in ("id", "seen") and v is not None}]
    return []


def _difference(then: Any, now: Any, where: str = "") -> str:
    """Where two orders differ first; empty if they say the same."""
    if isinstance(then, float | int) and isinstance(now, float | int):
        same = math.isclose(then, now, rel_tol=_TOLERANCE, abs_tol=_TOLERANCE)
    elif isinstance(then, dict) and isinstance(now, dict):
        for key in dict.fromkeys([*then, *now]):
            if words := _difference(then.get(key), now.get(key), f"{where}.{key}".strip(".")):
                return words
        return ""
    elif isinstance(then, list | tuple) and isinstance(now, list | tuple):
        if len(then) == len(now):
            for k, (one, other) in enumerate(zip(then, now, strict=True)):
                if words := _difference(one, other, where if len(then) == 1 else f"{where}.{k}"):
                    return words
            return ""
        same = False
    else:
        same = then == now or (not then and not now)
    return "" if same else f"it says {where or 'an order'} {now!r}; then it said {then!r}"

"""`Machine`: a simulation that behaves like the controller box of a machine.

It has a clock of its own, which nobody stops; what it is told and what it tells takes time, and
some of it is lost; and where a controller is silent or asks for too much it goes to a fault, and
does nothing until that is reset.
"""

from __future__ import annotations

import heapq
import itertools
import random
import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from mooring.bridge.messages import INCOMING
from mooring.bridge.messages import incoming as say
from mooring.bridge.session.peer import Peer
from mooring.bridge.session.reading import RefusedError
from mooring.bridge.session.session import Session, Tap
from mooring.errors import ModelError
from mooring.simulation.playing import Player

_NOT_HERE = {
    "play": "its time goes on by itself", "pause": "its time cannot stand",
    "step": "its time goes on by itself", "reset": "it has no start to go back to; clear resets a "
    "fault", "pace": "its clock goes as it goes", "push": "nobody pushes it from here",
    "attach": "nothing is attached from here", "release": "nothing is attached from here",
    "diagnose": "it does not know what went wrong", "advance": "its time does not wait",
}  # fmt: skip


@dataclass(frozen=True)
class Manners:
    """How a machine's box behaves.

    Attributes:
        clock: how much faster its clock goes than that of this computer: 0.02 for 2%.
        delay: of what it hears, and of what it says, each [s].
        jitter: by how much more at most, at random [s].
        drop: share of orders, and of states and measurements, that are lost; all else comes
            through.
        seed: of what is random.
    """

    clock: float = 0.0
    delay: float = 0.0
    jitter: float = 0.0
    drop: float = 0.0
    seed: int = 0

    def __post_init__(self) -> None:
        if not (-0.5 <= self.clock <= 1.0 and 0 <= self.drop < 1):
            raise ModelError("a clock is off by -50 to 100%, and less than all messages are lost")
        if not (0 <= self.delay <= 10 and 0 <= self.jitter <= 10):
            raise ModelError("a delay is from 0 to 10 s")


class Machine(Session):
    """A machine for programs that control one.

    Attributes:
        manners: how it behaves.
        lost_messages: how many were dropped on purpose.
    """

    def __init__(
        self, player: Player, manners: Manners, *, lost: say.Safe = "hold", tap: Tap | None = None
    ) -> None:
        """Switched on; time goes on at once."""
        self.manners = manners
        self.lost_messages = 0
        self._random = random.Random(manners.seed)
        self._post = _Post()
        player.speed = 1.0 + manners.clock
        super().__init__(player, lost=lost, source="machine", tap=tap)
        player.play()

    def close(self) -> None:
        super().close()
        self._post.close()

    def join(self, peer: Peer) -> str:
        said = super().join(peer)
        if not said:
            send = peer.send

            def later(message: dict[str, Any], renewed: str = "", *, more: bool = False) -> None:
                del more
                if not (renewed and self._is_lost()):
                    self._post.at(self._due(), lambda: send(message, renewed))

            peer.send = later  # type: ignore[method-assign]
        return said

    def heard(self, peer: Peer, data: bytes | str) -> None:
        self._post.at(self._due(), lambda: super(Machine, self).heard(peer, data))

    def _handle(self, peer: Peer, said: dict[str, Any]) -> None:
        kind = said.get("kind")
        if not (kind in INCOMING and INCOMING[kind].moves and self._is_lost()):
            super()._handle(peer, said)

    def _due(self) -> float:
        manners = self.manners
        return time.monotonic() + manners.delay + manners.jitter * self._random.random()

    def _is_lost(self) -> bool:
        lost = self._random.random() < self.manners.drop
        self.lost_messages += lost
        return lost

    # What it does not do, and when it does nothing.

    def _refuse_order_of_others(self, peer: Peer, message: say.Said) -> None:
        if message.kind in _NOT_HERE:
            raise RefusedError("not-here", f"this is a machine: {_NOT_HERE[message.kind]}")
        if isinstance(message, say.Take) and message.lockstep:
            raise RefusedError("not-here", f"this is a machine: {_NOT_HERE['advance']}")
        super()._refuse_order_of_others(peer, message)
        if message.moves and self.publisher.fault:
            raise RefusedError("fault", f"{self.publisher.fault}; clear resets it")

    def _clear(self, peer: Peer, message: say.Clear) -> None:
        del message
        if not self.publisher.fault:
            raise RefusedError("refused", "there is no fault")
        self.publisher.fault = ""
        self.tell("fault-cleared", f"{peer.called} reset the fault", peer)

    def _go_safe(self, behaviour: say.Safe, why: str) -> None:
        if not self.publisher.fault:
            super()._go_safe("hold" if behaviour == "stop" else behaviour, why)
            self.publisher.fault = f"stopped at {self.simulation.time:.3f} s: {why}"[:500]
            self.tell("fault", self.publisher.fault)


class _Post:
    """Delivers what is due at a time, in a thread of its own."""

    def __init__(self) -> None:
        self._heap: list[tuple[float, int, Callable[[], None]]] = []
        self._bell = threading.Condition()
        self._count = itertools.count()
        self._over = False
        self._last = 0.0
        self._thread = threading.Thread(target=self._run, name="post", daemon=True)
        self._thread.start()

    def at(self, due: float, call: Callable[[], None]) -> None:
        """Call something at a time, never before what was given earlier: nothing overtakes."""
        with self._bell:
            self._last = max(due, self._last)
            heapq.heappush(self._heap, (self._last, next(self._count), call))
            self._bell.notify()

    def close(self) -> None:
        with self._bell:
            self._over = True
            self._bell.notify()
        self._thread.join()

    def _run(self) -> None:
        while True:
            with self._bell:
                wait = self._heap[0][0] - time.monotonic() if self._heap else None
                if self._over and wait is None:
                    return
                # At the end what is left is delivered at once.
                if not self._over and (wait is None or wait > 0):
                    self._bell.wait(wait)
                    continue
                call = heapq.heappop(self._heap)[2]
            call()

"""Who has the say, and what follows when it is lost."""

from __future__ import annotations

from dataclasses import dataclass

from mooring.bridge.messages.incoming import Safe
from mooring.bridge.session.peer import Peer


@dataclass
class Control:
    """Who has the say.

    Attributes:
        holder: the program that has it.
        period: steps between two of its turns; 0 for one that speaks when it likes.
        lockstep: whether time waits for it.
        lost: the safe behaviour.
        heard: the simulated time at which it was heard last [s].
        is_safe: whether the safe behaviour was taken, and nothing has ended it yet.
        announced: the step at which it was told that it is its turn.
        granted: until which step it lets time go.
    """

    holder: Peer | None = None
    period: int = 0
    lockstep: bool = False
    lost: Safe = "hold"
    heard: float = 0.0
    is_safe: bool = False
    announced: int = -1
    granted: int = 0

"""What transports serve: a session, or what stands in for one."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Protocol

from mooring.bridge.session.peer import Peer


class Served(Protocol):
    """What programs connect to."""

    @property
    def peers(self) -> Sequence[Peer]:
        """The programs that are connected."""

    def join(self, peer: Peer) -> str:
        """Let a program in; why not, if it may not."""

    def left(self, peer: Peer, why: str = ...) -> None:
        """A program is gone."""

    def heard(self, peer: Peer, data: bytes | str) -> None:
        """A program said something."""

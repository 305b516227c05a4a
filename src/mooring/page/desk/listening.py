"""A simulation on the page that controllers outside may drive."""

from __future__ import annotations

import time
from dataclasses import dataclass

from mooring.access import address
from mooring.bridge.session import Session
from mooring.bridge.transports.websocket import WebSocketServer
from mooring.simulation.playing import Player


@dataclass(frozen=True)
class Connected:
    """A program that is connected.

    Attributes:
        name: what it calls itself.
        controls: whether it has the say.
        rate: messages heard a second.
        age: since it was heard last [s].
        sent, left_out: messages it was sent, and those that it was too slow for.
    """

    name: str
    controls: bool
    rate: float
    age: float
    sent: int
    left_out: int


class Listening:
    """Lets programs connect to the simulation of a page.

    Attributes:
        url: where they connect.
    """

    def __init__(self, player: Player) -> None:
        """Begin to listen, on the local address.

        Raises:
            InputError: nothing can be served.
        """
        self._session = Session(player)
        where = address(first=8640, scheme="ws")
        self.url = where.url
        self._server = WebSocketServer(self._session, where)

    def close(self) -> None:
        """Let nobody connect any more."""
        self._session.close()
        self._server.close()

    def happened(self, count: int) -> list[str]:
        """The last events, the newest first."""
        return [f"{time:.2f} s: {words}" for time, words in list(self._session.happened)[::-1]][
            :count
        ]

    def connected(self) -> list[Connected]:
        """Who is there."""
        session, now = self._session, time.monotonic()
        holder = session.control.holder
        return [
            Connected(
                peer.called, peer is holder, peer.rate if now - peer.last < 1.0 else 0.0,
                now - peer.last, peer.sent, peer.left_out,
            )
            for peer in list(session.peers)
        ]  # fmt: skip

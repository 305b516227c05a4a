"""A session served over WebSocket (RFC 6455): text is JSON, binary frames are CBOR."""

from __future__ import annotations

import asyncio
import contextlib
import ssl
import threading
from pathlib import Path
from urllib.parse import parse_qs, urlsplit

from websockets.asyncio.server import Server, ServerConnection, serve
from websockets.datastructures import Headers
from websockets.exceptions import ConnectionClosed
from websockets.http11 import Request, Response

from mooring.access import Access, Address
from mooring.bridge.messages.coding import LARGEST, encode
from mooring.bridge.session import Peer
from mooring.bridge.transports.served import Served
from mooring.errors import InputError

_PING = 20.0
"""Between two looks at whether an idle connection still lives [s]."""
_LAST_WORDS = 1.0
"""How long programs may take to hear what was said last [s]."""
_GOODBYE = 5.0
"""How long connections may take to close [s]."""
_TRY_AGAIN = 1013
_POLICY = 1008


class WebSocketServer:
    """Serves a session in a thread of its own.

    Attributes:
        session: what is served.
        where: it listens.
    """

    def __init__(
        self,
        session: Served,
        where: Address,
        *,
        certificate: Path | None = None,
        key: Path | None = None,
    ) -> None:
        """Begin to listen.

        Args:
            session: what is served.
            where: from `mooring.access.address`.
            certificate, key: PEM files for TLS.

        Raises:
            InputError: the files are no certificate and key.
        """
        self.session, self.where = session, where
        self._access = Access(where)
        self._tls = None if certificate is None else _tls(certificate, key)
        self._loop = asyncio.new_event_loop()
        self._ready = threading.Event()
        self._end: asyncio.Event = asyncio.Event()
        self._closing: dict[Peer, asyncio.Task[None]] = {}
        self._thread = threading.Thread(target=self._run, name="websocket", daemon=True)
        self._thread.start()
        self._ready.wait()
        where.publish()

    def close(self) -> None:
        """Close all connections and end the thread."""
        self.where.withdraw()
        self._loop.call_soon_threadsafe(self._end.set)
        self._thread.join()

    def _run(self) -> None:
        asyncio.set_event_loop(self._loop)
        try:
            self._loop.run_until_complete(self._serve())
        finally:
            self._ready.set()
            self._loop.close()

    async def _serve(self) -> None:
        assert self.where.socket is not None
        server: Server = await serve(
            self._talk, sock=self.where.socket, process_request=self._look, max_size=LARGEST,
            max_queue=64, compression=None, ssl=self._tls, ping_interval=_PING, ping_timeout=None,
            close_timeout=1.0,
        )  # fmt: skip
        self._ready.set()
        await self._end.wait()
        ends = self._loop.time() + _LAST_WORDS
        while self._loop.time() < ends and any(peer.waits for peer in self.session.peers):
            await asyncio.sleep(0.01)
        server.close()
        # Whoever does not let go of his connection keeps nobody from ending.
        with contextlib.suppress(TimeoutError):
            await asyncio.wait_for(server.wait_closed(), _GOODBYE)

    def _look(self, _: ServerConnection, request: Request) -> Response | None:
        """Refuse who may not ask."""
        headers = {name.lower(): value for name, value in request.headers.raw_items()}
        said = parse_qs(urlsplit(request.path).query).get("token", [""])[0]
        problem = self._access.problem(headers, said)
        if not problem:
            return None
        body = f"mooring: {problem}\n".encode()
        told = Headers({"Content-Type": "text/plain; charset=utf-8", "Connection": "close"})
        told["Content-Length"] = str(len(body))
        return Response(403, "Forbidden", told, body)

    async def _talk(self, connection: ServerConnection) -> None:
        bell = asyncio.Event()

        def wake() -> None:
            if threading.current_thread() is self._thread:
                self._wake(connection, peer, bell)
            else:
                # Who draws a picture may be done after the server has ended.
                with contextlib.suppress(RuntimeError):
                    self._loop.call_soon_threadsafe(self._wake, connection, peer, bell)

        peer = Peer(":".join(map(str, connection.remote_address[:2])), wake)
        if problem := self.session.join(peer):
            await connection.close(_TRY_AGAIN, problem[:120])
            return
        sending = asyncio.create_task(self._send(connection, peer, bell))
        why = "it closed its connection"
        try:
            async for data in connection:
                self.session.heard(peer, data)
                if peer not in self.session.peers:
                    break
                if peer.wait:
                    # Whoever floods is listened to no faster.
                    await asyncio.sleep(peer.wait)
        except ConnectionClosed as closed:
            why = f"its connection broke ({closed})"
        finally:
            self.session.left(peer, why)
            sending.cancel()
            self._closing.pop(peer, None)

    def _wake(self, connection: ServerConnection, peer: Peer, bell: asyncio.Event) -> None:
        bell.set()
        if peer.overrun and peer not in self._closing:
            self._closing[peer] = self._loop.create_task(
                connection.close(_POLICY, "too much waits to be read")
            )

    async def _send(self, connection: ServerConnection, peer: Peer, bell: asyncio.Event) -> None:
        while True:
            while (message := peer.take()) is not None:
                data = encode(message, binary=peer.binary)
                try:
                    await connection.send(data, text=not peer.binary)
                except ConnectionClosed:
                    return
            await bell.wait()
            bell.clear()


def _tls(certificate: Path, key: Path | None) -> ssl.SSLContext:
    context = ssl.SSLContext(ssl.PROTOCOL_TLS_SERVER)
    try:
        context.load_cert_chain(certificate, key)
    except (OSError, ssl.SSLError) as error:
        raise InputError(f"{certificate}: no certificate with its key: {error}") from None
    return context

"""A client of simulations and machines that speak Mooring's messages.

This one file needs nothing of Mooring: copy it beside your controller. It needs the package
`websockets` for ws:// and wss://, `paho-mqtt` for mqtt:// and mqtts://; with `cbor2` it speaks CBOR
instead of JSON, which is faster.

Example:
    client = Client("ws://127.0.0.1:8640/?token=...", name="gait")
    client.ask("take", rate=100, lockstep=True)
    state = client.turn()
    while state["time"] < 5:
        goal = {"hip": 0.2 if state["time"] % 1 < 0.5 else -0.2}
        state = client.advance({"kind": "command", "positions": goal})
"""

from __future__ import annotations

import contextlib
import json
import os
import queue
import secrets
import select
import socket
import ssl
import time
from collections import deque
from collections.abc import Callable
from typing import Any, Protocol
from urllib.parse import unquote, urlsplit

try:
    import cbor2
except ImportError:
    cbor2 = None  # type: ignore[assignment]

Message = dict[str, Any]


class RefusedError(Exception):
    """What was said is not done.

    Attributes:
        code: why, for programs.
    """

    def __init__(self, code: str, words: str) -> None:
        super().__init__(words)
        self.code = code


class LostError(Exception):
    """The connection is gone, or an answer does not come."""


class SilentError(LostError):
    """Nothing came in time; the connection may be well."""


class _Carrier(Protocol):
    def send(self, data: bytes | str, *, sure: bool = True) -> None: ...

    def receive(self, timeout: float | None) -> bytes | str: ...

    def pending(self) -> bool: ...

    def close(self) -> None: ...


class Client:
    """A connection.

    Attributes:
        welcome: what there is: joints with limits, sensors, frames, signals, the document.
        state: the newest state that was heard; None before any.
        told: called with every message that is heard, as it is heard.
    """

    def __init__(
        self,
        url: str,
        name: str = "controller",
        *,
        binary: bool | None = None,
        patience: float = 10.0,
    ) -> None:
        """Connect and say hello.

        Args:
            url: ws://host:port/?token=... or mqtt://host:port/base.
            name: who this is.
            binary: CBOR instead of JSON; where the package is there if not given.
            patience: how long to wait for an answer [s].

        Raises:
            LostError: nobody answers there.
            RefusedError: this is not let in.
        """
        self.binary = cbor2 is not None if binary is None else binary
        self.patience = patience
        self.state: Message | None = None
        self.told: Callable[[Message], None] | None = None
        self._number = 0
        self._heard: deque[Message] = deque()
        self._later: deque[Message] = deque()
        scheme = urlsplit(url).scheme
        if scheme in ("mqtt", "mqtts"):
            self._carrier: _Carrier = _Mqtt(url, name, self._encode({"kind": "bye"}), patience)
        elif scheme in ("ws", "wss"):
            self._carrier = _WebSocket(url, patience)
        else:
            raise LostError(f"{url!r} begins neither with ws:// nor with mqtt://")
        self.welcome = self.ask("hello", name=name, version="1")

    def say(self, kind: str, **fields: Any) -> None:
        """Say something; what is wrong with it is heard later, as an answer."""
        self._send({"kind": kind, **fields})

    def ask(self, kind: str, **fields: Any) -> Message:
        """Say something and wait for its answer.

        Raises:
            RefusedError: it is not done.
            LostError: no answer comes.
        """
        self._number += 1
        number = self._number
        self._send({"kind": kind, "id": number, **fields})
        wanted = {"hello": "welcome", "diagnose": "findings"}.get(kind, "answer")
        ends = time.monotonic() + self.patience
        while True:
            message = self._receive(max(0.0, ends - time.monotonic()))
            answers = message["kind"] == "answer" and message["id"] == number
            if answers and not message["ok"]:
                raise RefusedError(message["code"], message["words"])
            if answers or message["kind"] == wanted != "answer":
                return message
            self._later.append(message)

    def hear(self, timeout: float | None = None) -> Message:
        """The next message, in the order in which they came.

        Raises:
            SilentError: none came in time.
            LostError: the connection is gone.
        """
        if self._later:
            return self._later.popleft()
        return self._receive(timeout)

    def pending(self) -> bool:
        """Whether a message can be heard at once."""
        return bool(self._later or self._heard) or self._carrier.pending()

    def turn(self, timeout: float | None = None) -> Message:
        """Wait for this controller's next turn, and what the state is then.

        Raises:
            RefusedError: what was said before was not done.
            LostError: it does not come in time, or the connection is gone.
        """
        while True:
            message = self.hear(timeout)
            kind = message["kind"]
            if kind == "answer" and not message["ok"]:
                raise RefusedError(message["code"], message["words"])
            if kind == "state" and (message["turn"] or not self.welcome["lockstep"]):
                return message

    def advance(self, *orders: Message, periods: int = 1, timeout: float | None = None) -> Message:
        """In lock-step: give orders, let time go on, and wait for the next turn's state.

        Raises:
            RefusedError: an order is not done; time stands.
            LostError: the turn does not come in time, or the connection is gone.
        """
        order: Message = {"kind": "advance", "orders": orders, "periods": periods}
        # Acknowledgements would hold up what follows, in a broker that gathers small packets.
        self._carrier.send(self._encode(order), sure=False)
        while True:
            message = self._receive(timeout)
            if message["kind"] == "state" and message["turn"]:
                return message
            if message["kind"] == "answer" and not message["ok"]:
                raise RefusedError(message["code"], message["words"])
            if message["kind"] == "event" and message["what"] in ("ended", "interrupted"):
                raise LostError(message["words"])

    def close(self) -> None:
        """Say goodbye."""
        with contextlib.suppress(LostError):
            self.say("bye")
        self._carrier.close()

    def __enter__(self) -> Client:
        return self

    def __exit__(self, *_: object) -> None:
        self.close()

    def _encode(self, message: Message) -> bytes | str:
        return cbor2.dumps(message) if self.binary else json.dumps(message, allow_nan=False)

    def _send(self, message: Message) -> None:
        self._carrier.send(self._encode(message))

    def _receive(self, timeout: float | None) -> Message:
        if not self._heard:
            data = self._carrier.receive(timeout)
            is_text = isinstance(data, str) or data[:1] in (b"{", b"[")
            said = json.loads(data) if is_text else cbor2.loads(data)  # type: ignore[arg-type]
            self._heard.extend(said if isinstance(said, list) else [said])
        message = self._heard.popleft()
        if message["kind"] == "state":
            self.state = message
        if self.told is not None:
            self.told(message)
        return message


class _WebSocket:
    """The protocol of the package `websockets` over a plain socket: no thread, no event loop."""

    def __init__(self, url: str, patience: float) -> None:
        from websockets.client import ClientProtocol
        from websockets.exceptions import InvalidHandshake
        from websockets.frames import Frame, Opcode
        from websockets.uri import parse_uri

        self._frame, self._opcode = Frame, Opcode
        self._heard: deque[bytes | str] = deque()
        self._parts: list[bytes] = []
        self._text = False
        where = parse_uri(url)
        try:
            self._socket = socket.create_connection((where.host, where.port), patience)
            if where.secure:
                self._socket = ssl.create_default_context(
                    cafile=os.environ.get("MOORING_CERTIFICATE")
                ).wrap_socket(self._socket, server_hostname=where.host)
        except OSError as error:
            raise LostError(f"nobody answers at {url}: {error}") from None
        self._socket.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
        self._protocol = ClientProtocol(where, max_size=None)
        self._protocol.send_request(self._protocol.connect())
        self._flush()
        while self._protocol.state is self._protocol.state.CONNECTING:
            self._pump(patience)
            if (problem := self._protocol.handshake_exc) is not None:
                said = getattr(getattr(problem, "response", None), "body", None) or b""
                self._socket.close()
                words = bytes(said).decode("utf-8", "replace").strip() or str(problem)
                refused = isinstance(problem, InvalidHandshake)
                raise RefusedError("not-let-in", words) if refused else LostError(words)

    def send(self, data: bytes | str, *, sure: bool = True) -> None:
        del sure
        from websockets.exceptions import InvalidState

        try:
            if isinstance(data, str):
                self._protocol.send_text(data.encode())
            else:
                self._protocol.send_binary(data)
        except InvalidState:
            raise LostError(f"the connection is gone{self._why()}") from None
        self._flush()

    def receive(self, timeout: float | None) -> bytes | str:
        while not self._heard:
            self._pump(timeout)
        return self._heard.popleft()

    def pending(self) -> bool:
        return bool(self._heard) or bool(select.select([self._socket], [], [], 0)[0])

    def close(self) -> None:
        with contextlib.suppress(Exception):
            self._protocol.send_close()
            self._flush()
        self._socket.close()

    def _pump(self, timeout: float | None) -> None:
        """Read what comes, once."""
        self._socket.settimeout(timeout)
        try:
            data = self._socket.recv(1 << 16)
        except TimeoutError:
            raise SilentError(f"nothing was heard for {timeout:g} s") from None
        except OSError as error:
            raise LostError(f"the connection is gone: {error}") from None
        if data:
            self._protocol.receive_data(data)
        else:
            self._protocol.receive_eof()
        for frame in self._protocol.events_received():
            if isinstance(frame, self._frame) and frame.opcode in (
                self._opcode.TEXT, self._opcode.BINARY, self._opcode.CONT
            ):  # fmt: skip
                if frame.opcode is not self._opcode.CONT:
                    self._parts, self._text = [], frame.opcode is self._opcode.TEXT
                self._parts.append(bytes(frame.data))
                if frame.fin:
                    whole = b"".join(self._parts)
                    self._heard.append(whole.decode() if self._text else whole)
        self._flush()
        if not data and not self._heard:
            raise LostError(f"the connection is gone{self._why()}")

    def _flush(self) -> None:
        try:
            for data in self._protocol.data_to_send():
                if data:
                    self._socket.sendall(data)
        except OSError as error:
            raise LostError(f"the connection is gone: {error}") from None

    def _why(self) -> str:
        reason = self._protocol.close_reason
        return f": {reason}" if reason else ""


class _Mqtt:
    def __init__(self, url: str, name: str, will: bytes | str, patience: float) -> None:
        import paho.mqtt.client as mqtt
        from paho.mqtt.enums import CallbackAPIVersion

        parts = urlsplit(url)
        base = parts.path.strip("/")
        client = mqtt.Client(
            CallbackAPIVersion.VERSION2, f"{name}-{secrets.token_hex(4)}", protocol=mqtt.MQTTv5
        )
        self._client = client
        self._heard: queue.SimpleQueue[bytes | None] = queue.SimpleQueue()
        self._to = f"{base}/from/{client._client_id.decode()}"
        if parts.username:
            client.username_pw_set(unquote(parts.username), unquote(parts.password or ""))
        if parts.scheme == "mqtts":
            client.tls_set()
        client.will_set(self._to, will, 1)
        ready: queue.SimpleQueue[str] = queue.SimpleQueue()
        self._alive = True

        def connected(_c: Any, _d: Any, _f: Any, code: Any, _p: Any) -> None:
            if code.is_failure:
                ready.put(f"the broker refuses: {code}")
            else:
                client.subscribe(f"{base}/to/{client._client_id.decode()}", 1)
                client.subscribe(f"{base}/alive", 1)

        def lost(*_: Any) -> None:
            self._alive = False
            self._heard.put(None)

        def heard(_c: Any, _d: Any, message: Any) -> None:
            if not message.topic.endswith("/alive"):
                self._heard.put(bytes(message.payload))
            elif message.payload == b"true":
                ready.put("")
            else:
                ready.put("what speaks there is gone")
                lost()

        def opened(_c: Any, _d: Any, made: Any) -> None:
            made.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)

        client.on_socket_open = opened
        client.on_connect, client.on_message, client.on_disconnect = connected, heard, lost
        try:
            client.connect(parts.hostname or "", parts.port or 1883, keepalive=5)
        except OSError as error:
            raise LostError(f"no broker at {url}: {error}") from None
        client.loop_start()
        try:
            problem = ready.get(timeout=patience)
        except queue.Empty:
            problem = f"nobody speaks below {base} at this broker"
        if problem:
            self.close()
            raise LostError(problem)

    def send(self, data: bytes | str, *, sure: bool = True) -> None:
        if not self._alive:
            raise LostError("the broker is gone")
        self._client.publish(self._to, data, int(sure))

    def receive(self, timeout: float | None) -> bytes | str:
        try:
            data = self._heard.get(timeout=timeout)
        except queue.Empty:
            raise SilentError(f"nothing was heard for {timeout:g} s") from None
        if data is None:
            raise LostError("the broker, or what speaks there, is gone")
        return data

    def pending(self) -> bool:
        return not self._heard.empty()

    def close(self) -> None:
        self._client.disconnect()
        self._client.loop_stop()

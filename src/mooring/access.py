"""Where servers listen, and who may ask them: whoever knows the token, from a page of theirs."""

from __future__ import annotations

import os
import re
import secrets
import socket
from contextlib import suppress
from dataclasses import dataclass, field
from urllib.parse import parse_qs, urlsplit, urlunsplit

from mooring.caching import cache_folder
from mooring.errors import InputError

LOCAL = ("127.0.0.1", "localhost", "::1")
TOKEN = "MOORING_TOKEN"
_PORTS = 40
_WAITING = 256
"""How many may ask before they are answered."""
_SHORTEST = 16
_ROOM = "tokens"


@dataclass(frozen=True)
class Address:
    """Where something is served.

    Attributes:
        host: the address that is listened on.
        port: of it.
        token: that must be known.
        scheme: http, ws, or one of them with an s.
        socket: that listens there, so that nobody else can take the port; None if nothing does.
    """

    host: str
    port: int
    token: str
    scheme: str = "http"
    socket: socket.socket | None = field(default=None, compare=False, repr=False)

    @property
    def url(self) -> str:
        """What to open."""
        name = f"[{self.host}]" if ":" in self.host else self.host
        if self.host in ("0.0.0.0", "::"):
            name = socket.gethostname()
        return f"{self.scheme}://{name}:{self.port}/?token={self.token}"

    @property
    def hosts(self) -> tuple[str, ...]:
        """Names it may be asked for as; any on an open address."""
        if self.host not in LOCAL:
            return ()
        names = ("127.0.0.1", "localhost", "[::1]")
        return tuple(f"{name}:{self.port}" for name in names)

    @property
    def cookie(self) -> str:
        """What the token is kept under: the port's own, as browsers have one jar for all ports."""
        return f"mooring_{self.port}"

    def publish(self) -> None:
        """Let other programs of the same user, and of nobody else, find the token."""
        folder = cache_folder(_ROOM)
        if folder is not None:
            with suppress(OSError, InputError):
                file = folder / str(self.port)
                file.unlink(missing_ok=True)
                handle = os.open(file, os.O_WRONLY | os.O_CREAT | os.O_EXCL, 0o600)
                with os.fdopen(handle, "w") as stream:
                    stream.write(self.token)

    def withdraw(self) -> None:
        """Take back what was published."""
        folder = cache_folder(_ROOM)
        if folder is not None and _published(self.port) == self.token:
            with suppress(OSError):
                (folder / str(self.port)).unlink()


def with_token(url: str) -> str:
    """An address with its token, where it lacks one and a server of this user's listens there.

    Example:
        >>> with_token("ws://127.0.0.1:8640/?token=known")
        'ws://127.0.0.1:8640/?token=known'
    """
    try:
        parts = urlsplit(url)
        port, name = parts.port, parts.hostname
    except ValueError:
        return url
    if parts.scheme not in ("ws", "wss") or "token" in parse_qs(parts.query):
        return url
    token = os.environ.get(TOKEN) or (_published(port) if port and name in LOCAL else "")
    if not token:
        return url
    query = f"{parts.query}&token={token}" if parts.query else f"token={token}"
    return urlunsplit((parts.scheme, parts.netloc, parts.path or "/", query, ""))


def _published(port: int) -> str:
    folder = cache_folder(_ROOM)
    try:
        return "" if folder is None else (folder / str(port)).read_text("utf-8")
    except (OSError, ValueError):
        return ""


def _new_token() -> str:
    given = os.environ.get(TOKEN, "")
    if given and not re.fullmatch(rf"[\w.-]{{{_SHORTEST},}}", given, re.ASCII):
        raise InputError(
            f"{TOKEN} is at least {_SHORTEST} letters, digits, dots, underscores, hyphens"
        )
    return given or secrets.token_urlsafe(18)


def address(
    host: str = "127.0.0.1", port: int | None = None, *, first: int = 8620, scheme: str = "http"
) -> Address:
    """Where to serve: a free port on the local address, unless told otherwise.

    It is listened on from now, and nobody else gets it: who asks is answered as soon as somebody
    serves there. It gets a token, a new one each time: other users of this machine can reach the
    local address, too. `MOORING_TOKEN` in the environment gives another.

    Args:
        host: to listen on.
        port: of it; the first free one if not given.
        first: where to begin looking for one.
        scheme: of the address.

    Raises:
        InputError: the port is taken, the address is none of this machine, or the token given is
            none that could be.
    """
    if not host.strip():
        # Sockets take no address for all of them.
        raise InputError("no address to serve at; 127.0.0.1 is this computer alone, 0.0.0.0 all")
    token = _new_token()
    ports = [port] if port is not None else range(first, first + _PORTS)
    family = socket.AF_INET6 if ":" in host else socket.AF_INET
    both = host == "::" and socket.has_dualstack_ipv6()
    problem = ""
    for number in ports:
        try:
            ours = socket.create_server(
                (host, number), family=family, backlog=_WAITING, dualstack_ipv6=both
            )
        except (OSError, OverflowError) as error:
            problem = str(error)
            continue
        return Address(host, ours.getsockname()[1], token, scheme, _without_delay(ours))
    raise InputError(f"nothing can be served at {host}: {problem}")


def _without_delay(listening: socket.socket) -> socket.socket:
    """The same socket, whose connections send each message at once.

    Event loops switch Nagle's algorithm off where a socket names TCP as its protocol, which those
    of `create_server` do not. With it, a message waits up to 40 ms for the acknowledgement of the
    one before.
    """
    listening.setsockopt(socket.IPPROTO_TCP, socket.TCP_NODELAY, 1)
    family, handle = listening.family, listening.detach()
    return socket.socket(family, socket.SOCK_STREAM, socket.IPPROTO_TCP, handle)


class Access:
    """What a request must have to be answered.

    The host that was asked for must be one of the server's own, so that no foreign name can be made
    to point here; the origin, where a browser tells one, must be that host. The token is in the
    address of the request, or in a cookie.
    """

    def __init__(self, where: Address) -> None:
        """Who may ask at an address."""
        self.where = where

    def problem(self, headers: dict[str, str], said: str) -> str:
        """Why a request is refused; empty if it is not.

        Args:
            headers: of the request, by their names in lower case.
            said: the token in its address.
        """
        host = headers.get("host", "")
        if self.where.hosts and host not in self.where.hosts:
            return f"this server is not {host}"
        origin = headers.get("origin", "")
        if origin and urlsplit(origin).netloc != host:
            return f"a page of {origin} may not ask this server"
        given = said or _cookie(headers.get("cookie", ""), self.where.cookie)
        if not secrets.compare_digest(given.encode(), self.where.token.encode()):
            return "the token is missing or wrong; use the whole address that mooring printed"
        return ""


def _cookie(header: str, name: str) -> str:
    """The value of a cookie, whatever the others look like."""
    for one in header.split(";"):
        key, _, value = one.strip().partition("=")
        if key == name:
            return value
    return ""

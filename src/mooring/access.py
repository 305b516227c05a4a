"""Where servers listen, and who may ask them: local programs, and elsewhere who knows the token."""

from __future__ import annotations

import secrets
import socket
from collections.abc import Iterable
from dataclasses import dataclass
from http.cookies import SimpleCookie
from urllib.parse import urlsplit

from mooring.errors import InputError

LOCAL = ("127.0.0.1", "localhost", "::1")
COOKIE = "mooring_token"
_PORTS = 40


@dataclass(frozen=True)
class Address:
    """Where something is served.

    Attributes:
        host: the address that is listened on.
        port: of it.
        token: that must be known; empty on the local address.
        scheme: http, ws, or one of them with an s.
    """

    host: str
    port: int
    token: str = ""
    scheme: str = "http"

    @property
    def url(self) -> str:
        """What to open."""
        name = f"[{self.host}]" if ":" in self.host else self.host
        if self.host in ("0.0.0.0", "::"):
            name = socket.gethostname()
        token = f"?token={self.token}" if self.token else ""
        return f"{self.scheme}://{name}:{self.port}/{token}"

    @property
    def hosts(self) -> tuple[str, ...]:
        """Names it may be asked for as; any on an open address, which has a token."""
        if self.token:
            return ()
        names = ("127.0.0.1", "localhost", "[::1]")
        return tuple(f"{name}:{self.port}" for name in names)


def address(
    host: str = "127.0.0.1", port: int | None = None, *, first: int = 8620, scheme: str = "http"
) -> Address:
    """Where to serve: a free port on the local address, unless told otherwise.

    An address that others can reach gets a token.

    Args:
        host: to listen on.
        port: of it; the first free one if not given.
        first: where to begin looking for one.
        scheme: of the address.

    Raises:
        InputError: the port is taken, or the address is none of this machine.
    """
    token = "" if host in LOCAL else secrets.token_urlsafe(18)
    ports = [port] if port is not None else range(first, first + _PORTS)
    problem = ""
    for number in ports:
        family = socket.AF_INET6 if ":" in host else socket.AF_INET
        with socket.socket(family) as trial:
            trial.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                trial.bind((host, number))
            except (OSError, OverflowError) as error:
                problem = str(error)
                continue
            return Address(host, trial.getsockname()[1], token, scheme)
    raise InputError(f"nothing can be served at {host}: {problem}")


class Access:
    """What a request must have to be answered.

    The host that was asked for must be one of the server's own, so that no foreign name can be made
    to point here; the origin, where a browser tells one, must be that host. With a token, the
    request brings it in its address, or in a cookie.
    """

    def __init__(self, hosts: Iterable[str] = (), token: str = "") -> None:
        """Who may ask.

        Args:
            hosts: names and ports it may be asked for as; any if none is given.
            token: that must be known; none is asked for if empty.
        """
        self.hosts, self.token = frozenset(hosts), token

    def problem(self, headers: dict[str, str], said: str) -> str:
        """Why a request is refused; empty if it is not.

        Args:
            headers: of the request, by their names in lower case.
            said: the token in its address.
        """
        host = headers.get("host", "")
        if self.hosts and host not in self.hosts:
            return f"this server is not {host}"
        origin = headers.get("origin", "")
        if origin and urlsplit(origin).netloc != host:
            return f"a page of {origin} may not ask this server"
        if self.token:
            kept = SimpleCookie(headers.get("cookie", "")).get(COOKIE)
            given = said or (kept.value if kept else "")
            if not secrets.compare_digest(given.encode(), self.token.encode()):
                return "the token is missing or wrong; use the whole address that mooring printed"
        return ""

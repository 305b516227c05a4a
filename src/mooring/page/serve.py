"""The server of the live page."""

from __future__ import annotations

import asyncio
import secrets
import socket
import sys
from collections.abc import Callable
from dataclasses import dataclass

from mooring.errors import InputError
from mooring.page.desk import Desk

LOCAL = ("127.0.0.1", "localhost", "::1")
_FIRST_PORT = 8620
_PORTS = 40
_SWITCH = 5e-4
"""Between two changes of the thread that runs [s]."""


@dataclass(frozen=True)
class Address:
    """Where the page is served.

    Attributes:
        host: the address that is listened on.
        port: of it.
        token: that must be known; empty on the local address.
    """

    host: str
    port: int
    token: str = ""

    @property
    def url(self) -> str:
        """What to open."""
        name = f"[{self.host}]" if ":" in self.host else self.host
        if self.host in ("0.0.0.0", "::"):
            name = socket.gethostname()
        return f"http://{name}:{self.port}/" + (f"?token={self.token}" if self.token else "")

    @property
    def hosts(self) -> tuple[str, ...]:
        """Names the page may be asked for as; any on an open address, which has a token."""
        if self.token:
            return ()
        names = ("127.0.0.1", "localhost", "[::1]")
        return tuple(f"{name}:{self.port}" for name in names)


def address(host: str = "127.0.0.1", port: int | None = None) -> Address:
    """Where to serve: a free port on the local address, unless told otherwise.

    An address that others can reach gets a token.

    Raises:
        InputError: the port is taken, or the address is none of this machine.
    """
    token = "" if host in LOCAL else secrets.token_urlsafe(18)
    ports = [port] if port is not None else range(_FIRST_PORT, _FIRST_PORT + _PORTS)
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
            return Address(host, trial.getsockname()[1], token)
    raise InputError(f"nothing can be served at {host}: {problem}")


async def _tell(where: Address, ready: Callable[[], None]) -> None:
    """Say that the page can be opened once it can."""
    name = {"0.0.0.0": "127.0.0.1", "::": "::1"}.get(where.host, where.host)
    while True:
        try:
            _, writer = await asyncio.open_connection(name, where.port)
        except OSError:
            await asyncio.sleep(0.02)
            continue
        writer.close()
        ready()
        return


def serve(desk: Desk, where: Address, *, show: bool, ready: Callable[[], None]) -> None:
    """Serve the page until Ctrl-C.

    Args:
        desk: what is looked at.
        where: from `address`.
        show: open a browser.
        ready: called when the page can be opened.
    """
    from fastapi import Response
    from nicegui import app, background_tasks, ui

    from mooring.page.guard import Guard
    from mooring.page.shell.host import Host
    from mooring.page.shell.window import Window

    host = Host(desk)
    app.add_middleware(Guard, hosts=where.hosts, token=where.token)

    @app.get("/model/{number}.glb")
    def model(number: int) -> Response:
        # The number keeps browsers from showing an older one.
        status = 200 if number == desk.model_number else 404
        return Response(host.glb, status, media_type="model/gltf-binary")

    @ui.page("/", title=f"{desk.robot.name} - Mooring", response_timeout=30)
    def page() -> None:
        Window(host)

    async def begin() -> None:
        # Checks and simulations compute in threads; the page must not wait for them.
        sys.setswitchinterval(_SWITCH)
        background_tasks.create(host.live())
        background_tasks.create(host.follow_files())
        background_tasks.create(host.judge())
        background_tasks.create(_tell(where, ready))

    app.on_startup(begin)
    app.on_shutdown(desk.close_player)
    path = f"/?token={where.token}" if where.token else "/"
    ui.run(
        host=where.host, port=where.port, show=path if show else False, reload=False,
        show_welcome_message=False, tailwind=False, reconnect_timeout=20.0, dark=None,
    )  # fmt: skip

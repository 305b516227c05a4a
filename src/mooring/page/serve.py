"""The server of the live page."""

from __future__ import annotations

import asyncio
import sys
from collections.abc import Callable

from mooring.access import Address
from mooring.page.desk import Desk

_SWITCH = 5e-4
"""Between two changes of the thread that runs [s]."""

_MOST_WINDOWS = 32


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
    app.add_middleware(Guard, where=where)

    @app.get("/model/{number}.glb")
    def model(number: int) -> Response:
        # The number keeps browsers from showing an older one.
        status = 200 if number == desk.model_number else 404
        return Response(host.glb, status, media_type="model/gltf-binary")

    app.on_exception(lambda error: host.failed(error, "doing what a window asked for"))

    @ui.page("/", title=f"{desk.robot.name} - Mooring", response_timeout=30)
    def page() -> None:
        if len(host.windows) >= _MOST_WINDOWS:
            ui.label(f"{_MOST_WINDOWS} windows are open already; close one of them.")
            return
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
    path = f"/?token={where.token}" if show else False
    ui.run(
        host=where.host, port=where.port, show=path, reload=False,
        show_welcome_message=False, tailwind=False, reconnect_timeout=20.0, dark=None,
    )  # fmt: skip

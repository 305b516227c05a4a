"""The server of the live page."""

from __future__ import annotations

import asyncio
import gc
import sys
import webbrowser
from collections.abc import Callable
from functools import partial

from mooring.access import LOCAL, Address
from mooring.page.desk import Desk

_SWITCH = 5e-4
"""Between two changes of the thread that runs [s]."""

_MOST_WINDOWS = 32


def serve(desk: Desk, where: Address, *, show: bool, ready: Callable[[], None]) -> None:
    """Serve the page until Ctrl-C.

    Args:
        desk: what is looked at.
        where: from `address`.
        show: open a browser.
        ready: called when the page can be opened.
    """
    import uvicorn
    from fastapi import FastAPI, Response
    from fastapi.middleware.gzip import GZipMiddleware
    from nicegui import app, background_tasks, ui

    from mooring.page.guard import Guard
    from mooring.page.shell.host import Host
    from mooring.page.shell.window import Window

    host = Host(desk)

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
        # What is there by now stays; looking through it for garbage would take a third of a second.
        gc.collect()
        gc.freeze()
        background_tasks.create(host.live())
        background_tasks.create(host.look_closely())
        background_tasks.create(host.follow_files())
        background_tasks.create(host.judge())
        # Whoever asks from now on waits for an answer, and gets it.
        ready()
        if show:
            background_tasks.create(asyncio.to_thread(webbrowser.open, where.url))

    app.on_startup(begin)
    app.on_shutdown(desk.close_player)
    guarded = FastAPI(openapi_url=None)
    guarded.add_middleware(Guard, where=where)
    # Squeezing what is sent takes longer than sending it, but over a network.
    squeeze = None if where.host in LOCAL else partial(GZipMiddleware, compresslevel=1)
    ui.run_with(
        guarded, show_welcome_message=False, tailwind=False, reconnect_timeout=20.0, dark=None,
        gzip_middleware_factory=squeeze,
    )  # fmt: skip
    assert where.socket is not None
    config = uvicorn.Config(guarded, log_level="warning", ws="wsproto")
    uvicorn.Server(config).run(sockets=[where.socket])

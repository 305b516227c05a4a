"""Who may ask the server: pages it sent itself, and on an open address only who knows the token."""

from __future__ import annotations

from collections.abc import Awaitable, Callable, Iterable, MutableMapping
from typing import Any
from urllib.parse import parse_qs

from mooring.access import COOKIE, Access

Scope = MutableMapping[str, Any]
Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
App = Callable[[Scope, Receive, Send], Awaitable[None]]


class Guard:
    """An ASGI middleware that lets through what `Access` does.

    With a token, the first request brings it in the address, and gets a cookie for those that
    follow.
    """

    def __init__(self, app: App, hosts: Iterable[str] = (), token: str = "") -> None:
        """Guard an app.

        Args:
            app: what is guarded.
            hosts: names and ports it may be asked for as; any if none is given.
            token: that must be known; none is asked for if empty.
        """
        self.app, self.access = app, Access(hosts, token)

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] not in ("http", "websocket"):
            await self.app(scope, receive, send)
            return
        headers = {name.decode("latin-1").lower(): value.decode("latin-1")
                   for name, value in scope["headers"]}  # fmt: skip
        said = parse_qs(scope.get("query_string", b"").decode("latin-1")).get("token", [""])[0]
        problem = self.access.problem(headers, said)
        if problem:
            await _refuse(scope, receive, send, problem)
        elif self.access.token and said and scope["type"] == "http":
            await self.app(scope, receive, self._with_cookie(send))
        else:
            await self.app(scope, receive, send)

    def _with_cookie(self, send: Send) -> Send:
        async def sending(message: Message) -> None:
            if message["type"] == "http.response.start":
                cookie = f"{COOKIE}={self.access.token}; HttpOnly; SameSite=Strict; Path=/"
                message["headers"] = [*message.get("headers", ()),
                                      (b"set-cookie", cookie.encode("latin-1"))]  # fmt: skip
            await send(message)

        return sending


async def _refuse(scope: Scope, receive: Receive, send: Send, why: str) -> None:
    if scope["type"] == "websocket":
        await receive()
        await send({"type": "websocket.close", "code": 1008, "reason": why[:120]})
        return
    body = f"mooring: {why}\n".encode()
    headers = [(b"content-type", b"text/plain; charset=utf-8")]
    await send({"type": "http.response.start", "status": 403, "headers": headers})
    await send({"type": "http.response.body", "body": body})

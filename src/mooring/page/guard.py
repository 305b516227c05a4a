"""Who may ask the server of the page, and what a browser may do with what it gets."""

from __future__ import annotations

from collections.abc import Awaitable, Callable, MutableMapping
from typing import Any
from urllib.parse import parse_qs

from mooring.access import Access, Address

Scope = MutableMapping[str, Any]
Message = MutableMapping[str, Any]
Receive = Callable[[], Awaitable[Message]]
Send = Callable[[Message], Awaitable[None]]
App = Callable[[Scope, Receive, Send], Awaitable[None]]


_POLICY = "; ".join(
    (
        # The page's framework compiles its templates in the browser, and writes its start into it.
        "default-src 'self'", "script-src 'self' 'unsafe-inline' 'unsafe-eval'",
        "style-src 'self' 'unsafe-inline'", "img-src 'self' data: blob:", "font-src 'self' data:",
        "worker-src 'self' blob:", "object-src 'none'", "base-uri 'none'", "form-action 'none'",
        "frame-ancestors 'none'",
    )
)  # fmt: skip
_HEADERS = [
    (b"content-security-policy", _POLICY.encode()),
    (b"x-frame-options", b"DENY"),
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"no-referrer"),
    (b"cross-origin-resource-policy", b"same-origin"),
    (b"cross-origin-opener-policy", b"same-origin"),
]


class Guard:
    """An ASGI middleware that lets through what `Access` does.

    The first request brings the token in its address. It gets a cookie for those that follow, and
    is sent to the address without it, so that the token stays in no history and no screenshot.
    """

    def __init__(self, app: App, where: Address) -> None:
        """Guard an app.

        Args:
            app: what is guarded.
            where: it is served.
        """
        self.app, self.where, self.access = app, where, Access(where)

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
        elif scope["type"] == "http" and said:
            cookie = f"{self.where.cookie}={said}; HttpOnly; SameSite=Lax; Path=/"
            path = scope["path"] if scope["path"].startswith("/") else "/"
            told = [(b"location", path.encode()), (b"set-cookie", cookie.encode("latin-1"))]
            await _answer(send, 303, "", told)
        else:
            await self.app(scope, receive, _with_headers(send))


def _with_headers(send: Send) -> Send:
    async def sending(message: Message) -> None:
        if message["type"] == "http.response.start":
            message["headers"] = [*message.get("headers", ()), *_HEADERS]
        await send(message)

    return sending


async def _refuse(scope: Scope, receive: Receive, send: Send, why: str) -> None:
    if scope["type"] == "websocket":
        await receive()
        await send({"type": "websocket.close", "code": 1008, "reason": why[:120]})
        return
    await _answer(send, 403, f"mooring: {why}\n", [])


async def _answer(send: Send, status: int, text: str, headers: list[tuple[bytes, bytes]]) -> None:
    kind = (b"content-type", b"text/plain; charset=utf-8")
    told = [kind, *headers, *_HEADERS]
    await send({"type": "http.response.start", "status": status, "headers": told})
    await send({"type": "http.response.body", "body": text.encode()})

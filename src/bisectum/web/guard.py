"""Only pages of this very server may speak to it: a check of the Host and Origin headers.

Without it any web page could reach a server on 127.0.0.1 by way of the person's browser (DNS rebinding).
"""

from __future__ import annotations

from urllib.parse import urlsplit

from starlette.types import ASGIApp, Receive, Scope, Send

from bisectum.web.errors import answer

NAMES = ("127.0.0.1", "localhost", "[::1]")


def is_own_host(value: str) -> bool:
    host = value.rsplit(":", 1)[0] if not value.endswith("]") else value
    return host.lower() in NAMES


class OwnPagesOnly:
    def __init__(self, app: ASGIApp) -> None:
        self._app = app

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] == "http":
            headers = {name.decode("latin-1"): value.decode("latin-1") for name, value in scope["headers"]}
            host, origin = headers.get("host", ""), headers.get("origin")
            foreign = origin is not None and urlsplit(origin).netloc.lower() != host.lower()
            if not is_own_host(host) or foreign:
                refusal = answer(403, "foreign_page", "Only Bisectum's own pages on this computer may ask here.")
                await refusal(scope, receive, send)
                return
        await self._app(scope, receive, send)

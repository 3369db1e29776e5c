"""What every request has to pass, and what every answer carries.

Only pages of this very server may speak to it: without a check any web page could reach a server on 127.0.0.1 by way of the
person's browser. A body may be only so large, and is counted while it comes in. Answers tell the browser to take them for
nothing but what they say they are, and the name of the data folder: a page that was loaded from another one changes nothing here.
"""

from __future__ import annotations

import contextlib
from urllib.parse import urlsplit

from starlette.types import ASGIApp, Message, Receive, Scope, Send

from bisectum.services.bundle import MOST_BUNDLE
from bisectum.services.decode import MOST_BYTES
from bisectum.web.errors import answer

NAMES = ("127.0.0.1", "localhost", "[::1]")
MOST_JSON = 8_000_000  # bytes
MOST_UPLOAD = MOST_BYTES + 100_000  # with what a form puts around a file
BUNDLES = "/api/shelf/bundles"
OWN_SITES = ("same-origin", "none")  # none: typed in or a bookmark
READING = ("GET", "HEAD")
FOLDER = b"data-folder"
HEADERS = (
    (b"x-content-type-options", b"nosniff"),
    (b"referrer-policy", b"no-referrer"),
    (b"cross-origin-resource-policy", b"same-origin"),
)


def is_own_host(value: str) -> bool:
    host = value.rsplit(":", 1)[0] if not value.endswith("]") else value
    return host.lower() in NAMES


def is_foreign(headers: dict[str, str], method: str, path: str) -> bool:
    """Whether a request comes from another site's page, as far as the browser says."""
    host, origin, site = headers.get("host", ""), headers.get("origin"), headers.get("sec-fetch-site")
    if not is_own_host(host):
        return True
    if origin is not None:
        try:
            if urlsplit(origin).netloc.lower() != host.lower():
                return True
        except ValueError:
            return True
    # Another site may link to a page of ours, and do nothing else.
    opens_page = method in READING and not path.startswith("/api/") and headers.get("sec-fetch-mode") == "navigate"
    return site is not None and site not in OWN_SITES and not opens_page


class _TooLargeError(Exception):
    pass


class Guard:
    """folder: the name of the data folder."""

    def __init__(self, app: ASGIApp, folder: str) -> None:
        self._app, self._folder = app, folder

    async def __call__(self, scope: Scope, receive: Receive, send: Send) -> None:
        if scope["type"] != "http":
            await self._app(scope, receive, send)
            return
        headers = {name.decode("latin-1"): value.decode("latin-1") for name, value in scope["headers"]}
        body = _Body(receive)

        async def with_headers(message: Message) -> None:
            if body.too_large:  # what is said of half a body is of no use to anybody
                return
            await sent(message)

        async def sent(message: Message) -> None:
            if message["type"] == "http.response.start":
                message["headers"] = [*message.get("headers", ()), *HEADERS, (FOLDER, self._folder.encode())]
            await send(message)

        if is_foreign(headers, scope["method"], scope["path"]):
            await answer(403, "foreign_page", "Only Bisectum's own pages on this computer may ask here.")(
                scope, receive, sent)
            return
        if scope["method"] not in READING and headers.get(FOLDER.decode(), self._folder) != self._folder:
            await answer(409, "other_folder", "Bisectum was started with another data folder since this page was loaded, so "
                         "nothing was changed. Load the page anew.")(scope, receive, sent)
            return
        is_form = headers.get("content-type", "").startswith("multipart/form-data")
        is_bundle = is_form and scope["path"] == BUNDLES
        most = MOST_BUNDLE if is_bundle else MOST_UPLOAD if is_form else MOST_JSON
        length = headers.get("content-length", "")
        refusal = answer(413, "picture_too_heavy" if is_form else "body_too_large",
                         f"This has more than {most // 2**20} MB, which is the most that can be taken. Save it smaller, "
                         "then bring it in." if is_form else "This change is too large to be taken at once.",
                         {"most": most // 2**20})
        if length.isdigit() and int(length) > most:
            await refusal(scope, receive, sent)
            return
        body.most = most
        with contextlib.suppress(_TooLargeError):
            await self._app(scope, body.receive, with_headers)
        if body.too_large:
            await refusal(scope, receive, sent)


class _Body:
    """The messages of a body, until there have been more bytes than `most`."""

    def __init__(self, receive: Receive) -> None:
        self._receive, self._so_far = receive, 0
        self.most = MOST_JSON
        self.too_large = False

    async def receive(self) -> Message:
        """Raises: _TooLargeError."""
        message = await self._receive()
        self._so_far += len(message.get("body", b""))
        if self._so_far > self.most:
            self.too_large = True
            raise _TooLargeError
        return message

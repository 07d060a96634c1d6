"""The web server's door: what is sent is taken in whole before anything is done with it, so that nobody who sends or reads slowly holds a
thread; who may not send much is refused before its first byte is kept."""

from __future__ import annotations

import json
import shutil
import time
from http import HTTPStatus
from http.cookies import CookieError, SimpleCookie
from typing import Any

from django.conf import settings
from django.contrib.auth import SESSION_KEY
from django.contrib.sessions.backends.db import SessionStore
from django.db import close_old_connections
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import create_server
from waitress.utilities import Error

from log.services import find

# Heads are sent at once; bodies at this rate at the least, once they have had a while.
HEAD_S, BODY_S, LEAST_BYTES_S = 20.0, 60.0, 1000.0
# What is kept free for everything else, and how much of a film's size is made from it besides.
KEPT_FREE_BYTES, ROOM_PER_BYTE = 500 * 2**20, 2.0
FULL = "There is no room left for films here. Free some space on the disk, or delete clips; everything else goes on working."


class Refusal(Error):
    """An answer in the API's shape, given before the application is asked."""

    def __init__(self, status: HTTPStatus, sentence: str) -> None:
        super().__init__(sentence)
        self.code, self.reason, self.sentence = status.value, status.phrase, sentence

    def to_response(self, ident: str | None = None) -> tuple[str, list[tuple[str, str]], bytes]:
        body = json.dumps({"detail": self.sentence}).encode()
        head = [("Content-Type", "application/json"), ("Content-Length", str(len(body))), ("Connection", "close")]
        return f"{self.code} {self.reason}", head, body


def refusal(method: str, path: str, length: int | None, cookies: str) -> tuple[HTTPStatus, str] | None:
    """Why a body of this length (bytes; None where that is not said) is not taken in; None where it is."""
    if length is None:
        return HTTPStatus.LENGTH_REQUIRED, "Say how long it is what you send."
    if length <= settings.MOST_PLAIN_BYTES:
        return None
    athlete = path.startswith("/api/training/") and path.endswith("/clips")
    voice = path.startswith("/api/clips/") and path.endswith("/voice")
    if method != "POST" or not (athlete or voice or path == "/api/clips"):
        return HTTPStatus.REQUEST_ENTITY_TOO_LARGE, "This is more than is taken in at once. Send less of it at a time."
    if length > settings.MOST_UPLOAD_BYTES:
        most = f"{settings.MOST_UPLOAD_BYTES / 2**30:.0f} GB"
        return HTTPStatus.REQUEST_ENTITY_TOO_LARGE, f"This file is larger than {most}. Trim it to the lift and send it again."
    if not (find(path.split("/")[3]) if athlete else _signed_in(cookies)):
        return HTTPStatus.FORBIDDEN, "Sign in before you send a film." if not athlete else "This link does not lead anywhere any more."
    if not room_for(length):
        return HTTPStatus.INSUFFICIENT_STORAGE, FULL
    return None


def room_for(length: int) -> bool:
    """Whether a film of so many bytes, with what is made from it, leaves room for everything else."""
    return shutil.disk_usage(settings.VAR_DIR).free - ROOM_PER_BYTE * length > KEPT_FREE_BYTES


def _signed_in(cookies: str) -> bool:
    try:
        held = SimpleCookie(cookies).get(settings.SESSION_COOKIE_NAME)
    except CookieError:
        return False
    return held is not None and SESSION_KEY in SessionStore(held.value)


class Dropped:
    """Takes a body in and keeps nothing of it, so that who sends it to its end hears why."""

    error = None

    def __init__(self, length: int) -> None:
        self._left = length

    @property
    def completed(self) -> bool:
        return self._left <= 0

    def received(self, data: bytes) -> int:
        taken = min(len(data), self._left)
        self._left -= taken
        return taken

    def __len__(self) -> int:
        return 0

    def close(self) -> None:
        pass


class Parser(HTTPRequestParser):  # type: ignore[misc]
    """Reads one request, and refuses its body by what its head says."""

    def __init__(self, adjustments: Any) -> None:
        super().__init__(adjustments)
        self.began = time.monotonic()

    def parse_header(self, head: bytes) -> None:
        super().parse_header(head)
        if self.body_rcv is None:
            return
        length = None if self.chunked else self.content_length
        try:
            found = refusal(self.command, self.path, length, self.headers.get("COOKIE", ""))
        finally:
            close_old_connections()
        if found is None:
            return
        self.error = Refusal(*found)
        if self.expect_continue or length is None:
            # It asked before it sent anything, or does not say when it ends.
            self.expect_continue, self.body_rcv = False, None
        else:
            self.body_rcv.getbuf().close()
            self.body_rcv = Dropped(self.content_length)

    @property
    def too_slow(self) -> bool:
        under_way = time.monotonic() - self.began
        if not self.headers_finished:
            return under_way > HEAD_S
        return under_way > BODY_S and self.body_bytes_received < LEAST_BYTES_S * under_way


class Channel(HTTPChannel):  # type: ignore[misc]
    """A connection, which is closed when what is sent through it trickles."""

    parser_class = Parser

    def received(self, data: bytes) -> bool:
        taken: bool = super().received(data)
        if self.request is not None and self.request.too_slow:
            self.will_close = True
        return taken


def serve(application: Any, port: int) -> None:
    """Answer on this port of this machine until the process is ended."""
    proxy: dict[str, Any] = {}
    if settings.PROXY:
        # Who asks is what the known proxy says; what anybody else says of it is dropped.
        proxy = {
            "trusted_proxy": settings.PROXY,
            "trusted_proxy_headers": {"x-forwarded-for", "x-forwarded-proto"},
            "trusted_proxy_count": 1,
        }
    # A correction holds its thread while it is computed elsewhere: more threads than corrections that come at once.
    server = create_server(
        application, host=settings.LISTEN, port=port, threads=16, ident=None, connection_limit=1000, asyncore_use_poll=True,
        channel_timeout=120, max_request_body_size=2**62, max_request_header_size=32 * 1024,
        clear_untrusted_proxy_headers=True, **proxy,
    )  # fmt: skip
    server.channel_class = Channel
    server.run()

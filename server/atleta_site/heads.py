"""What every answer carries for the browser's safety, and what the log does not show."""

from __future__ import annotations

import logging
import re
from collections.abc import Callable

from django.http import HttpRequest
from django.http.response import HttpResponseBase

# Everything comes from here; styles also from Vue's bindings in the page, pictures and films also from what the page itself made.
POLICY = "; ".join((
    "default-src 'self'", "img-src 'self' data: blob:", "media-src 'self' blob:", "style-src 'self' 'unsafe-inline'",
    "worker-src 'self' blob:", "object-src 'none'", "base-uri 'none'", "form-action 'self'", "frame-ancestors 'none'",
))  # fmt: skip
PERMISSIONS = "camera=(), geolocation=(), payment=(), usb=(), microphone=(self)"
_TOKEN = re.compile(r"(/(?:r|w|join|begin|handed|training)/)[\w-]{16,}")


class Heads:
    """Middleware: the policy of content and permissions, and that answers of the API are kept nowhere unless they say so."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        response = self._get_response(request)
        response.headers.setdefault("Content-Security-Policy", POLICY)
        response.headers.setdefault("Permissions-Policy", PERMISSIONS)
        if request.path.startswith("/api/"):
            response.headers.setdefault("Cache-Control", "no-store")
        return response


class WithoutTokens(logging.Filter):
    """Private links open what they lead to, and the log is read by others: it shows them without their token."""

    def filter(self, record: logging.LogRecord) -> bool:
        said = record.getMessage()
        hidden = _TOKEN.sub(r"\1…", said)
        if hidden != said:
            record.msg, record.args = hidden, None
        return True


def immutable(path: str, url: str) -> bool:
    """Whether a file's name changes with what is in it, as the names of built scripts and styles do."""
    return "/assets/" in url

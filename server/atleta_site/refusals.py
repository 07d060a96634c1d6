"""What a service refuses in a sentence, and how the API passes the sentence on; what goes wrong beneath it, in a sentence too."""

from __future__ import annotations

import errno
from collections.abc import Callable
from typing import Any

from django.db import DataError, OperationalError
from django.http import HttpRequest, JsonResponse
from django.http.response import HttpResponseBase
from rest_framework.response import Response
from rest_framework.views import exception_handler

SENTENCES = {
    400: "This could not be read as it was sent. Check what you entered and send it again.",
    403: "This is not allowed from here. Reload the page and sign in again.",
    404: "There is nothing at this address.",
    405: "This cannot be done at this address.",
    413: "This is more than is taken in at once. Send less of it at a time.",
    500: "Something went wrong on our side. Nothing of it was kept; it was noted. Try again.",
    503: "Too much is being written just now. Nothing of this was kept; try again in a moment.",
    507: "The disk is full: nothing of this was kept. Free some space, or delete clips, and try again.",
}


class Refused(ValueError):
    """What was asked cannot be done; the message says why and what to do, in words for the person who asked."""

    status = 400

    @property
    def told(self) -> dict[str, Any]:
        """What a program needs to know besides."""
        return {}


def answer(error: Exception, context: dict[str, Any]) -> Response | None:
    """The REST framework's exception handler, which knows refusals too."""
    if isinstance(error, Refused):
        return Response({"detail": str(error), **error.told}, status=error.status)
    return exception_handler(error, context) or _beneath(error)


def _beneath(error: Exception) -> Response | None:
    status = _status_of(error)
    return None if status is None else Response({"detail": SENTENCES[status]}, status=status)


def _status_of(error: Exception) -> int | None:
    """Of what the disk or the database could not do, the status that says so."""
    full = isinstance(error, OSError) and error.errno in (errno.ENOSPC, errno.EDQUOT)
    if full or (isinstance(error, OperationalError) and "full" in str(error)):
        return 507
    if isinstance(error, OperationalError) and "locked" in str(error):
        return 503
    return 400 if isinstance(error, DataError | OverflowError) else None


class InWords:
    """Middleware: whatever the API answers is JSON with a sentence, where the framework would answer with a page."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        response = self._get_response(request)
        page = response.status_code >= 400 and response.get("Content-Type", "").startswith("text/html")
        if not page or not request.path.startswith("/api/"):
            return response
        sentence = SENTENCES.get(response.status_code, SENTENCES[400 if response.status_code < 500 else 500])
        return JsonResponse({"detail": sentence}, status=response.status_code)

    def process_exception(self, request: HttpRequest, error: Exception) -> HttpResponseBase | None:
        return in_words(error)


def in_words(error: Exception) -> HttpResponseBase | None:
    """What the disk or the database could not do, as an answer; None for anything else."""
    status = _status_of(error)
    return None if status is None else JsonResponse({"detail": SENTENCES[status]}, status=status)

"""What a service refuses in a sentence, and how the API passes the sentence on."""

from __future__ import annotations

from typing import Any

from rest_framework.response import Response
from rest_framework.views import exception_handler


class Refused(ValueError):
    """What was asked cannot be done; the message says why and what to do, in words for the person who asked."""

    status = 400


def answer(error: Exception, context: dict[str, Any]) -> Response | None:
    """The REST framework's exception handler, which knows refusals too."""
    if isinstance(error, Refused):
        return Response({"detail": str(error)}, status=error.status)
    return exception_handler(error, context)

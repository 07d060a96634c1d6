"""What is sent twice is done once: a POST that carries a key of its own is answered the second time as it was the first."""

from __future__ import annotations

import uuid
from collections.abc import Callable
from datetime import timedelta

from django.db import IntegrityError, OperationalError, transaction
from django.http import HttpRequest, HttpResponse, JsonResponse
from django.http.response import HttpResponseBase
from django.utils import timezone

from people.models import Sent

from .refusals import in_words

HEADER = "Idempotency-Key"
KEPT = timedelta(days=2)
# These work something out, or take a film in, and must not hold the database meanwhile: of a process that dies in the midst of one it is
# not known whether it was done.
LONG = ("/undo", "/redo", "/hand-over", "/clips", "/voice", "/retry", "/bench")
UNKNOWN = "This was sent before, and whether it was done is not known. Reload the page and look before you send it again."
ANOTHER = "This key was used for something else. Send it with a key of its own."


class Once:
    """Middleware, for whoever is signed in. The key stands in the same transaction as what is made."""

    def __init__(self, get_response: Callable[[HttpRequest], HttpResponseBase]) -> None:
        self._get_response = get_response

    def __call__(self, request: HttpRequest) -> HttpResponseBase:
        key = request.headers.get(HEADER, "")
        if request.method != "POST" or not key or not request.path.startswith("/api/") or not request.user.is_authenticated:
            return self._get_response(request)
        try:
            key = str(uuid.UUID(key))
        except ValueError:
            return JsonResponse({"detail": f"{HEADER} is a UUID."}, status=400)
        if told := self._told(request, key):
            return told
        try:
            Sent.objects.filter(user=request.user, at__lt=timezone.now() - KEPT).delete()
            if request.path.endswith(LONG):
                return self._done(request, Sent.objects.create(user=request.user, key=key, path=request.path))
            with transaction.atomic():
                row = Sent.objects.create(user=request.user, key=key, path=request.path)
                response = self._done(request, row)
                if response.status_code >= 400:
                    transaction.set_rollback(True)
                return response
        except IntegrityError:
            # The same was sent twice at once, and the other one came first.
            return self._told(request, key) or JsonResponse({"detail": UNKNOWN}, status=409)
        except OperationalError as error:
            # Nobody else says it in words: it happened outside of any view.
            if told := in_words(error):
                return told
            raise

    def _done(self, request: HttpRequest, row: Sent) -> HttpResponseBase:
        response = self._get_response(request)
        if response.status_code >= 400 or not isinstance(response, HttpResponse):
            # Nothing was made: it may be sent again as it is.
            row.delete()
        else:
            row.status, row.body = response.status_code, response.content.decode()
            row.save(update_fields=["status", "body"])
        return response

    @staticmethod
    def _told(request: HttpRequest, key: str) -> HttpResponseBase | None:
        row = Sent.objects.filter(user=request.user, key=key).first()
        if row is None:
            return None
        if row.path != request.path:
            return JsonResponse({"detail": ANOTHER}, status=409)
        if row.status is None:
            return JsonResponse({"detail": UNKNOWN}, status=409)
        return HttpResponse(row.body, status=row.status, content_type="application/json")

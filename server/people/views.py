from __future__ import annotations

import hashlib

from django.conf import settings
from django.contrib.auth import authenticate, login, logout
from django.db.models import QuerySet
from django.utils.decorators import method_decorator
from django.views.decorators.csrf import csrf_protect, ensure_csrf_cookie
from drf_spectacular.utils import OpenApiParameter, extend_schema
from rest_framework import generics, mixins, permissions, status, viewsets
from rest_framework.decorators import action
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.throttling import ScopedRateThrottle, SimpleRateThrottle
from rest_framework.views import APIView

from .models import Athlete, Best, GymRack, Looks
from .serializers import AthleteSerializer, LooksSerializer, RackSerializer, SessionSerializer, SignInSerializer

# By this cookie a browser is known from which somebody signed in, a year long.
KNOWN, KNOWN_S = "known", 31_536_000


class SignInThrottle(ScopedRateThrottle):
    """Only signing in is slowed down; asking who is signed in, or signing out, is not."""

    def allow_request(self, request: Request, view: APIView) -> bool:
        return request.method != "POST" or super().allow_request(request, view)


class AccountThrottle(SimpleRateThrottle):
    """So many passwords are tried for one name, from wherever; a browser that its owner has signed in from before tries on, so that nobody
    is locked out by others."""

    scope = "account"

    def get_cache_key(self, request: Request, view: APIView) -> str | None:
        account = _account(request.data.get("username")) if request.method == "POST" else ""
        if not account or request._request.get_signed_cookie(KNOWN, default="") == account:
            return None
        return f"account-{account}"


def _account(username: object) -> str:
    return hashlib.sha256(str(username).lower().encode(errors="replace")).hexdigest()


@method_decorator([ensure_csrf_cookie, csrf_protect], name="dispatch")
class SessionView(APIView):
    """Who is signed in; sign in; sign out."""

    permission_classes = [permissions.AllowAny]
    throttle_classes = [SignInThrottle, AccountThrottle]
    throttle_scope = "sign_in"

    @extend_schema(responses=SessionSerializer)
    def get(self, request: Request) -> Response:
        return Response(_session(request))

    @extend_schema(request=SignInSerializer, responses=SessionSerializer)
    def post(self, request: Request) -> Response:
        asked = SignInSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        user = authenticate(request, **asked.validated_data)
        if user is None:
            return Response({"detail": "That name and password do not belong together."}, status=status.HTTP_400_BAD_REQUEST)
        login(request, user)
        answer = Response(_session(request))
        # Signed: nobody makes one who has not signed in here.
        answer.set_signed_cookie(
            KNOWN, _account(asked.validated_data["username"]), max_age=KNOWN_S, httponly=True, samesite="Lax",
            secure=settings.SESSION_COOKIE_SECURE,
        )  # fmt: skip
        return answer

    @extend_schema(responses={200: SessionSerializer})
    def delete(self, request: Request) -> Response:
        logout(request)
        return Response(_session(request))


def _session(request: Request) -> dict[str, object]:
    user = request._request.user
    return {"signed_in": user.is_authenticated, "name": user.get_full_name() or user.get_username() if user.is_authenticated else ""}


class AthleteViewSet(
    mixins.ListModelMixin, mixins.CreateModelMixin, mixins.RetrieveModelMixin, mixins.UpdateModelMixin, viewsets.GenericViewSet
):
    """The coach's own athletes."""

    serializer_class = AthleteSerializer
    http_method_names = ["get", "post", "patch", "delete"]
    queryset = Athlete.objects.none()

    def get_queryset(self) -> QuerySet[Athlete]:
        return Athlete.objects.filter(coach=self.request.user).prefetch_related("bests")

    @extend_schema(
        request=None, responses={204: None}, parameters=[OpenApiParameter("lift", str, "path", enum=[lift for lift, _ in Best.LIFTS])]
    )
    @action(detail=True, methods=["delete"], url_path=r"bests/(?P<lift>[a-z_]+)")
    def bests(self, request: Request, lift: str, pk: str | None = None) -> Response:
        """Take a best back that was entered by mistake."""
        self.get_object().bests.filter(lift=lift).delete()
        return Response(status=status.HTTP_204_NO_CONTENT)


class LooksView(generics.RetrieveUpdateAPIView):
    """What the coach likes to see drawn."""

    serializer_class = LooksSerializer
    http_method_names = ["get", "put"]

    def get_object(self) -> Looks:
        return Looks.objects.get_or_create(coach=self.request.user)[0]


class RackView(generics.RetrieveUpdateAPIView):
    """The coach's bar and discs."""

    serializer_class = RackSerializer
    http_method_names = ["get", "put"]

    def get_object(self) -> GymRack:
        return GymRack.objects.get_or_create(coach=self.request.user)[0]

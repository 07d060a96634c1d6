from __future__ import annotations

import hashlib

from django.conf import settings
from django.contrib.auth import authenticate, login, logout, update_session_auth_hash
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

from . import accounts, read_in
from .models import Athlete, Best, GymRack, Looks
from .serializers import (
    AthleteSerializer,
    InvitationSerializer,
    LooksSerializer,
    NewCoachSerializer,
    PasswordSerializer,
    RackSerializer,
    SessionSerializer,
    SignInSerializer,
    TableRowSerializer,
    TableSerializer,
    TrailSerializer,
)

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
            accounts.note_refused(asked.validated_data["username"], request.META.get("REMOTE_ADDR", ""))
            return Response({"detail": "That name and password do not belong together."}, status=status.HTTP_400_BAD_REQUEST)
        login(request, user)
        accounts.note(user, "Signed in")
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
    return {
        "signed_in": user.is_authenticated, "name": user.get_full_name() or user.get_username() if user.is_authenticated else "",
        "demo": settings.DEMO, "first_run": accounts.first_code() is not None,
    }  # fmt: skip


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

    @extend_schema(request=TableSerializer, responses=TableRowSerializer(many=True))
    @action(detail=False, methods=["post"], url_path="read-in")
    def read_in(self, request: Request) -> Response:
        """Athletes and bests out of a table: what it would do, or with `keep` what it did."""
        asked = TableSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        text = asked.validated_data["text"]
        rows = read_in.read_in(request.user, text) if asked.validated_data["keep"] else read_in.rows_of(request.user, text)
        return Response(TableRowSerializer(rows, many=True).data)


class DoorThrottle(ScopedRateThrottle):
    """Links are not guessed."""


@method_decorator([ensure_csrf_cookie, csrf_protect], name="dispatch")
class NewCoachView(APIView):
    """Make an account by a link, and sign in with it: the first one's, while there is none, or an invitation's."""

    permission_classes = [permissions.AllowAny]
    throttle_classes = [DoorThrottle]
    throttle_scope = "sign_in"

    @extend_schema(request=NewCoachSerializer, responses={201: SessionSerializer})
    def post(self, request: Request) -> Response:
        asked = NewCoachSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        held = asked.validated_data
        make = accounts.make_first if accounts.first_code() else accounts.join
        coach = make(held["token"], held["username"], held["name"], held["password"])
        login(request, coach, backend=settings.AUTHENTICATION_BACKENDS[0])
        return Response(_session(request), status=status.HTTP_201_CREATED)


class PasswordView(APIView):
    """Another password for who is signed in."""

    @extend_schema(request=PasswordSerializer, responses={204: None})
    def post(self, request: Request) -> Response:
        asked = PasswordSerializer(data=request.data)
        asked.is_valid(raise_exception=True)
        accounts.change_password(request.user, asked.validated_data["old"], asked.validated_data["new"])
        update_session_auth_hash(request, request.user)
        return Response(status=status.HTTP_204_NO_CONTENT)


class InvitationView(APIView):
    """A link by which one more coach comes in, with athletes of their own."""

    @extend_schema(request=None, responses={201: InvitationSerializer})
    def post(self, request: Request) -> Response:
        return Response(InvitationSerializer(accounts.invite(request.user)).data, status=status.HTTP_201_CREATED)


class TrailView(APIView):
    """What the coach did that cannot be undone, the latest first."""

    @extend_schema(responses=TrailSerializer(many=True))
    def get(self, request: Request) -> Response:
        return Response(TrailSerializer(request.user.trail.all()[: accounts.MOST_SHOWN], many=True).data)


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

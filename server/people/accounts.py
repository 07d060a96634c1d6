"""Coaches' accounts: the first one, those that are invited, their passwords, and the trail of what they did that cannot be undone."""

from __future__ import annotations

import secrets
from datetime import timedelta

from django.conf import settings
from django.contrib.auth import get_user_model
from django.contrib.auth.models import AbstractBaseUser, AnonymousUser
from django.contrib.auth.password_validation import validate_password
from django.core.exceptions import ValidationError
from django.db import transaction
from django.utils import timezone

from atleta_site.refusals import Refused

from .models import GymRack, Invitation, Trail

INVITED_FOR = timedelta(days=7)
# So much of the trail is shown.
MOST_SHOWN = 200


class CannotEnter(Refused):
    """The account cannot be made or changed so; the message says what to do."""


def first_code() -> str | None:
    """What whoever makes the first coach has to know, so that it is whoever started the program; None once there is a coach."""
    if get_user_model().objects.exists():
        return None
    kept = settings.VAR_DIR / "first-coach"
    if not kept.exists():
        kept.touch(mode=0o600)
        kept.write_text(secrets.token_urlsafe(12))
    return str(kept.read_text())


@transaction.atomic
def make_first(code: str, username: str, name: str, password: str) -> AbstractBaseUser:
    """The first coach, made by whoever knows the code.

    Raises:
        CannotEnter: there is a coach, the code is another, or the account cannot be made so.
    """
    known = first_code()
    if known is None:
        raise CannotEnter("There is a coach here already. Sign in, or ask for an invitation.")
    if not secrets.compare_digest(code.encode(), known.encode()):
        raise CannotEnter("This link does not belong to this program. Take the one that it printed when it started.")
    return make_coach(username, name, password)


@transaction.atomic
def make_coach(username: str, name: str, password: str) -> AbstractBaseUser:
    """A coach with an empty gym.

    Raises:
        CannotEnter: the name to sign in with is taken or no such name, or the password too weak.
    """
    users = get_user_model().objects
    username = username.strip()
    if users.filter(username__iexact=username).exists():
        raise CannotEnter(f"Somebody signs in as {username} already. Choose another name to sign in with.")
    coach = users.model(username=username, first_name=name.strip())
    try:
        coach.full_clean(exclude=["password"])
    except ValidationError as error:
        raise CannotEnter(" ".join(error.messages)) from error
    _fits(password, coach)
    coach.set_password(password)
    coach.save()
    GymRack.objects.create(coach=coach)
    note(coach, "Account made")
    return coach


@transaction.atomic
def change_password(coach: AbstractBaseUser, old: str, new: str) -> None:
    """Another password; whoever is signed in elsewhere has to sign in again.

    Raises:
        CannotEnter: the old one is another, or the new one is too weak.
    """
    if not coach.check_password(old):
        raise CannotEnter("That is not your present password.")
    _fits(new, coach)
    coach.set_password(new)
    coach.save()
    note(coach, "Password changed")


def invite(by: AbstractBaseUser) -> Invitation:
    """A link by which one more coach can come in within a week."""
    note(by, "Coach invited")
    return Invitation.objects.create(by=by, ends_at=timezone.now() + INVITED_FOR)


def invitation(token: str) -> Invitation | None:
    """The invitation behind a link; None when it is unknown, was used or has ended."""
    return Invitation.objects.filter(token=token, used_at__isnull=True, ends_at__gt=timezone.now()).first()


@transaction.atomic
def join(token: str, username: str, name: str, password: str) -> AbstractBaseUser:
    """One more coach, by an invitation.

    Raises:
        CannotEnter: the link does not lead anywhere, or the account cannot be made so.
    """
    row = invitation(token)
    if row is None:
        raise CannotEnter("This invitation was used or has ended. Ask for a new one.")
    coach = make_coach(username, name, password)
    row.used_at = timezone.now()
    row.save(update_fields=["used_at"])
    note(row.by, f"{name or username} came in by an invitation")
    return coach


def note(by: AbstractBaseUser | AnonymousUser, what: str) -> None:
    """Keep that something was done which cannot be undone."""
    if by.is_authenticated:
        Trail.objects.create(by_id=by.pk, what=what[:200])


def note_refused(username: str, address: str) -> None:
    """Keep with whose name it was that somebody tried to sign in and could not."""
    coach = get_user_model().objects.filter(username=username).first()
    if coach is not None:
        note(coach, f"Somebody tried to sign in from {address or 'an unknown address'} with a wrong password")


def _fits(password: str, coach: AbstractBaseUser) -> None:
    try:
        validate_password(password, coach)
    except ValidationError as error:
        raise CannotEnter(" ".join(error.messages)) from error

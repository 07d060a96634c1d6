"""Corrections by hand: set, taken back, undone, done again. Every one is written down with what stood before it.

What is corrected has a name: `disc:120` (frame), `joint:120:left_hip`, `event:0:contact` (lift of the clip), `verdict:0:bar_looped`,
`limit:bar_looped:loop_out`, `preference:contact`, or a fact of the clip such as `plumb_deg`. A value of None means that nothing is said.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from collections.abc import Set as AbstractSet
from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.core.exceptions import ValidationError
from django.db import transaction
from django.db.models import QuerySet

from atleta.events import EVENTS, FAMILY_OF_KIND
from atleta.motion import JOINTS
from atleta_site.refusals import Refused
from clips.models import Clip
from plans.shelf import library_of

from . import limits, schools
from .models import Analysis, Correction, DiscPoint, JointPoint, Verdict
from .serializers import CorrectionSerializer
from .services import Change, follow, judge_anew

# What changes how a clip is judged and leaves what was measured alone.
JUDGED = ("verdict", "limit", "preference")

FACTS = (
    "lift", "load", "facing", "plumb_deg", "disc_diameter_m", "m_per_px", "capture_rate_hz", "trim", "distrusted", "lifter_box",
    "exercise",
)  # fmt: skip
# Of the picture's height.
SMALLEST_BOX = 0.08
UNSAID: dict[str, Any] = {"facing": "", "distrusted": [], "exercise": ""}


class CannotCorrect(Refused):
    """What was asked does not fit the clip; the message says why."""


class ChangedMeanwhile(Refused):
    """What is to be changed was changed by somebody else since whoever asks looked at it; they see how, and choose."""

    status = 409

    def __init__(self, rows: list[Correction]) -> None:
        super().__init__("This was changed elsewhere since you looked at it. See what it is now, and choose.")
        self.rows = rows

    @property
    def told(self) -> dict[str, Any]:
        return {"changed": CorrectionSerializer(self.rows, many=True).data}


def correct(clip: Clip, what: str, value: Any, by: AbstractBaseUser) -> Analysis:
    """Set something by hand, or with None take it back; the analysis follows. A value that builds on what stands is given as what makes it
    from the clip.

    Raises:
        CannotCorrect: it does not fit the clip.
    """
    return correct_all(clip, {what: value}, by)


def correct_all(clip: Clip, values: Mapping[str, Any], by: AbstractBaseUser) -> Analysis:
    """The same for several things at once: all of them or none."""
    for what, value in values.items():
        _fits(clip, what, value)

    def change(now: Clip) -> None:
        _unseen(clip, now.corrections.filter(what__in=list(values)))
        for what, value in values.items():
            before = _read(now, what)
            _write(now, what, value(now) if callable(value) else value, by)
            _keep(now, what, before, _read(now, what), by)

    return _followed(clip, set(values), change)


def change_preference(coach: AbstractBaseUser, question: str, said: Callable[[], dict[str, Any]], clip: Clip | None) -> None:
    """Set what a coach says on a question, as `schools.stated` tells it; kept with a clip where it was said on one."""

    def change(now: Clip | None) -> None:
        before = schools.stated(coach, question)
        after = said()
        schools.state(coach, question, after)
        _keep(now, f"preference:{question}", before, after, coach)

    if clip is not None:
        judge_anew(clip, change)
        return
    with transaction.atomic():
        change(None)


def _unseen(clip: Clip, rows: QuerySet[Correction]) -> None:
    """Raises ChangedMeanwhile where one of these was made, undone or done again after what whoever asks has seen."""
    if clip.seen is not None and (later := list(rows.filter(turn__gt=clip.seen).select_related("by"))):
        raise ChangedMeanwhile(later)


def _keep(clip: Clip | None, what: str, before: Any, after: Any, by: AbstractBaseUser) -> None:
    _history(clip, by).filter(state=Correction.State.UNDONE).update(state=Correction.State.LEFT_BEHIND)
    Correction.objects.create(clip=clip, what=what, before=before, after=after, turn=Correction.next_turn(), by=by)


def _history(clip: Clip | None, by: AbstractBaseUser) -> QuerySet[Correction]:
    """The changes of one clip, or those that a coach made apart from any."""
    return clip.corrections.all() if clip else Correction.objects.filter(clip__isnull=True, by=by)


def undo(clip: Clip | None, by: AbstractBaseUser) -> Analysis | None:
    """Take the last change back: of a clip, or of a coach's preferences.

    Raises:
        CannotCorrect: there is none.
    """
    return _turn(clip, Correction.State.UNDONE, by)


def redo(clip: Clip | None, by: AbstractBaseUser) -> Analysis | None:
    """Do the change again that was undone last.

    Raises:
        CannotCorrect: there is none.
    """
    return _turn(clip, Correction.State.DONE, by)


def _turn(clip: Clip | None, state: str, by: AbstractBaseUser) -> Analysis | None:
    back = state == Correction.State.UNDONE
    history = _history(clip, by)
    row = history.filter(state=Correction.State.DONE).last() if back else history.filter(state=Correction.State.UNDONE).first()
    if row is None:
        raise CannotCorrect("There is nothing to undo." if back else "There is nothing to do again.")
    value = row.before if back else row.after

    def change(now: Clip | None) -> None:
        if now is not None and clip is not None:
            _unseen(clip, now.corrections.all())
        if not Correction.objects.filter(pk=row.pk, state=row.state).update(state=state, turn=Correction.next_turn()):
            raise CannotCorrect("This was changed somewhere else a moment ago. Look at it again.")
        if now is None:
            schools.state(by, row.what.partition(":")[2], value)
        else:
            _write(now, row.what, value, by)

    if clip is not None:
        return _followed(clip, {row.what}, change)
    with transaction.atomic():
        change(None)
    return None


def _followed(clip: Clip, what: AbstractSet[str], change: Change) -> Analysis:
    kinds = {one.partition(":")[0] for one in what}
    if kinds == {"exercise"}:
        # Which exercise it was changes nothing that was measured.
        with transaction.atomic():
            change(Clip.objects.get(pk=clip.pk))
        return clip.analysis
    return judge_anew(clip, change) if kinds <= set(JUDGED) else follow(clip, change)


def _fits(clip: Clip, what: str, value: Any) -> None:
    facts = clip.analysis.document["clip"]
    kind, _, rest = what.partition(":")
    if kind == "event":
        lift, _, name = rest.partition(":")
        lifts = clip.analysis.document["lifts"]
        if not lift.isdecimal() or int(lift) >= len(lifts):
            raise CannotCorrect("The clip has no such lift.")
        if name not in EVENTS[FAMILY_OF_KIND[lifts[int(lift)]["kind"]]]:
            raise CannotCorrect(f"A {lifts[int(lift)]['kind'].replace('_', ' ')} has no position called {name.replace('_', ' ')}.")
        if value is not None and not lifts[int(lift)]["start_frame"] <= value <= lifts[int(lift)]["end_frame"]:
            raise CannotCorrect("This frame lies outside the lift.")
    elif kind in ("disc", "joint"):
        frame, _, joint = rest.partition(":")
        if not 0 <= int(frame) < facts["frame_count"]:
            raise CannotCorrect(f"The clip has frames 0 to {facts['frame_count'] - 1}.")
        if kind == "joint" and joint not in JOINTS:
            raise CannotCorrect(f"There is no joint called {joint}.")
        if value is not None and not (0 <= value["x_px"] < facts["width"] and 0 <= value["y_px"] < facts["height"]):
            raise CannotCorrect("The point lies outside the picture.")
    elif kind == "exercise" and value and value not in library_of(clip.athlete.coach_id):
        raise CannotCorrect(f"There is no exercise called {value}. Choose one from the library.")
    elif kind in JUDGED:
        return
    elif kind not in FACTS:
        raise CannotCorrect(f"{kind} cannot be set by hand.")
    elif value is not None and kind in ("trim", "distrusted"):
        for stretch in [value] if kind == "trim" else value:
            whole = isinstance(stretch, list) and len(stretch) == 2 and all(isinstance(end, int) for end in stretch)
            if not whole or not 0 <= stretch[0] < stretch[1] < facts["frame_count"]:
                raise CannotCorrect(f"A stretch has a first and a later last frame within 0 to {facts['frame_count'] - 1}.")

    elif value is not None and kind == "lifter_box":
        numbers = isinstance(value, list) and len(value) == 4 and all(isinstance(side, int) for side in value)
        if not numbers or not (0 <= value[0] < value[2] <= facts["width"] and 0 <= value[1] < value[3] <= facts["height"]):
            raise CannotCorrect("A box has a left, top, right and bottom side within the picture.")
        if min(value[2] - value[0], value[3] - value[1]) < SMALLEST_BOX * facts["height"]:
            raise CannotCorrect("This box is too small for a lifter. Draw it about the whole body.")


def _read(clip: Clip, what: str) -> Any:
    kind, _, rest = what.partition(":")
    if kind == "event":
        return clip.event_frames.get(rest)
    if kind in FACTS:
        held = getattr(clip, kind)
        return None if held == UNSAID.get(kind) else held
    if kind == "verdict":
        place, _, fault = rest.partition(":")
        return clip.verdicts.filter(place=place, fault=fault).values("decision", "frame", "note").first()
    if kind == "limit":
        return limits.stated(clip, *rest.split(":", 1))
    if kind == "preference":
        return schools.stated(clip.athlete.coach, rest)
    row = _points(clip, kind, rest).first()
    return None if row is None else {"x_px": row.x_px, "y_px": row.y_px}


def _write(clip: Clip, what: str, value: Any, by: AbstractBaseUser) -> None:
    kind, _, rest = what.partition(":")
    if kind in FACTS:
        setattr(clip, kind, UNSAID.get(kind) if value is None else value)
        try:
            clip.clean_fields(exclude=[field.name for field in clip._meta.fields if field.name != kind])
        except ValidationError as error:
            raise CannotCorrect(" ".join(error.messages)) from error
        clip.save(update_fields=[kind])
        return
    if kind == "verdict":
        place, _, fault = rest.partition(":")
        if value is None:
            clip.verdicts.filter(place=place, fault=fault).delete()
        else:
            Verdict.objects.update_or_create(clip=clip, place=int(place), fault=fault, defaults={**value, "by": by})
        return
    if kind == "limit":
        limits.state(clip, *rest.split(":", 1), value)
        return
    if kind == "preference":
        schools.state(clip.athlete.coach, rest, value)
        return
    if kind == "event":
        kept = {name: frame for name, frame in clip.event_frames.items() if name != rest}
        clip.event_frames = kept if value is None else kept | {rest: value}
        clip.save(update_fields=["event_frames"])
        return
    if value is None:
        _points(clip, kind, rest).delete()
        return
    frame, _, joint = rest.partition(":")
    held = {"x_px": value["x_px"], "y_px": value["y_px"], "by": by}
    if kind == "joint":
        JointPoint.objects.update_or_create(clip=clip, frame=int(frame), joint=joint, defaults=held)
    else:
        DiscPoint.objects.update_or_create(clip=clip, frame=int(frame), defaults=held)


def _points(clip: Clip, kind: str, rest: str) -> Any:
    frame, _, joint = rest.partition(":")
    return clip.joint_points.filter(frame=int(frame), joint=joint) if kind == "joint" else clip.disc_points.filter(frame=int(frame))

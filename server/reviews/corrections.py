"""Corrections by hand: set, taken back, undone, done again. Every one is written down with what stood before it.

What is corrected has a name: `disc:120` (frame), `joint:120:left_hip`, `event:0:contact` (lift of the clip), or a fact of the clip such
as `plumb_deg`. A value of None means that nothing is said by hand.
"""

from __future__ import annotations

from typing import Any

from django.contrib.auth.models import AbstractBaseUser
from django.core.exceptions import ValidationError
from django.db import transaction

from atleta.events import EVENTS, FAMILY_OF_KIND
from atleta.motion import JOINTS
from atleta_site.refusals import Refused
from clips.models import Clip

from .models import Analysis, Correction, DiscPoint, JointPoint
from .services import follow

FACTS = (
    "lift", "load", "facing", "plumb_deg", "disc_diameter_m", "m_per_px", "capture_rate_hz", "trim", "distrusted", "lifter_box",
)  # fmt: skip
# Of the picture's height.
SMALLEST_BOX = 0.08
UNSAID: dict[str, Any] = {"facing": "", "distrusted": []}


class CannotCorrect(Refused):
    """What was asked does not fit the clip; the message says why."""


def correct(clip: Clip, what: str, value: Any, by: AbstractBaseUser) -> Analysis:
    """Set something by hand, or with None take it back; the analysis follows.

    Raises:
        CannotCorrect: it does not fit the clip.
    """
    _fits(clip, what, value)
    with transaction.atomic():
        before = _read(clip, what)
        _write(clip, what, value, by)
        clip.corrections.filter(state=Correction.State.UNDONE).update(state=Correction.State.LEFT_BEHIND)
        Correction.objects.create(clip=clip, what=what, before=before, after=_read(clip, what), by=by)
        return follow(clip)


def undo(clip: Clip, by: AbstractBaseUser) -> Analysis:
    """Take the last correction back.

    Raises:
        CannotCorrect: there is none.
    """
    return _turn(clip, clip.corrections.filter(state=Correction.State.DONE).last(), Correction.State.UNDONE, by)


def redo(clip: Clip, by: AbstractBaseUser) -> Analysis:
    """Do the correction again that was undone last.

    Raises:
        CannotCorrect: there is none.
    """
    return _turn(clip, clip.corrections.filter(state=Correction.State.UNDONE).first(), Correction.State.DONE, by)


def _turn(clip: Clip, row: Correction | None, state: str, by: AbstractBaseUser) -> Analysis:
    if row is None:
        raise CannotCorrect("There is nothing to undo." if state == Correction.State.UNDONE else "There is nothing to do again.")
    with transaction.atomic():
        _write(clip, row.what, row.before if state == Correction.State.UNDONE else row.after, by)
        row.state = state
        row.save(update_fields=["state"])
        return follow(clip)


def _fits(clip: Clip, what: str, value: Any) -> None:
    facts = clip.analysis.document["clip"]
    kind, _, rest = what.partition(":")
    if kind == "event":
        lift, _, name = rest.partition(":")
        lifts = clip.analysis.document["lifts"]
        if not lift.isdigit() or int(lift) >= len(lifts):
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

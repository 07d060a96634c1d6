"""What to film next, from what a clip could not show and the work set on it."""

from __future__ import annotations

from collections import Counter

from atleta.coaching.filming import film_next as told
from clips.models import Clip
from plans.shelf import library_of


def film_next(clip: Clip) -> str:
    """What the athlete films next, and how."""
    lifts = clip.analysis.document["lifts"]
    reasons: Counter[str] = Counter()
    for lift in lifts:
        reasons.update({row["reason"]: row["checks"] for row in lift.get("verdict", {"why": []})["why"]})
    tasks, library = list(clip.assignments.all()), library_of(clip.athlete.coach_id)
    work = [library[task.exercise].film for task in tasks if task.exercise in library]
    what = f"the {library[tasks[0].exercise].named(tasks[0].lift).lower()}" if work else f"the next {clip.lift.replace('_', ' ')}"
    return told(what, lifts[0].get("seen_from", "side") if lifts else "side", reasons, work)

"""The demo world: Saltmarsh Lane Weightlifting in Ostrey, its coach, its athletes and their simulated clips. All invented."""

from __future__ import annotations

import json
import tomllib
from datetime import date, timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.contrib.auth import get_user_model
from django.db import transaction

from jobs.pipeline import run
from people.models import Athlete, Best, GymRack
from plans.services import assign
from reviews.models import Review
from reviews.services import publish, put_verdict

from .models import Clip
from .services import receive_clip


def demo_world() -> dict[str, Any]:
    """The demo world as its data file tells it."""
    return tomllib.loads((Path(settings.DEMO_DIR) / "world.toml").read_text("utf-8"))


def load_demo(first: int | None = None) -> int:
    """Bring the demo world in, leaving alone whatever of it is there already; returns how many clips were added.

    Args:
        first: only so many of its clips.
    """
    world = demo_world()
    users, told = get_user_model(), world["coach"]
    coach = users.objects.filter(username=told["sign_in"]).first()
    if coach is None:
        with transaction.atomic():
            coach = users.objects.create_user(told["sign_in"], password=told["password"], first_name=told["name"])
            GymRack.objects.create(coach=coach)
    athletes = {row["key"]: _athlete(coach.pk, row) for row in world["athlete"]}
    added = 0
    for row in world["clip"][:first]:
        athlete = athletes[row["athlete"]]
        source = Path(settings.DEMO_DIR) / "clips" / f"{row['file']}.mp4"
        if Clip.objects.filter(athlete=athlete, file_name=source.name).exists():
            continue
        clip = receive_clip(
            source, source.name, athlete, lift=row["lift"], load=row["load"], made=row["made"],
            filmed_on=date.today() - timedelta(days=row["days_ago"]),
        )  # fmt: skip
        added += 1
        if review := row.get("review"):
            run(clip.job.pk)
            _review(Clip.objects.get(pk=clip.pk), review)
    return added


def _athlete(coach_id: int, row: dict[str, object]) -> Athlete:
    athlete, _ = Athlete.objects.get_or_create(
        coach_id=coach_id, name=row["name"], defaults={"stature_m": row["stature_m"], "notes": row.get("notes", "")}
    )
    for lift, kilos in dict(row["bests"]).items():  # type: ignore[call-overload]
        Best.objects.get_or_create(athlete=athlete, lift=lift, defaults={"kilos": kilos, "on": date.today() - timedelta(days=40)})
    return athlete


def _review(clip: Clip, review: dict[str, object]) -> None:
    """Play the coach on one clip: confirm what stands, set the first drill offered for it, and hand it over."""
    coach = clip.athlete.coach
    found = [r["fault"] for lift in clip.analysis.document["lifts"] for r in lift["findings"] if r["level"] in ("fault", "watch")]
    for fault in found:
        put_verdict(clip, fault, "confirmed", coach)
    clip = Clip.objects.get(pk=clip.pk)
    Review.objects.update_or_create(clip=clip, defaults={"words": review["words"]})
    for task in json.loads(json.dumps(review["tasks"])):
        assign(clip, task["exercise"], sets=task["sets"], reps=task["reps"], percent=task["percent"], per_week=1, weeks=4)
    publish(clip)

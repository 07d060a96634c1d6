"""The demo world: Saltmarsh Lane Weightlifting in Ostrey, its coach, its athletes and their simulated clips. All invented."""

from __future__ import annotations

import json
import tomllib
from datetime import date, timedelta
from pathlib import Path
from typing import Any
from uuid import uuid4

from django.conf import settings
from django.contrib.auth import get_user_model
from django.db import transaction
from django.utils import timezone

from jobs.pipeline import run
from jobs.services import request_errand
from log.services import enter_done, enter_report, enter_said, link_of
from people.models import Athlete, Best, GymRack
from plans.blocks import begin, close, follows
from plans.models import Block
from plans.services import assign
from reviews.models import Review
from reviews.services import mark, note, publish
from reviews.verdicts import put_verdict

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
    added, there = 0, set[str]()
    for place, row in enumerate(world["clip"][:first]):
        athlete = athletes[row["athlete"]]
        source = Path(settings.DEMO_DIR) / "clips" / f"{row['file']}.mp4"
        there.add(row["file"])
        if Clip.objects.filter(athlete=athlete, file_name=source.name).exists():
            continue
        clip = receive_clip(
            source, source.name, athlete, lift=row["lift"], load=row["load"], made=row["made"],
            filmed_on=date.today() - timedelta(days=row["days_ago"]),
        )  # fmt: skip
        added += 1
        if place == 0:
            # The first is ready when the application starts; the others are worked on while somebody looks at it.
            run(clip.job.pk)
            _review(Clip.objects.get(pk=clip.pk), row["review"])
        for story in world["story"]:
            files = _files_of(story)
            if row["file"] in files and files <= there:
                request_errand("play_story", story["clip"])
    return added


def _files_of(story: dict[str, Any]) -> set[str]:
    film = [story["film"]["clip"]] if "film" in story else []
    return {story["clip"], *film, *story.get("ends_with", ())}


def play(file: str) -> None:
    """Play what came of a review, once all of its clips are measured: the block, the log, the film of the work, the end."""
    world = demo_world()
    story = next(one for one in world["story"] if one["clip"] == file)
    clips = {name: Clip.objects.filter(file_name=f"{name}.mp4", analysis__isnull=False).first() for name in _files_of(story)}
    clip = clips[file]
    if clip is None or not all(clips.values()) or Block.objects.filter(clip=clip).exists():
        return
    told = next(row for row in world["clip"] if row["file"] == file)
    if not clip.assignments.exists():
        _review(clip, told["review"])
    today = timezone.localdate()
    if story.get("due_today"):
        # Whatever day the demo is looked at, somebody trains.
        clip.athlete.training_days = sorted((today.weekday() + ahead) % 7 for ahead in (0, 2, 4))
        clip.athlete.save(update_fields=["training_days"])
    block = begin(clip, today - timedelta(days=story["begins_days_ago"]), story["weeks"], clip.athlete.training_days)
    for slot in block.slots.filter(on__lt=today, assignment__isnull=False).select_related("assignment"):
        sets = [
            {"load": slot.total, "unit": slot.unit, "reps": slot.assignment.reps, "missed": 0, "rpe": 6.5 + 0.5 * slot.week, "hook": None}
        ]
        enter_done(
            clip.athlete, key=uuid4(), on=slot.on, exercise=slot.assignment.exercise, lift=slot.assignment.lift, sets=sets * slot.sets,
            slot=slot.pk,
        )  # fmt: skip
    link_of(clip.athlete)
    if film := story.get("film"):
        follows(clips[film["clip"]], clip.assignments.get(exercise=film["exercise"]))
    if said := story.get("said"):
        enter_said(clip.athlete, key=uuid4(), words=said)
    if story.get("ends_with"):
        close(block)
    if bruise := story.get("bruise"):
        since = today - timedelta(days=bruise["days_ago"])
        enter_report(clip.athlete, key=uuid4(), kind="bruise", site=bruise["site"], degree=bruise["degree"], since=since)


def _athlete(coach_id: int, row: dict[str, object]) -> Athlete:
    athlete, _ = Athlete.objects.get_or_create(
        coach_id=coach_id, name=row["name"], defaults={"stature_m": row["stature_m"], "notes": row.get("notes", "")}
    )
    for lift, kilos in dict(row["bests"]).items():  # type: ignore[call-overload]
        Best.objects.get_or_create(athlete=athlete, lift=lift, defaults={"kilos": kilos, "on": date.today() - timedelta(days=40)})
    return athlete


def _review(clip: Clip, review: dict[str, object]) -> None:
    """Play the coach on one clip: confirm what stands, say what is to be said at its positions, set work, and hand it over."""
    coach = clip.athlete.coach
    for place, lift in enumerate(clip.analysis.document["lifts"]):
        for fault in [row["fault"] for row in lift["findings"] if row["level"] in ("fault", "watch")]:
            put_verdict(clip, place, fault, "confirmed", coach)
    clip = Clip.objects.get(pk=clip.pk)
    document = clip.analysis.document
    for said in json.loads(json.dumps(review.get("notes", []))):
        frame = document["lifts"][0]["events"][said["at"]]["frame"]
        x, y, radius = (document["disc"][part][frame] for part in ("x_px", "y_px", "radius_px"))
        note(clip, frame, said["words"], coach)
        mark(clip, {"frame": frame, "shape": "circle", "ink": "amber", "points": [[x, y], [x + 1.25 * radius, y]]}, coach)
    Review.objects.update_or_create(clip=clip, defaults={"words": review["words"]})
    for work in json.loads(json.dumps(review["tasks"])):
        assign(clip, work["exercise"], sets=work["sets"], reps=work["reps"], percent=work["percent"], per_week=1, weeks=4)
    publish(clip)

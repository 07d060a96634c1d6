"""An athlete's lifts laid together over the API."""

from __future__ import annotations

from datetime import date, timedelta

import pytest
from django.contrib.auth.models import User
from rest_framework.test import APIClient

from clips.models import Clip
from people.models import Athlete
from reviews.models import Analysis, LiftNumbers, Verdict
from reviews.own import put_own_fault
from reviews.packed import unpacked
from reviews.series import usual_speed
from reviews.services import rebuild

from .conftest import signed_in
from .test_judgement import OWN

DAY = date(2026, 9, 1)


def lifted(athlete: Athlete, load: float, numbers: dict[str, float], *, made: bool | None = True, day: int = 0, unit: str = "kg",
           lift: str = "snatch") -> Clip:  # fmt: skip
    """A clip as it is kept once it was measured, with just these numbers."""
    clip = Clip.objects.create(
        athlete=athlete, lift=lift, load=load, load_unit=unit, made=made, filmed_on=DAY + timedelta(days=day), file_name="a.mp4",
        suffix=".mp4", sha256="0" * 64, size_bytes=1, info={},
    )  # fmt: skip
    Analysis.objects.create(clip=clip, document={"lifts": []})
    LiftNumbers.objects.create(clip=clip, place=0, kind=lift, made=made, numbers={name: [value, 0.01] for name, value in numbers.items()})
    return clip


def series(api: APIClient, athlete: Athlete, **asked: str) -> dict:
    answer = api.get(f"/api/athletes/{athlete.pk}/series", asked)
    assert answer.status_code == 200, answer.json()
    return answer.json()


def test_what_breaks_first_is_told_with_its_load_and_numbers(api: APIClient, athlete: Athlete) -> None:
    for load, loop in ((60, 3.0), (65, 4.0), (70, 5.0), (75, 9.0)):
        lifted(athlete, load, {"loop_out": loop, "peak_velocity": 2.0})
    lifted(athlete, 75, {"loop_out": 15.0, "peak_velocity": 1.9}, made=False)
    told = series(api, athlete)
    assert (told["kind"], told["best_kg"], len(told["lifts"])) == ("snatch", 80, 5)
    (broke,) = told["breaks"]
    assert (broke["name"], broke["unit"], broke["load_kg"], broke["there"]) == ("Bar loops", "cm", 75, 12.0)
    assert told["profile"]["loads"] == 4
    assert {one["measure"]: (one["first"], one["then"]) for one in told["missed"]} == {
        "loop_out": (7.0, 15.0), "peak_velocity": (2.0, 1.9),
    }  # fmt: skip
    assert (told["bands"], told["band_lifts"], told["band_needs"]) == ([], 4, 8)


def test_a_period_and_a_kind_can_be_asked_for_and_pounds_are_weighed_as_kilos(api: APIClient, athlete: Athlete) -> None:
    lifted(athlete, 60, {"peak_velocity": 2.0})
    lifted(athlete, 132.3, {"peak_velocity": 2.0}, unit="lb", day=10)
    lifted(athlete, 80, {"peak_velocity": 1.6}, lift="clean", day=20)
    assert [one["load_kg"] for one in series(api, athlete)["lifts"]] == [60, pytest.approx(60.01, abs=0.01)]
    assert [one["on"] for one in series(api, athlete, since="2026-09-05")["lifts"]] == ["2026-09-11"]
    assert [one["load_kg"] for one in series(api, athlete, kind="clean", until="2026-09-30")["lifts"]] == [80]
    assert api.get(f"/api/athletes/{athlete.pk}/series", {"since": "yesterday"}).status_code == 400


def test_confirmed_faults_and_those_of_the_coachs_own_are_counted_over_the_lifts(api: APIClient, athlete: Athlete, coach: User) -> None:
    own = put_own_fault(coach, OWN)
    lifts = [lifted(athlete, load, {"peak_velocity": 2.0}, day=day) for day, load in enumerate((60, 70, 80, 80))]
    standing = Verdict.Decision.CONFIRMED, Verdict.Decision.ADDED, Verdict.Decision.DISMISSED
    for place, fault, decision in ((0, "bar_looped", 0), (1, own, 1), (2, own, 1), (2, "bar_looped", 2), (3, own, 1)):
        Verdict.objects.create(clip=lifts[place], place=0, fault=fault, decision=standing[decision], by=coach)
    seen, loop = series(api, athlete)["confirmed"]
    assert seen == {
        "fault": own, "name": "Chin down", "entries": [f"{clip.pk}:0" for clip in lifts[1:]], "lightest_kg": 70.0, "heaviest_kg": 80.0,
        "last_on": "2026-09-04",
    }  # fmt: skip
    assert (loop["fault"], loop["entries"]) == ("bar_looped", [f"{lifts[0].pk}:0"])


def test_an_athlete_without_lifts_has_an_empty_series_and_another_coach_none(api: APIClient, athlete: Athlete, stranger: User) -> None:
    told = series(api, athlete)
    assert (told["kinds"], told["lifts"], told["profile"], told["breaks"]) == ([], [], None, [])
    assert signed_in(stranger).get(f"/api/athletes/{athlete.pk}/series").status_code == 404


def test_a_bar_slower_than_this_lifters_usual_is_found_once_enough_lifts_tell(athlete: Athlete, clip: Clip) -> None:
    assert usual_speed(clip) is None
    (row,) = [one for one in clip.analysis.document["lifts"][0]["findings"] if one["fault"] == "low_bar_speed"]
    assert (row["level"], "fewer than eight" in row["says"]) == ("cannot_tell", True)
    for i, load in enumerate((60, 64, 68, 72, 60, 64, 68, 72)):
        lifted(athlete, load, {"peak_velocity": 2.6 + 0.01 * (i % 3)}, day=i)
    usual, spread = usual_speed(clip) or (0.0, 0.0)
    assert usual == pytest.approx(2.61, abs=0.02)
    assert spread < 0.03
    document = rebuild(clip).document
    (row,) = [one for one in document["lifts"][0]["findings"] if one["fault"] == "low_bar_speed"]
    assert row["level"] == "fault"
    assert document["lifts"][0]["measures"]["speed_against_usual"]["value"] < -3


def test_what_is_kept_of_a_lift_follows_its_analysis(clip: Clip) -> None:
    (row,) = clip.numbers.all()
    measures = clip.analysis.document["lifts"][0]["measures"]
    speed = measures["peak_velocity"]
    known, (value,), (sd,) = unpacked([row.numbers], ["peak_velocity", "no_such_measure"])
    assert known == ("peak_velocity",)
    assert (value[0], sd[0]) == (speed["value"], speed["sd"])
    assert (row.kind, row.made) == ("snatch", True)
    clip.lift = "power_snatch"
    clip.save()
    rebuild(clip)
    assert [one.kind for one in clip.numbers.all()] == ["power_snatch"]

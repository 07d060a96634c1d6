"""What a coach demands of the judgement: gates that hold everywhere, a chain that follows at once, own words, work to be edited."""

from __future__ import annotations

import re
import uuid
from datetime import date, timedelta
from typing import Any

import pytest
from django.contrib.auth.models import User
from django.db import connection
from django.test.utils import CaptureQueriesContext
from django.utils import timezone
from icalendar import Calendar
from rest_framework.test import APIClient

from atleta.analysis import build_document
from atleta.coaching import load_library
from clips import derived
from clips.models import Clip
from log.services import enter_done, enter_report, link_of, morning_of
from people.models import Athlete
from plans import blocks, services
from plans.models import Block
from reviews import services as reviews
from reviews.models import LiftNumbers
from reviews.series import keep_numbers

from .conftest import opened, signed_in
from .test_plans import put

TODAY = timezone.localdate()
OWN = {
    "name": "Chin down", "phase": "set_up", "kinds": ["snatch"], "view": "side", "coach": "Chin drops to the chest",
    "athlete": "Look straight ahead before you lift.", "cue": "Eyes ahead.", "why": "The back follows the head.",
    "good": "You looked ahead.",
    "drills": ["lift_pause_off_floor"], "causes": [], "effects": ["bar_forward_off_floor"],
}  # fmt: skip


def bench(api: APIClient, clip: Clip) -> dict:
    return opened(api, clip)


def found(told: dict) -> dict[str, dict]:
    return {row["fault"]: row for row in told["document"]["lifts"][0]["findings"]}


def bruised(athlete: Athlete, since: date = TODAY) -> None:
    enter_report(athlete, key=uuid.uuid4(), kind="bruise", site="thigh", degree=2, since=since)


# -- gates ------------------------------------------------------------------------------------------------------------------


@pytest.fixture
def running(clip: Clip) -> Block:
    """A block under way, of work with contact and work without."""
    put(clip, "hang_above_knee", 60)
    put(clip, "halting_pull_knee", 60)
    return blocks.begin(clip, TODAY, 4, list(range(7)))


def test_a_bruise_pauses_contact_work_of_a_plan_under_way_until_the_coach_says_why_not(
    api: APIClient, clip: Clip, running: Block, stranger: User
) -> None:
    def waiting() -> dict[str, bool]:
        slots = api.get(f"/api/blocks/{running.pk}").data["slots"]
        return {row["name"]: bool(row["paused"]) for row in slots if not row["test"]}

    assert not any(waiting().values())
    bruised(clip.athlete)
    names = {task.exercise: services.library_of(clip.athlete.coach_id)[task.exercise].named("snatch") for task in clip.assignments.all()}
    assert waiting() == {names["hang_above_knee"]: True, names["halting_pull_knee"]: False}
    page = APIClient().get(f"/api/training/{link_of(clip.athlete).token}").data
    held = {row["exercise"]: row["withheld"] for part in ("today", "coming") for row in page[part]}
    assert "healed" in held["hang_above_knee"]
    assert held["halting_pull_knee"] == ""
    for slot in running.slots.exclude(assignment=None):
        ((row,), name) = (morning_of(clip.athlete.coach_id, slot.on)["due"], names[slot.assignment.exercise])
        assert (f"{name} · paused: {held['hang_above_knee']}" if "hang" in slot.assignment.exercise else name) in row["says"]
    assert "healed" in held["test"]
    summaries = [
        str(event["SUMMARY"]) for event in Calendar.from_ical(api.get(f"/api/athletes/{clip.athlete_id}/plan.ics").content).walk("VEVENT")
    ]
    assert sum(line.startswith("Paused: ") for line in summaries) == 4
    task = clip.assignments.get(exercise="hang_above_knee")
    address = f"/api/assignments/{task.pk}/excuses"
    assert api.post(address, {"words": "ok"}, format="json").status_code == 400
    assert signed_in(stranger).post(address, {"words": "Seen today, it is healed."}, format="json").status_code == 404
    assert api.post(address, {"words": "Seen today, it is healed."}, format="json").status_code == 201
    assert not any(waiting().values())
    # A bruise that is reported after that pauses it again.
    bruised(clip.athlete, TODAY + timedelta(days=1))
    assert waiting()[names["hang_above_knee"]]


def test_no_reason_stands_against_pain(api: APIClient, clip: Clip, running: Block) -> None:
    enter_report(clip.athlete, key=uuid.uuid4(), kind="pain", site="low back", degree=6, since=TODAY)
    for task in clip.assignments.all():
        api.post(f"/api/assignments/{task.pk}/excuses", {"words": "It will be all right."}, format="json")
    slots = [row for row in api.get(f"/api/blocks/{running.pk}").data["slots"] if not row["test"]]
    assert all("clinician" in row["paused"] and row["stops"] for row in slots)
    assert all(row["says"] == "" for row in api.get(f"/api/athletes/{clip.athlete_id}/plan").data["ratios"])


def test_a_sore_back_leaves_out_what_loads_it(api: APIClient, clip: Clip) -> None:
    enter_report(clip.athlete, key=uuid.uuid4(), kind="pain", site="low back", degree=2, since=TODAY)
    told = api.get(f"/api/clips/{clip.pk}/offers").data
    assert "low back is sore" in told["caution"]
    assert not [row["exercise"] for row in told["offers"] if load_library()[row["exercise"]].low_back]


def test_low_readiness_makes_today_lighter_and_the_coach_decides(api: APIClient, clip: Clip) -> None:
    usual = {row["exercise"]: row for row in api.get(f"/api/clips/{clip.pk}/offers").data["offers"]}
    clip.athlete.days.create(on=TODAY, readiness=2)
    told = api.get(f"/api/clips/{clip.pk}/offers").data
    assert "readiness is 2 of 5" in told["caution"].lower()
    assert "You decide" in told["caution"]
    for row in told["offers"]:
        if row["kind"] == "pull_variation":
            assert row["another_day"]
        elif row["exercise"] in usual and row["sort"] == "drill":
            assert row["percent"] < usual[row["exercise"]]["percent"] or row["percent"] == 0
    # How somebody was days ago says nothing of today.
    clip.athlete.days.update(on=TODAY - timedelta(days=3))
    assert "readiness" not in api.get(f"/api/clips/{clip.pk}/offers").data["caution"]


def test_a_step_of_a_ladder_that_a_bruise_forbids_waits(api: APIClient, clip: Clip) -> None:
    for step in range(4):
        api.put(f"/api/ladders/snatch_top_down/class/{clip.athlete_id}/{step}", {"passed": True}, format="json")
    (row,) = api.get("/api/ladders/snatch_top_down/class").data["rows"]
    assert (row["next"], row["waits"]) == (4, "")
    bruised(clip.athlete)
    (row,) = api.get("/api/ladders/snatch_top_down/class").data["rows"]
    assert "healed" in row["waits"]


# -- the chain follows at once ----------------------------------------------------------------------------------------------


def test_three_offers_lead_one_of_each_sort(api: APIClient, clip: Clip) -> None:
    offers = api.get(f"/api/clips/{clip.pk}/offers").data["offers"]
    first = [row["sort"] for row in offers if row["first"]]
    assert sorted(first) == sorted(set(first))
    assert len(first) <= 3


def test_a_root_that_is_rejected_has_the_chain_read_again_without_measuring_anything(
    api: APIClient, clip: Clip, monkeypatch: pytest.MonkeyPatch
) -> None:
    before = bench(api, clip)
    root = before["document"]["lifts"][0]["story"]["faults"][0]

    def never(*_: object, **__: object) -> None:
        raise AssertionError("a verdict must not measure anything again")

    monkeypatch.setattr("reviews.services.derive", never)
    monkeypatch.setattr("reviews.services.usual_speed", never)
    after = api.put(f"/api/clips/{clip.pk}/verdicts/0/{root}", {"decision": "dismissed"}, format="json").json()
    story = after["document"]["lifts"][0]["story"]
    assert story is None or story["faults"][0] != root
    assert after["document"]["lifts"][0]["measures"] == before["document"]["lifts"][0]["measures"]
    back = api.delete(f"/api/clips/{clip.pk}/verdicts/0/{root}").json()
    assert back["document"] == before["document"]


def test_verdicts_limits_and_preferences_are_undone_and_done_again(api: APIClient, clip: Clip) -> None:
    def undo() -> dict:
        return api.post(f"/api/clips/{clip.pk}/undo").json()

    def redo() -> dict:
        return api.post(f"/api/clips/{clip.pk}/redo").json()

    start = bench(api, clip)
    api.put(f"/api/clips/{clip.pk}/verdicts/0/no_shrug", {"decision": "added", "frame": 40, "note": "Seen twice."}, format="json")
    assert found(bench(api, clip))["no_shrug"]["level"] == "seen"
    assert undo()["document"] == start["document"]
    assert redo()["verdicts"] == [{"place": 0, "fault": "no_shrug", "decision": "added", "frame": 40, "note": "Seen twice."}]
    api.put(f"/api/clips/{clip.pk}/limits/bar_looped/loop_out", {"watch": 40, "fault_at": 50}, format="json")
    assert found(bench(api, clip))["bar_looped"]["level"] == "fine"
    told = undo()
    assert (found(told)["bar_looped"]["level"], told["limits"]) == (found(start)["bar_looped"]["level"], [])
    said = {"position": "vertical", "athlete": None, "clip": str(clip.pk)}
    api.put("/api/schools/first_pull_path", said, format="json")
    assert found(bench(api, clip))["bar_not_brought_back"]["schools"]
    assert found(undo())["bar_not_brought_back"]["schools"] == []
    assert found(redo())["bar_not_brought_back"]["schools"]
    assert [row["what"] for row in bench(api, clip)["corrections"]][-1] == "preference:first_pull_path"


def test_a_preference_for_everyone_that_swept_away_single_ones_brings_them_back_when_undone(api: APIClient, clip: Clip) -> None:
    one = {"position": "high", "athlete": clip.athlete_id}
    api.put("/api/schools/pull_height", one, format="json")
    api.put("/api/schools/pull_height", {"position": "to_the_shoulders", "athlete": None}, format="json")

    def of_athlete() -> str:
        rows = api.get(f"/api/schools?athlete={clip.athlete_id}").json()
        return next(row["position"] for row in rows if row["id"] == "pull_height")

    assert of_athlete() == "to_the_shoulders"
    assert api.post("/api/preferences/undo").status_code == 200
    assert of_athlete() == "high"
    assert api.post("/api/preferences/redo").status_code == 200
    assert of_athlete() == "to_the_shoulders"
    assert api.post("/api/preferences/redo").status_code == 400


def test_a_verdict_and_offers_take_as_many_queries_for_two_years_of_lifts_as_for_one(api: APIClient, clip: Clip) -> None:
    def counted() -> tuple[int, int]:
        bench(api, clip)
        with CaptureQueriesContext(connection) as verdict:
            api.put(f"/api/clips/{clip.pk}/verdicts/0/bar_looped", {"decision": "dismissed"}, format="json")
        with CaptureQueriesContext(connection) as offers:
            api.get(f"/api/clips/{clip.pk}/offers")
        api.delete(f"/api/clips/{clip.pk}/verdicts/0/bar_looped")
        return len(verdict), len(offers)

    few = counted()
    numbers = clip.numbers.get().numbers
    for n in range(40):
        other = Clip.objects.get(pk=clip.pk)
        other.pk, other.id, other._state.adding, other.load = None, uuid.uuid4(), True, 50 + n
        other.save()
        analysis = clip.analysis
        analysis.pk, analysis._state.adding, analysis.clip = None, True, other
        analysis.save()
        LiftNumbers.objects.create(clip=other, place=0, kind="snatch", made=True, numbers=numbers)
    clip.refresh_from_db()
    assert counted() == few


# -- words ------------------------------------------------------------------------------------------------------------------


def test_a_fault_of_ones_own_takes_part_in_chain_hand_over_and_library(api: APIClient, clip: Clip, stranger: User) -> None:
    told = api.post("/api/faults", OWN, format="json")
    assert told.status_code == 201
    mine = next(row for row in told.data["faults"] if row["id"] == "own_chin_down")
    assert (mine["own"], mine["cue"], mine["seen_by_coach"]) == (True, "Eyes ahead.", True)
    assert {"cause": "own_chin_down", "effect": "bar_forward_off_floor"} in told.data["links"]
    assert "own_chin_down" not in {row["id"] for row in signed_in(stranger).get("/api/catalogue").data["faults"]}
    added = api.put(f"/api/clips/{clip.pk}/verdicts/0/own_chin_down", {"decision": "added", "frame": 20}, format="json").json()
    lift = added["document"]["lifts"][0]
    assert lift["story"]["faults"][:2] == ["own_chin_down", "bar_forward_off_floor"]
    assert lift["verdict"]["headline"] == "Chin drops to the chest"
    assert "lift_pause_off_floor" in {row["exercise"] for row in api.get(f"/api/clips/{clip.pk}/offers").data["offers"]}
    points = api.get(f"/api/clips/{clip.pk}/review").json()["preview"]["points"]
    assert [(point["says"], point["cue"]) for point in points] == [("Look straight ahead before you lift.", "Eyes ahead.")]
    # Where it stands on a clip it is put away and keeps its name.
    api.delete("/api/faults/own_chin_down")
    assert next(row for row in api.get("/api/catalogue").data["faults"] if row["id"] == "own_chin_down")["put_away"]
    assert found(bench(api, clip))["own_chin_down"]["name"] == "Chin down"


@pytest.mark.parametrize(("change", "words"), [
    ({"athlete": "Rise 12 % slower."}, "Say it without"), ({"cue": ""}, "cue is too short"), ({"name": "Bar loops"}, "another name"),
    ({"effects": ["sneezed"]}, "no fault called sneezed"), ({"phase": "outcome"}, "earlier in the lift"),
    ({"drills": ["cartwheel"]}, "no exercise called"), ({"kinds": []}, "at least one"),
])  # fmt: skip
def test_an_impossible_fault_of_ones_own_is_refused_with_what_to_change(api: APIClient, change: dict, words: str) -> None:
    refused = api.post("/api/faults", OWN | change, format="json")
    assert refused.status_code == 400
    assert words in refused.data["detail"]


def test_a_coachs_own_words_stand_for_good_or_in_one_review(api: APIClient, clip: Clip) -> None:
    api.put(f"/api/clips/{clip.pk}/verdicts/0/bar_forward_off_floor", {"decision": "confirmed"}, format="json")

    def point() -> dict:
        return api.get(f"/api/clips/{clip.pk}/review").json()["preview"]["points"][0]

    ships = point()
    api.put(
        "/api/faults/bar_forward_off_floor/wording",
        {"sentence": "Bar runs away", "athlete": "Keep it home.", "cue": "Home!"},
        format="json",
    )
    assert found(bench(api, clip))["bar_forward_off_floor"]["says"].startswith("Bar runs away · ")
    assert (point()["says"], point()["cue"]) == ("Keep it home.", "Home!")
    once = {"wordings": {"bar_forward_off_floor": {"athlete": "This once: slower."}}}
    api.put(f"/api/clips/{clip.pk}/review", once, format="json")
    assert (point()["says"], point()["cue"]) == ("This once: slower.", "Home!")
    bad = api.put(f"/api/clips/{clip.pk}/review", {"wordings": {"bar_forward_off_floor": {"cue": "20 ms sooner"}}}, format="json")
    assert bad.status_code == 400
    api.put("/api/faults/bar_forward_off_floor/wording", {}, format="json")
    api.put(f"/api/clips/{clip.pk}/review", {"wordings": {}}, format="json")
    bench(api, clip)
    assert point() == ships


def test_no_sentence_for_the_athlete_has_a_number_that_cannot_be_felt(api: APIClient, clip: Clip) -> None:
    for row in bench(api, clip)["document"]["lifts"][0]["findings"]:
        if row["level"] in ("fault", "watch"):
            api.put(f"/api/clips/{clip.pk}/verdicts/0/{row['fault']}", {"decision": "confirmed"}, format="json")
    told = api.get(f"/api/clips/{clip.pk}/review").json()["preview"]
    sentences = [
        *told["good"],
        told["film_next"],
        *(text for point in told["points"] for text in (point["says"], point["cue"], point["why"])),
    ]
    assert len(sentences) > 4
    for sentence in sentences:
        assert not re.search(r"±|%|\bms\b|\d\.\d\d", sentence), sentence


def test_what_to_film_next_says_from_where_how_far_and_what_must_be_seen(api: APIClient, clip: Clip) -> None:
    told = api.get(f"/api/clips/{clip.pk}/review").json()["preview"]["film_next"]
    assert re.search(r"from the (side|front)", told)
    assert "metres" in told
    assert "hip height" in told
    put(clip, "hook_hold", 80)
    assert "from the front" in api.get(f"/api/clips/{clip.pk}/review").json()["preview"]["film_next"]


# -- work that is edited ----------------------------------------------------------------------------------------------------


def test_a_dose_and_a_block_are_changed_afterwards_and_what_was_done_stays(api: APIClient, clip: Clip, running: Block) -> None:
    task = clip.assignments.get(exercise="halting_pull_knee")
    first = task.slots.order_by("on").first()
    assert first is not None
    enter_done(clip.athlete, key=uuid.uuid4(), on=first.on, exercise=task.exercise, lift="snatch", sets=[], slot=first.pk)
    changed = api.patch(f"/api/clips/{clip.pk}/assignments/{task.pk}", {"sets": 2, "percent": 50}, format="json")
    assert (changed.data["sets"], changed.data["percent"], changed.data["total"]) == (2, 50, 40)
    rows = list(task.slots.order_by("on").values_list("sets", "percent"))
    assert rows == [(4, 60), (2, 52.5), (2, 55), (1, 40)]
    refused = api.patch(f"/api/clips/{clip.pk}/assignments/{task.pk}", {"percent": 119}, format="json")
    assert refused.status_code == 400
    assert "goes up to 80 %" in refused.data["detail"]
    longer = api.patch(f"/api/blocks/{running.pk}", {"weeks": 5}, format="json").data
    assert len(longer["weeks"]) == 5
    assert first.pk in {row["id"] for row in longer["slots"]}
    assert api.patch(f"/api/blocks/{running.pk}", {"weeks": 9}, format="json").status_code == 400
    assert api.patch(f"/api/blocks/{running.pk}", {"begins": "2030-01-07"}, format="json").status_code == 400


def test_a_second_block_runs_where_its_rules_allow_it(clip: Clip, running: Block) -> None:
    put(clip, "overhead_squat", 60)
    second = blocks.begin(clip, TODAY, 4, list(range(7)))
    assert set(blocks.open_blocks(clip.athlete)) == {running, second}
    put(clip, "snatch_balance", 60)
    with pytest.raises(blocks.CannotPlan, match="End one of them first"):
        blocks.begin(clip, TODAY, 4, list(range(7)))


def test_two_blocks_that_load_the_low_back_day_after_day_do_not_go_together(clip: Clip) -> None:
    put(clip, "halting_pull_knee", 60)
    days = [TODAY.weekday()]
    blocks.begin(clip, TODAY, 4, days)
    put(clip, "romanian_deadlift", 60)
    with pytest.raises(blocks.CannotPlan, match="both load the low back"):
        blocks.begin(clip, TODAY, 4, [(TODAY.weekday() + 1) % 7])


def test_a_number_is_compared_at_like_loads_only(api: APIClient, clip: Clip) -> None:
    put(clip)
    monday = date(2026, 3, 2)
    Clip.objects.filter(pk=clip.pk).update(filmed_on=monday - timedelta(days=3))
    clip.refresh_from_db()
    block = blocks.begin(clip, monday, 4, [0])
    block.fault, block.measure, block.lift, block.before = "bar_looped", "loop_out", "snatch", [[9.0, 0.4, 76.0]]
    block.save()
    after = Clip.objects.get(pk=clip.pk)
    after.pk, after.id, after._state.adding, after.filmed_on, after.load = None, uuid.uuid4(), True, monday + timedelta(days=24), 60
    after.save()
    analysis = clip.analysis
    analysis.pk, analysis._state.adding, analysis.clip = None, True, after
    analysis.save()
    LiftNumbers.objects.create(clip=after, place=0, kind="snatch", made=True, numbers={"loop_out": [3.0, 0.4]})
    told = api.get(f"/api/blocks/{block.pk}").data["result"]
    assert (told["word"], told["before"]) == ("not_comparable", None)
    assert told["says"] == "not comparable yet: film 76 kg again"
    (line,) = api.get("/api/morning").data["moved"][0]["says"]
    assert line == f"{told['label']}: not comparable yet: film 76 kg again"
    Clip.objects.filter(pk=after.pk).update(load=77)
    assert api.get(f"/api/blocks/{block.pk}").data["result"]["word"] == "changed"
    (line,) = api.get("/api/morning").data["moved"][0]["says"]
    assert "9.0 cm → 3.0 cm, " in line


def test_a_ladder_of_ones_own_is_written_and_climbed(api: APIClient, clip: Clip, stranger: User) -> None:
    mine = {
        "name": "Back to the snatch", "lift": "snatch", "about": "After a long break, in three steps.",
        "steps": [
            {"exercise": "overhead_squat", "says": "Three sound squats.", "implement": "bar", "sets": 3, "reps": 3,
             "passes": [{"measure": "depth", "at_least": 0}]},
            {"exercise": "hang_above_knee", "says": "From the hang, light.", "implement": "loaded bar", "sets": 3, "reps": 2},
            {"exercise": "full_lift", "says": "The whole lift, on film.", "implement": "loaded bar", "sets": 3, "reps": 1},
        ],
    }  # fmt: skip
    told = api.post("/api/ladders", mine, format="json")
    assert told.status_code == 201, told.data
    (own,) = [row for row in told.data["ladders"] if row["own"]]
    assert own["steps"][0]["passes"][0]["at_least"] == 0
    rows = api.put(f"/api/ladders/{own['id']}/athletes/{clip.athlete_id}").data["rows"]
    assert [row["next"] for row in rows] == [0]
    assert signed_in(stranger).get(f"/api/ladders/{own['id']}/class").status_code == 404
    assert api.delete(f"/api/ladders/{own['id']}").status_code == 400
    wrong = {**mine, "steps": [{**mine["steps"][0], "exercise": "cartwheel"}, *mine["steps"][1:]]}
    refused = api.put(f"/api/ladders/{own['id']}", wrong, format="json")
    assert refused.status_code == 400
    assert refused.data["detail"].startswith("Step 1 of “Back to the snatch”")
    api.delete(f"/api/ladders/{own['id']}/athletes/{clip.athlete_id}")
    assert api.delete(f"/api/ladders/{own['id']}").status_code == 200


def test_a_pull_is_neither_made_nor_missed(api: APIClient, clip: Clip) -> None:
    document = clip.analysis.document
    document["lifts"][0] |= {"kind": "snatch_pull", "made": True}
    keep_numbers(clip, document)
    assert clip.numbers.get().made is None


# -- several things at once ------------------------------------------------------------------------------------------------


def test_what_is_said_while_a_clip_is_worked_out_again_is_not_lost(api: APIClient, clip: Clip, monkeypatch: pytest.MonkeyPatch) -> None:
    begun = []

    def interrupted(*asked: Any) -> Any:
        if not begun:
            begun.append(1)
            api.put(f"/api/clips/{clip.pk}/verdicts/0/no_shrug", {"decision": "added"}, format="json")
        return build_document(*asked)

    monkeypatch.setattr(derived, "build_document", interrupted)
    assert found({"document": reviews.rebuild(clip).document})["no_shrug"]["level"] == "seen"
    assert found(bench(api, clip))["no_shrug"]["level"] == "seen"


def test_a_page_that_was_asked_for_before_a_verdict_does_not_write_over_it(api: APIClient, clip: Clip) -> None:
    earlier = Clip.objects.select_related("analysis").get(pk=clip.pk)
    api.put(f"/api/clips/{clip.pk}/verdicts/0/no_shrug", {"decision": "added"}, format="json")
    reviews.judge_anew(earlier)
    assert found(bench(api, clip))["no_shrug"]["level"] == "seen"

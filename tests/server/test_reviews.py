from __future__ import annotations

import copy
import json
from datetime import timedelta
from importlib import import_module

import pytest
from django.apps import apps
from django.contrib.auth.models import User
from django.utils import timezone
from rest_framework.test import APIClient

from atleta.analysis.findings import good_points
from atleta.document import validate_document
from atleta.events import Recognised
from atleta.motion.body.fit import fit_body
from atleta.motion.body.scene import Body, Observed
from clips.derived import KeptBodies
from clips.models import Clip
from clips.services import forget, receive_clip
from jobs.errands import run_errand
from jobs.pipeline import run
from jobs.services import beat, claim, request_errand
from people.models import Athlete, GymRack
from reviews.models import Analysis, HandOver, Limit, Verdict
from reviews.services import agreement, compose, good_in, make_ready, settings_of

from .conftest import CLIP, opened, signed_in


def findings(bench: dict) -> dict[str, dict]:
    return {row["fault"]: row for row in bench["document"]["lifts"][0]["findings"]}


def test_the_bench_gets_a_valid_document(api: APIClient, clip: Clip) -> None:
    bench = api.get(f"/api/clips/{clip.pk}/bench").json()
    validate_document(bench["document"])
    assert findings(bench)["bar_forward_off_floor"]["level"] == "fault"


def test_a_dragged_disc_is_followed_at_once_without_the_video_and_can_be_taken_back(
    api: APIClient, clip: Clip, monkeypatch: pytest.MonkeyPatch
) -> None:
    def never(*_: object) -> None:
        raise AssertionError("a correction must not open the video")

    monkeypatch.setattr("atleta.footage.reader.open_video", never)
    clip.original.unlink()
    before = api.get(f"/api/clips/{clip.pk}/bench").json()["document"]
    apex = before["lifts"][0]["events"]["apex"]["frame"]
    x, y = before["disc"]["x_px"][apex], before["disc"]["y_px"][apex]
    moved = api.put(f"/api/clips/{clip.pk}/disc/{apex}", {"x_px": x, "y_px": y - 9}, format="json").json()
    assert moved["disc_points"] == [{"frame": apex, "x_px": x, "y_px": y - 9}]
    assert moved["document"]["disc"]["y_px"][apex] == pytest.approx(y - 9, abs=1e-3)
    height = [document["lifts"][0]["measures"]["peak_height"]["value"] for document in (before, moved["document"])]
    assert height[1] > height[0] + 0.005
    back = api.delete(f"/api/clips/{clip.pk}/disc/{apex}").json()
    assert back["document"] == before


def test_a_lift_is_shown_as_a_made_up_lifter_of_the_athletes_build_does_it(api: APIClient, clip: Clip, stranger: User) -> None:
    own = api.get(f"/api/clips/{clip.pk}/bench").json()["document"]
    told = api.get(f"/api/clips/{clip.pk}/reference/0").json()
    validate_document(told["document"])
    (lift,) = told["document"]["lifts"]
    assert (lift["kind"], told["document"]["clip"]["facing"]) == (own["lifts"][0]["kind"], own["clip"]["facing"])
    assert told["stature_m"] == clip.athlete.stature_m
    assert told["own_limbs"] is True
    thigh, stature = own["lengths_m"]["thigh"] + own["lengths_m"]["shin"], clip.athlete.stature_m
    made_up = told["document"]["lengths_m"]
    assert made_up["thigh"] + made_up["shin"] == pytest.approx(thigh, abs=0.01 * stature)
    assert told["document"]["scale"]["body_m_per_px"] == pytest.approx(own["scale"]["body_m_per_px"], rel=0.03)
    refused = api.get(f"/api/clips/{clip.pk}/reference/7")
    assert (refused.status_code, refused.json()["detail"]) == (400, "The clip has no such lift.")
    assert signed_in(stranger).get(f"/api/clips/{clip.pk}/reference/0").status_code == 404


def test_a_lift_that_the_made_up_lifter_does_not_do_is_refused_in_words(api: APIClient, clip: Clip) -> None:
    clip.analysis.document["lifts"][0]["kind"] = "deadlift"
    clip.analysis.save()
    refused = api.get(f"/api/clips/{clip.pk}/reference/0")
    assert (refused.status_code, refused.json()["detail"]) == (400, "The made-up lifter does not do a deadlift.")


def test_of_a_clip_from_the_front_nothing_is_made_that_shows_only_from_the_side(api: APIClient, clip: Clip) -> None:
    clip.analysis.document["clip"]["view"], clip.analysis.document["clip"]["facing"] = {"kind": "front", "yaw_deg": None}, None
    clip.analysis.save()
    refused = api.get(f"/api/clips/{clip.pk}/reference/0")
    assert (refused.status_code, "from the side" in refused.json()["detail"]) == (400, True)
    for suffix in ("trc", "c3d"):
        answer = api.get(f"/api/clips/{clip.pk}/joints.{suffix}")
        assert (answer.status_code, "from the side" in answer.content.decode()) == (409, True)
    # The sheet of positions has both sides of the body, and is made.
    assert api.get(f"/api/clips/{clip.pk}/positions.png").status_code == 200


@pytest.mark.parametrize(("frame", "x", "words"), [(99999, 10, "frames 0 to"), (10, 5000, "outside the picture"), (10, "left", "number")])
def test_a_correction_that_fits_nothing_is_refused_in_words(api: APIClient, clip: Clip, frame: int, x: object, words: str) -> None:
    answer = api.put(f"/api/clips/{clip.pk}/disc/{frame}", {"x_px": x, "y_px": 10}, format="json")
    assert answer.status_code == 400
    assert words in json.dumps(answer.json())


def test_a_joint_set_by_hand_is_followed_at_once_without_the_video(api: APIClient, clip: Clip, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("atleta.footage.reader.open_video", lambda *_: pytest.fail("a correction must not open the video"))
    before = api.get(f"/api/clips/{clip.pk}/bench").json()["document"]
    apex = before["lifts"][0]["events"]["apex"]["frame"]
    knee = before["joints"]["right_knee"]
    x, y = knee["x_px"][apex] + 9, knee["y_px"][apex]
    after = api.put(f"/api/clips/{clip.pk}/joints/{apex}/right_knee", {"x_px": x, "y_px": y}, format="json").json()
    assert after["joint_points"] == [{"frame": apex, "joint": "right_knee", "x_px": x, "y_px": y}]
    assert after["document"]["joints"]["right_knee"]["x_px"][apex] == pytest.approx(x, abs=1)
    assert after["document"]["joints"]["right_knee"]["x_px"][apex + 1] > knee["x_px"][apex + 1] + 2
    back = api.delete(f"/api/clips/{clip.pk}/joints/{apex}/right_knee").json()
    assert back["document"] == before


def test_corrections_are_undone_and_done_again_one_by_one_and_written_down(api: APIClient, clip: Clip) -> None:
    address = f"/api/clips/{clip.pk}"
    start = api.get(f"{address}/bench").json()["document"]
    leaning = api.put(f"{address}/by-hand", {"plumb_deg": 2.0}, format="json").json()
    assert (leaning["document"]["scale"]["plumb_deg"], leaning["document"]["scale"]["plumb_source"]) == (2.0, "coach")
    both = api.put(f"{address}/disc/60", {"x_px": 500, "y_px": 400}, format="json").json()
    assert api.post(f"{address}/undo").json()["document"] == leaning["document"]
    assert api.post(f"{address}/undo").json()["document"] == start
    assert api.post(f"{address}/undo").status_code == 400
    assert api.post(f"{address}/redo").json()["document"] == leaning["document"]
    assert api.post(f"{address}/redo").json()["document"] == both["document"]
    api.post(f"{address}/undo")
    other = api.put(f"{address}/by-hand", {"capture_rate_hz": 120}, format="json").json()
    assert api.post(f"{address}/redo").status_code == 400
    assert [(row["what"], row["state"]) for row in other["corrections"]] == [
        ("plumb_deg", "done"), ("disc:60", "left_behind"), ("capture_rate_hz", "done"),
    ]  # fmt: skip
    assert all(row["by"] for row in other["corrections"])


def test_scale_trim_and_doubt_by_hand_change_what_rests_on_them(api: APIClient, clip: Clip) -> None:
    address = f"/api/clips/{clip.pk}/by-hand"
    start = api.get(f"/api/clips/{clip.pk}/bench").json()["document"]
    scaled = api.put(address, {"m_per_px": start["scale"]["m_per_px"] * 1.1}, format="json").json()["document"]
    travel = [d["lifts"][0]["measures"]["bar_travel"]["value"] for d in (start, scaled)]
    assert travel[1] == pytest.approx(1.1 * travel[0], rel=0.02)
    assert scaled["scale"]["source"] == "coach"
    api.put(address, {"m_per_px": None}, format="json")
    apex = start["lifts"][0]["events"]["apex"]["frame"]
    doubted = api.put(address, {"distrusted": [[apex - 3, apex + 3]]}, format="json").json()["document"]
    assert doubted["disc"]["x_px"][apex] is None
    assert "disc_hidden" in {row["code"] for row in doubted["warnings"]}
    cut = api.put(address, {"trim": [0, apex + 40]}, format="json").json()["document"]
    assert cut["disc"]["x_px"][apex + 41] is None
    assert cut["lifts"][0]["end_frame"] <= apex + 40


def test_a_position_set_by_hand_outlives_other_corrections_and_is_taken_back(api: APIClient, clip: Clip) -> None:
    start = api.get(f"/api/clips/{clip.pk}/bench").json()["document"]["lifts"][0]["events"]
    address, frame = f"/api/clips/{clip.pk}/events/0/contact", start["contact"]["frame"] + 2
    set_ = api.put(address, {"frame": frame}, format="json").json()
    assert set_["document"]["lifts"][0]["events"]["contact"]["frame"] == frame
    assert set_["corrections"][-1]["what"] == "event:0:contact"
    api.put(f"/api/clips/{clip.pk}/by-hand", {"plumb_deg": 0.5}, format="json")
    kept = api.get(f"/api/clips/{clip.pk}/bench").json()["document"]["lifts"][0]["events"]["contact"]
    assert (kept["frame"], kept["source"]) == (frame, "coach")
    back = api.delete(address).json()["document"]["lifts"][0]["events"]["contact"]
    assert back["source"] == start["contact"]["source"]


@pytest.mark.parametrize(
    ("place", "frame", "words"),
    [("0/dip_start", 60, "no position called dip start"), ("3/contact", 60, "no such lift"), ("0/contact", 99999, "outside the lift")],
)
def test_a_position_that_the_lift_does_not_have_is_refused(api: APIClient, clip: Clip, place: str, frame: int, words: str) -> None:
    answer = api.put(f"/api/clips/{clip.pk}/events/{place}", {"frame": frame}, format="json")
    assert answer.status_code == 400
    assert words in json.dumps(answer.json())


def level_of(bench: dict, fault: str) -> str | None:
    return next((row["level"] for row in bench["document"]["lifts"][0]["findings"] if row["fault"] == fault), None)


def test_a_coachs_own_limits_judge_their_athletes_and_nobody_elses(api: APIClient, clip: Clip, stranger: User) -> None:
    start = api.get(f"/api/clips/{clip.pk}/bench").json()
    assert (level_of(start, "bar_looped"), start["limits"]) == ("fault", [])
    rule = f"/api/clips/{clip.pk}/limits/bar_looped/loop_out"
    everyone = api.put(rule, {"watch": 40, "fault_at": 50, "everyone": True}, format="json").json()
    assert level_of(everyone, "bar_looped") == "fine"
    (told,) = everyone["limits"]
    assert (told["watch"], told["fault_at"], told["everyone"]) == (40, 50, True)
    assert told["usual_watch"] < told["usual_fault_at"] < 40
    # For this athlete alone something else is said, and it outranks what is said for everyone.
    assert level_of(api.put(rule, {"watch": 0.5, "fault_at": 1.5}, format="json").json(), "bar_looped") == "fault"
    assert level_of(api.delete(rule).json(), "bar_looped") == "fine"
    assert level_of(api.delete(rule).json(), "bar_looped") == "fault"
    assert signed_in(stranger).put(rule, {"watch": 1, "fault_at": 2}, format="json").status_code == 404


def test_limits_set_on_one_clip_judge_the_athletes_other_clips_when_they_are_opened(api: APIClient, clip: Clip) -> None:
    Limit.objects.create(coach=clip.athlete.coach, fault="bar_looped", measure="loop_out", watch=40, fault_at=50)
    # One of a rule that is no longer there judges nothing and stops nobody.
    Limit.objects.create(coach=clip.athlete.coach, fault="gone", measure="loop_out", watch=1, fault_at=2)
    told = opened(api, clip)
    assert level_of(told, "bar_looped") == "fine"
    assert [row["fault"] for row in told["limits"]] == ["bar_looped"]


@pytest.mark.parametrize(
    ("rule", "said", "words"),
    [
        ("bar_looped/loop_out", {"watch": 5, "fault_at": 4}, "must be higher"),
        ("bar_looped/peak_height", {"watch": 1, "fault_at": 2}, "No rule"),
        ("nonsense/loop_out", {"watch": 1, "fault_at": 2}, "No rule"), ("bar_looped/loop_out", {"watch": "far"}, "number"),
    ],
)  # fmt: skip
def test_limits_that_fit_no_rule_are_refused_in_words(api: APIClient, clip: Clip, rule: str, said: dict, words: str) -> None:
    answer = api.put(f"/api/clips/{clip.pk}/limits/{rule}", said, format="json")
    assert answer.status_code == 400
    assert words in json.dumps(answer.json())


def test_a_box_about_the_lifter_has_the_clip_looked_at_again_for_this_coach_alone(api: APIClient, clip: Clip) -> None:
    start = api.get(f"/api/clips/{clip.pk}/bench").json()["document"]
    plain = clip.tracks_file
    joints = [joint for name, joint in start["joints"].items() if "right" in name]
    x, y = ([v for joint in joints for v in joint[axis] if v is not None] for axis in ("x_px", "y_px"))
    box = [int(min(x)) - 20, int(min(y)) - 20, int(max(x)) + 20, min(int(max(y)) + 20, 720)]
    asked = api.put(f"/api/clips/{clip.pk}/by-hand", {"lifter_box": box}, format="json").json()
    assert asked["by_hand"]["lifter_box"] == box
    assert asked["document"] == start
    assert api.get(f"/api/clips/{clip.pk}").json()["job"]["state"] == "queued"
    clip.refresh_from_db()
    run(clip.job.pk)
    assert plain.exists()
    assert clip.tracks_file.exists()
    assert clip.tracks_file != plain
    boxed = api.get(f"/api/clips/{clip.pk}/bench").json()["document"]
    assert boxed["disc"] == start["disc"]
    assert boxed["joints"] != {}
    # Taken back, the first look stands again at once.
    assert api.post(f"/api/clips/{clip.pk}/undo").json()["document"] == start
    assert api.get(f"/api/clips/{clip.pk}").json()["job"]["state"] == "done"


@pytest.mark.parametrize(
    ("facts", "words"),
    [
        ({"lifter_box": [10, 10, 20, 5]}, "within the picture"), ({"lifter_box": [10, 10, 30, 40]}, "too small"),
        ({"plumb_deg": 80}, "45"), ({"trim": [30, 5]}, "first and a later last frame"), ({"distrusted": [[1, 99999]]}, "first and a later"),
        ({"capture_rate_hz": "quick"}, "number"), ({"facing": "up"}, "not a valid choice"),
    ],
)  # fmt: skip
def test_facts_by_hand_that_fit_nothing_are_refused_in_words(api: APIClient, clip: Clip, facts: dict, words: str) -> None:
    answer = api.put(f"/api/clips/{clip.pk}/by-hand", facts, format="json")
    assert answer.status_code == 400
    assert words in json.dumps(answer.json())
    assert api.get(f"/api/clips/{clip.pk}/bench").json()["corrections"] == []


def test_a_joint_that_nobody_has_cannot_be_set(api: APIClient, clip: Clip) -> None:
    answer = api.put(f"/api/clips/{clip.pk}/joints/10/tail", {"x_px": 10, "y_px": 10}, format="json")
    assert answer.status_code == 400
    assert "no joint called tail" in json.dumps(answer.json())


def test_a_dismissed_cause_no_longer_explains_anything(api: APIClient, clip: Clip) -> None:
    # The coach sees the bar in front of the thigh; of what leads there only the swing off the floor is left standing.
    verdicts = f"/api/clips/{clip.pk}/verdicts/0"
    api.put(f"{verdicts}/bar_left_in_front", {"decision": "added", "frame": 90}, format="json")
    for cause in ("bar_not_brought_back", "opened_early", "shoulders_too_far_over_at_knee", "hips_rise_first"):
        before = api.put(f"{verdicts}/{cause}", {"decision": "dismissed"}, format="json").json()
    assert findings(before)["bar_left_in_front"]["root"] is False
    after = api.put(f"{verdicts}/bar_forward_off_floor", {"decision": "dismissed"}, format="json").json()
    assert findings(after)["bar_left_in_front"]["root"] is True
    assert findings(after)["bar_forward_off_floor"]["root"] is False
    back = api.delete(f"{verdicts}/bar_forward_off_floor").json()
    assert findings(back)["bar_left_in_front"]["root"] is False


def test_a_fault_seen_by_the_coach_joins_the_chain(api: APIClient, clip: Clip) -> None:
    address = f"/api/clips/{clip.pk}/verdicts/0/bar_rolled_in_setup"
    after = api.put(address, {"decision": "added", "frame": 40, "note": "rolls a hand's breadth"}, format="json").json()
    seen = findings(after)["bar_rolled_in_setup"]
    assert (seen["level"], seen["root"]) == ("seen", True)
    assert "bar_forward_off_floor" in seen["explains"]
    assert findings(after)["bar_forward_off_floor"]["root"] is False


def test_a_verdict_is_on_one_lift_of_a_clip_and_every_fault_is_told_once(api: APIClient, clip: Clip) -> None:
    document = clip.analysis.document
    fault = next(row["fault"] for row in document["lifts"][0]["findings"] if row["level"] == "fault")
    fine = copy.deepcopy(document["lifts"][0])
    next(row for row in fine["findings"] if row["fault"] == fault)["level"] = "fine"
    document["lifts"] = [fine, *(copy.deepcopy(document["lifts"][0]) for _ in range(2))]
    clip.analysis.save()
    by = clip.athlete.coach
    for place, decision in ((0, "dismissed"), (1, "confirmed"), (2, "confirmed")):
        Verdict.objects.create(clip=clip, place=place, fault=fault, decision=decision, by=by)
    (point,) = compose(clip)["points"]
    assert point["fault"] == fault
    assert point["says"].endswith("So in 2 of 3 lifts of this clip.")
    assert sorted(settings_of(clip).dismissed) == [(0, fault)]
    assert api.put(f"/api/clips/{clip.pk}/verdicts/3/{fault}", {"decision": "added"}, format="json").status_code == 400


def test_verdicts_from_before_stand_on_the_lifts_that_they_were_about(clip: Clip) -> None:
    document = clip.analysis.document
    first = document["lifts"][0]
    fault = next(row["fault"] for row in first["findings"] if row["level"] == "fault")
    clean, later = copy.deepcopy(first), copy.deepcopy(first)
    next(row for row in clean["findings"] if row["fault"] == fault)["level"] = "fine"
    later["start_frame"], later["end_frame"] = first["end_frame"] + 1, first["end_frame"] + 100
    document["lifts"] = [clean, later, copy.deepcopy(later)]
    clip.analysis.save()
    by = clip.athlete.coach
    Verdict.objects.create(clip=clip, fault=fault, decision="confirmed", by=by)
    Verdict.objects.create(clip=clip, fault="bar_rolled_in_setup", decision="added", by=by, frame=first["end_frame"] + 5)
    import_module("reviews.migrations.0010_verdicts_of_each_lift").share_out(apps, None)
    stands = set(clip.verdicts.values_list("place", "fault", "decision"))
    assert stands == {(1, fault, "confirmed"), (2, fault, "confirmed"), (1, "bar_rolled_in_setup", "added")}


def test_verdicts_survive_a_new_analysis(api: APIClient, clip: Clip) -> None:
    api.put(f"/api/clips/{clip.pk}/verdicts/0/bar_looped", {"decision": "dismissed"}, format="json")
    api.patch(f"/api/clips/{clip.pk}", {"load": 80}, format="json")
    bench = api.get(f"/api/clips/{clip.pk}/bench").json()
    assert bench["verdicts"] == [{"place": 0, "fault": "bar_looped", "decision": "dismissed", "frame": None, "note": ""}]
    assert findings(bench)["bar_forward_off_floor"]["explains"] == []


@pytest.mark.parametrize(("fault", "decision"), [("no_such_fault", "added"), ("bar_crashed", "confirmed"), ("bar_looped", "shrugged")])
def test_a_verdict_that_fits_nothing_is_refused(api: APIClient, clip: Clip, fault: str, decision: str) -> None:
    assert api.put(f"/api/clips/{clip.pk}/verdicts/0/{fault}", {"decision": decision}, format="json").status_code == 400


# -- work -----------------------------------------------------------------------------------------------------------------

DOSE = {"exercise": "halting_pull_knee", "sets": 4, "reps": 3, "percent": 70, "per_week": 1, "weeks": 4, "note": ""}


def test_the_first_drill_offered_answers_the_first_cause_with_a_load_that_can_be_loaded(api: APIClient, clip: Clip) -> None:
    offered = api.get(f"/api/clips/{clip.pk}/offers").json()
    first = offered["offers"][0]
    assert "the one to fix first" in first["reason"]
    assert first["cautions"]
    # 70 % of 80 kg is 56 kg: a 20 kg bar and 18 kg a side, which 15 + 2.5 + 0.5 make exactly.
    assert first["dose"] == {"basis": "snatch", "best_kilos": 80.0, "unit": "kg", "total": 56.0, "per_side": [15.0, 2.5, 0.5]}


def test_kilos_are_worked_out_from_the_best_and_rounded_down(api: APIClient, clip: Clip) -> None:
    made = api.post(f"/api/clips/{clip.pk}/assignments", {**DOSE, "percent": 71}, format="json").json()
    # 71 % of 80 kg is 56.8 kg; 18.4 kg a side rounds down to 18: 15 + 2.5 + 0.5.
    assert (made["total"], made["per_side"]) == (56.0, [15.0, 2.5, 0.5])
    GymRack.objects.update(pairs={"10": 1, "5": 1})
    coarse = api.post(f"/api/clips/{clip.pk}/assignments", DOSE, format="json").json()
    assert (coarse["total"], coarse["per_side"]) == (50.0, [10.0, 5.0])


def test_the_load_is_worked_out_for_the_share_the_coach_is_thinking_of(api: APIClient, clip: Clip) -> None:
    address = f"/api/clips/{clip.pk}/offers/halting_pull_knee/dose"
    assert api.get(address, {"percent": 71}).json()["total"] == 56.0
    assert "goes up to" in json.dumps(api.get(address, {"percent": 115}).json())
    assert api.get(address, {"percent": "much"}).status_code == 400


def test_a_gym_in_pounds_loads_pounds(api: APIClient, clip: Clip) -> None:
    api.get("/api/rack")
    GymRack.objects.update(unit="lb", bar=45, pairs={"45": 2, "25": 1, "10": 2, "5": 1, "2.5": 1})
    made = api.post(f"/api/clips/{clip.pk}/assignments", DOSE, format="json").json()
    # 56 kg are 123.5 lb; 39.2 lb a side round down to 37.5: 25 + 10 + 2.5.
    assert (made["unit"], made["total"], made["per_side"]) == ("lb", 120.0, [25.0, 10.0, 2.5])


def test_pain_stops_every_drill_and_a_bruise_those_with_contact(api: APIClient, clip: Clip) -> None:
    contact = {**DOSE, "exercise": "brush_deadlift", "percent": 75}
    clip.athlete.contact_bruise = True
    clip.athlete.save()
    offered = api.get(f"/api/clips/{clip.pk}/offers").json()
    assert "Bruise" in offered["caution"]
    assert "brush_deadlift" not in {offer["exercise"] for offer in offered["offers"]}
    refused = api.post(f"/api/clips/{clip.pk}/assignments", contact, format="json")
    assert refused.status_code == 400
    assert "Bruise" in json.dumps(refused.json())
    clip.athlete.pain = 4
    clip.athlete.save()
    offered = api.get(f"/api/clips/{clip.pk}/offers").json()
    assert offered["offers"] == []
    assert "clinician" in offered["caution"]
    assert api.post(f"/api/clips/{clip.pk}/assignments", DOSE, format="json").status_code == 400


@pytest.mark.parametrize("change", [{"percent": 110}, {"exercise": "cartwheel"}, {"sets": 0}, {"per_week": 9}])
def test_work_outside_its_rails_is_refused(api: APIClient, clip: Clip, change: dict) -> None:
    assert api.post(f"/api/clips/{clip.pk}/assignments", {**DOSE, **change}, format="json").status_code == 400
    assert not clip.assignments.exists()


def test_without_a_best_the_work_is_set_and_the_missing_load_is_plain(api: APIClient, clip: Clip) -> None:
    clip.athlete.bests.all().delete()
    made = api.post(f"/api/clips/{clip.pk}/assignments", DOSE, format="json").json()
    assert (made["total"], made["per_side"], made["best_kilos"]) == (None, [], None)


# -- handing over ---------------------------------------------------------------------------------------------------------


def hand_over(api: APIClient, clip: Clip) -> str:
    api.put(f"/api/clips/{clip.pk}/verdicts/0/bar_forward_off_floor", {"decision": "confirmed"}, format="json")
    api.post(f"/api/clips/{clip.pk}/assignments", DOSE, format="json")
    answer = api.post(f"/api/clips/{clip.pk}/hand-over")
    assert answer.status_code == 201
    return answer.json()["link"]["token"]


def test_the_athlete_reads_the_review_without_an_account(api: APIClient, clip: Clip) -> None:
    token = hand_over(api, clip)
    assert len(token) >= 40
    read = APIClient().get(f"/api/handed/{token}").json()
    assert read["athlete"] == "Ida Fenn"
    assert [point["fault"] for point in read["points"]] == ["bar_forward_off_floor"]
    assert read["good"]
    assert (read["tasks"][0]["total"], read["tasks"][0]["per_side"]) == (56.0, [15.0, 2.5, 0.5])
    assert read["tasks"][0]["cautions"]
    picture = APIClient().get(f"/api/handed/{token}/picture.jpg")
    assert b"".join(picture.streaming_content)[:2] == b"\xff\xd8"
    assert api.get(f"/api/clips/{clip.pk}/review").json()["link"]["opened_count"] == 1


def test_what_was_not_confirmed_is_not_said_to_the_athlete(api: APIClient, clip: Clip) -> None:
    token = hand_over(api, clip)
    assert "bar_looped" not in json.dumps(APIClient().get(f"/api/handed/{token}").json()["points"])


def test_a_handed_over_review_stays_as_it_was(api: APIClient, clip: Clip) -> None:
    token = hand_over(api, clip)
    before = APIClient().get(f"/api/handed/{token}").json()
    api.put(f"/api/clips/{clip.pk}/review", {"words": "Changed my mind."}, format="json")
    api.put(f"/api/clips/{clip.pk}/verdicts/0/bar_forward_off_floor", {"decision": "dismissed"}, format="json")
    assert APIClient().get(f"/api/handed/{token}").json() == before


def test_a_link_ends_when_it_is_withdrawn_replaced_or_has_run_out(api: APIClient, clip: Clip) -> None:
    first = hand_over(api, clip)
    second = api.post(f"/api/clips/{clip.pk}/hand-over").json()["link"]["token"]
    assert APIClient().get(f"/api/handed/{first}").status_code == 404
    assert APIClient().get(f"/api/handed/{second}").status_code == 200
    HandOver.objects.update(expires_at=timezone.now() - timedelta(seconds=1))
    assert APIClient().get(f"/api/handed/{second}").status_code == 404
    HandOver.objects.update(expires_at=timezone.now() + timedelta(days=1))
    assert api.delete(f"/api/clips/{clip.pk}/hand-over").json()["link"] is None
    gone = APIClient().get(f"/api/handed/{second}")
    assert gone.status_code == 404
    assert "Ask your coach" in gone.json()["detail"]
    assert APIClient().get(f"/api/handed/{second}/picture.jpg").status_code == 404
    assert APIClient().get("/api/handed/guess").status_code == 404


def test_nothing_to_say_is_not_handed_over(api: APIClient, clip: Clip) -> None:
    document = clip.analysis.document
    for lift in document["lifts"]:
        lift["findings"] = [row for row in lift["findings"] if row["level"] != "fine"]
    clip.analysis.save()
    answer = api.post(f"/api/clips/{clip.pk}/hand-over")
    assert answer.status_code == 400
    assert "nothing to hand over yet" in json.dumps(answer.json())
    assert not HandOver.objects.exists()


def test_the_first_priority_is_the_coachs_choice(api: APIClient, clip: Clip) -> None:
    for fault in ("bar_forward_off_floor", "bar_looped"):
        api.put(f"/api/clips/{clip.pk}/verdicts/0/{fault}", {"decision": "confirmed"}, format="json")
    assert api.get(f"/api/clips/{clip.pk}/review").json()["preview"]["points"][0]["fault"] == "bar_forward_off_floor"
    chosen = api.put(f"/api/clips/{clip.pk}/review", {"first_priority": "bar_looped"}, format="json").json()
    assert chosen["preview"]["points"][0]["fault"] == "bar_looped"


# -- schools --------------------------------------------------------------------------------------------------------------


def asked(api: APIClient, question: str, athlete: int | None = None) -> dict:
    rows = api.get("/api/schools", {"athlete": athlete} if athlete else {}).json()
    return next(row for row in rows if row["id"] == question)


def test_a_position_taken_judges_the_open_clip_at_once_and_stands_beside_the_verdict(api: APIClient, clip: Clip) -> None:
    before = opened(api, clip)
    assert level_of(before, "yanked_from_floor") is not None
    api.put("/api/schools/first_pull_speed", {"position": "fast"}, format="json")
    after = opened(api, clip)
    assert level_of(after, "yanked_from_floor") is None
    api.put("/api/schools/landing_feet", {"position": "no_jump", "athlete": clip.athlete_id}, format="json")
    rows = opened(api, clip)["document"]["lifts"][0]["findings"]
    jumped = next(row for row in rows if row["fault"] == "jumped_forward")
    assert [(one["question"], one["says"]) for one in jumped["schools"]] == [("landing_feet", "No jump")]
    assert jumped["evidence"][0]["fault"] == 4


def test_what_is_said_of_one_athlete_outranks_what_is_said_of_all(api: APIClient, coach: User, athlete: Athlete) -> None:
    other = Athlete.objects.create(coach=coach, name="Bo Renn")
    usual = asked(api, "contact")
    assert (usual["position"], usual["everyone"]) == (usual["positions"][0]["id"], None)
    api.put("/api/schools/contact", {"position": "strike", "athlete": athlete.pk}, format="json")
    assert asked(api, "contact", athlete.pk)["position"] == "strike"
    assert asked(api, "contact", other.pk)["position"] == "brush"
    api.put("/api/schools/contact", {"position": "strike"}, format="json")
    api.put("/api/schools/contact", {"position": "brush", "athlete": other.pk}, format="json")
    assert [asked(api, "contact", one)["position"] for one in (None, athlete.pk, other.pk)] == ["strike", "strike", "brush"]
    api.delete(f"/api/schools/contact?athlete={other.pk}")
    assert (asked(api, "contact", other.pk)["position"], asked(api, "contact", other.pk)["everyone"]) == ("strike", True)


def test_positions_are_the_coachs_own(api: APIClient, athlete: Athlete, stranger: User) -> None:
    api.put("/api/schools/contact", {"position": "strike"}, format="json")
    assert asked(signed_in(stranger), "contact")["position"] == "brush"
    answer = signed_in(stranger).put("/api/schools/contact", {"position": "strike", "athlete": athlete.pk}, format="json")
    assert answer.status_code == 404
    assert signed_in(stranger).get("/api/schools", {"athlete": athlete.pk}).status_code == 404
    assert APIClient().get("/api/schools").status_code in (401, 403)


@pytest.mark.parametrize(("question", "position"), [("contact", "nowhere"), ("nothing", "brush")])
def test_no_such_position_is_said_in_words(api: APIClient, question: str, position: str) -> None:
    answer = api.put(f"/api/schools/{question}", {"position": position}, format="json")
    assert answer.status_code == 400
    assert "no " in json.dumps(answer.json())


def test_how_often_the_coach_agreed_is_counted_over_all_their_clips(api: APIClient, clip: Clip, stranger: User) -> None:
    at = f"/api/clips/{clip.pk}/verdicts/0/bar_looped"
    told = api.put(at, {"decision": "dismissed"}, format="json").json()["agreement"]
    assert told == [{"fault": "bar_looped", "confirmed": 0, "dismissed": 1, "added": 0}]
    told = api.put(at, {"decision": "added", "frame": 90}, format="json").json()["agreement"]
    assert told == [{"fault": "bar_looped", "confirmed": 0, "dismissed": 0, "added": 1}]
    assert agreement(stranger) == {}


def test_what_is_good_in_every_lift_of_a_clip_is_said_once_and_what_is_amiss_in_one_is_not(api: APIClient, clip: Clip) -> None:
    document = clip.analysis.document
    once = api.get(f"/api/clips/{clip.pk}/bench").json()["good"]
    assert len(once) >= 2
    second = copy.deepcopy(document["lifts"][0])
    next(row for row in second["findings"] if row["fault"] == once[0])["level"] = "watch"
    document["lifts"] = [document["lifts"][0], second, copy.deepcopy(document["lifts"][0])]
    clip.analysis.save()
    now = good_in(clip)
    assert once[0] not in now
    assert now[: len(once) - 1] == once[1:]
    assert len(now) == len(set(now))
    told = compose(clip)["good"]
    assert len(told) == len(set(told)) >= 2


def test_what_the_athlete_was_told_of_before_and_is_fine_now_leads_what_is_good(api: APIClient, clip: Clip) -> None:
    good = api.get(f"/api/clips/{clip.pk}/bench").json()["good"]
    findings = {row["fault"]: row["level"] for row in clip.analysis.document["lifts"][0]["findings"]}
    assert good
    assert {findings[fault] for fault in good} == {"fine"}
    earlier = receive_clip(CLIP, "earlier.mp4", clip.athlete, lift="snatch", load=70.0, made=True)
    Clip.objects.filter(pk=earlier.pk).update(added_at=clip.added_at - timedelta(days=7))
    told = next(fault for fault in good_points(clip.analysis.document["lifts"][0]["findings"], set(findings)) if fault != good[0])
    Verdict.objects.create(clip=earlier, fault=told, decision="confirmed", by=clip.athlete.coach)
    assert api.get(f"/api/clips/{clip.pk}/bench").json()["good"][0] == told


def test_looking_at_a_clip_whose_tracks_are_being_made_anew_does_not_begin_them_again(api: APIClient, clip: Clip) -> None:
    clip.tracks_file.unlink()
    # Analysed by an earlier version: it is to be looked at again.
    Analysis.objects.filter(clip=clip).update(judged_by={"version": "0.1"})
    before = opened(api, clip)["document"]
    assert api.get(f"/api/clips/{clip.pk}").json()["job"]["state"] == "queued"
    lease = claim(clip.job)
    assert lease
    assert opened(api, clip)["document"] == before
    beat(clip.job, lease, stage="tracking", progress=0.5)
    assert (
        api.get(f"/api/clips/{clip.pk}").json()["job"] | {"progress": 0.5, "state": "running"}
        == (api.get(f"/api/clips/{clip.pk}").json()["job"])
    )


# -- files ----------------------------------------------------------------------------------------------------------------


def test_what_was_measured_can_be_kept_as_files_by_the_coach_alone(api: APIClient, clip: Clip, stranger: User) -> None:
    document = api.get(f"/api/clips/{clip.pk}/bench").json()["document"]
    kept = api.get(f"/api/clips/{clip.pk}/analysis.json")
    assert json.loads(kept.content) == document
    assert kept["Content-Disposition"] == 'attachment; filename="ida-snatch-76.json"'
    rows = api.get(f"/api/clips/{clip.pk}/bar.csv").content.decode().splitlines()
    lift = document["lifts"][0]
    assert rows[0] == "lift,frame,time_s,x_m,y_m,vx_m_s,vy_m_s,ay_m_s2,disc_x_px,disc_y_px,confidence"
    assert len(rows) == 1 + lift["end_frame"] - lift["start_frame"] + 1
    assert rows[1].split(",")[:2] == ["1", str(lift["bar"]["first_frame"])]
    assert signed_in(stranger).get(f"/api/clips/{clip.pk}/bar.csv").status_code == 404
    assert APIClient().get(f"/api/clips/{clip.pk}/analysis.json").status_code == 404
    clip.analysis.delete()
    assert api.get(f"/api/clips/{clip.pk}/bar.csv").status_code == 404


def never_fitted(monkeypatch: pytest.MonkeyPatch) -> None:
    def fitted(*args: object, **kwargs: object) -> None:
        raise AssertionError("a coach waits for a fit")

    monkeypatch.setattr("atleta.motion.body.sight.fit_body", fitted)
    monkeypatch.setattr("atleta.motion.body.corrected.fit_body", fitted)


def test_which_lift_and_load_it_was_is_corrected_undone_and_written_down(api: APIClient, clip: Clip) -> None:
    address = f"/api/clips/{clip.pk}"
    start = api.get(f"{address}/bench").json()
    assert (start["by_hand"]["lift"], start["by_hand"]["load"]) == ("snatch", 76.0)
    # A position that the other lift does not have is kept for when it is a snatch again.
    moved = api.put(
        f"{address}/events/0/lockout", {"frame": start["document"]["lifts"][0]["events"]["stand"]["frame"]}, format="json"
    ).json()
    pull = api.put(f"{address}/by-hand", {"lift": "snatch_pull", "load": 70}, format="json").json()
    assert (pull["by_hand"]["lift"], pull["document"]["lifts"][0]["kind"]) == ("snatch_pull", "snatch_pull")
    assert api.get(address).json()["load"] == 70
    squat = api.put(f"{address}/by-hand", {"lift": "back_squat"}, format="json")
    assert squat.status_code == 200
    for _ in range(3):
        back = api.post(f"{address}/undo").json()
    assert (back["by_hand"]["lift"], back["by_hand"]["load"]) == ("snatch", 76.0)
    assert back["document"] == moved["document"]
    assert [(row["what"], row["state"], row["by"]) for row in back["corrections"]] == [
        ("event:0:lockout", "done", "maren"), ("lift", "undone", "maren"), ("load", "undone", "maren"), ("lift", "undone", "maren"),
    ]  # fmt: skip
    for wrong in ({"lift": "curl"}, {"lift": None}, {"load": -5}):
        assert api.put(f"{address}/by-hand", wrong, format="json").status_code == 400, wrong


def test_what_an_analysis_offers_is_worked_out_before_it_is_taken_up(api: APIClient, clip: Clip, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("atleta.analysis.calibrate.facing_from_people", lambda people: None)
    monkeypatch.setattr("atleta.analysis.calibrate.facing_from_motion", lambda raw, track: ("right", False))
    make_ready(clip)
    warned = {told["code"]: told.get("offer") for told in Analysis.objects.get(clip=clip).document["warnings"]}
    assert warned["facing_unsure"] == {"facing": "left"}

    never_fitted(monkeypatch)
    assert api.patch(f"/api/clips/{clip.pk}", warned["facing_unsure"], format="json").status_code == 200
    document = api.get(f"/api/clips/{clip.pk}/bench").json()["document"]
    assert document["clip"]["facing"] == "left"
    assert document["joints"]["left_hip"]["x_px"][100] is not None


def test_what_was_not_offered_is_worked_out_while_nothing_waits(api: APIClient, clip: Clip, monkeypatch: pytest.MonkeyPatch) -> None:
    seen = Recognised("clean", 0.7)
    monkeypatch.setattr("atleta.analysis.build._recognised", lambda *_: seen)
    make_ready(clip)
    run_errand(request_errand("look_ahead", clip.job.pk))
    never_fitted(monkeypatch)
    others = [{"lift": kind} for kind in ("clean", "snatch_pull", "clean_pull", "power_snatch", "snatch")]
    for change in ({"facing": "left"}, {"facing": "right"}, *others):
        assert api.patch(f"/api/clips/{clip.pk}", change, format="json").status_code == 200


def test_no_other_lift_or_rate_is_fitted_from_the_start(api: APIClient, clip: Clip, monkeypatch: pytest.MonkeyPatch) -> None:
    make_ready(clip)
    run_errand(request_errand("look_ahead", clip.job.pk))
    fits: list[Body | None] = []

    def fitted(seen: Observed, earlier: Body | None = None, *args: object, **kwargs: object) -> Body:
        fits.append(earlier)
        return fit_body(seen, earlier, *args, **kwargs)  # type: ignore[arg-type]

    monkeypatch.setattr("atleta.motion.body.sight.fit_body", fitted)
    assert api.patch(f"/api/clips/{clip.pk}", {"lift": "clean_pull"}, format="json").status_code == 200
    assert api.put(f"/api/clips/{clip.pk}/by-hand", {"capture_rate_hz": 50}, format="json").status_code == 200
    assert api.patch(f"/api/clips/{clip.pk}", {"lift": "snatch_pull"}, format="json").status_code == 200
    assert len(fits) >= 2
    assert all(earlier is not None for earlier in fits)


def test_nothing_is_left_of_a_clip_that_is_deleted_while_it_is_worked_on_ahead(clip: Clip, monkeypatch: pytest.MonkeyPatch) -> None:
    def deleted_meanwhile(ahead: Clip, _: object) -> None:
        forget(Clip.objects.get(pk=ahead.pk))
        KeptBodies(ahead.bodies_dir).keep("turned-1", None)

    monkeypatch.setattr("jobs.errands.foresee", deleted_meanwhile)
    run_errand(request_errand("look_ahead", clip.job.pk))
    assert not clip.bodies_dir.exists()


def test_an_offer_that_is_out_of_bounds_fails_no_analysis(clip: Clip, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("atleta.analysis.build.slowed_by", lambda bar: 200.0)
    make_ready(clip)
    warned = {told["code"]: told.get("offer") for told in Analysis.objects.get(clip=clip).document["warnings"]}
    assert warned["slow_motion"]["capture_rate_hz"] > 2000


def test_a_cut_that_is_offered_is_not_fitted_before_it_is_made(clip: Clip, monkeypatch: pytest.MonkeyPatch) -> None:
    offered = {"code": "much_outside", "message": "The lift takes 4 of the clip's 6 s.", "offer": {"trim": [30, 300]}}
    monkeypatch.setattr("atleta.analysis.build.long_clip", lambda raw, lifts, trim: [offered])
    kept = sorted(clip.bodies_dir.iterdir())
    make_ready(clip)
    assert offered in Analysis.objects.get(clip=clip).document["warnings"]
    assert sorted(clip.bodies_dir.iterdir()) == kept

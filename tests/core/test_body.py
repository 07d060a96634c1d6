"""The body fitted to a network's points, against the truth of simulated lifters."""

from __future__ import annotations

import itertools
import json
from collections.abc import Iterator
from dataclasses import replace

import numpy as np
import pytest

from atleta.analysis import Settings, build_document, make_ready
from atleta.document import validate_document
from atleta.faults import load_catalogue
from atleta.motion import JOINTS, JointPoint, JointTracks, facing_from_people
from atleta.motion.body import Body, corrected, fit, sight, solver
from atleta.motion.body.model import AT, POINT, POINTS, SIZE, places_of
from atleta.motion.body.residuals import CORRELATED_S, residuals
from atleta.motion.body.scene import Observed, Scene
from atleta.motion.body.sparsity import NUDGE, TERMS, apart, depends
from atleta.simulation import Camera, Performance, Shoot, Wanted, asked_set, frames_of, play, truth_of
from atleta.tracking import PointCorrection, PoseTrack, RawTracks, network

from .world import BUILD, INFO, NEAR, errors_mm, lift, true_tracks

# The network's own deviation (m) where it does not know.
NO_IDEA_M = 0.3


def network_points(truth: dict, frames: np.ndarray) -> np.ndarray:
    """What a network without error says `(looks, 21, 2)`: the true joints; hands are where wrists are."""

    def at(name: str) -> np.ndarray:
        joint = truth["joints"][name.replace("hand", "wrist")]
        return np.stack([np.array(joint["x_px"])[frames], np.array(joint["y_px"])[frames]], axis=-1)

    return np.stack([at(name) for name in network.JOINTS], axis=1)


def doubting(people: PoseTrack, truth: dict, looks: object, joints: list[int], sd_m: float = NO_IDEA_M) -> PoseTrack:
    """The same, less sure of some joints in some looks."""
    sd = people.sd.copy()
    sd[np.ix_(np.arange(len(sd))[looks], joints)] = sd_m / truth["scale"]["body_m_per_px"]
    return replace(people, sd=sd)


def seen(
    done: Performance, camera: Camera, *, noise_m: float = 0.008, seed: int = 0, every: int = 2
) -> tuple[RawTracks, dict, dict, np.ndarray]:
    """Tracks with a network's points, the truth (flat and whole), and the frames looked at."""
    raw, flat_truth = true_tracks(done, camera, noise_px=0.1)
    shoot = Shoot(done, camera)
    truth = truth_of(shoot, frames_of(shoot))
    frames = np.arange(0, len(raw.frame_time_s), every)
    points = network_points(truth, frames)
    noise_px = noise_m / truth["scale"]["body_m_per_px"]
    noise = np.random.default_rng(seed).normal(0, noise_px, points.shape)
    ones = np.ones(points.shape[:2])
    people = PoseTrack(frames, points + noise, np.ones(len(frames)), np.full(points.shape, noise_px), 0 * ones, ones)
    return replace(raw, people=people), flat_truth, truth, frames


def document_of(raw: RawTracks, kind: str, done: Performance, **said: object) -> dict:
    return build_document(raw, INFO, "0" * 64, Settings(**{"lift": kind, "stature_m": done.build.stature_m, "load_kg": 80.0, **said}))


@pytest.mark.parametrize(
    ("kind", "camera"),
    [
        ("snatch", Camera()),
        ("snatch", Camera(yaw_deg=9, facing="left")),
        ("clean", Camera(yaw_deg=-7, height_m=1.3)),
        ("split_jerk", Camera(distance_m=4.0)),
        ("front_squat", Camera()),
    ],
)
def test_joints_are_found_to_a_few_centimetres_from_points_with_noise(kind: str, camera: Camera) -> None:
    done = lift(kind)
    raw, flat_truth, truth, _ = seen(done, camera)
    document = document_of(raw, kind, done)
    validate_document(document)
    side = "right" if camera.facing == "right" else "left"
    until = flat_truth["events"].get("release", 99.0) - 0.1
    off = {part: np.median(errors_mm(document, truth, f"{side}_{part}", until)) for part in NEAR}
    assert max(off.values()) < 35, off
    assert np.median(list(off.values())) < 18, off


LOWER = [network.AT[f"{side}_{part}"] for side in network.SIDES for part in ("hip", "knee", "ankle", "heel", "toe")]


def drawn_to_disc(raw: RawTracks, truth: dict, frames: np.ndarray, low: np.ndarray) -> PoseTrack:
    """In low looks hips, knees and feet are drawn to the disc in front of them, restlessly, and not known for sure."""
    points = raw.people.points.copy()
    disc = np.stack([np.array(truth["disc"][axis])[frames] for axis in ("x_px", "y_px")], axis=-1)
    rng = np.random.default_rng(3)
    for column in LOWER:
        points[low, column] = 0.3 * points[low, column] + 0.7 * disc[low] + rng.normal(0, 25, (int(low.sum()), 2))
    return doubting(replace(raw.people, points=points), truth, low, LOWER)


def test_a_hip_hidden_by_a_disc_is_inferred_though_the_model_puts_it_half_a_metre_off() -> None:
    done = lift("snatch")
    raw, flat_truth, truth, frames = seen(done, Camera())
    events = flat_truth["events"]
    times = np.array(truth["clip"]["frame_time_s"])[frames]
    low = times < events["knee"]
    people = drawn_to_disc(raw, truth, frames, low)
    document = document_of(replace(raw, people=people), "snatch", done)
    for part, raw_column in ((part, network.AT[f"right_{part}"]) for part in ("hip", "knee", "ankle")):
        fitted = np.median(errors_mm(document, truth, f"right_{part}", events["knee"]))
        joint = truth["joints"][f"right_{part}"]
        own = np.stack([np.array(joint[axis])[frames[low]] for axis in ("x_px", "y_px")], axis=-1)
        model = 1000 * truth["scale"]["body_m_per_px"] * np.median(np.hypot(*(people.points[low, raw_column] - own).T))
        assert fitted < 110
        assert fitted < model / 2


def test_stated_deviations_hold_the_errors() -> None:
    inside = []
    for seed, kind in enumerate(("snatch", "clean")):
        done = lift(kind)
        raw, flat_truth, truth, _ = seen(done, Camera(), seed=seed)
        document = document_of(raw, kind, done)
        for part in NEAR:
            joint = document["joints"][f"right_{part}"]
            off = errors_mm(document, truth, f"right_{part}", flat_truth["events"]["release"] - 0.1)
            sd = np.array(joint["sd_cm"], float)
            inside.append(np.mean(off < 20 * sd[np.isfinite(sd)][: len(off)]))
    assert np.mean(inside) > 0.88


def test_a_joint_set_by_hand_is_taken_and_its_neighbours_follow() -> None:
    done = lift("snatch")
    raw, _, _, _ = seen(done, Camera())
    frame = 70
    before = document_of(raw, "snatch", done)["joints"]
    knee = before["right_knee"]
    x, y = knee["x_px"][frame] + 14, knee["y_px"][frame] - 6
    after = document_of(raw, "snatch", done, joint_points=(JointPoint(frame, "right_knee", x, y),))["joints"]
    assert (after["right_knee"]["x_px"][frame], after["right_knee"]["y_px"][frame]) == pytest.approx((x, y), abs=1.5)
    assert after["right_knee"]["sd_cm"][frame] < 0.5
    # In time, and along the limb: the thigh cannot stretch, so the hip comes along.
    for joint, at, least in (("right_knee", frame + 1, 3.0), ("right_knee", frame - 1, 3.0), ("right_hip", frame, 0.5)):
        assert after[joint]["x_px"][at] > before[joint]["x_px"][at] + least
    assert after["right_knee"]["x_px"][frame + 90] == pytest.approx(knee["x_px"][frame + 90], abs=3)


def test_somebody_else_out_of_reach_of_the_bar_is_not_the_lifter() -> None:
    done = lift("snatch")
    raw, flat_truth, truth, frames = seen(done, Camera())
    points = raw.people.points.copy()
    points[40:50] += [420.0, 0.0]
    document = document_of(replace(raw, people=replace(raw.people, points=points)), "snatch", done)
    times = np.array(truth["clip"]["frame_time_s"])[frames]
    joint, true = document["joints"]["right_shoulder"], truth["joints"]["right_shoulder"]
    span = frames[40:50][times[40:50] < flat_truth["events"]["release"] - 0.1]
    off_m = truth["scale"]["body_m_per_px"] * np.array([joint["x_px"][frame] - true["x_px"][frame] for frame in span])
    # A third of a second without a look leaves much open, and says so.
    stated_m = 0.01 * np.array([joint["sd_cm"][frame] for frame in span])
    assert np.median(np.abs(off_m)) < np.median(stated_m) < 0.25


def test_the_camera_behind_the_disc_is_told_from_body_and_bar() -> None:
    done = lift("snatch")
    raw, _, truth, _ = seen(done, Camera())
    told = document_of(raw, "snatch", done)["scale"]
    assert told["body_m_per_px"] == pytest.approx(truth["scale"]["body_m_per_px"], rel=0.03)
    assert abs(told["body_m_per_px"] - truth["scale"]["body_m_per_px"]) < 3 * told["body_sd"] + 0.01 * told["body_m_per_px"]


@pytest.mark.parametrize("facing", ["left", "right"])
def test_noses_and_toes_tell_which_way_the_lifter_faces(facing: str) -> None:
    raw, _, _, _ = seen(lift("clean"), Camera(facing=facing))
    assert facing_from_people(raw.people) == (facing, True)


def test_without_anybody_seen_there_are_no_joints_and_everything_else_stands() -> None:
    done = lift("snatch")
    raw, _ = true_tracks(done, Camera(), noise_px=0.1)
    document = document_of(raw, "snatch", done)
    assert document["joints"] == {}
    assert document["lifts"][0]["measures"]["peak_velocity"]["value"] is not None
    assert facing_from_people(PoseTrack.empty()) is None


def test_points_that_are_noise_alone_give_no_error_and_no_certainty() -> None:
    done = lift("snatch")
    raw, _, _, _ = seen(done, Camera())
    rng = np.random.default_rng(1)
    points = rng.uniform(0, 700, raw.people.points.shape)
    document = document_of(replace(raw, people=replace(raw.people, points=points)), "snatch", done)
    validate_document(document)
    assert np.nanmedian(np.array(document["joints"]["right_hip"]["confidence"], float)) < 0.5


class Kept:
    """Bodies kept in memory, and which of them fits began from."""

    def __init__(self) -> None:
        self.held: dict[str, dict | None] = {}
        self.began_from: list[str | None] = []

    def recall(self, key: str) -> tuple[bool, JointTracks | None]:
        held = self.held.get(key)
        return key in self.held, JointTracks.from_json(held) if held else None

    def kept(self, like: str, unlike: str | None = None) -> Iterator[JointTracks]:
        alike = [key for key in reversed(self.held) if key.startswith(like) and not (unlike and key.startswith(unlike))]
        self.began_from.append(alike[0] if alike else None)
        yield from (JointTracks.from_json(held) for key in alike if (held := self.held[key]))

    def keep(self, key: str, tracks: JointTracks | None) -> None:
        self.held[key] = json.loads(json.dumps(tracks.to_json())) if tracks else None


def test_a_fit_begins_from_one_who_faces_and_holds_the_bar_the_same_way_and_from_no_other() -> None:
    done = lift("snatch")
    raw, _, _, _ = seen(done, Camera())
    bodies, said = Kept(), Settings(lift="snatch", stature_m=1.72, load_kg=80.0)
    for other in (said, replace(said, facing="left"), replace(said, lift="back_squat"), replace(said, lift="clean")):
        build_document(raw, INFO, "0" * 64, other, bodies)
    # Every one of them is another scene.
    assert set(bodies.began_from) == {None}
    first = next(iter(bodies.held))
    dragged = replace(said, joint_points=(JointPoint(70, "right_knee", 600.0, 500.0),))
    build_document(raw, INFO, "0" * 64, dragged, bodies)
    assert bodies.began_from[-1] == first
    # The same on another clock, and then in another lift.
    for other in (replace(dragged, capture_rate_hz=90.0), replace(dragged, capture_rate_hz=90.0, lift="snatch_pull")):
        latest = list(bodies.held)[-1]
        build_document(raw, INFO, "0" * 64, other, bodies)
        assert bodies.began_from[-2:] == [None, latest]


def test_an_earlier_body_that_knows_too_little_of_the_lift_is_none_to_begin_from(monkeypatch: pytest.MonkeyPatch) -> None:
    done = lift("snatch")
    raw, _, _, _ = seen(done, Camera())
    bodies, said = Kept(), Settings(lift="snatch", stature_m=1.72, load_kg=80.0)
    events = build_document(raw, INFO, "0" * 64, said, bodies)["lifts"][0]["events"]
    whole, cut = len(bodies.held), replace(said, trim=(0, events["apex"]["frame"] + 2))
    began: list[Body | None] = []

    def fitted(observed: Observed, before: Body | None, near: bool) -> Body:
        began.append(before)
        return fit_to(observed, before, near)

    fit_to = sight._fitted
    monkeypatch.setattr(sight, "_fitted", fitted)
    short = Kept()
    build_document(raw, INFO, "0" * 64, cut, short)
    build_document(raw, INFO, "0" * 64, said, short)
    build_document(raw, INFO, "0" * 64, cut, bodies)
    assert [before is None for before in began] == [True, True, False]
    assert len(bodies.held) == whole + 1
    # One of the same lift that knows too little is passed over for one of another that knows enough.
    build_document(raw, INFO, "0" * 64, replace(said, lift="snatch_pull", trim=cut.trim), bodies)
    build_document(raw, INFO, "0" * 64, replace(said, lift="snatch_pull"), bodies)
    assert [before is None for before in began[3:]] == [False, False]


# By how much more a fit that began from another may leave open than one from the start.
LEFT_OPEN = 1.05


@pytest.mark.parametrize(
    ("kind", "otherwise"),
    [
        ("snatch", {"plumb_deg": 4.0}), ("snatch", {"disc_diameter_m": 0.42}), ("snatch", {"disc_diameter_m": 0.452}),
        ("clean", {"plumb_deg": -3.0}), ("clean", {"m_per_px": 1.08}), ("split_jerk", {"stature_m": 1.78}),
        ("split_jerk", {"load_kg": 110.0}),
        ("back_squat", {"plumb_deg": 3.0}), ("snatch", {"lift": "snatch_pull"}),
        ("split_jerk", {"lift": "power_jerk"}), ("clean", {"capture_rate_hz": 75.0}), ("snatch", {"capture_rate_hz": 45.0}),
    ],
)  # fmt: skip
def test_after_what_changes_the_whole_of_it_the_fit_goes_on_from_where_it_was_and_ends_as_one_from_the_start(
    kind: str, otherwise: dict, monkeypatch: pytest.MonkeyPatch
) -> None:
    done = lift(kind)
    raw, _, _, _ = seen(done, Camera(yaw_deg=6.0))
    bodies, said = Kept(), Settings(lift=kind, stature_m=1.72, load_kg=80.0)
    before = build_document(raw, INFO, "0" * 64, said, bodies)
    if "m_per_px" in otherwise:
        otherwise = {"m_per_px": otherwise["m_per_px"] * before["scale"]["m_per_px"]}
    costs: list[float] = []
    ends = fit.settled

    def watched(scene: Scene, *args: object) -> tuple:
        states, shared, system = ends(scene, *args)
        smooth = solver.smoothness(scene.seen.time_s, scene.seen.quick)
        costs.append(solver.cost(scene, states, shared, smooth, fit.phased(scene.seen)[1], 1.0))
        return states, shared, system

    monkeypatch.setattr(fit, "settled", watched)
    after = build_document(raw, INFO, "0" * 64, replace(said, **otherwise), bodies)
    assert bodies.began_from[-1] is not None
    (left_open,) = costs
    afresh = build_document(raw, INFO, "0" * 64, replace(said, **otherwise))
    assert left_open < LEFT_OPEN * costs[-1]
    for joint in ("right_hip", "right_shoulder", "right_knee", "right_ankle", "right_elbow"):
        one, other = (np.array([each["joints"][joint][axis] for axis in ("x_px", "y_px")], float) for each in (after, afresh))
        assert np.nanmedian(np.hypot(*(one - other))) < 1.0, joint
        # How well it is known may have been taken over from before.
        sure, anew = (np.nanmedian(np.array(each["joints"][joint]["sd_cm"], float)) for each in (after, afresh))
        assert 0.85 < sure / anew < 1.18, joint


def test_a_body_laid_on_a_picture_read_otherwise_shows_where_it_showed() -> None:
    done = lift("split_jerk")
    raw, _, _, _ = seen(done, Camera(yaw_deg=8.0))
    bodies, said = Kept(), Settings(lift="split_jerk", stature_m=1.72, load_kg=80.0)
    looked: list[tuple[Body, Observed, np.ndarray, Body]] = []

    def watched(body: Body, observed: Observed, points_px: np.ndarray) -> Body:
        looked.append((body, observed, points_px, corrected.laid(body, observed, points_px)))
        return looked[-1][-1]

    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(sight, "laid", watched)
        build_document(raw, INFO, "0" * 64, said, bodies)
        build_document(raw, INFO, "0" * 64, replace(said, plumb_deg=5.0, disc_diameter_m=0.44), bodies)
    ((_, observed, points_px, body),) = looked
    scene, shared = fit.scene_of(observed), fit.shared_of(body)
    # How far aside of the middle joints are goes by the stature, which has not grown with the picture; toes stay on the floor.
    received = fit.phased(observed)[0].received
    shown, _ = scene.project(places_of(body.states, shared, observed.stature_m, received), shared)
    for name in ("near_hip", "near_shoulder", "near_knee", "near_ankle", "near_elbow", "near_wrist", "nose"):
        assert np.median(np.hypot(*(shown - points_px)[:, POINT[name]].T)) < 1.0, name


def test_what_was_kept_comes_back_as_it_was() -> None:
    done = lift("snatch")
    raw, _, _, _ = seen(done, Camera())
    bodies, said = Kept(), Settings(lift="snatch", stature_m=1.72, load_kg=80.0)
    first = build_document(raw, INFO, "0" * 64, said, bodies)
    point = JointPoint(70, "right_knee", 600.0, 500.0)
    build_document(raw, INFO, "0" * 64, replace(said, joint_points=(point,)), bodies)
    assert len(bodies.held) == 2
    again = build_document(raw, INFO, "0" * 64, said, bodies)
    assert again == first
    assert len(bodies.held) == 2


@pytest.mark.parametrize("what", ["disc", "joint"])
def test_a_correction_moves_what_is_about_it_as_a_whole_fit_would_and_nothing_else(what: str) -> None:
    done = lift("snatch")
    raw, _, _, _ = seen(done, Camera())
    bodies, said = Kept(), Settings(lift="snatch", stature_m=1.72, load_kg=80.0)
    before = build_document(raw, INFO, "0" * 64, said, bodies)
    frame = before["lifts"][0]["events"]["contact"]["frame"]
    disc, hip = before["disc"], before["joints"]["right_hip"]
    by_hand = (
        {"corrections": (PointCorrection(frame, disc["x_px"][frame] + 5, disc["y_px"][frame] - 8),)} if what == "disc"
        else {"joint_points": (JointPoint(frame, "right_hip", hip["x_px"][frame] - 10, hip["y_px"][frame] + 6),)}
    )  # fmt: skip
    after = build_document(raw, INFO, "0" * 64, replace(said, **by_hand), bodies)
    whole = build_document(raw, INFO, "0" * 64, replace(said, **by_hand))

    def apart(one: dict, other: dict, frames: slice) -> np.ndarray:
        ways = [
            [np.array(each["joints"][joint][axis][frames], float) for axis in ("x_px", "y_px")] for joint in JOINTS for each in (one, other)
        ]
        return np.array([np.hypot(*np.subtract(a, b)) for a, b in zip(ways[::2], ways[1::2], strict=True)])

    about, later = slice(frame - 10, frame + 11), slice(frame + 60, frame + 120)
    assert np.nanmax(apart(after, before, about)) > (1.5 if what == "disc" else 4)
    assert np.nanmedian(apart(after, whole, about)) < 0.7
    assert np.nanmax(apart(after, before, later)) < 0.01
    spread = [np.nanmedian([each["joints"][joint]["sd_cm"][about] for joint in JOINTS]) for each in (after, whole)]
    assert spread[0] == pytest.approx(spread[1], rel=0.1)


def test_after_many_corrections_the_whole_is_fitted_anew() -> None:
    done = lift("snatch")
    raw, _, _, _ = seen(done, Camera())
    bodies, said = Kept(), Settings(lift="snatch", stature_m=1.72, load_kg=80.0)
    disc = build_document(raw, INFO, "0" * 64, said, bodies)["disc"]
    shares = []
    for frame in range(30, 150, 30):
        moved = PointCorrection(frame, disc["x_px"][frame], disc["y_px"][frame] - 6)
        said = replace(said, corrections=(*said.corrections, moved))
        build_document(raw, INFO, "0" * 64, said, bodies)
        ((_, body),) = JointTracks.from_json(list(bodies.held.values())[-1]).bodies
        shares.append(float(body.alone.mean()))
    assert 0 < shares[0] < max(shares) <= 0.5
    assert 0.0 in shares


@pytest.mark.parametrize("kind", ["snatch", "clean", "split_jerk", "back_squat"])
@pytest.mark.parametrize("by_hand", [False, True])
def test_slopes_of_terms_nudged_together_are_those_of_each_nudged_alone(kind: str, by_hand: bool, monkeypatch: pytest.MonkeyPatch) -> None:
    done = lift(kind)
    raw, _, _, _ = seen(done, Camera(), every=4)
    points = (JointPoint(60, "right_knee", 600.0, 500.0),) if by_hand else ()
    looked, together = [], solver._looked_at

    def watched(scene: Scene, many: solver.Nudged, states: np.ndarray, shared: np.ndarray, slopes: bool) -> tuple:
        told, kinds = together(scene, many, states, shared, slopes)
        looked.append((scene, states, shared, told.copy()))
        return told, kinds

    monkeypatch.setattr(solver, "_looked_at", watched)
    document_of(raw, kind, done, joint_points=points)
    assert len(apart(by_hand)) < TERMS / 2
    for scene, states, shared, found in (looked[0], looked[len(looked) // 2], looked[-1]):
        off = found[..., TERMS]
        for term in range(TERMS):
            moved, known = states.copy(), np.tile(shared, (len(states), 1))
            (moved if term < SIZE else known)[:, term if term < SIZE else term - SIZE] += NUDGE
            alone = (residuals(scene, moved, known)[0] - off) / NUDGE
            np.testing.assert_allclose(found[..., term], alone, rtol=1e-6, atol=1e-6)


def test_a_body_bent_out_of_shape_where_nobody_is_seen_is_put_straight_and_nothing_else_is(monkeypatch: pytest.MonkeyPatch) -> None:
    done = lift("snatch")
    raw, _, _, _ = seen(done, Camera())
    points = raw.people.points.copy()
    points[30:38] += [420.0, 0.0]
    held, settled = [], fit.settled

    def watched(scene: Scene, *rest: object) -> tuple:
        told = settled(scene, *rest)
        held.append((scene, *told[:2]))
        return told

    monkeypatch.setattr(fit, "settled", watched)
    document_of(replace(raw, people=replace(raw.people, points=points)), "snatch", done)
    scene, states, shared = held[-1]
    smooth = solver.smoothness(scene.seen.time_s, scene.seen.quick)
    (blind,) = (rows for rows in fit.out_of_sight(scene) if rows[0][1] - rows[0][0] > 5)
    ((first, stop),) = blind
    # What is usual counts as often as in a stretch just long enough to count once.
    assert scene.anew[first:stop] == pytest.approx(np.sqrt(CORRELATED_S * scene.rate_hz / (stop - first)))
    assert np.delete(scene.anew, np.arange(first, stop)).min() == 1.0
    bent = states.copy()
    bent[first:stop, AT["hip_y"]] -= 0.25 * np.sin(np.pi * (np.arange(first, stop) - first + 1) / (stop - first + 1))
    costs = [float(solver.costs(scene, each, shared, smooth, 1.0).sum()) for each in (states, bent)]
    straight = fit.straightened(scene, bent, shared, smooth, 1.0, fit.out_of_sight(scene))
    assert costs[0] < float(solver.costs(scene, straight, shared, smooth, 1.0).sum()) < costs[1]
    assert np.abs(straight - states)[first:stop, AT["hip_y"]].max() < 0.1
    same = np.delete(np.arange(len(states)), np.arange(first, stop))
    assert (straight[same] == states[same]).all()
    # A body that is as it should be stays so, wherever it is tried.
    assert fit.straightened(scene, states, shared, smooth, 1.0, fit.everywhere(len(states))) == pytest.approx(states, abs=0.05)


def test_stretches_tried_together_are_apart_and_all_of_them_are_everywhere() -> None:
    tried = fit.everywhere(60)
    for together in tried:
        assert all(later[0] - earlier[1] >= fit.APART for earlier, later in itertools.pairwise(together))
    covered = {row for together in tried for first, stop in together for row in range(first, stop)}
    assert covered == set(range(1, 59))


def test_a_joint_nobody_has_is_refused() -> None:
    with pytest.raises(ValueError, match="no joint called left_wing"):
        JointPoint(3, "left_wing", 1.0, 1.0)
    assert len(JOINTS) == 19


def test_looks_at_somebody_who_walks_by_are_left_out_of_the_fit() -> None:
    done = lift("clean")
    raw, flat_truth, truth, frames = seen(done, Camera())
    times = np.array(truth["clip"]["frame_time_s"])[frames]
    caught = (times > flat_truth["events"]["meet"]) & (times < flat_truth["events"]["meet"] + 0.6)
    points = raw.people.points.copy()
    # Another lifter's height of person, walking on behind while the disc hides the one who holds the bar.
    away_px = np.linspace(0.25, 0.8, int(caught.sum())) / truth["scale"]["body_m_per_px"]
    points[caught] = network_points(truth, frames)[caught] + np.stack([-away_px, -0.5 * away_px], axis=-1)[:, None]
    document = document_of(replace(raw, people=replace(raw.people, points=points)), "clean", done)
    until = flat_truth["events"]["release"] - 0.1
    for part in ("shoulder", "hip", "knee"):
        off = errors_mm(document, truth, f"right_{part}", until)
        assert np.percentile(off, 95) < 130, part
        assert np.median(off) < 35, part


def test_a_point_that_the_network_does_not_know_counts_for_little() -> None:
    done = lift("snatch")
    raw, flat_truth, truth, _ = seen(done, Camera())
    points, hips = raw.people.points.copy(), list(network.pair("hip"))
    # Both hips a hand's breadth too high throughout: no look contradicts another.
    points[:, hips, 1] -= 0.1 / truth["scale"]["body_m_per_px"]
    believed = replace(raw.people, points=points)
    until = flat_truth["events"]["release"] - 0.1
    worse, off = (
        np.median(errors_mm(document_of(replace(raw, people=people), "snatch", done), truth, "right_hip", until))
        for people in (believed, doubting(believed, truth, slice(None), hips, 0.15))
    )
    assert off < 0.7 * worse


def test_a_look_at_nobody_says_nothing() -> None:
    done = lift("snatch")
    raw, flat_truth, truth, _ = seen(done, Camera())
    points, score = raw.people.points.copy(), raw.people.score.copy()
    points[::3] += 400.0
    score[::3] = 0.0
    document = document_of(replace(raw, people=replace(raw.people, points=points, score=score)), "snatch", done)
    off = errors_mm(document, truth, "right_shoulder", flat_truth["events"]["release"] - 0.1)
    assert np.median(off) < 30
    assert np.percentile(off, 95) < 90


def test_looks_that_all_show_nobody_are_no_lifter() -> None:
    done = lift("snatch")
    raw, _, _, _ = seen(done, Camera())
    document = document_of(replace(raw, people=replace(raw.people, score=np.zeros_like(raw.people.score))), "snatch", done)
    assert document["joints"] == {}
    assert document["lifts"][0]["measures"]["peak_velocity"]["value"] is not None


@pytest.mark.parametrize(
    ("kind", "begins"), [("snatch_pull_from_blocks", "blocks"), ("clean_pull_from_blocks", "blocks"), ("snatch_pull", "floor")]
)
def test_a_bar_on_blocks_is_told_from_one_on_the_floor_and_its_height_is_not_made_up(kind: str, begins: str) -> None:
    done = lift(kind)
    raw, flat, _, _ = seen(done, Camera(yaw_deg=6.0))
    document = document_of(raw, kind.removesuffix("_from_blocks"), done)
    told = document["lifts"][0]
    assert told["from"] == begins
    assert ("on_blocks" in {row["code"] for row in document["warnings"]}) == (begins == "blocks")
    height = told["measures"]["peak_height"]
    if begins == "blocks":
        # Nothing is yanked off a floor that it does not lie on.
        assert told["measures"]["early_force_ratio"]["value"] is None
        assert height["value"] is None
        assert told["measures"]["hip_height_against_start"]["value"] is None
    else:
        assert height["value"] == pytest.approx(flat["measures"]["peak_height"], abs=0.01)
    trunk = told["measures"]["trunk_angle@contact"]
    assert abs(trunk["value"] - flat["measures"]["trunk_angle@contact"]) < max(3 * trunk["sd"], 4.0)


@pytest.mark.parametrize("changes", [{}, {"back_step_first": False}])
def test_both_feet_of_a_split_land_when_they_truly_do(changes: dict) -> None:
    done = lift("split_jerk", **changes)
    raw, flat, _, _ = seen(done, Camera(cover_m=3.0, aim_height_m=1.25))
    told = document_of(raw, "split_jerk", done)["lifts"][0]
    for name in ("back_foot_down", "front_foot_down"):
        event = told["events"][name]
        assert abs(event["time_s"] - flat["events"][name]) < max(2.5 * event["sd_s"], 0.025), name


@pytest.mark.parametrize("fault", ["jumped_back", "jumped_forward"])
def test_feet_that_jump_under_the_bar_are_told_to_have_jumped_though_a_disc_hides_them_before(fault: str) -> None:
    done = play(asked_set(Wanted("snatch", BUILD, 80.0, 80.0, None, {fault: 0.9}, "", 1)))
    raw, flat_truth, truth, frames = seen(done, Camera())
    low = np.array(truth["clip"]["frame_time_s"])[frames] < flat_truth["events"]["knee"]
    document = document_of(replace(raw, people=drawn_to_disc(raw, truth, frames, low)), "snatch", done)
    jumped = flat_truth["measures"]["feet_shift"]
    assert abs(jumped) > 5
    assert document["lifts"][0]["measures"]["feet_shift"]["value"] == pytest.approx(jumped, abs=0.3 * abs(jumped))


def test_a_look_whose_points_are_made_up_but_for_some_plain_ones_that_agree_is_not_strange(monkeypatch: pytest.MonkeyPatch) -> None:
    done = lift("split_jerk")
    raw, _, _, _ = seen(done, Camera())
    told: list[tuple[Observed, Body]] = []
    strange = sight._strange
    monkeypatch.setattr(sight, "_strange", lambda observed, body: told.append((observed, body)) or strange(observed, body))
    document_of(raw, "split_jerk", done)
    observed, body = told[-1]
    points, sd, here = observed.points.copy(), observed.sd.copy(), slice(60, 75)
    # More than half of the points, half a metre off.
    off = np.flatnonzero(np.arange(len(POINTS)) % 3 > 0)
    points[here, off] += 0.5 * body.focal_px / body.shared["depth"]
    assert strange(replace(observed, points=points), body)[here].all()
    sd[here, off] = 0.4
    assert not strange(replace(observed, points=points, sd=sd), body).any()


def test_bodies_are_scattered_more_the_longer_hip_and_shoulder_were_not_plainly_seen(monkeypatch: pytest.MonkeyPatch) -> None:
    done = lift("snatch")
    raw, _, truth, frames = seen(done, Camera())
    scenes, draw = [], fit.drawn

    def watched(scene: Scene, *args: object) -> np.ndarray:
        scenes.append(scene)
        return draw(scene, *args)

    monkeypatch.setattr(fit, "drawn", watched)
    whole = document_of(raw, "snatch", done)["lifts"][0]
    assert fit._unseen(scenes[-1]) == pytest.approx(1.0)
    knee = whole["events"]["knee"]["frame"]
    nobody = np.abs(frames - knee) <= 20
    blind = document_of(replace(raw, people=replace(raw.people, score=np.where(nobody, 0.0, 1.0))), "snatch", done)["lifts"][0]
    worse = fit._unseen(scenes[-1])
    at_knee = int(np.argmin(np.abs(scenes[-1].seen.time_s - raw.frame_time_s[knee])))
    assert worse[at_knee] == pytest.approx(1.7)
    assert worse[[0, -1]] == pytest.approx(1.0)
    told, before = (one["measures"]["trunk_angle@knee"] for one in (blind, whole))
    assert told["sd"] > 1.5 * before["sd"]
    assert abs(told["value"] - truth["lifts"][0]["measures"]["trunk_angle@knee"]["value"]) < 2 * told["sd"]


def test_once_made_ready_an_analysis_works_out_nothing_that_stays_the_same() -> None:
    once = (load_catalogue, apart, depends)
    for kept in once:
        kept.cache_clear()
    make_ready()
    misses = [kept.cache_info().misses for kept in once]
    assert all(misses)
    done = lift("snatch")
    raw, _, _, _ = seen(done, Camera(), every=4)
    document_of(raw, "snatch", done, joint_points=(JointPoint(60, "right_knee", 600.0, 500.0),))
    assert [kept.cache_info().misses for kept in once] == misses
    assert apart.cache_info().hits

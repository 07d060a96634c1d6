"""Where the person ends: read from the model's map of the person, told apart from discs and others, and what the body is fitted to."""

from __future__ import annotations

from dataclasses import replace

import cv2
import numpy as np
import pytest

from atleta.motion.body.scene import ABOVE, BEHIND, BELOW
from atleta.motion.body.sight import CROWN_RADIUS, FEET_END, FEET_OFF, FEET_UP, SEAT_RADIUS, _ends, _soles
from atleta.simulation import Camera, Wanted, asked_set, play
from atleta.tracking import DIRECTIONS, PoseTrack
from atleta.tracking.pose import DOWNWARD, INPUT, Pose, Square, _matrix

from .test_body import document_of, drawn_to_disc, errors_mm, seen
from .world import BUILD, lift

NO_DISC = (np.nan, np.nan, np.nan)


def looked(*circles: tuple[float, float, float], square: Square, head: tuple[float, float] = (0.0, 0.0), score: float = 1.0) -> Pose:
    """A look at circles in a picture (middle and radius, px), all of them the person, with all upper points at the head."""
    to_square = _matrix(square)
    person = np.zeros((INPUT, INPUT), np.uint8)
    for x, y, radius in circles:
        column, row = to_square[:, :2] @ [x, y] + to_square[:, 2]
        cv2.circle(person, (round(column), round(row)), round(radius * INPUT / square.side_px), 1, -1)
    points = np.tile(np.array(head), (33, 1))
    return Pose(points, score, np.ones(33), square, person, cv2.invertAffineTransform(to_square))


@pytest.mark.parametrize("turn", [0.0, 0.4, -1.2])
def test_a_round_person_ends_a_radius_from_the_middle_whichever_way_the_square_is_turned(turn: float) -> None:
    square = Square(640.0, 360.0, 512.0, turn)
    told = looked((640.0, 360.0, 120.0), square=square, head=(640.0, 360.0)).outline(NO_DISC)[0]
    out = (told - [640.0, 360.0]) @ DIRECTIONS.T
    assert np.diag(out) == pytest.approx(120.0, abs=3.0)


def test_a_disc_in_front_and_whoever_else_is_there_are_not_the_person() -> None:
    square = Square(640.0, 360.0, 512.0)
    person, disc, other = (560.0, 300.0, 60.0), (660.0, 340.0, 70.0), (760.0, 420.0, 90.0)
    pose = looked(person, disc, other, square=square, head=person[:2])
    out = pose.outline(disc)[0] @ DIRECTIONS.T
    assert out[12, 12] == pytest.approx((np.array(person[:2]) @ DIRECTIONS[12]) + 60.0, abs=3.0)
    # To the right the disc cuts off where the person ends.
    assert out[:, 0].max() < person[0] + 60 - 3
    # Where points are made up they say nothing: then who is larger counts.
    larger = replace(pose, score=0.0).outline(disc)[0] @ DIRECTIONS.T
    assert larger[:, 0].max() == pytest.approx(760 + 90, abs=3.0)


def test_what_goes_on_outside_the_square_does_not_end_there() -> None:
    told = looked((640.0, 200.0, 150.0), square=Square(640.0, 360.0, 512.0), head=(640.0, 200.0)).outline(NO_DISC)[0]
    up, down = 18, 6
    assert np.isnan(told[up]).all()
    assert told[down] == pytest.approx([640.0, 350.0], abs=20)


def test_nobody_ends_nowhere() -> None:
    for pose in (looked(square=Square(640.0, 360.0, 512.0)), Pose(np.zeros((33, 2)), 1.0, np.ones(33), Square(0, 0, 1))):
        for told in pose.outline(NO_DISC):
            assert np.isnan(told).all()


def test_downward_the_person_goes_on_below_a_disc_that_cuts_them_in_two() -> None:
    square = Square(640.0, 360.0, 700.0)
    trunk, disc, foot, other = (560.0, 180.0, 80.0), (570.0, 330.0, 90.0), (600.0, 440.0, 60.0), (850.0, 500.0, 60.0)
    all_around, down = looked(trunk, foot, other, square=square, head=trunk[:2]).outline(disc)
    assert all_around[:, 1].max() < disc[1]
    # Who does not reach the disc is somebody else.
    assert np.diag(down @ DOWNWARD.T) == pytest.approx(DOWNWARD @ foot[:2] + foot[2], abs=4)


STATURE_PX = 400.0
HEAD, HIP = np.array([40.0, 330.0]), np.array([-120.0, 250.0])
FAR_DISC = np.array([[0.0, 90.0, 52.0]])


def around(*circles: tuple[np.ndarray, float]) -> np.ndarray:
    """The outline of circles, as `Pose.outline` tells it, of one look; v is up."""
    ways = DIRECTIONS * [1, -1]
    ends = np.stack([middle + radius * ways for middle, radius in circles])
    out = (ends * ways).sum(-1).argmax(axis=0)
    return ends[out, np.arange(len(ways))][None]


LOOKS = 5
TIMES = np.arange(LOOKS) / 30
NOWHERE = np.full((LOOKS, 2), np.nan)


def ends(
    *circles: tuple[np.ndarray, float], low: bool = True, heads: np.ndarray | None = None, hips: np.ndarray | None = None,
    disc: np.ndarray = FAR_DISC, odd: np.ndarray | None = None,
) -> tuple[np.ndarray, np.ndarray]:  # fmt: skip
    """Looks at the same circles; in one of them, where asked, another outline."""
    outline = np.repeat(around(*circles), LOOKS, axis=0)
    if odd is not None:
        outline[2] = odd[0]
    heads, hips = (NOWHERE if told is None else np.tile(told, (LOOKS, 1)) for told in (heads, hips))
    return _ends(TIMES, outline, heads, hips, np.repeat(disc, LOOKS, axis=0), np.full(LOOKS, low), STATURE_PX)


def test_hips_and_head_are_known_by_being_round() -> None:
    seat, crown = ends((HEAD, 29.0), (HIP, 16.0), (np.array([-60.0, 10.0]), 8.0))
    known = np.isfinite(seat[0])
    assert known.sum() >= 3
    assert seat[0, known] == pytest.approx((BEHIND @ HIP + 16.0)[known], abs=0.02 * 16)
    assert crown[0] == pytest.approx(ABOVE @ HEAD + 29.0, abs=0.02 * 29)


@pytest.mark.parametrize("radius", [0.5 * SEAT_RADIUS[0], 1.5 * SEAT_RADIUS[1]])
def test_what_is_rounder_or_sharper_than_hips_is_something_else(radius: float) -> None:
    assert np.isnan(ends((HEAD, 29.0), (HIP, radius * STATURE_PX))[0]).all()


def test_hips_nearer_to_the_head_or_further_from_it_than_a_trunk_is_long_are_something_else() -> None:
    for off in (-60.0, 60.0):
        assert np.isnan(ends((HEAD, 29.0), (HIP + [off, 0.0], 16.0))[0]).all()


def test_without_a_head_there_are_hips_only_where_the_model_told_of_somebody() -> None:
    # A hand above the head is no head.
    hand = (HEAD + [0.0, 60.0], 0.5 * CROWN_RADIUS[0] * STATURE_PX)
    seat, crown = ends(hand, (HIP, 16.0))
    assert np.isnan(crown).all()
    assert np.isnan(seat).all()
    assert np.isfinite(ends(hand, (HIP, 16.0), heads=HEAD)[0]).any()


def test_where_no_disc_hides_them_head_and_hips_are_where_the_models_points_say() -> None:
    seat, crown = ends((HEAD, 29.0), (HIP, 16.0), low=False, heads=HEAD, hips=HIP)
    assert np.isfinite(seat).any()
    assert np.isfinite(crown).any()
    # Somebody who stands behind the lifter ends further out.
    seat, crown = ends((HEAD, 29.0), (HIP, 16.0), low=False, heads=HEAD - [0.0, 40.0], hips=HIP + [40.0, 0.0])
    assert np.isnan(seat).all()
    assert np.isnan(crown).all()


def test_hips_that_a_single_look_shows_elsewhere_are_none() -> None:
    elsewhere = around((HEAD, 29.0), (HIP + [-12.0, -20.0], 16.0))
    seat, _ = ends((HEAD, 29.0), (HIP, 16.0), odd=elsewhere)
    assert np.isnan(seat[2]).all()
    assert np.isfinite(seat[[0, 1, 3, 4]]).any(axis=1).all()


def test_hips_at_the_edge_of_a_disc_are_cut_off_by_it() -> None:
    near = np.array([[*(HIP + [-30.0, 0.0]), 52.0]])
    assert np.isnan(ends((HEAD, 29.0), (HIP, 16.0), disc=near)[0]).all()


def test_a_head_beside_a_bar_overhead_is_not_taken_for_the_highest() -> None:
    overhead = np.array([[20.0, 460.0, 52.0]])
    assert np.isnan(ends((HEAD, 29.0), (HIP, 16.0), heads=HEAD, disc=overhead)[1]).all()


HEEL, TOE = np.array([-30.0, 0.0]), np.array([35.0, 0.0])


def soles(
    heel: np.ndarray = HEEL, toe: np.ndarray = TOE, *, odd: np.ndarray | None = None, disc: np.ndarray = FAR_DISC, plain: bool = False
) -> np.ndarray:
    """What is told of looks at a foot whose model points lie on heel and toe, plainly or not; in one look, where asked, the toe ends
    elsewhere."""
    outline = np.repeat(np.stack([toe, toe, toe, heel, heel, heel])[None], LOOKS, axis=0)
    if odd is not None:
        outline[2, :3] = odd
    feet = np.tile(np.stack([HEEL, TOE]), (LOOKS, 1, 1))
    return _soles(TIMES, outline, feet, np.full(feet.shape[:2], plain), np.repeat(disc, LOOKS, axis=0), STATURE_PX)


def test_toes_and_heels_are_outermost_below() -> None:
    assert soles() == pytest.approx(np.tile(np.maximum(BELOW @ HEEL, BELOW @ TOE), (LOOKS, 1)))


def test_a_toe_that_a_single_look_leaves_out_is_none() -> None:
    told = soles(odd=TOE - [40.0, 0.0])
    assert np.isnan(told[2, :3]).all()
    assert np.isfinite(np.delete(told, 2, axis=0)).all()
    assert np.isfinite(told[2, 3:]).all()


def test_a_foot_whose_front_is_left_out_all_along_is_told_by_the_models_plain_points() -> None:
    beyond = (FEET_END + 0.01) * STATURE_PX
    heel, toe = HEEL - [beyond, beyond], TOE + [beyond, -beyond]
    assert np.isfinite(soles(heel, toe, plain=True)).all()
    cut = soles(heel, TOE - [20.0, 0.0], plain=True)
    assert np.isnan(cut[:, :3]).all()
    assert np.isfinite(cut[:, 3:]).all()
    # What is not plainly seen may be wrong itself.
    assert np.isfinite(soles(heel, TOE - [20.0, 0.0])).all()


def test_feet_are_near_the_models_points_and_the_ground_and_not_cut_off_by_a_disc() -> None:
    away = (FEET_OFF + 0.02) * STATURE_PX
    assert np.isnan(soles(toe=TOE + [away, 0.0])[:, :3]).all()
    high = soles(odd=TOE + [0.0, (FEET_UP + 0.01) * STATURE_PX])
    assert np.isnan(high[2, :3]).all()
    assert np.isnan(soles(disc=np.array([[*(TOE + [0.0, 50.0]), 52.0]]))[:, :3]).all()


def outlined(truth: dict, frames: np.ndarray, stature_m: float, seat: float, head: float) -> np.ndarray:
    """The outline of a body whose hips and head are so round (shares of stature), `(looks, directions, 2)` px."""
    px = stature_m / truth["scale"]["body_m_per_px"]

    def at(name: str) -> np.ndarray:
        return np.stack([np.array(truth["joints"][name][axis])[frames] for axis in ("x_px", "y_px")], axis=-1)

    sizes = {"hip": seat, "ear": head, "shoulder": 0.04, "ankle": 0.02, "heel": 0.01, "toe": 0.01, "knee": 0.02}
    ends = np.stack([at(f"{side}_{part}")[:, None] + size * px * DIRECTIONS for part, size in sizes.items() for side in ("left", "right")])
    out = (ends * DIRECTIONS).sum(-1).argmax(axis=0)
    return np.take_along_axis(ends, out[None, ..., None], axis=0)[0]


@pytest.mark.parametrize(("seat", "head"), [(0.034, 0.062), (0.048, 0.072)])
@pytest.mark.parametrize("facing", ["right", "left"])
def test_hips_that_the_model_draws_to_the_disc_are_where_the_outline_ends_however_high_they_are_set(
    facing: str, seat: float, head: float
) -> None:
    done = play(asked_set(Wanted("snatch", BUILD, 80.0, 80.0, None, {"hips_high_at_start": 0.9}, "", 1)))
    raw, flat_truth, truth, frames = seen(done, Camera(facing=facing))
    events, times = flat_truth["events"], np.array(truth["clip"]["frame_time_s"])[frames]
    blind = drawn_to_disc(raw, truth, frames, times < events["knee"])
    outline = outlined(truth, frames, done.build.stature_m, seat, head)
    off = {
        name: np.median(errors_mm(document_of(replace(raw, people=people), "snatch", done), truth, f"{facing}_hip", events["knee"]))
        for name, people in {"blind": blind, "outlined": replace(blind, outline=outline)}.items()
    }
    assert off["outlined"] < 20, off
    assert off["outlined"] < off["blind"] / 2, off


def test_a_lifter_whom_the_points_do_not_show_while_the_bar_is_low_is_fitted_to_the_outline() -> None:
    done = lift("snatch")
    raw, flat_truth, truth, frames = seen(done, Camera())
    events, times = flat_truth["events"], np.array(truth["clip"]["frame_time_s"])[frames]
    nobody = replace(raw.people, score=np.where(times < events["contact"], 0.0, raw.people.score))
    outline = outlined(truth, frames, done.build.stature_m, 0.040, 0.065)
    document = document_of(replace(raw, people=replace(nobody, outline=outline)), "snatch", done)
    for part, most in (("hip", 25), ("shoulder", 45)):
        assert np.median(errors_mm(document, truth, f"right_{part}", events["knee"])) < most


def with_soles(truth: dict, frames: np.ndarray, people: PoseTrack) -> PoseTrack:
    """The same looks, with feet that end a little beyond heels and toes in the picture."""

    def at(name: str) -> np.ndarray:
        return np.stack([np.array(truth["joints"][name][axis], float)[frames] for axis in ("x_px", "y_px")], axis=-1)

    feet = np.stack([at(f"{side}_{part}") for side in ("left", "right") for part in ("heel", "toe")], axis=1)
    ends = feet[:, :, None] + 0.004 * BUILD.stature_m / truth["scale"]["body_m_per_px"] * DOWNWARD
    out = (ends * DOWNWARD).sum(-1).argmax(axis=1)
    return replace(people, soles=np.take_along_axis(ends, out[:, None, :, None], axis=1)[:, 0])


@pytest.mark.parametrize("facing", ["right", "left"])
def test_feet_that_the_model_tells_wrongly_and_not_plainly_stand_where_the_outline_ends(facing: str) -> None:
    done = lift("snatch")
    raw, flat_truth, truth, frames = seen(done, Camera(facing=facing))
    stand = flat_truth["events"]["stand"]
    points = raw.people.points.copy()
    points[:, 27:33, 0] += (0.05 if facing == "right" else -0.05) / truth["scale"]["body_m_per_px"]
    heat = raw.people.heat.copy()
    heat[:, 27:33] = 0.4
    told = replace(raw.people, points=points, heat=heat)
    off = {
        name: np.median(errors_mm(document_of(replace(raw, people=people), "snatch", done), truth, f"{facing}_toe", stand))
        for name, people in {"points": told, "soles": with_soles(truth, frames, told)}.items()
    }
    assert off["soles"] < 22, off
    assert off["soles"] < 0.7 * off["points"], off


def test_outlines_survive_being_written_and_read() -> None:
    rng = np.random.default_rng(1)
    kept = PoseTrack(
        np.array([3, 5]),
        rng.normal(0, 300, (2, 33, 2)),
        np.ones(2),
        np.ones((2, 33)),
        rng.normal(0, 300, (2, *DIRECTIONS.shape)),
        rng.normal(0, 300, (2, *DOWNWARD.shape)),
    )
    read = PoseTrack.from_json(kept.to_json())
    assert read.outline == pytest.approx(kept.outline, abs=1e-3)
    assert read.soles == pytest.approx(kept.soles, abs=1e-3)

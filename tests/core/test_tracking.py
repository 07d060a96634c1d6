from __future__ import annotations

import json
from dataclasses import dataclass, replace
from typing import Any

import cv2
import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from atleta.footage import read_frames
from atleta.tracking import (
    Box,
    DiscTrack,
    DiscTracker,
    PointCorrection,
    PoseTrack,
    RawTracks,
    Rim,
    Tracklet,
    apply_corrections,
    choose_lifted,
    fit_rim,
    follow_lifter,
    scout,
)
from atleta.tracking.network import AT, JOINTS, Look, Square, pair
from atleta.tracking.people import FIRST_SQUARES_M, SEARCH_AGAIN
from atleta.tracking.rim import UNSEEN
from atleta.tracking.schedule import worth_looking
from atleta.tracking.scout import Scout
from atleta.tracking.sight import Sight

from .world import DEMO, disc_picture, follow, rise


@settings(max_examples=40, deadline=None)
@given(
    st.floats(200, 440), st.floats(130, 230), st.floats(18, 90), st.floats(0.86, 1.0), st.floats(-1, 1), st.floats(-1, 1), st.booleans()
)  # fmt: skip
def test_a_rim_is_found_to_about_a_tenth_of_a_pixel_from_a_rough_guess(
    x: float, y: float, radius: float, squeeze: float, off_x: float, off_y: float, inverted: bool
) -> None:
    dark, light = (170.0, 40.0) if inverted else (40.0, 170.0)
    picture = disc_picture(x, y, radius, squeeze=squeeze, dark=dark, light=light)
    reach = 0.08 * radius
    rim = fit_rim(picture, Rim(x + off_x * reach, y + off_y * reach, radius * 1.02), search_px=2.5 * reach + 3, rounds=3)
    assert rim is not None
    assert np.hypot(rim.x_px - x, rim.y_px - y) < 0.1 + 0.001 * radius
    assert rim.radius_px == pytest.approx(radius, abs=0.15 + 0.001 * radius)
    assert rim.squeeze == pytest.approx(squeeze, abs=0.012)


def test_a_third_of_the_rim_hidden_moves_the_centre_by_less_than_a_quarter_pixel() -> None:
    picture = disc_picture(320.3, 180.7, 60)
    picture[:, 355:] = 90
    rim = fit_rim(picture, Rim(322, 179, 60), search_px=6)
    assert rim is not None
    assert np.hypot(rim.x_px - 320.3, rim.y_px - 180.7) < 0.25
    assert 0.5 < rim.support < 0.85


def test_no_rim_is_found_where_there_is_none() -> None:
    empty = np.full((360, 640), 120, np.uint8)
    assert fit_rim(empty, Rim(320, 180, 50), search_px=10) is None
    noise = np.clip(np.random.default_rng(0).normal(120, 4, (360, 640)), 0, 255).astype(np.uint8)
    found = fit_rim(noise, Rim(320, 180, 50), search_px=10)
    assert found is None or found.support < 0.42
    assert Scout().look(Sight(empty)) == []


def test_the_outer_ring_of_a_painted_disc_is_the_rim() -> None:
    picture = disc_picture(320, 180, 70)
    inner = disc_picture(320, 180, 44, dark=200, light=40)
    hub = disc_picture(320, 180, 20, dark=60, light=200)
    rows, columns = np.mgrid[0:360, 0:640]
    distance = np.hypot(columns - 320, rows - 180)
    picture = np.where(distance < 32, hub, np.where(distance < 57, inner, picture)).astype(np.uint8)
    best, _ = Scout().look(Sight(picture))[0]
    assert best.radius_px == pytest.approx(70, abs=0.5)


@pytest.mark.parametrize(("off_px", "grown"), [(1.7, True), (8.0, False)])
def test_a_hub_that_stands_out_belongs_to_its_disc_and_one_beside_its_middle_does_not(off_px: float, grown: bool) -> None:
    picture = disc_picture(320, 180, 67)
    hub = disc_picture(320 + off_px, 180, 24, dark=120, light=40)
    rows, columns = np.mgrid[0:360, 0:640]
    picture = np.where(np.hypot(columns - 320, rows - 180) < 50, hub, picture).astype(np.uint8)
    outer = scout.outermost(picture, Rim(320 + off_px, 180, 24, support=0.9))
    assert outer.radius_px == pytest.approx(67 if grown else 24, abs=0.5)


def test_one_look_finds_discs_told_by_brightness_and_discs_told_by_colour() -> None:
    luma = disc_picture(160.2, 180, 40)
    # Half-size planes that know of a disc on the right alone, and it is as bright as the floor.
    u = disc_picture(235.2, 90, 25, size=(180, 320), dark=190, light=128)
    v = disc_picture(235.2, 90, 25, size=(180, 320), dark=90, light=128)
    found = sorted(Scout().look(Sight(luma, lambda: (u, v))), key=lambda one: one[0].x_px)
    assert [plane for _, plane in found] == ["luma", "muted"]
    assert [(rim.x_px, rim.radius_px) for rim, _ in found] == [
        pytest.approx((160.2, 40), abs=0.3),
        pytest.approx((2 * 235.2 + 0.5, 50), abs=0.6),
    ]


def test_what_was_no_disc_is_not_fitted_again_until_something_changes_there(monkeypatch: pytest.MonkeyPatch) -> None:
    # Short arcs: votes for a centre, and no disc.
    clutter = np.full((360, 640), 120, np.uint8)
    for x, y, radius in ((150, 150, 40), (470, 200, 60), (320, 90, 30)):
        for begin in range(0, 360, 60):
            cv2.ellipse(clutter, (x, y), (radius, radius), 0, begin, begin + 25, 30, 2)
    fits: list[Rim] = []

    def counted(*args: Any, **named: Any) -> Rim | None:
        fits.append(args[1])
        return fit_rim(*args, **named)

    monkeypatch.setattr(scout, "fit_rim", counted)
    watch = Scout()
    assert watch.look(Sight(clutter)) == []
    assert fits
    fits.clear()
    assert watch.look(Sight(clutter)) == []
    assert fits == []
    # A disc is rolled in where there was none.
    rolled_in = clutter.copy()
    disc = disc_picture(470, 200, 60)
    rolled_in[130:270, 400:540] = disc[130:270, 400:540]
    ((found, _),) = watch.look(Sight(rolled_in))
    assert (found.x_px, found.y_px, found.radius_px) == pytest.approx((470, 200, 60), abs=0.5)


def test_the_lifted_disc_is_followed_from_the_first_frame_and_the_others_are_left_alone() -> None:
    heights = rise()
    rng = np.random.default_rng(1)
    pictures = []
    for y in heights:
        standing = disc_picture(120, 270, 52, noise=0)
        lifted = disc_picture(330.4, y, 50, noise=0)
        pictures.append(np.clip(np.minimum(standing, lifted) + rng.normal(0, 2, lifted.shape), 0, 255).astype(np.uint8))
    track = choose_lifted(follow(pictures))
    error = np.hypot(track.x_px - 330.4, track.y_px - heights)
    assert np.isfinite(error).all()
    assert np.sqrt(np.mean(error**2)) < 0.15
    assert (track.confidence > 0.6).all()


def test_a_disc_that_rests_is_fitted_again_when_it_looks_otherwise(monkeypatch: pytest.MonkeyPatch) -> None:
    fits = 0

    def counted(*args: Any, **named: Any) -> Rim | None:
        nonlocal fits
        fits += 1
        return fit_rim(*args, **named)

    monkeypatch.setattr("atleta.tracking.follow.fit_rim", counted)
    # At rest for a second, and then it creeps to the right by a twentieth of a pixel a frame.
    x_px = 320 + 0.05 * np.maximum(np.arange(120) - 60, 0)
    watch, rested = DiscTracker(), 0
    for index, x in enumerate(x_px):
        watch.feed(index, index / 60, disc_picture(x, 180, 52, noise=1.0, seed=index))
        if index == 20:
            fits = 0
        elif index == 59:
            rested = fits
    followed = max(watch.finish().tracklets, key=lambda one: len(one.x_px))
    assert rested == 0
    assert fits > 5
    assert np.abs(np.array(followed.x_px) - x_px).max() < 0.4


def test_a_disc_as_bright_as_what_is_behind_it_is_followed_by_its_colour() -> None:
    heights = rise()
    rng = np.random.default_rng(1)
    tracker = DiscTracker()
    for index, y in enumerate(heights):
        # Equally bright everywhere but for noise; only the colour planes, at half the size, know of the disc.
        luma = np.clip(rng.normal(120, 2, (360, 640)), 0, 255).astype(np.uint8)
        u = disc_picture(165.2, y / 2, 25, size=(180, 320), dark=190, light=120)
        v = disc_picture(165.2, y / 2, 25, size=(180, 320), dark=90, light=135)
        tracker.feed(index, index / 60, luma, lambda u=u, v=v: (u, v))
    track = choose_lifted(tracker.finish())
    # Pixel centres of the half-size planes lie between those of the full picture.
    error = np.hypot(track.x_px - (2 * 165.2 + 0.5), track.y_px - (heights + 0.5))
    assert np.isfinite(error).all()
    assert np.sqrt(np.mean(error**2)) < 0.5
    assert np.isnan(choose_lifted(follow([luma] * 30)).x_px).all()


def test_a_disc_that_was_told_by_its_colour_is_found_again_by_its_brightness(monkeypatch: pytest.MonkeyPatch) -> None:
    """What told it against the floor need not tell it against the wall: it is the same disc."""
    pictures = [disc_picture(330.4, y, 50, seed=index) for index, y in enumerate(rise()[:40])]
    tracker = DiscTracker()
    for index, picture in enumerate(pictures):
        tracker.feed(index, index / 60, picture)
    (live,) = tracker._live
    live.plane, live.missed_since_s = "muted", 39 / 60
    turned_up = replace(live.last, x_px=live.last.x_px + 20)
    monkeypatch.setattr(tracker._watch, "look", lambda *_: [(turned_up, "luma")])
    tracker._scout(39, 39 / 60, Sight(pictures[-1]))
    assert tracker._live == [live]
    assert (live.plane, live.missed_since_s, live.last) == ("luma", None, turned_up)


def thick_disc(x: float, y: float, seed: int) -> np.ndarray:
    """A disc seen from above, its tread beyond the upper rim, a bright ring within, on a floor that is hardly brighter than itself."""
    times = 4
    large = np.full((times * 480, times * 640), 130, np.uint8)
    cv2.rectangle(large, (0, round(times * (y + 33))), (times * 640, times * 480), 46, -1)
    for up, radius, light, width in ((6, 63, 40, -1), (0, 63, 40, -1), (0, 53, 150, 3 * times)):
        cv2.circle(large, (round(times * x), round(times * (y - up))), times * radius, light, width)
    picture = cv2.resize(large, (640, 480), interpolation=cv2.INTER_AREA)
    return np.clip(picture + np.random.default_rng(seed).normal(0, 1.5, picture.shape), 0, 255).astype(np.uint8)


@pytest.mark.parametrize("seed", [0, 1])
def test_a_disc_that_is_hard_to_tell_from_the_floor_is_not_taken_for_its_own_ring(seed: int) -> None:
    # A camera in the hand, and a bar that rests and is lifted.
    shaken = np.cumsum(np.random.default_rng(seed).normal(0, 1.2, (70, 2)), axis=0)
    places = np.array([330.4, 0.0]) + shaken - shaken.mean(axis=0) + np.column_stack([np.zeros(70), np.repeat(380.0, 70)])
    places[45:, 1] -= 8.0 * np.arange(25)
    track = choose_lifted(follow([thick_disc(x, y, index) for index, (x, y) in enumerate(places)], 30.0))
    # The outline of face and tread together lies three pixels higher than the face.
    assert np.nanmax(np.hypot(track.x_px - places[:, 0], track.y_px - (places[:, 1] - 3))) < 1.5
    assert np.isfinite(track.x_px).mean() > 0.9


def test_a_disc_whose_rim_is_cut_off_where_it_lies_is_found_about_its_ring_on_its_way() -> None:
    heights = rise()
    rows, columns = np.mgrid[0:360, 0:640]
    pictures = []
    for k, y in enumerate(heights):
        ring = disc_picture(320.4, y, 24, dark=150, light=60, seed=k)
        picture = np.where(np.hypot(columns - 320.4, rows - y) < 38, ring, disc_picture(320.4, y, 52, dark=60, seed=k))
        # A banner along the bottom, as what is written into a film, and something that stands there.
        picture[286:] = 20
        picture[190:, 262:288] = 20
        pictures.append(picture.astype(np.uint8))
    assert Scout().look(Sight(pictures[0]))[0][0].radius_px == pytest.approx(24, abs=1)
    track = choose_lifted(follow(pictures))
    assert np.nanmedian(track.radius_px) == pytest.approx(52, abs=0.5)
    seen = np.isfinite(track.y_px)
    assert seen[40:].all()
    off = np.abs(track.y_px - heights)
    assert off[40:].max() < 0.2
    # While it comes out from behind what covered it, a little worse.
    assert np.nanmax(off) < 2.5


def test_a_short_occlusion_leaves_a_gap_and_the_same_disc_after_it() -> None:
    heights = rise(80)
    pictures = [disc_picture(330.4, y, 50, seed=i) for i, y in enumerate(heights)]
    for index in range(38, 46):
        pictures[index][:, 250:420] = 110
    track = choose_lifted(follow(pictures))
    seen = np.isfinite(track.x_px)
    assert not seen[39:45].any()
    assert (track.confidence[~seen] == 0).all()
    assert seen[:37].all()
    assert seen[48:].all()
    assert np.nanmax(np.hypot(track.x_px - 330.4, track.y_px - heights)) < 1.0


def test_a_lifted_disc_that_comes_out_turned_and_not_where_it_went_is_found_again_within_a_tenth_of_a_second() -> None:
    heights, frames = rise(140), np.arange(140)
    # Struck back, it goes out of sight, and is still when it comes into sight again.
    x = np.where(frames < 95, 330.4, np.where(frames < 103, 330.4 - 10.0 * (frames - 94), 322.4))
    pictures = []
    for index in frames:
        picture = disc_picture(x[index], heights[index], 50, seed=index)
        half = cv2.ellipse2Poly((round(x[index]), round(heights[index])), (38, 38), 0 if index < 101 else 180, 0, 180, 5)
        cv2.fillPoly(picture, [half], 230)
        if 101 <= index < 104:
            picture[:, 180:450] = 110
        pictures.append(picture)
    track = choose_lifted(follow(pictures))
    seen = np.isfinite(track.x_px)
    assert seen[:100].all()
    assert seen[111:135].all()
    assert np.nanmax(np.hypot(track.x_px - x, track.y_px - heights)[seen]) < 1.5


def test_a_disc_that_vanishes_is_not_replaced_by_another_one() -> None:
    heights = rise(80)
    pictures = []
    for index, y in enumerate(heights):
        picture = disc_picture(150, 270, 50, noise=0)
        if index < 45:
            picture = np.minimum(picture, disc_picture(330.4, y, 50, noise=0))
        pictures.append(picture)
    track = choose_lifted(follow(pictures))
    assert np.isfinite(track.x_px[:44]).all()
    assert np.nanmin(track.x_px) > 300


@pytest.mark.parametrize("picture", [np.zeros((360, 640), np.uint8), disc_picture(320, 250, 50)], ids=["black", "a disc that never moves"])
def test_nothing_lifted_gives_an_empty_track(picture: np.ndarray) -> None:
    track = choose_lifted(follow([picture] * 30))
    assert np.isnan(track.x_px).all()
    assert (track.confidence == 0).all()


def test_a_single_frame_is_no_track() -> None:
    assert follow([disc_picture(320, 250, 50)]).tracklets == []


def test_raw_tracks_survive_being_written_and_read() -> None:
    raw = follow([disc_picture(330.4, y, 50, seed=i) for i, y in enumerate(rise(30))])
    again = RawTracks.from_json(raw.to_json())
    assert again.frame_time_s == pytest.approx(raw.frame_time_s, abs=1e-6)
    assert np.array_equal(again.motion, raw.motion)
    assert np.allclose(choose_lifted(again).y_px, choose_lifted(raw).y_px, atol=1e-3, equal_nan=True)


# -- corrections ----------------------------------------------------------------------------------------------------------


def piece(first: int, x: np.ndarray, y: np.ndarray, confidence: float = 0.9) -> Tracklet:
    count = len(x)
    return Tracklet(first, list(x), list(y), [50.0] * count, [1.0] * count, [confidence] * count, [0.05] * count, [UNSEEN] * count)


def two_discs() -> RawTracks:
    frames = np.arange(120)
    lifted = piece(0, np.full(120, 300.0), 400 - 2.0 * frames)
    other = piece(0, np.full(120, 600.0), 400 - 1.5 * frames)
    return RawTracks(frames / 60, 1280, 720, [lifted, other], np.zeros((120, 1, 1), np.uint8))


def test_a_disc_whose_rim_the_floor_hides_is_known_by_its_ring_until_it_is_seen() -> None:
    """A bar that rests for 30 frames and rises at 600 px/s; its ring is lost on the way, the disc found a little later."""
    y = 600 - 10.0 * np.maximum(np.arange(120) - 30, 0)
    y = np.maximum(y, 200.0)
    ring, disc = piece(0, np.full(40, 500.0), y[:40]), piece(48, np.full(72, 501.0), y[48:])
    spare = piece(0, np.full(40, 620.0), np.full(40, 590.0))
    ring.radius_px = spare.radius_px = [22.0] * 40
    raw = RawTracks(np.arange(120) / 60, 1280, 720, [spare, ring, disc], np.zeros((120, 4, 4), np.uint8))
    track = choose_lifted(raw)
    assert track.x_px[:40] == pytest.approx(500.0)
    assert track.y_px[:40] == pytest.approx(y[:40])
    assert np.isnan(track.x_px[40:48]).all()
    # As large as the disc, and less surely there.
    assert track.radius_px[:40] == pytest.approx(np.median(disc.radius_px))
    assert track.confidence[:40].max() < 0.6 * track.confidence[48:].min()
    assert track.sd_px[:40].min() > track.sd_px[48:].max()


@pytest.mark.parametrize("backwards", [False, True])
def test_who_walks_before_a_disc_and_takes_its_rim_along_does_not_part_it_from_itself(backwards: bool) -> None:
    """A disc that rests and rises; a third of a second of it is hidden, and at first what hides it is followed instead, less surely."""
    y = 600 - 5.0 * np.maximum(np.arange(160) - 60, 0)
    before, after = piece(0, np.full(75, 500.0), y[:75]), piece(78, np.full(82, 500.0), y[78:])
    before.y_px[60:] = [600 - 30.0 * late for late in range(15)]
    before.sd_px[60:] = [0.4] * 15
    if backwards:
        for one in (before, after):
            one.first_frame = 160 - one.first_frame - len(one.x_px)
            for name in ("y_px", "sd_px"):
                getattr(one, name).reverse()
    track = choose_lifted(RawTracks(np.arange(160) / 60, 1280, 720, [before, after], np.zeros((160, 4, 4), np.uint8)))
    seen, truth = np.isfinite(track.y_px), y[::-1] if backwards else y
    assert seen.sum() == 142
    assert track.y_px[seen] == pytest.approx(truth[seen])


@pytest.mark.parametrize(("radius_px", "off_px"), [(24.0, 2.0), (27.0, 220.0)])
def test_a_ring_or_a_head_that_goes_up_with_a_disc_and_is_seen_for_longer_is_not_the_disc(radius_px: float, off_px: float) -> None:
    y = 600 - 3.0 * np.arange(120)
    seen_well = piece(0, np.full(120, 500.0 + off_px), y - off_px, confidence=1.0)
    seen_well.radius_px = [radius_px] * 120
    disc = piece(20, np.full(100, 500.0), y[20:], confidence=0.6)
    track = choose_lifted(RawTracks(np.arange(120) / 60, 1280, 720, [seen_well, disc], np.zeros((120, 4, 4), np.uint8)))
    assert np.isnan(track.x_px[:20]).all()
    assert track.x_px[20:].tolist() == [500.0] * 100


def test_a_dragged_point_is_taken_exactly_and_fades_into_its_neighbours() -> None:
    raw = two_discs()
    before = choose_lifted(raw)
    after = apply_corrections(raw, before, [PointCorrection(60, 306.0, 284.0)])
    assert (after.x_px[60], after.y_px[60]) == (306.0, 284.0)
    shift = after.x_px - before.x_px
    assert np.all(np.diff(shift[50:61]) >= 0)
    assert np.all(np.diff(shift[60:71]) <= 0)
    assert np.all(shift[:50] == 0)
    assert np.all(shift[71:] == 0)
    assert before.x_px[60] == 300.0


def test_a_point_set_on_another_disc_switches_to_it() -> None:
    raw = two_discs()
    after = apply_corrections(raw, choose_lifted(raw), [PointCorrection(60, 601.0, 311.0)])
    assert np.all(after.x_px[:50] == 600.0)
    assert after.x_px[60] == 601.0


def test_a_correction_carries_across_a_stretch_that_was_not_seen() -> None:
    raw = two_discs()
    for name, unseen in (("x_px", np.nan), ("y_px", np.nan), ("confidence", 0.0)):
        getattr(raw.tracklets[0], name)[50:80] = [unseen] * 30
    track = choose_lifted(raw)
    after = apply_corrections(raw, track, [PointCorrection(65, 310.0, 270.0)])
    assert np.isfinite(after.x_px).all()
    assert after.x_px[65] == 310.0
    assert np.all(np.diff(after.x_px[50:66]) > 0)
    assert np.all(np.diff(after.x_px[65:80]) < 0)
    assert np.all(after.x_px[80:] == 300.0)


def test_between_two_corrections_the_shift_runs_from_one_to_the_other() -> None:
    raw = two_discs()
    after = apply_corrections(raw, choose_lifted(raw), [PointCorrection(60, 304.0, 280.0), PointCorrection(64, 308.0, 272.0)])
    assert np.all(np.diff(after.x_px[60:65]) > 0)


def test_a_correction_outside_the_clip_is_refused_in_words() -> None:
    raw = two_discs()
    with pytest.raises(ValueError, match="frames 0 to 119"):
        apply_corrections(raw, choose_lifted(raw), [PointCorrection(120, 1, 1)])


# -- the lifter ----------------------------------------------------------------------------------------------------------


@dataclass(frozen=True)
class Shown:
    """A picture as a frame of a clip."""

    index: int
    time_s: float
    picture: np.ndarray

    def bgr(self) -> np.ndarray:
        return self.picture

    def luma(self) -> np.ndarray:
        return np.ascontiguousarray(self.picture[..., 1])


def test_the_lifter_is_who_stands_at_the_bar_or_whom_the_coach_has_boxed() -> None:
    first = next(read_frames(DEMO / "ida-snatch-76.mp4")).bgr()
    truth = json.loads((DEMO / "ida-snatch-76.truth.json").read_text())
    bar, radius = truth["disc"]["x_px"][0], truth["disc"]["radius_px"][0]
    half = first[:, int(bar) - 320 : int(bar) + 320]
    both = np.concatenate([half, half], axis=1)
    frames = [Shown(index, index / 30, both) for index in range(12)]
    # The bar of the one on the left moves.
    track = replace(DiscTrack.empty(12), x_px=np.full(12, 320.0), y_px=np.linspace(620, 560, 12), radius_px=np.full(12, radius))
    time_s = np.arange(12) / 30
    hips = [truth["joints"][f"{side}_hip"]["x_px"][0] - int(bar) + 320 for side in ("left", "right")]
    seen = follow_lifter(frames, time_s, track)  # type: ignore[arg-type]
    assert abs(np.median(seen.points[:, list(pair("hip")), 0]) - np.mean(hips)) < 150
    boxed = follow_lifter(frames, time_s, track, box=Box(800, 150, 1120, 700))  # type: ignore[arg-type]
    assert abs(np.median(boxed.points[:, list(pair("hip")), 0]) - 640 - np.mean(hips)) < 150
    assert PoseTrack.from_json(boxed.to_json()).box == (800, 150, 1120, 700)


class Scripted:
    """A network that sees, in the picture numbered in its first pixel, whom the script says; and keeps where it was asked to look."""

    def __init__(self, looks: list[Look]) -> None:
        self.looks, self.asked = looks, list[tuple[int, Square]]()

    def look(self, picture: np.ndarray, square: Square) -> Look:
        frame = int(picture[0, 0, 0])
        self.asked.append((frame, square))
        return self.looks[frame]


def standing(x_px: float, *, tall: float = 1.0, bar_px: tuple[float, float] | None = None) -> Look:
    """Somebody beside x whose trunk is half a metre, or as many times that, with both hands at a bar, or hanging."""
    points = np.zeros((len(JOINTS), 2))
    heights = {
        "nose": 0.65, "ear": 0.67, "shoulder": 0.5, "elbow": 0.2, "wrist": 0.0, "hand": -0.1, "hip": 0.0, "knee": -0.42, "ankle": -0.84,
        "heel": -0.9, "toe": -0.9,
    }  # fmt: skip
    for name, place in AT.items():
        points[place] = x_px, 400.0 - tall * heights[name.rpartition("_")[2]] * PX_PER_M
    if bar_px is not None:
        points[list(pair("hand"))] = bar_px
    return Look(points, np.full(points.shape, 0.02 * PX_PER_M), np.zeros(len(points)), np.ones(len(points)), 1.0)


def scripted(monkeypatch: pytest.MonkeyPatch, looks: list[Look]) -> tuple[np.ndarray, Scripted]:
    """The scores kept of a clip of a bar that is thrown in its first second and held, as a network sees it that says these; and that."""
    count, network = len(looks), Scripted(looks)
    steady = {"x_px": np.full(count, 640.0), "y_px": held(count), "radius_px": np.full(count, 60.0)}
    monkeypatch.setattr("atleta.tracking.people.LifterNetwork", lambda: network)
    frames = [Shown(i, i / RATE_HZ, np.full((720, 1280, 3), i, np.uint8)) for i in range(count)]
    seen = follow_lifter(frames, np.arange(count) / RATE_HZ, replace(DiscTrack.empty(count), **steady))  # type: ignore[arg-type]
    assert len(seen.score) == count
    return seen.score, network


PX_PER_M = 60 / 0.225 * 0.85
# Few enough frames a second that each is looked at while the bar is carried.
RATE_HZ = 15


def held(count: int, thrown: int = 4) -> np.ndarray:
    """The height (px) of a bar that is thrown up by 0.6 m about a frame, and held there, never quite still."""
    frames = np.arange(count)
    return np.asarray(500 - 140 / (1 + np.exp(-1.2 * (frames - thrown))) + 2.0 * np.abs(frames % 8 - 4))


def at_the_bar(count: int) -> list[Look]:
    """The lifter of such a clip."""
    return [standing(620, bar_px=(640.0, float(y_px))) for y_px in held(count)]


def test_who_is_no_body_or_not_at_the_bar_or_jumps_there_or_is_not_known_is_nobody(monkeypatch: pytest.MonkeyPatch) -> None:
    looks = at_the_bar(40)
    dwarf, giant, passer, far, vague, none = (range(start, start + 3) for start in (8, 13, 18, 23, 28, 33))
    for rows, change in (
        (dwarf, lambda bar: standing(620, tall=0.4, bar_px=bar)), (giant, lambda bar: standing(620, tall=1.7, bar_px=bar)),
        (passer, lambda bar: standing(620 + 0.5 * PX_PER_M)), (far, lambda bar: standing(620 + 1.2 * PX_PER_M, bar_px=bar)),
        (vague, lambda bar: replace(standing(620, bar_px=bar), sd=np.full((len(JOINTS), 2), 0.2 * PX_PER_M))),
        (none, lambda bar: replace(standing(620, bar_px=bar), score=0.2)),
    ):  # fmt: skip
        for i in rows:
            looks[i] = change(tuple(looks[i].points[AT["left_hand"]]))
    score, _ = scripted(monkeypatch, looks)
    assert {i for i in range(40) if score[i] == 0} == {*dwarf, *giant, *passer, *far, *vague, *none}


def test_who_walks_by_while_the_bar_is_carried_is_not_followed_far(monkeypatch: pytest.MonkeyPatch) -> None:
    # From frame 30 on the network sees somebody who walks off at 1.2 m/s, no faster than hips go in a lift.
    score, _ = scripted(monkeypatch, at_the_bar(30) + [standing(620 + i * 1.2 / RATE_HZ * PX_PER_M) for i in range(15)])
    assert (score[:30] > 0).all()
    assert (score[35:] == 0).all()


def test_who_is_lost_is_looked_for_about_the_bar_at_once_and_then_now_and_then(monkeypatch: pytest.MonkeyPatch) -> None:
    score, network = scripted(monkeypatch, at_the_bar(20) + [replace(standing(620), score=0.0) for _ in range(12)])
    assert (score[20:] == 0).all()
    looked = [sum(at == frame for at, _ in network.asked) for frame in range(20, 32)]
    # Where the lifter was last; in a search twice about each place besides.
    searched = 1 + 2 * len(FIRST_SQUARES_M)
    assert looked == [searched if at % SEARCH_AGAIN == 0 else 1 for at in range(12)]


def test_the_square_goes_with_the_bar_and_is_somewhat_larger_than_who_is_in_it(monkeypatch: pytest.MonkeyPatch) -> None:
    _, network = scripted(monkeypatch, at_the_bar(30))
    frame, square = network.asked[-1]
    body = network.looks[frame - 1].points
    assert square.x_px == pytest.approx((body[:, 0].min() + body[:, 0].max()) / 2)
    assert square.side_px == pytest.approx(1.35 * np.ptp(body[:, 1]), rel=0.05)


@pytest.mark.parametrize(("slows_s", "often_hz"), [(0.1, 60.0), (0.6, 15.0)])
def test_a_bar_carried_up_out_of_a_squat_is_not_thrown_however_quick(slows_s: float, often_hz: float) -> None:
    time_s = np.arange(0, 4, 1 / 60)
    # Ever faster for a second up to 1.2 m/s (240 px to the metre), and slower again.
    speed = np.interp(time_s, [1.0, 2.0, 2.0 + slows_s], [0.0, 1.2, 0.0], left=0.0, right=0.0)
    y_px = 600 - 240 * np.cumsum(speed) / 60
    track = replace(DiscTrack.empty(len(time_s)), x_px=np.full(len(time_s), 300.0), y_px=y_px, radius_px=np.full(len(time_s), 54.0))
    looks = time_s[worth_looking(time_s, track)]
    assert ((looks >= 1.85) & (looks < 2.05)).sum() / 0.2 == pytest.approx(often_hz, abs=5.1)


@pytest.mark.parametrize("rate_hz", [30.0, 60.0, 120.0])
def test_the_lifter_is_looked_at_most_often_about_where_a_thrown_bar_is_quickest(rate_hz: float) -> None:
    time_s = np.arange(0, 6, 1 / rate_hz)
    # Up by a metre within a second, quickest at 2.5 s with 1.9 m/s, and long at rest after it.
    up_m = 1 / (1 + np.exp(-7.6 * (time_s - 2.5)))
    track = replace(
        DiscTrack.empty(len(time_s)), x_px=np.full(len(time_s), 300.0), y_px=600 - 240 * up_m, radius_px=np.full(len(time_s), 54.0)
    )
    looks = time_s[worth_looking(time_s, track)]

    def often(first_s: float, last_s: float) -> float:
        return float(((looks >= first_s) & (looks < last_s)).sum() / (last_s - first_s))

    assert often(2.35, 2.55) == pytest.approx(min(60.0, rate_hz), abs=5.1)
    assert often(1.9, 2.2) == pytest.approx(30.0, abs=3.4)
    assert often(0.5, 1.5) < 16
    assert often(4.5, 6.0) == 0


@pytest.mark.parametrize(("m_s", "bounces_m", "often_hz"), [(1.5, 0.1, 30.0), (4.0, 0.1, 10.0), (4.0, 0.3, 10.0)])
def test_after_a_bar_was_let_fall_the_lifter_is_looked_at_as_seldom_as_at_rest(m_s: float, bounces_m: float, often_hz: float) -> None:
    time_s = np.arange(0, 5, 1 / 60)
    # From 1.6 m down to the floor from 2 s on (240 px to the metre), and a bounce that dies away.
    down_m = np.clip(m_s * (time_s - 2.0), 0.0, 1.6)
    floor_s = 2.0 + 1.6 / m_s
    bounce_m = np.where(time_s > floor_s, bounces_m * np.abs(np.sin(8 * (time_s - floor_s))) * np.exp(-(time_s - floor_s)), 0.0)
    y_px = 200 + 240 * (down_m - bounce_m)
    track = replace(DiscTrack.empty(len(time_s)), x_px=np.full(len(time_s), 300.0), y_px=y_px, radius_px=np.full(len(time_s), 54.0))
    looks = time_s[worth_looking(time_s, track)]
    assert ((looks >= floor_s) & (looks < floor_s + 1)).sum() == pytest.approx(often_hz, abs=2.1)

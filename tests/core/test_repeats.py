"""Films that repeat pictures: the bar is where it was when each frame is shown."""

from __future__ import annotations

import json
from dataclasses import replace
from itertools import islice
from pathlib import Path

import numpy as np
import pytest

from atleta.analysis import build_document
from atleta.footage import read_frames
from atleta.simulation.camera import Camera
from atleta.tracking import DiscTracker, RawTracks, Tracklet, as_taken, choose_lifted

from .world import DEMO, INFO, disc_picture, follow, lift, rise, settings_for, true_tracks, write_clip

RATE_HZ = 60.0
X = 330.4


def pictures_of(heights: np.ndarray, seed: int = 0) -> list[np.ndarray]:
    """A disc at each height, in a room whose light and sensor are never twice the same."""
    return [disc_picture(X, y, 50, seed=seed + k) for k, y in enumerate(heights)]


def taken_anew(own: int, shown: int, frames: int) -> np.ndarray:
    """Which of the first pictures each of `frames` shows, so many of so many being its own."""
    return np.arange(frames) * own // shown


@pytest.mark.parametrize(("own", "shown"), [(1, 2), (2, 3), (4, 5), (2, 5), (5, 6)])
def test_a_film_made_over_at_a_higher_rate_is_known_and_its_disc_goes_smoothly(own: int, shown: int) -> None:
    count = 100
    pictures = pictures_of(rise(count))
    which = taken_anew(own, shown, count * shown // own)
    raw = follow([pictures[k] for k in which], RATE_HZ * shown / own)
    assert raw.repeated.tolist() == [False, *(np.diff(which) == 0).tolist()]
    _, track = as_taken(raw, choose_lifted(raw))
    shown_at = np.arange(len(which)) * own / shown
    # The even clock may begin anywhere within the first picture.
    off = min(
        float(np.nanmax(np.abs(track.y_px - np.interp(shown_at + late, np.arange(count), rise(count))))) for late in np.linspace(-1, 1, 41)
    )
    assert off < 0.6
    assert RawTracks.from_json(raw.to_json()).repeated.tolist() == raw.repeated.tolist()


def test_pictures_that_a_phone_could_not_keep_up_with_are_filled_in_where_they_are_missing() -> None:
    heights = rise(80)
    shown = pictures_of(heights)
    late = [40, 47, 48]
    for k in late:
        shown[k] = shown[k - 1]
    raw = follow(shown, RATE_HZ)
    assert np.flatnonzero(raw.repeated).tolist() == late
    track = choose_lifted(raw)
    filled = as_taken(raw, track)[1]
    assert np.abs(track.y_px - heights).max() > 4
    assert np.abs(filled.y_px - heights).max() < 0.5
    assert filled.y_px[:38] == pytest.approx(track.y_px[:38])


def test_a_bar_that_stops_or_rests_repeats_nothing() -> None:
    falls = np.minimum(100 + np.arange(30.0) ** 2, 270)
    assert not follow(pictures_of(np.concatenate([rise(60)[::-1][:30], falls, np.full(30, 270.0)])), RATE_HZ).repeated.any()
    still = disc_picture(X, 270, 50)
    assert not follow([still] * 40, RATE_HZ).repeated.any()


def test_a_filmed_lift_is_followed_as_well_when_its_film_is_made_over_at_twice_the_rate(tmp_path: Path) -> None:
    source = DEMO / "edda-power-snatch-40.mp4"
    pictures = [frame.bgr() for frame in islice(read_frames(source), 100)]
    truth = json.loads(source.with_suffix(".truth.json").read_text())["disc"]
    clip = write_clip(tmp_path / "twice.mp4", [pictures[k // 2] for k in range(200)], crf=28)
    tracker = DiscTracker()
    for frame in read_frames(clip):
        tracker.feed(frame.index, frame.time_s, frame.luma(), frame.chroma)
    raw = tracker.finish()
    assert raw.repeated.tolist() == [k % 2 == 1 for k in range(200)]
    raw_track = choose_lifted(raw)
    track = as_taken(raw, raw_track)[1]
    true_x, true_y = (np.interp(np.arange(199) / 2, np.arange(100), truth[name][:100]) for name in ("x_px", "y_px"))
    off = np.hypot(track.x_px[:199] - true_x, track.y_px[:199] - true_y)
    assert np.isfinite(off).mean() > 0.99
    assert np.nanmedian(off) < 0.7
    assert np.nanpercentile(off, 95) < 2.5
    assert np.nanmax(np.hypot(raw_track.x_px[:199] - true_x, raw_track.y_px[:199] - true_y)) > 5


def test_a_lift_made_over_at_twice_its_rate_is_measured_as_it_was_and_the_coach_is_told() -> None:
    done = lift("snatch")
    raw, truth = true_tracks(done, Camera(fps=60.0))
    frames = len(raw.frame_time_s)
    repeated = np.arange(frames) % 2 == 1
    twice = replace(raw, tracklets=[_held(piece, repeated) for piece in raw.tracklets], repeated=repeated)
    unknown = replace(twice, repeated=np.zeros(frames, bool))
    told, unaware = (build_document(one, INFO, "0" * 64, settings_for(truth)) for one in (twice, unknown))
    speed, too_quick = (one["lifts"][0]["measures"]["peak_velocity"]["value"] for one in (told, unaware))
    assert speed == pytest.approx(truth["measures"]["peak_velocity"], rel=0.015)
    assert abs(too_quick / truth["measures"]["peak_velocity"] - 1) > 0.02
    (said,) = (one["message"] for one in told["warnings"] if one["code"] == "repeated")
    assert "50 %" in said
    assert "about 30 pictures a second" in said
    assert not any(one["code"] == "repeated" for one in unaware["warnings"])
    looked = as_taken(twice, choose_lifted(twice))[0].people.frame
    assert len(looked) == len(set(looked.tolist()))
    assert not repeated[looked].any()


def _held(piece: Tracklet, repeated: np.ndarray) -> Tracklet:
    """The same where every repeated frame shows the one before."""
    at = np.arange(len(piece.x_px))
    at[1:] -= repeated[piece.first_frame + 1 : piece.first_frame + len(at)]
    return replace(piece, **{name: [getattr(piece, name)[k] for k in at] for name in ("x_px", "y_px")})

"""A lifted disc that was found late, or found again, followed back in pictures decoded once more."""

from __future__ import annotations

from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np
import pytest

from atleta.footage import read_frames
from atleta.tracking import DiscTracker, RawTracks, Tracklet, choose_lifted, followed_back
from atleta.tracking.track import SERIES

from .world import disc_picture, rise, write_clip

X, LATE = 330.4, 45
GROUND = 170


def film(target: Path, *, faint: bool = True, empty_before: int = 0) -> Path:
    """A disc that lies, is lifted and stays up; while it is low, little of it shows, or nothing at all before a frame."""
    pictures = []
    for index, y in enumerate(rise(90)):
        picture = disc_picture(X, y, 50, seed=index)
        if index < empty_before:
            picture[:] = np.random.default_rng(index).normal(GROUND, 2, picture.shape)
        elif faint and index < LATE:
            # Who stands in front of it, as bright as what is behind it.
            picture[:, int(X) - 60 : int(X) + 8] = GROUND
        pictures.append(picture)
    return write_clip(target, pictures)


def tracked(clip: Path) -> RawTracks:
    tracker = DiscTracker()
    for frame in read_frames(clip):
        tracker.feed(frame.index, frame.time_s, frame.luma(), frame.chroma)
    return tracker.finish()


@pytest.fixture(scope="module")
def plain(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, RawTracks]:
    """A clip whose disc is plain all along, and its tracks."""
    clip = film(tmp_path_factory.mktemp("plain") / "plain.mp4", faint=False)
    return clip, tracked(clip)


def cut(piece: Tracklet, first: int, stop: int) -> Tracklet:
    inner = slice(first - piece.first_frame, stop - piece.first_frame)
    return Tracklet(first, **{name: getattr(piece, name)[inner] for name in SERIES})


def found_late(raw: RawTracks, *stretches: tuple[int, int]) -> RawTracks:
    """The same with the lifted disc seen in these stretches of frames only."""
    (whole,) = [piece for piece in raw.tracklets if np.nanstd(piece.y_px) > 20]
    return replace(raw, tracklets=[cut(whole, *stretch) for stretch in stretches])


def test_a_disc_that_is_found_halfway_up_is_followed_back_to_where_it_lay(tmp_path: Path, plain: tuple[Path, RawTracks]) -> None:
    clip, raw = film(tmp_path / "faint.mp4"), found_late(plain[1], (LATE, 90))
    track = choose_lifted(followed_back(raw, partial(read_frames, clip)))
    error = np.hypot(track.x_px - X, track.y_px - rise(90))
    assert np.isfinite(error).mean() > 0.95
    assert np.isfinite(error[:3]).all()
    assert np.nanmax(error) < 1.5
    # Half a rim is not as sure as a whole one.
    assert np.nanmax(track.confidence[: LATE - 2]) < np.nanmin(track.confidence[LATE:])


def test_what_was_lost_in_between_is_filled_in_from_behind(plain: tuple[Path, RawTracks]) -> None:
    clip, raw = plain[0], found_late(plain[1], (0, 40), (60, 90))
    assert not np.isfinite(choose_lifted(raw).x_px[40:60]).any()
    track = choose_lifted(followed_back(raw, partial(read_frames, clip)))
    assert np.isfinite(track.x_px).all()
    assert np.abs(track.y_px - rise(90)).max() < 0.5


def test_a_disc_that_was_not_there_before_is_not_made_up(tmp_path: Path, plain: tuple[Path, RawTracks]) -> None:
    clip, raw = film(tmp_path / "empty.mp4", faint=False, empty_before=LATE), found_late(plain[1], (LATE + 10, 90))
    track = choose_lifted(followed_back(raw, partial(read_frames, clip)))
    assert np.isnan(track.x_px[:LATE]).all()
    assert np.isfinite(track.x_px[LATE + 1 :]).all()


def test_going_back_a_few_frames_at_a_time_finds_the_same(plain: tuple[Path, RawTracks], monkeypatch: pytest.MonkeyPatch) -> None:
    clip, raw = plain[0], found_late(plain[1], (LATE, 90))
    at_once = choose_lifted(followed_back(raw, partial(read_frames, clip)))
    held = 7 * 1.5 * 500 * 360
    monkeypatch.setattr("atleta.tracking.back.MOST_BYTES", held)
    a_few = choose_lifted(followed_back(raw, partial(read_frames, clip)))
    assert np.array_equal(at_once.x_px, a_few.x_px)


def test_without_a_disc_there_is_nothing_to_follow_back(tmp_path: Path) -> None:
    clip = write_clip(tmp_path / "empty.mp4", [np.full((360, 640), GROUND, np.uint8)] * 20)
    assert followed_back(tracked(clip), partial(read_frames, clip)).tracklets == []


def test_a_clip_in_which_the_disc_is_seen_from_the_beginning_is_not_decoded_again(plain: tuple[Path, RawTracks]) -> None:
    def again() -> None:
        raise AssertionError("decoded again")

    assert followed_back(plain[1], again).tracklets == plain[1].tracklets  # type: ignore[arg-type]

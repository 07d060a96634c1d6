"""Where a disc is and ends, by what a whole clip shows of it: drawn discs whose truth is exact."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass, replace

import cv2
import numpy as np
import pytest

from atleta.tracking import DiscTrack, FaceWatch
from atleta.tracking.rim import SECTORS

FRAMES, RADIUS = 60, 48.0
RINGS = ((1.0, 40), (0.965, 75), (0.80, 55), (0.72, 120), (0.40, 60), (0.2, 160))


@dataclass(frozen=True)
class Drawn:
    """A frame as a clip's reader hands it on."""

    index: int
    picture: np.ndarray

    def bgr(self) -> np.ndarray:
        return self.picture


def drawn(x: float, y: float, room: np.ndarray, *, radius: float = RADIUS, shown: bool = True) -> np.ndarray:
    """A disc of rings, the outermost a rounded shoulder lighter than what is inside it, drawn four times as large and averaged down."""
    large = cv2.resize(room, None, fx=4, fy=4, interpolation=cv2.INTER_CUBIC)
    if shown:
        for share, grey in RINGS:
            middle = (round((4 * x + 1.5) * 16), round((4 * y + 1.5) * 16))
            cv2.circle(large, middle, round(4 * radius * share * 16), (grey, grey, grey + 5), -1, cv2.LINE_AA, 4)
    small = cv2.resize(large, room.shape[1::-1], interpolation=cv2.INTER_AREA)
    return np.asarray(cv2.GaussianBlur(small, (0, 0), 0.7))


@pytest.fixture(scope="module")
def room() -> np.ndarray:
    rng = np.random.default_rng(4)
    made = sum(cv2.resize(rng.normal(0, 30, (cells, cells, 3)), (320, 400), interpolation=cv2.INTER_CUBIC) for cells in (5, 17, 45))
    return np.clip(120 + made, 0, 255).astype(np.uint8)


def path() -> np.ndarray:
    rise = np.clip((np.arange(FRAMES) - 8) / 40, 0, 1)
    return np.stack([150 + 9 * np.sin(4 * rise), 320 - 230 * rise**2], axis=1)


def guessed(places: np.ndarray, radius: float) -> DiscTrack:
    """A track a few pixels beside the truth, as one that follows a shoulder would be."""
    rng = np.random.default_rng(2)
    x, y = (places + rng.normal(0, 1.5, places.shape) + [1.5, -1.0]).T
    count = len(places)
    return DiscTrack(x, y, np.full(count, radius), np.ones(count), np.ones(count), np.full(count, 0.1), np.full((count, SECTORS), np.nan))


def settled(track: DiscTrack, pictures: Iterator[np.ndarray]) -> DiscTrack | None:
    watch = FaceWatch(track, np.arange(len(track.x_px)) / 60)
    for _ in watch.watched(Drawn(index, picture) for index, picture in enumerate(pictures)):  # type: ignore[arg-type]
        pass
    return watch.settled()


def test_middle_and_rim_are_found_whatever_ring_was_followed(room: np.ndarray) -> None:
    places = path()
    found = settled(guessed(places, 0.95 * RADIUS), (drawn(x, y, room) for x, y in places))
    off = np.hypot(found.x_px - places[:, 0], found.y_px - places[:, 1])
    assert np.sqrt(np.mean(off**2)) < 0.2
    ends = found.radius_px[:, None] + found.outline
    assert np.nanmedian(ends) == pytest.approx(RADIUS, rel=0.006)
    assert (found.sd_px < 0.3).all()


def test_a_frame_that_does_not_show_the_disc_is_without_it(room: np.ndarray) -> None:
    places = path()
    gone = np.isin(np.arange(FRAMES), [30, 31, 32, 33])
    found = settled(guessed(places, RADIUS), (drawn(x, y, room, shown=not lost) for (x, y), lost in zip(places, gone, strict=True)))
    assert np.isnan(found.x_px[gone]).all()
    assert (found.confidence[gone] == 0).all()
    assert np.isfinite(found.x_px[~gone]).all()


def test_a_disc_that_comes_nearer_on_its_way_has_its_size_in_every_frame(room: np.ndarray) -> None:
    places = path()
    sizes = RADIUS * (1 + 0.04 * (320 - places[:, 1]) / 230)
    found = settled(guessed(places, RADIUS), (drawn(x, y, room, radius=size) for (x, y), size in zip(places, sizes, strict=True)))
    ends = np.nanmedian(found.radius_px[:, None] + found.outline, axis=1)
    assert np.abs(ends / sizes - 1).max() < 0.01


def test_a_mirrored_clip_has_its_disc_where_the_mirror_shows_it(room: np.ndarray) -> None:
    places = path()
    track = guessed(places, RADIUS)
    width = room.shape[1] - 1
    plain = settled(track, (drawn(x, y, room) for x, y in places))
    turned = settled(replace(track, x_px=width - track.x_px), (drawn(x, y, room)[:, ::-1] for x, y in places))
    assert np.abs(width - turned.x_px - plain.x_px).max() < 0.1
    assert np.abs(turned.y_px - plain.y_px).max() < 0.1


def test_where_no_disc_was_followed_nothing_is_made_up(room: np.ndarray) -> None:
    assert settled(DiscTrack.empty(FRAMES), (room for _ in range(FRAMES))) is None


def test_where_every_frame_tells_the_same_by_itself_that_stands(room: np.ndarray) -> None:
    places = path()
    track = guessed(places, RADIUS)
    exact = replace(track, x_px=places[:, 0], y_px=places[:, 1], outline=np.zeros((FRAMES, SECTORS)))
    assert settled(exact, (drawn(x, y, room) for x, y in places)) is None
    assert settled(replace(exact, radius_px=np.full(FRAMES, 0.96 * RADIUS)), (drawn(x, y, room) for x, y in places)) is not None

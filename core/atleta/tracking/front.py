"""Look at a clip that is filmed from the front or from behind: whoever holds the bar, and the bar itself as a line through both hands.

From there discs are seen by their edges and no disc is followed. What shows is how level the bar is, how high, and where knees, feet and
hands are to either side.
"""

from __future__ import annotations

from collections.abc import Callable, Iterable, Sequence

import cv2
import numpy as np
from numpy.typing import NDArray

from ..footage import Frame
from .front_track import FrontTrack
from .network import LifterNetwork, Look, Picture, Square, pair
from .people import SURE, about_box
from .pose_track import Box

Floats = NDArray[np.float64]

FEWEST_LOOKS, FIRST_LOOKS, ENOUGH_VOTES = 8, 12, 2
LOOKS_HZ = 25.0
# Who is lost, or was never found, is looked for all over the picture every so often (s), and so many times.
SEARCH_AGAIN_S, MOST_IN_VAIN = 0.5, 8
# Where a person is looked for: sides of squares as shares of the picture's shorter side, their middles as shares of its width and height.
SIDES, ACROSS, DOWN = (1.0, 0.7), (0.5, 0.3, 0.7), 0.55
# Who is known to within this share of the square is seen plainly.
PLAINLY = 0.03
# Shoulders so far apart, as a share of the trunk, are seen from the front or from behind, and the bar in so many looks; with a little less
# it is worth looking whether they are, and with so little they are not.
FRONTAL, PERHAPS_FRONTAL, FROM_THE_SIDE, BAR_SEEN = 0.5, 0.45, 0.3, 0.5
# A trunk and the breadth of shoulders, m: about, to know where to look for the bar.
TRUNK_M, SHOULDERS_M = 0.50, 0.36
# The bar is so thick (m), and is looked for so far above and below the hands, and so steep.
BAR_M, ABOUT_HANDS_M, STEEPEST = 0.028, 0.10, 0.20
# How much its slope may have changed since the look before (px per px).
TURNS = 0.04
# From so far outside the hands (m), where no arm hides it, to so far from the middle.
CLEAR_OF_HANDS_M, HALF_BAR_M = 0.10, 1.12
COARSE, FINE = (25, 33), (13, 17)
# A line that stands out of its surroundings by less than this (of 255) is none.
LEAST_CONTRAST = 4.0
# No edge counts for more: a disc's is much stronger than a bar's.
MOST_CONTRAST = 25.0


def look_from_front(
    frames: Iterable[Frame], time_s: Floats, on_progress: Callable[[float], None] | None = None, box: Box | None = None
) -> FrontTrack | None:  # fmt: skip
    """Look at whoever holds the bar in a clip from the front; None where nobody is seen from there.

    Args:
        frames: the clip's frames in order.
        time_s: `(frames,)`.
        box: where the lifter is, by the coach's word; otherwise whoever is seen most clearly.
    """
    network, looked_s, in_vain = LifterNetwork(), -np.inf, 0
    square: Square | None = None
    line: Floats | None = None
    seen: list[tuple[int, Look, Floats]] = []
    for frame in frames:
        if frame.time_s - looked_s < (1 / LOOKS_HZ if square else SEARCH_AGAIN_S) - 0.001:
            continue
        looked_s = frame.time_s
        picture = frame.bgr()
        look = network.look(picture, square) if square else _found(network, picture, box)
        if look.score < SURE:
            square, in_vain = None, in_vain + 1
            if in_vain == MOST_IN_VAIN:
                break
            continue
        square = look.follow
        line = bar_line(frame.luma(), look, line)
        seen.append((frame.index, look, line if line is not None else np.full(3, np.nan)))
        if len(seen) == FIRST_LOOKS and not _from_front(_track(seen)):
            return None
        if on_progress and len(seen) % 5 == 0:
            on_progress(min(frame.index / max(len(time_s) - 1, 1), 1.0))
    track = _track(seen) if len(seen) >= FEWEST_LOOKS else None
    return track if track and _from_front(track) else None


def _track(seen: Sequence[tuple[int, Look, Floats]]) -> FrontTrack:
    return FrontTrack(
        np.array([index for index, _, _ in seen], np.int64), np.array([look.points for _, look, _ in seen]),
        np.array([look.sd.mean(1) for _, look, _ in seen]), np.array([line for _, _, line in seen]),
    )  # fmt: skip


def _from_front(track: FrontTrack) -> bool:
    made_out = float(np.isfinite(track.bar[:, 0]).mean())
    return float(np.median(frontal(track.points))) > FRONTAL and made_out > BAR_SEEN


def perhaps_from_front(stills: Iterable[Picture]) -> bool:
    """Whether it is worth looking from where a clip was filmed: the person who is seen most clearly in some of its pictures shows both
    shoulders in most."""
    network, votes = LifterNetwork(), 0
    for picture in stills:
        look = _found(network, picture)
        if look.score < SURE:
            continue
        seen = float(frontal(look.points[None])[0])
        votes += 1 if seen > PERHAPS_FRONTAL else -1
        if seen < FROM_THE_SIDE or abs(votes) == ENOUGH_VOTES:
            break
    return votes > 0


def frontal(points: Floats) -> Floats:
    """How far apart shoulders are, as a share of the trunk, in looks `(looks, 21, 2)`: some 0.2 from the side, 0.7 from the front."""
    shoulders, hips = (points[:, list(pair(part))] for part in ("shoulder", "hip"))
    trunk = np.linalg.norm(shoulders.mean(1) - hips.mean(1), axis=1)
    return np.asarray(np.abs(shoulders[:, 0, 0] - shoulders[:, 1, 0]) / np.maximum(trunk, 1e-6))


def _found(network: LifterNetwork, picture: Picture, box: Box | None = None) -> Look:
    """The lifter who is seen most clearly, or in the box that the coach drew; the last looked at where none is sure."""
    height, width = picture.shape[:2]
    squares = [Square(x * width, DOWN * height, side * min(width, height)) for side in SIDES for x in ACROSS]
    best: tuple[float, Look] | None = None
    for square in squares if box is None else [about_box(box)]:
        # A square that was guessed is never quite about them.
        square = network.look(picture, square).follow
        look = network.look(picture, square)
        doubt = float(np.median(look.sd)) / square.side_px if look.score > SURE else 1.0
        if best is None or doubt < best[0]:
            best = doubt, look
        if best[0] < PLAINLY:
            break
    assert best is not None
    return best[1]


def _px_per_m(look: Look) -> float:
    """About how large a metre is where a lifter is seen, from the longer of trunk and the breadth of the shoulders."""
    shoulders = look.points[list(pair("shoulder"))]
    trunk = float(np.linalg.norm(look.middle("shoulder") - look.middle("hip")))
    return max(trunk / TRUNK_M, float(np.linalg.norm(shoulders[0] - shoulders[1])) / SHOULDERS_M)


def bar_line(luma: Picture, look: Look, last: Floats | None) -> Floats | None:
    """The bar as the straight thin line that runs on outside both hands: where it crosses the middle between them and its slope (x, y, px
    per px); None where none stands out.

    Args:
        last: the line of the look before; where there is one only its neighbourhood is searched for the slope.
    """
    scale = _px_per_m(look)
    hands = look.points[list(pair("hand"))]
    left, right = hands[hands[:, 0].argsort()]
    middle = (left + right) / 2
    reach = max((right[0] - left[0]) / 2, 0.15 * scale)
    outer = np.arange(reach + CLEAR_OF_HANDS_M * scale, HALF_BAR_M * scale, max(0.01 * scale, 1.0))
    across = np.concatenate([-outer[::-1], outer])
    across = across[(middle[0] + across > 1) & (middle[0] + across < luma.shape[1] - 2)]
    if (across < 0).sum() < 8 or (across > 0).sum() < 8:
        return None
    top = int(max(middle[1] - (ABOUT_HANDS_M + STEEPEST * HALF_BAR_M + 0.1) * scale, 0))
    low = int(min(middle[1] + (ABOUT_HANDS_M + STEEPEST * HALF_BAR_M + 0.1) * scale, luma.shape[0]))
    ridge = _ridge(luma[top:low], BAR_M * scale)
    hand_slope = float((right[1] - left[1]) / max(right[0] - left[0], 1.0))
    slopes = np.linspace(-STEEPEST, STEEPEST, 2 * COARSE[1] + 1) if last is None else last[2] + np.linspace(-TURNS, TURNS, COARSE[1])
    lifts = np.linspace(-ABOUT_HANDS_M, ABOUT_HANDS_M, 2 * COARSE[0] + 1) * scale
    found = None
    for _ in range(3):
        contrast = _contrast(ridge, middle[0] + across, middle[1] - top + lifts, across, slopes)
        at = np.unravel_index(int(contrast.argmax()), contrast.shape)
        found = float(lifts[at[0]]), float(slopes[at[1]]), float(contrast[at])
        lifts = found[0] + np.linspace(-1, 1, FINE[0]) * (lifts[1] - lifts[0])
        slopes = found[1] + np.linspace(-1, 1, FINE[1]) * (slopes[1] - slopes[0])
    assert found is not None
    if found[2] < LEAST_CONTRAST or abs(found[1] - hand_slope) > STEEPEST:
        return None
    return np.array([middle[0], middle[1] + found[0], found[1]])


def _ridge(luma: Picture, thick_px: float) -> Floats:
    """How much a thin level stripe stands out of what is above and below it, px by px, up to `MOST_CONTRAST`."""
    thick = max(round(thick_px), 2)
    stripe = cv2.blur(luma.astype(np.float32), (3, thick))
    above, below = (np.roll(stripe, by, axis=0) for by in (round(1.3 * thick) + 1, -round(1.3 * thick) - 1))
    # A stripe is brighter, or darker, than both; an edge lies between.
    stands_out = np.where((stripe - above) * (stripe - below) > 0, np.minimum(np.abs(stripe - above), np.abs(stripe - below)), 0.0)
    return np.minimum(stands_out, MOST_CONTRAST).astype(np.float64)


def _contrast(ridge: Floats, x: Floats, y: Floats, across: Floats, slopes: Floats) -> Floats:
    """How much lines stand out, by where they cross the middle and by slope `(lines, slopes)`: of either side's mean the smaller counts
    twice, since a bar goes on to both."""
    columns = np.broadcast_to(x, (len(y), len(slopes), len(x))).astype(np.float32)
    rows = (y[:, None, None] + slopes[:, None] * across).astype(np.float32)
    flat = cv2.remap(ridge.astype(np.float32), columns.reshape(len(y), -1), rows.reshape(len(y), -1), cv2.INTER_LINEAR)
    here = flat.reshape(len(y), len(slopes), len(x)).astype(np.float64)
    sides = np.stack([here[..., across < 0].mean(-1), here[..., across > 0].mean(-1)])
    return np.asarray((sides.sum(0) + sides.min(0)) / 3)

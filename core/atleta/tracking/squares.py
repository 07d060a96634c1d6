"""Where the model looks: squares about a bar, about a box that the coach drew, about who was seen last."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import replace

import numpy as np

from .lifter import HEELS, clearness, is_at_bar
from .pose import MARGIN, Picture, Pose, Square
from .pose_track import Box
from .schedule import DISC_TO_BODY

# Where a body may be about a bar: middle of the square above the disc (m), and its side; below it who is under a raised one.
FIRST_SQUARES_M = (0.45, 0.1, -0.35, -0.9)
FIRST_SIDES_M = (1.65, 2.3)
# Who is not clear under a raised bar is looked for between feet and bar, in a square so much larger than that, or at least so large (m).
UNDER_BAR, UNDER_BAR_M = 1.5, 1.6
# A first look so clear (clearness times score) needs no other beside it, nor does one as clear at who is under a raised disc; a bent
# lifter about a low bar is never as clear, and is not looked for below it.
PLAINLY, FAIRLY = 0.6, 0.3
# Who bends over a bar leans forward about so far (rad). In a square that is not turned with the trunk the model draws the hips to the disc:
# over 35 clips, half of all looks have them 34 cm off in squares turned as the model itself follows, 7 cm in ones turned by this.
BENT = np.radians(50)
# How the square is moved from look to look: shares of its side.
SHIFTS = ((0.05, 0.05, 1.0), (-0.05, 0.05, 1.12), (-0.05, -0.05, 0.94), (0.05, -0.05, 1.06))


def starts_about(x_px: float, y_px: float, px_per_m: float, box: Box | None, sides_m: tuple[float, ...], *, bent: bool) -> list[Square]:
    """Where to look for a body about a bar, or the box that the coach drew; for one that may be bent over the bar turned to either side,
    too."""
    if box is not None:
        return _turned(about_box(box), bent)
    return [
        square
        for above in FIRST_SQUARES_M
        for side in sides_m
        for square in _turned(Square(x_px, y_px - above * px_per_m, side * px_per_m / DISC_TO_BODY), bent and above > 0)
    ]


def _turned(square: Square, bent: bool) -> list[Square]:
    """A square as it is, and for who may be bent over to either side."""
    return [replace(square, turn=turn) for turn in ((0.0, BENT, -BENT) if bent else (0.0,))]


def following(pose: Pose) -> Square:
    """Where to look next at who stands or squats."""
    return pose.follow


def following_bent(pose: Pose) -> Square:
    """Where to look next at who may be bent over. Wherever the square is turned, the model tells a trunk as leaning only a little further
    that way than the square: the next is turned twice as far on."""
    if pose.to_picture is None:
        return pose.follow
    was = float(np.arctan2(pose.to_picture[1, 0], pose.to_picture[0, 0]))
    on = float((pose.follow.turn - was + np.pi) % (2 * np.pi) - np.pi)
    return replace(pose.follow, turn=was + 2 * on)


def about_box(box: Box) -> Square:
    """The square about what the coach drew a box about."""
    side = MARGIN * max(box.right - box.left, box.bottom - box.top)
    return Square((box.left + box.right) / 2, (box.top + box.bottom) / 2, side)


def under_bar(last: Pose, x_px: float, y_px: float, px_per_m: float) -> Square:
    """The square about who is between the feet, as they were last seen, and a raised bar."""
    floor_px = float(last.points[list(HEELS), 1].max())
    return Square(x_px, (floor_px + y_px) / 2, max(UNDER_BAR * (floor_px - y_px), UNDER_BAR_M * px_per_m / DISC_TO_BODY))


def shifted(square: Square, turn: int) -> Square:
    """A square moved about a little, another way at each turn."""
    across, down, larger = SHIFTS[turn % len(SHIFTS)]
    side = square.side_px
    return replace(square, x_px=square.x_px + across * side, y_px=square.y_px + down * side, side_px=larger * side)


def settled(
    look: Callable[[Picture, Square], Pose],
    picture: Picture,
    starts: list[Square],
    looks: int,
    least: float = 0.0,
    follow: Callable[[Pose], Square] = following,
) -> Iterator[Pose]:
    """A look at each square, settled by following itself as long as what it shows is as clear as `least`."""
    for square in starts:
        for _ in range(looks):
            pose = look(picture, square)
            square = follow(pose)
            if clearness(pose) < least:
                break
        yield pose


def clearest_at_bar(looks: Iterator[Pose], x_px: float, px_per_m: float, box: Box | None, likely: int) -> Pose:
    """The clearest look at a body where the lifter's may be; the first that is clear enough, or of those that are `likely`."""
    best: tuple[float, Pose] | None = None
    for looked, pose in enumerate(looks, 1):
        worth = worth_at_bar(pose, x_px, px_per_m, box)
        if best is None or worth > best[0]:
            best = worth, pose
        if best[0] > (FAIRLY if looked == likely else PLAINLY):
            break
    assert best is not None
    return best[1]


def worth_at_bar(pose: Pose, x_px: float, px_per_m: float, box: Box | None) -> float:
    """How clear a body is, 0 to 1; 0 where the lifter's cannot be."""
    return pose.score * clearness(pose) * is_at_bar(pose, x_px, px_per_m, box)

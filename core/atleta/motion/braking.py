"""A bar that is braked within a few frames: what a filter blurs, and makes too fast, the heights as seen tell."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]

# What takes longer no filter blurs.
SUDDENLY_S = 0.1
# So much of the way down before the brake is even enough to be one acceleration.
FALL_S = 0.12
FEWEST_FRAMES = 7
# How braking may come on, as powers: evenly (1), or more and more.
POWERS = np.array([1.0, 1.5, 2.0, 3.0])
# Braked over a quarter of a frame at least; ends tried up to so many frames before and after the first at rest.
SHORTEST, BEFORE, AFTER = 0.25, 1.5, 1.2
LENGTHS, ENDS = 24, 24
# What lies no higher above the lowest frame, which noise has made low, may be at rest.
AT_REST, AT_REST_M = 4.0, 1e-3
# Height at rest, speed, acceleration, length and end.
UNKNOWN = 5
# Heights are told no finer than that, however well a few of them lie on a curve.
FINEST_M = 1.5e-4


@dataclass(frozen=True)
class Brake:
    """How a fall was stopped."""

    speed_m_s: float
    """Downwards, when braking began."""
    way_m: float
    """Above rest, when the bar was last as fast as the share of that speed which was asked for."""


def brake(time_s: Floats, y_m: Floats, *, share: float, falls_at_s: float, lowest_s: float, noise_m: float) -> Brake | None:
    """Fit a fall with an even acceleration, a brake and rest to unfiltered heights.

        height |\\                   speed is v (1 - u^p) while u, the share of the brake's time, goes from 0 to 1;
               | \\  v               of all lengths, ends and powers p the mean is taken, weighted by how well they fit:
               |  \\                 some two frames in a brake do not tell how it came on, and that moves where it began
               |   `-.________
                   |-| length

    Args:
        time_s, y_m: `(frames,)`, no NaN.
        share: of the speed, at which the bar is said to be at its fastest still.
        falls_at_s: a time before the brake, or in it, when the bar falls about as fast as it does at all.
        lowest_s: when it is about at its lowest.
        noise_m: of one height.

    Returns:
        None where there are too few frames, and where braking takes so long that filtered heights and speeds tell it.
    """
    frame_s = float(np.median(np.diff(time_s)))
    about = np.flatnonzero((time_s >= falls_at_s) & (time_s <= lowest_s + 1.5 * frame_s))
    if len(about) == 0:
        return None
    lowest = about[np.argmin(y_m[about])]
    rests_s = time_s[about[y_m[about] <= y_m[lowest] + max(AT_REST * noise_m, AT_REST_M)][0]]
    used = np.arange(np.searchsorted(time_s, falls_at_s - FALL_S), lowest + 1)
    if len(used) < FEWEST_FRAMES or rests_s - falls_at_s > SUDDENLY_S:
        return None
    t, y = time_s[used], y_m[used]
    longest = max(2.5 * (rests_s - falls_at_s), 4 * frame_s)
    power = POWERS[:, None, None, None]
    length = np.geomspace(SHORTEST * frame_s, longest, LENGTHS)[:, None, None]
    end = np.linspace(rests_s - BEFORE * frame_s, rests_s + AFTER * frame_s, ENDS)[:, None]
    begin = end - length
    before = np.minimum(t - begin, 0)
    # Of each: height at rest, speed when braking begins, and how much faster the bar became until then.
    way = length * _left(np.clip((t - begin) / length, 0, 1), power) - before
    columns = np.stack(np.broadcast_arrays(np.ones_like(way), way, -0.5 * before**2), axis=-1)
    turned = np.swapaxes(columns, -1, -2)
    # The last term holds what no frame tells: a fall that was not seen.
    normal = turned @ columns + np.diag([0, 0, 1e-9])
    solved = np.linalg.solve(normal, turned @ y[:, None])
    off = ((y - (columns @ solved)[..., 0]) ** 2).sum(axis=-1)
    free = max(len(used) - UNKNOWN, 1)
    fits = np.exp((off.min() - off) / (2 * max(off.min() / free, FINEST_M**2)))
    speed = solved[..., 1, 0]
    way = speed * length[..., 0] * _left((1 - share) ** (1 / power[..., 0]), power[..., 0])
    return Brake(float(np.average(speed, weights=fits)), float(np.average(way, weights=fits)))


def _left(u: Floats | float, power: Floats | float) -> Floats:
    """What is left of the way, in units of speed times length, at the share `u` of the brake's time."""
    return np.asarray((1 - u) - (1 - u ** (power + 1)) / (power + 1))

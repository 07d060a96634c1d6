"""Find instants on signals: crossings, extremes, stillness. Every event is one of these questions asked of a curve.

All functions take a time axis and a signal `(samples,)` without NaN and give a time in seconds, between samples where the curve
allows it, or None when the curve never does what was asked.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..motion.filters import runs

Floats = NDArray[np.float64]
GRAVITY_M_S2 = 9.81
# A bar stood up with sways a little; it is at rest when it stays within this for the time below and moves no faster.
AT_REST_M, AT_REST_S, AT_REST_M_S = 0.012, 0.25, 0.02
# One that is held moves no faster, for no shorter. Noise may seem quicker for a moment; it takes the bar nowhere.
HELD_M_S, LEAST_HOLD_S = 0.03, 0.4
TWITCH_S, TWITCH_M = 0.15, 0.004
# What sets out quickens evenly for so long at most.
SETS_OUT_S = 0.1
# A bar is dropped when it falls with so much of gravity; half of how far that takes it within the time is enough to tell.
DROPPED_G, FALLS_S = 0.7, 0.15
# What has gone so far has begun to move: less is no more than a floor gives.
CLEAR_M = 0.0001
# A filter moves the moment in which a bar is met by no more than this.
LATEST_S = 0.02
# What comes this close to its lowest no longer sinks: where it is held there, noise alone would tell the very lowest instant.
SUNK_M = 0.01
# A bar that has been stood up with so far and comes down by so much was up.
STOOD_UP_M, DOWN_AGAIN_M = 0.12, 0.05
RISEN_SHARE = 0.6


def first_crossing(
    time_s: Floats, signal: Floats, level: float, *, after_s: float, before_s: float = np.inf, rising: bool = True
) -> float | None:
    """First time in `after_s…before_s` at which the signal passes `level` in the given direction, linear between samples."""
    sign = 1.0 if rising else -1.0
    height = sign * (signal - level)
    passes = (height[:-1] < 0) & (height[1:] >= 0) & (time_s[1:] > after_s) & (time_s[:-1] < before_s)
    where = np.flatnonzero(passes)
    if len(where) == 0:
        return None
    i = int(where[0])
    share = -height[i] / (height[i + 1] - height[i])
    return float(time_s[i] + share * (time_s[i + 1] - time_s[i]))


def let_go(time_s: Floats, y_m: Floats, ay_m_s2: Floats, *, after_s: float, before_s: float) -> float | None:
    """When a bar is dropped: its acceleration passes so much downwards, and from there it falls. Where it meets the floor a filtered
    acceleration swings for some time before, which takes the bar nowhere."""
    while True:
        at = first_crossing(time_s, ay_m_s2, -DROPPED_G * GRAVITY_M_S2, after_s=after_s, before_s=before_s, rising=False)
        if at is None:
            return None
        lasts = min(float(time_s[-1]) - at, FALLS_S)
        if float(np.interp(at, time_s, y_m) - np.interp(at + lasts, time_s, y_m)) >= DROPPED_G / 4 * GRAVITY_M_S2 * lasts**2:
            return at
        after_s = float(time_s[min(int(np.searchsorted(time_s, at, side="right")), len(time_s) - 1)])


def load_taken(time_s: Floats, ay_m_s2: Floats, slower_m_s2: Floats, *, apex_s: float, before_s: float) -> float | None:
    """When the lifter takes the load again after the apex: the bar is pushed up with half its weight and more. None when nobody takes it.

    A filter spreads a push that soon grows far beyond that, and shows it too early, by a time that falls with the square of its cut-off.
    One half as quick is early by four times as much, so that a third of the difference between the two is what is still missing. Of a push
    that grows slowly both show the same.

        ay |            .--- as it was          the difference, at half the weight
           |     ..´  .´                        <---->
           |  .´   .´ |                         slower, filtered, as it was
           +---------------- time

    Args:
        slower_m_s2: the same acceleration, filtered at half the cut-off.
    """
    met, slower = (_half_carried(time_s, signal, apex_s, before_s) for signal in (ay_m_s2, slower_m_s2))
    if met is None or slower is None:
        return met
    return met + float(np.clip((met - slower) / 3, 0.0, LATEST_S))


def _half_carried(time_s: Floats, ay_m_s2: Floats, apex_s: float, before_s: float) -> float | None:
    """When the bar is pushed up with half its weight, until it is fully carried.

    Noise passes half the weight early and goes back; what counts is the last passing before the push reaches the whole weight. A bar that
    was never pushed less than half is met at its apex.
    """
    half = -GRAVITY_M_S2 / 2
    carried = first_crossing(time_s, ay_m_s2, 0.0, after_s=apex_s, before_s=before_s)
    if carried is None:
        if float(np.interp(apex_s, time_s, ay_m_s2)) > half:
            return apex_s
        return first_crossing(time_s, ay_m_s2, half, after_s=apex_s, before_s=before_s)
    passes = (ay_m_s2[:-1] < half) & (ay_m_s2[1:] >= half) & (time_s[1:] > apex_s) & (time_s[:-1] < carried)
    where = np.flatnonzero(passes)
    if len(where) == 0:
        return apex_s
    i = int(where[-1])
    share = (half - ay_m_s2[i]) / (ay_m_s2[i + 1] - ay_m_s2[i])
    return float(time_s[i] + share * (time_s[i + 1] - time_s[i]))


def largest(time_s: Floats, signal: Floats, *, after_s: float, before_s: float) -> float | None:
    """Time of the signal's largest value in a window, by a parabola through the top three samples."""
    inside = np.flatnonzero((time_s >= after_s) & (time_s <= before_s))
    if len(inside) == 0:
        return None
    i = int(inside[np.argmax(signal[inside])])
    if i in (inside[0], inside[-1]) or i in (0, len(signal) - 1):
        return float(time_s[i])
    a, b, c = signal[i - 1], signal[i], signal[i + 1]
    bend = a - 2 * b + c
    shift = 0.0 if bend == 0 else float(np.clip(0.5 * (a - c) / bend, -0.5, 0.5))
    step = time_s[i + 1] - time_s[i] if shift > 0 else time_s[i] - time_s[i - 1]
    return float(time_s[i] + shift * step)


def sunk(time_s: Floats, height: Floats, *, after_s: float, before_s: float) -> float | None:
    """When what sinks has sunk: the first time in a window that it is within a centimetre of its lowest there."""
    inside = (time_s >= after_s) & (time_s <= before_s)
    if not inside.any():
        return None
    low = float(np.min(height[inside])) + SUNK_M
    return first_crossing(time_s, height, low, after_s=after_s, before_s=before_s, rising=False) or float(time_s[inside][0])


def set_out(time_s: Floats, speed: Floats, sample: int) -> float:
    """When what is this quick at a sample began to move, if it has quickened evenly since."""
    before, after = max(sample - 1, 0), min(sample + 1, len(speed) - 1)
    quickens = float(speed[after] - speed[before]) / max(float(time_s[after] - time_s[before]), 1e-9)
    return float(time_s[sample]) - (min(float(speed[sample]) / quickens, SETS_OUT_S) if quickens > 0 else 0.0)


def still_since(time_s: Floats, height: Floats, *, after_s: float, within: float, for_s: float) -> float | None:
    """First time after `after_s` from which the signal stays within a band of width `within` for at least `for_s`."""
    step = float(np.median(np.diff(time_s))) if len(time_s) > 1 else for_s
    width = max(int(np.ceil(for_s / step)), 1)
    if len(time_s) <= width:
        return None
    band = np.ptp(np.lib.stride_tricks.sliding_window_view(height, width + 1), axis=1)
    calm = np.flatnonzero((band <= within) & (time_s[: len(band)] >= after_s))
    return float(time_s[calm[0]]) if len(calm) else None


def held(time_s: Floats, height: Floats, speed: Floats, inside: NDArray[np.bool_]) -> dict[str, float]:
    """`hold_start` and `hold_end` (s) of the longest stretch in which a bar is held still; empty where it never is for 0.4 s.

    Args:
        inside: samples at which it may be held at all.
    """
    stretches = ((float(time_s[a]), float(time_s[b])) for a, b in rests(time_s, height, speed, inside))
    start, stop = max(stretches, key=lambda run: run[1] - run[0], default=(0.0, 0.0))
    return {"hold_start": start, "hold_end": stop} if stop - start >= LEAST_HOLD_S else {}


def rests(time_s: Floats, height: Floats, speed: Floats, inside: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """First and last sample of every stretch in which a bar hardly moves, however short, in order; a twitch does not end one."""
    stretches: list[tuple[int, int]] = []
    for first, beyond in runs(inside & (np.abs(speed) < HELD_M_S)):
        last = beyond - 1
        begun, ended = stretches[-1] if stretches else (first, first)
        if stretches and time_s[first] - time_s[ended] < TWITCH_S and abs(height[first] - height[ended]) < TWITCH_M:
            stretches[-1] = (begun, last)
        else:
            stretches.append((first, last))
    return stretches


def risen(time_s: Floats, height: Floats, bottom_s: float, stop_s: float) -> float:
    """When most of the way is done that a bar is stood up with from its bottom: up to its highest before it goes down again (set down,
    dropped, or dipped to jerk)."""
    after = height[(time_s >= bottom_s) & (time_s <= stop_s)]
    top = np.maximum.accumulate(after)
    again = np.flatnonzero((top - after > DOWN_AGAIN_M) & (top - after[0] > STOOD_UP_M))
    tall, low = float(top[again[0]] if len(again) else top[-1]), float(np.interp(bottom_s, time_s, height))
    up = first_crossing(time_s, height, low + RISEN_SHARE * (tall - low), after_s=bottom_s, before_s=stop_s)
    return bottom_s if up is None else up


def stood_up(time_s: Floats, height: Floats, speed: Floats, *, after_s: float, before_s: float) -> float | None:
    """When a bar that is stood up with is up and at rest: within 1 cm of the height it comes to, and hardly moving any more.

    height |        .------ tall        `tall` is where the bar first stays for a quarter of a second
           |      .´  ^
           |    .´    stood up
           +----------------- time
    """
    calm = still_since(time_s, height, after_s=after_s, within=AT_REST_M, for_s=AT_REST_S)
    if calm is None or calm > before_s:
        return None
    stays = (time_s >= calm) & (time_s <= calm + AT_REST_S + 0.2)
    tall = float(height[stays].max())
    up = np.flatnonzero((time_s >= calm) & (time_s <= before_s) & (height > tall - 0.01) & (np.abs(speed) < AT_REST_M_S))
    return float(time_s[up[0]]) if len(up) else calm


def onset(time_s: Floats, height: Floats, *, noise: float, upto: float) -> float | None:
    """When a signal that rested at zero began to rise: when the power curve through its first part is clear of zero by `CLEAR_M`.

        height |            *
          upto |----------*
               |        *        height = c (t - t0)^p,  p one of 2 … 3: a push that is there at once, or one that grows
               |   t0 *
               +* * *-+--------- time

    A threshold alone would answer several frames late. `height` is the unfiltered signal up to its first clear rise.
    """
    above = np.flatnonzero(height > upto)
    if len(above) == 0:
        return None
    end = int(above[0])
    low = max(3 * noise, 0.03 * upto)
    begin = end
    while begin > 0 and height[begin - 1] > low:
        begin -= 1
    t, h = time_s[begin : end + 1], height[begin : end + 1]
    if len(t) < 3:
        return float(time_s[max(begin - 1, 0)])
    best: tuple[float, float] | None = None
    off = t - t.mean()
    for power in (2.0, 2.5, 3.0):
        grown = h ** (1 / power)
        slope = float(off @ grown) / float(off @ off)
        intercept = float(grown.mean()) - slope * float(t.mean())
        if slope <= 0:
            continue
        start = (CLEAR_M ** (1 / power) - intercept) / slope
        error = float(np.sum((np.clip(slope * t + intercept, 0, None) ** power - h) ** 2))
        if best is None or error < best[0]:
            best = (error, float(start))
    if best is None:
        return float(t[0])
    return float(np.clip(best[1], time_s[max(begin - int(0.12 / max(t[1] - t[0], 1e-3)), 0)], t[0]))

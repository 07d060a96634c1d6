"""Smooth and differentiate a sampled signal: zero lag, cut-off chosen from the signal's own residuals.

Frames of a phone clip are not evenly spaced. A signal is put on an even clock by cubic interpolation at its true times, filtered
there, and read back at the frames' own times.
"""

from __future__ import annotations

import itertools
from bisect import bisect_right
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicSpline
from scipy.signal import butter, sosfiltfilt

Floats = NDArray[np.float64]

# A barbell with a person behind it has nothing to say above this; and below the first nothing of a lift would be left.
LOWEST_CUTOFF_HZ, HIGHEST_CUTOFF_HZ = 4.0, 24.0
MIN_FRAMES = 12
# A clock that is even but for this (s) is even: other times differ by what a number holds.
EVEN_S = 1e-9
# What is removed is compared with the noise window by window: a lift's quickest moments are short, and over a whole clip their loss
# would be averaged away. Chance alone makes the noisiest of some twenty windows this much louder than the mean.
WINDOW_S = 0.25
WORST_WINDOW = 1.5
# Of half a hertz each.
LARGE_STEP = 5


def fill_short_gaps(time_s: Floats, values: Floats, *, longest_s: float) -> tuple[Floats, NDArray[np.bool_]]:
    """Bridge inner gaps (NaN) no longer than `longest_s` with a cubic through the samples around them.

    Returns:
        The values with those gaps filled, and a mask `(frames,)` of what was filled. Longer gaps and the ends stay NaN.
    """
    seen = np.isfinite(values)
    filled = np.zeros(len(values), bool)
    if seen.sum() < 4 or seen.all():
        return values.copy(), filled
    known = np.nonzero(seen)[0]
    for left, right in itertools.pairwise(known):
        if right - left > 1 and time_s[right] - time_s[left] <= longest_s:
            filled[left + 1 : right] = True
    result = values.copy()
    result[filled] = CubicSpline(time_s[seen], values[seen])(time_s[filled])
    return result, filled


def runs(good: NDArray[np.bool_]) -> list[tuple[int, int]]:
    """First and one-past-last index of every run of True."""
    edges = np.flatnonzero(np.diff(np.concatenate([[False], good, [False]]).astype(int)))
    return [(int(start), int(stop)) for start, stop in zip(edges[::2], edges[1::2], strict=True)]


def chosen_cutoff_hz(values: Floats, rate_hz: float) -> float:
    """The lowest cut-off (Hz) at which what the filter takes away is nowhere more than the noise.

    The size of the noise is known from the signal itself: in fourth differences of neighbouring samples a smooth movement all but
    vanishes and independent noise does not. What remains between raw and filtered signal falls with the cut-off until only noise is
    left in it:

        residual |*
                 | *
                 |  *
        noise ---|---*- - - - - -
                 |     * * * * * *  *  *
                 +-----+---------------- cut-off
                       chosen

    Args:
        values: evenly sampled, `(samples,)` or `(samples, signals)`, no NaN. One cut-off is chosen for all signals.
    """
    series = values if values.ndim == 2 else values[:, None]
    top = min(HIGHEST_CUTOFF_HZ, 0.45 * rate_hz)
    noise = noise_size(series)
    pieces = max(int(len(series) / rate_hz / WINDOW_S), 1)

    def only_noise(cutoff: float) -> bool:
        removed = (series - _lowpass(series, cutoff, rate_hz)) ** 2
        worst = np.sqrt(np.max([piece.mean(axis=0) for piece in np.array_split(removed, pieces)], axis=0))
        # Of white noise a low-pass keeps the part below its cut-off; only the rest can show in what it removes.
        expected = noise * np.sqrt(1 - min(2 * cutoff / rate_hz, 0.9))
        return bool(np.all(worst <= WORST_WINDOW * expected))

    # In large steps up to where only noise is taken away, then in small ones from the last where more was.
    grid = np.arange(LOWEST_CUTOFF_HZ, top, 0.5)
    reached = next((at for at in range(0, len(grid), LARGE_STEP) if only_noise(float(grid[at]))), len(grid))
    between = range(max(reached - LARGE_STEP + 1, 0), min(reached, len(grid)))
    found = next((at for at in between if only_noise(float(grid[at]))), reached)
    return float(grid[found]) if found < len(grid) else float(top)


def noise_size(values: Floats) -> Floats:
    """Standard deviation of independent noise on a smooth signal, per column, from fourth differences (their noise gain is √70).

    The median of many short stretches is taken, so that the few quickest moments of a movement do not count as noise.
    """
    fourth = np.diff(values, n=4, axis=0) / np.sqrt(70)
    pieces = np.array_split(fourth, max(len(fourth) // 12, 1))
    return np.asarray(np.median([np.sqrt(np.mean(piece**2, axis=0)) for piece in pieces], axis=0))


def quiet_cutoff_hz(noise: float, rate_hz: float, *, order: int, most: float) -> float:
    """The highest cut-off (Hz) at which white noise of size `noise` leaves no more than `most` in the derivative of that order."""
    grid = np.arange(LOWEST_CUTOFF_HZ, min(HIGHEST_CUTOFF_HZ, 0.45 * rate_hz) + 0.25, 0.5)
    # The more passes, the more noise is left (next to half the frame rate, but for a ten-thousandth).
    loud = bisect_right(grid, most, key=lambda cutoff: noise * noise_gain(float(cutoff), round(rate_hz, 1), order))
    return float(grid[max(loud - 1, 0)])


@lru_cache(maxsize=512)
def noise_gain(cutoff_hz: float, rate_hz: float, order: int) -> float:
    """How much independent noise of size 1 leaves in the filtered derivative of an order: the size of the response to one sample."""
    count = int(4 * rate_hz / cutoff_hz) * 2 + 65
    impulse = np.zeros(count)
    impulse[count // 2] = 1.0
    clock = np.arange(count) / rate_hz
    return float(np.linalg.norm(CubicSpline(clock, _lowpass(impulse, cutoff_hz, rate_hz))(clock, order)))


def derivatives(
    time_s: Floats, values: Floats, *, cutoff_hz: float, rate_hz: float, acceleration_cutoff_hz: float | None = None
) -> tuple[Floats, Floats, Floats]:
    """Filtered signal with its first and second derivative at the frames' own times.

    Args:
        time_s: `(frames,)`, increasing, not necessarily even.
        values: `(frames,)` or `(frames, signals)`, no NaN.
        cutoff_hz: for the signal and its first derivative.
        rate_hz: sample rate of the even clock used inside.
        acceleration_cutoff_hz: for the second derivative, which noise disturbs most; as `cutoff_hz` when left out.

    Raises:
        ValueError: fewer than 12 frames, a time that does not increase, or a NaN.
    """
    if len(time_s) < MIN_FRAMES:
        raise ValueError(f"At least {MIN_FRAMES} frames are needed to filter a signal; there are {len(time_s)}.")
    if np.any(np.diff(time_s) <= 0):
        raise ValueError("Frame times must increase.")
    if not np.isfinite(values).all():
        raise ValueError("A signal with gaps cannot be filtered; fill or cut the gaps first.")
    clock, even = even_clock(time_s, values, rate_hz)
    smooth = CubicSpline(clock, _lowpass(even, cutoff_hz, rate_hz), axis=0)
    calmer = smooth
    if acceleration_cutoff_hz is not None and acceleration_cutoff_hz != cutoff_hz:
        calmer = CubicSpline(clock, _lowpass(even, acceleration_cutoff_hz, rate_hz), axis=0)
    return smooth(time_s), smooth(time_s, 1), calmer(time_s, 2)


def even_clock(time_s: Floats, values: Floats, rate_hz: float) -> tuple[Floats, Floats]:
    """The signal on an even clock of `rate_hz` over the same span, cubic between the samples."""
    count = max(round((time_s[-1] - time_s[0]) * rate_hz) + 1, 2)
    clock = np.linspace(time_s[0], time_s[-1], count)
    if count == len(time_s) and np.abs(clock - time_s).max() < EVEN_S:
        return clock, values
    return clock, CubicSpline(time_s, values, axis=0)(clock)


@lru_cache(maxsize=128)
def _sections(cutoff_hz: float, rate_hz: float) -> Floats:
    # Two passes of a second-order filter let the cut-off slip; this correction puts -3 dB back where it was asked.
    corrected = cutoff_hz / (np.sqrt(2) - 1) ** 0.25
    return np.asarray(butter(2, min(corrected, 0.49 * rate_hz), fs=rate_hz, output="sos"))


def _lowpass(values: Floats, cutoff_hz: float, rate_hz: float) -> Floats:
    pad = min(len(values) - 1, int(rate_hz / cutoff_hz * 1.5) + 3)
    return np.asarray(sosfiltfilt(_sections(round(cutoff_hz, 3), round(rate_hz, 6)), values, axis=0, padlen=pad))

"""What the phone's microphone hears: the room, the bar struck by the body at contact, the discs landing.

Loudness follows the physics that makes it: the click grows with the speed the bar gains at contact, the thud with the speed at which
the discs land. Both arrive late by the way the sound has to the phone.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

from .barpath import BarPath

RATE_HZ = 48_000
SOUND_M_S = 343.0
# Room noise against full scale, and how loud a click at 0.5 m/s and a landing at 5 m/s are.
ROOM_LEVEL = 0.004
CLICK_PER_M_S = 0.25
THUD_PER_M_S = 0.09

Samples = NDArray[np.float32]


def hear(path: BarPath, *, contacts: list[tuple[float, float]], span_s: tuple[float, float], distance_m: float, seed: int) -> Samples:
    """Mono sound at 48 kHz, full scale 1, from one moment of the path to another.

    Args:
        contacts: when the body touches the bar (s on the path's clock) and the forward speed (m/s) the bar gains by it.
    """
    rng = np.random.default_rng(seed)
    begin, end = span_s
    count = int((end - begin) * RATE_HZ)
    room = sosfilt(butter(1, 900, fs=RATE_HZ, output="sos"), rng.normal(0, 1, count))
    sound = ROOM_LEVEL * room / np.std(room)
    late = distance_m / SOUND_M_S - begin
    for when, bump in contacts:
        _add(sound, when + late, CLICK_PER_M_S * bump * _burst(rng, 1500, 9000, 0.006))
    for when, speed in landings(path):
        _add(sound, when + late, THUD_PER_M_S * speed * _burst(rng, 40, 220, 0.09))
        _add(sound, when + late, 0.3 * THUD_PER_M_S * speed * _burst(rng, 400, 5000, 0.02))
    return np.asarray(np.clip(sound, -1, 1), np.float32)


def landings(path: BarPath) -> list[tuple[float, float]]:
    """When the discs hit the floor or the blocks, and how fast (m/s), after the bar was let go."""
    down = path.y_m <= path.y_m.min() + 0.004
    hit = np.flatnonzero(~down[:-1] & down[1:] & (path.vy_m_s[:-1] < -0.3))
    return [(float(path.time_s[i + 1]), float(-path.vy_m_s[i])) for i in hit]


def _burst(rng: np.random.Generator, low_hz: float, high_hz: float, dies_s: float) -> NDArray[np.float64]:
    """Noise of one band, struck once and dying away; peak 1."""
    time = np.arange(0, 8 * dies_s, 1 / RATE_HZ)
    band = sosfilt(butter(2, [low_hz, high_hz], "bandpass", fs=RATE_HZ, output="sos"), rng.normal(0, 1, len(time)))
    struck = band * np.exp(-time / dies_s)
    return np.asarray(struck / np.abs(struck).max())


def _add(sound: NDArray[np.float64], at_s: float, piece: NDArray[np.float64]) -> None:
    start = round(at_s * RATE_HZ)
    if 0 <= start < len(sound):
        piece = piece[: len(sound) - start]
        sound[start : start + len(piece)] += piece

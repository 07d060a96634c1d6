"""A simulated sensor on the bar: acceleration as it would measure it, and the speed and height it would make of that.

Bias and noise are in the acceleration only. The sensor integrates what it measured, from the last moment it knows that it was at rest,
so drift of speed and height is a consequence, as it is in a real one.
"""

from __future__ import annotations

import csv
from dataclasses import dataclass
from pathlib import Path

import numpy as np
from numpy.typing import NDArray
from scipy.integrate import cumulative_trapezoid

from .barpath import BarPath

Floats = NDArray[np.float64]
COLUMNS = ("time_s", "ax_m_s2", "ay_m_s2", "vx_m_s", "vy_m_s", "x_m", "y_m")


@dataclass(frozen=True)
class Sensor:
    """How a bar sensor samples, and what is wrong with it."""

    rate_hz: float = 100.0
    clock_offset_s: float = 0.0
    """What its clock shows when the clip's first frame is taken."""
    clock_drift: float = 0.0
    """How much faster its clock runs than the phone's, as a share."""
    bias_m_s2: float = 0.05
    noise_m_s2: float = 0.15
    drop_outs: int = 0
    """How many times the connection is lost."""
    drop_out_s: float = 0.08


@dataclass(frozen=True)
class SensorRecord:
    """What came in from the sensor, `(samples,)` each, on its own clock; NaN where the connection was lost.

    x forward and y up are counted from where the sensor was switched on, m; speeds m/s; accelerations m/s² without gravity.
    """

    time_s: Floats
    ax_m_s2: Floats
    ay_m_s2: Floats
    vx_m_s: Floats
    vy_m_s: Floats
    x_m: Floats
    y_m: Floats


def record(path: BarPath, sensor: Sensor, rng: np.random.Generator, *, begin_s: float | None = None) -> SensorRecord:
    """The sensor's record of a set, from a moment of the path (its beginning when left out) to its end.

    Raises:
        ValueError: fewer than ten samples a second, or a lift shorter than the drop-outs asked for.
    """
    if sensor.rate_hz < 10:
        raise ValueError(f"A sensor of {sensor.rate_hz:g} Hz tells nothing of a lift; ask for 10 Hz or more.")
    begin = float(path.time_s[0]) if begin_s is None else begin_s
    length_s = float(path.time_s[-1]) - begin
    if sensor.drop_outs * sensor.drop_out_s > 0.5 * length_s:
        raise ValueError("Drop-outs would take more than half of the record; ask for fewer or shorter ones.")
    elapsed = np.arange(0.0, length_s, 1 / sensor.rate_hz)
    true_x = np.gradient(np.gradient(path.x_m, path.time_s), path.time_s)
    measured = []
    for true in (true_x, path.ay_m_s2):
        sampled = np.interp(begin + elapsed, path.time_s, true)
        measured.append(sampled + sensor.bias_m_s2 * rng.choice([-1, 1]) + rng.normal(0, sensor.noise_m_s2, len(elapsed)))
    speed = [cumulative_trapezoid(a, elapsed, initial=0) for a in measured]
    place = [cumulative_trapezoid(v, elapsed, initial=0) for v in speed]
    columns = [measured[0], measured[1], speed[0], speed[1], place[0], place[1]]
    for start in rng.uniform(0, length_s - sensor.drop_out_s, sensor.drop_outs):
        lost = (elapsed >= start) & (elapsed < start + sensor.drop_out_s)
        for column in columns:
            column[lost] = np.nan
    return SensorRecord(sensor.clock_offset_s + elapsed * (1 + sensor.clock_drift), *columns)


def write_csv(held: SensorRecord, target: Path) -> None:
    """One row a sample under a header of `COLUMNS`; a lost sample has its time and nothing else."""
    with target.open("w", newline="", encoding="utf-8") as handle:
        writer = csv.writer(handle)
        writer.writerow(COLUMNS)
        for row in zip(*(getattr(held, name) for name in COLUMNS), strict=True):
            writer.writerow(["" if np.isnan(value) else round(float(value), 5) for value in row])

"""The simulated barbell: which discs make a load, and where they sit on the bar."""

from __future__ import annotations

from dataclasses import dataclass

from .build import DISC_RADIUS_M

COLLAR_M = 0.655
"""Inner end of the sleeve, from the middle of the bar."""
SLEEVE_END_M = 1.10
# Weight of a disc (kg): radius and thickness (m). From 10 kg up all are full size.
DISCS = {
    25.0: (DISC_RADIUS_M, 0.062), 20.0: (DISC_RADIUS_M, 0.054), 15.0: (DISC_RADIUS_M, 0.044), 10.0: (DISC_RADIUS_M, 0.036),
    5.0: (0.115, 0.026), 2.5: (0.105, 0.019), 2.0: (0.095, 0.019), 1.5: (0.087, 0.018), 1.0: (0.080, 0.015), 0.5: (0.067, 0.013),
}  # fmt: skip


@dataclass(frozen=True)
class Disc:
    """One disc on the near side; the far side mirrors it. `inner_m` and `outer_m` are from the middle of the bar."""

    weight_kg: float
    radius_m: float
    inner_m: float
    outer_m: float


def discs_for(load_kg: float, bar_kg: float = 20.0) -> tuple[Disc, ...]:
    """The discs of one side from the collar outward, heaviest first; at least one of full size.

    Raises:
        ValueError: a load that no bar with full-size discs has.
    """
    rest = (load_kg - bar_kg) / 2
    if rest < 2.5 or load_kg > 300:
        raise ValueError(f"A load of {load_kg:g} kg cannot be put on a {bar_kg:g} kg bar; give {bar_kg + 5:g} to 300 kg.")
    made: list[Disc] = []
    at = COLLAR_M + 0.030
    weights = sorted(DISCS, reverse=True)
    if rest < 10:
        # Light technique discs are as large as the heavy ones.
        made.append(Disc(rest, DISC_RADIUS_M, at, at + 0.034))
        return tuple(made)
    for weight in weights:
        radius, thick = DISCS[weight]
        while rest >= weight - 1e-9 and at + thick < SLEEVE_END_M:
            made.append(Disc(weight, radius, at, at + thick))
            at += thick
            rest -= weight
    return tuple(made)


def near_face_m(discs: tuple[Disc, ...]) -> float:
    """Outer face of the outermost full-size disc: what its outline in the picture is."""
    return max(disc.outer_m for disc in discs if disc.radius_m >= DISC_RADIUS_M - 1e-9)

"""How a simulated clip looks: the room, the discs, the clothes, and who else is about. Colours are red, green, blue from 0 to 1."""

from __future__ import annotations

from dataclasses import dataclass, field

Colour = tuple[float, float, float]


@dataclass(frozen=True)
class Outfit:
    """What a figure wears."""

    skin: Colour = (0.80, 0.60, 0.47)
    hair: Colour = (0.16, 0.11, 0.08)
    shirt: Colour = (0.20, 0.32, 0.50)
    shorts: Colour = (0.13, 0.13, 0.15)
    shoes: Colour = (0.86, 0.86, 0.84)
    legs_covered: float = 0.5
    """How far down the thigh the shorts reach; above 1 they are tights that end above the ankle."""
    arms_covered: float = 0.45
    loose_m: float = 0.0
    """How far shirt and shorts hang off the body beyond close-fitting ones."""
    weave: int = 0
    """Seed of what is printed on the cloths and of how they fold; 0 for plain ones."""
    belt: Colour | None = None
    sleeves: Colour | None = None
    """Over the knees."""
    back_round_m: float = 0.0
    """How far the middle of the back stands out behind the line of hips and shoulders."""
    jointed: int = 0
    """Seed of where in the body its joints lie, which is not the same in everybody; 0 for the figure's own places."""


@dataclass(frozen=True)
class Gym:
    """Colours and furniture of a room."""

    wall: Colour = (0.66, 0.64, 0.60)
    band: Colour = (0.42, 0.47, 0.50)
    floor: Colour = (0.20, 0.21, 0.22)
    platform: Colour = (0.66, 0.50, 0.34)
    mats: Colour = (0.30, 0.31, 0.33)
    posts: Colour = (0.22, 0.23, 0.26)
    wall_m: float = -2.6
    """Where the back wall stands (z)."""
    windows: bool = False
    spare_discs: int = 3
    """Discs leaning or lying about behind the platform."""
    rack: bool = True
    bench: bool = False
    seed: int = 1


@dataclass(frozen=True)
class DiscLook:
    """How a full-size disc looks: rings from the rim inward as (outer radius as a share, colour), marks on one of them, wear.

    A disc that was cast has an edge rounded by `shoulder_m`, and each of its rings lies `depths_m` below the outermost face, with a step
    between them; on one of its rings there may be so many signs (`letters`).
    """

    rings: tuple[tuple[float, Colour], ...] = (
        (1.0, (0.09, 0.09, 0.10)), (0.90, (0.14, 0.14, 0.15)), (0.60, (0.45, 0.20, 0.16)), (0.40, (0.16, 0.16, 0.17)),
        (0.22, (0.60, 0.60, 0.62)),
    )  # fmt: skip
    marks: int = 3
    mark: Colour = (0.75, 0.75, 0.75)
    wear: float = 0.15
    shoulder_m: float = 0.0
    depths_m: tuple[float, ...] = ()
    letters: int = 0


@dataclass(frozen=True)
class Light:
    """Where the light comes from (towards it, x forward, y up, z to the camera) and how strong each part is."""

    lamp: tuple[float, float, float] = (0.35, 0.80, 0.48)
    fill: tuple[float, float, float] = (-0.6, 0.25, 0.55)
    sky: float = 0.40
    from_above: float = 0.16
    lamp_strength: float = 0.58
    fill_strength: float = 0.16
    tint: Colour = (1.0, 0.985, 0.96)


@dataclass(frozen=True)
class Look:
    """Everything about a clip's look that is not the camera's."""

    gym: Gym = field(default_factory=Gym)
    outfit: Outfit = field(default_factory=Outfit)
    disc: DiscLook = field(default_factory=DiscLook)
    muscle: float = 0.6
    walkers: int = 0
    """People walking by behind the platform."""
    loader: bool = False
    """Somebody crosses in front of the bar for a moment."""
    loader_at_s: float = 1.0
    light: Light = field(default_factory=Light)

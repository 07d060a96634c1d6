"""Recipes: a whole set of clips written down as data, for the demo world and the benchmark.

A recipe is a TOML file with `[lifter.NAME]`, `[room.NAME]`, `[disc.NAME]` and one `[[clip]]` for every clip.
"""

from __future__ import annotations

import tomllib
from collections.abc import Mapping
from dataclasses import dataclass, fields
from pathlib import Path
from typing import Any

from .asked import Wanted, asked_camera, asked_set
from .build import Build
from .film import Shoot
from .look import DiscLook, Gym, Look, Outfit
from .sets import play

_BUILD = {field.name for field in fields(Build)}
_OUTFIT = {field.name for field in fields(Outfit)}
_KEYS = {
    "clip": {
        "name", "lifts", "load", "best", "faults", "miss", "seed", "tired", "camera", "sound", "walkers", "loader_at_s", "codec", "crf",
        "lifter", "room", "disc",
    },
    "lifter": _BUILD | _OUTFIT | {"body_kg", "bar_kg", "muscle", "habit"},
    "room": {field.name for field in fields(Gym)},
    "disc": {field.name for field in fields(DiscLook)},
}  # fmt: skip


@dataclass(frozen=True)
class Clip:
    """One clip of a recipe: its name, codec, and all that is asked of it."""

    name: str
    codec: str
    crf: int
    told: Mapping[str, Any]
    lifter: Mapping[str, Any]
    room: Mapping[str, Any]
    disc: Mapping[str, Any]

    @property
    def build(self) -> Build:
        """The lifter's."""
        return Build(**{name: value for name, value in self.lifter.items() if name in _BUILD})

    def shoot(self) -> Shoot:
        """Perform the set and set up the camera. Raises ValueError as `asked_set` and `asked_camera` do."""
        told, lifter = self.told, self.lifter
        outfit = Outfit(**{name: _tuples(value) for name, value in lifter.items() if name in _OUTFIT})
        wanted = Wanted(
            told["lifts"],
            self.build,
            told["load"],
            lifter.get("body_kg"),
            told.get("best"),
            told.get("faults", {}),
            told.get("miss", ""),
            told.get("seed", 1),
            lifter.get("habit"),
            told.get("tired", 0.0),
        )
        look = Look(
            Gym(**{name: _tuples(value) for name, value in self.room.items()}),
            outfit,
            DiscLook(**{name: _tuples(value) for name, value in self.disc.items()}),
            lifter.get("muscle", 0.6),
            told.get("walkers", 0),
            "loader_at_s" in told,
            told.get("loader_at_s", 1.0),
        )
        asked = {"lifts": wanted.lifts, "faults": dict(wanted.faults), "miss": wanted.miss, "seed": wanted.seed, "tired": wanted.tired}
        return Shoot(
            play(asked_set(wanted)),
            asked_camera(told.get("camera", "")),
            look,
            lifter.get("bar_kg", 20.0),
            wanted.seed,
            told.get("sound", True),
            asked,
        )


def read_recipe(path: Path) -> list[Clip]:
    """The clips of a recipe.

    Raises:
        ValueError: a clip names a lifter, a room or a disc that the recipe does not have, or a key is misspelt; the message says which.
    """
    held = tomllib.loads(path.read_text("utf-8"))
    for kind, known in _KEYS.items():
        rows = held.get(kind, {}).items() if kind != "clip" else [(row.get("name", "?"), row) for row in held.get("clip", [])]
        for name, row in rows:
            if strange := sorted(row.keys() - known):
                raise ValueError(f"The {kind} {name} has '{strange[0]}', which no {kind} has. It can have {', '.join(sorted(known))}.")
    made = []
    for row in held.get("clip", []):
        found = {}
        for kind in ("lifter", "room", "disc"):
            name = row.get(kind)
            if name is not None and name not in held.get(kind, {}):
                raise ValueError(
                    f"Clip {row.get('name', '?')}: the recipe has no {kind} '{name}'. It has {', '.join(held.get(kind, {})) or 'none'}."
                )
            found[kind] = held.get(kind, {}).get(name, {}) if name is not None else {}
        missing = [key for key in ("name", "lifts", "load") if key not in row]
        if missing:
            raise ValueError(f"Clip {row.get('name', '?')} says nothing of its {' and '.join(missing)}.")
        made.append(Clip(row["name"], row.get("codec", "libx264"), row.get("crf", 21), row, found["lifter"], found["room"], found["disc"]))
    return made


def _tuples(value: Any) -> Any:
    return tuple(_tuples(part) for part in value) if isinstance(value, list) else value

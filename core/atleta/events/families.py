"""Kinds of lift and the family whose events and measures each has."""

from __future__ import annotations

from dataclasses import dataclass

FAMILY_OF_KIND = {
    "snatch": "pull", "power_snatch": "pull", "muscle_snatch": "pull",
    "clean": "pull", "power_clean": "pull", "muscle_clean": "pull",
    "snatch_pull": "pull", "clean_pull": "pull", "high_pull": "pull", "deadlift": "pull",
    "split_jerk": "jerk", "power_jerk": "jerk", "squat_jerk": "jerk", "push_press": "jerk",
    "press": "press",
    "overhead_squat": "squat", "front_squat": "squat", "back_squat": "squat",
    "continental_clean": "continental", "other": "other",
}  # fmt: skip

# Every event of a family, as a lift goes.
EVENTS = {
    "pull": (
        "set", "pull_start", "lift_off", "hold_start", "hold_end", "knee", "first_pull_end", "rebend", "contact", "peak_speed", "extension",
        "apex", "meet", "bottom", "low_point", "lockout", "stand", "release",
    ),
    "jerk": (
        "rack", "dip_start", "dip_bottom", "drive_end", "apex", "back_foot_down", "front_foot_down", "meet", "lockout", "low_point",
        "first_step", "recovered", "release",
    ),
    "squat": ("descent_start", "bottom", "hold_start", "hold_end", "stand", "release"),
    "continental": ("set", "pull_start", "lift_off", "knee", "belt", "regrip", "extension", "peak_speed", "shoulder", "release"),
    "press": ("rack", "press_start", "peak_speed", "lockout", "recovered", "release"),
    "other": (),
}  # fmt: skip
# Families whose bar comes from the floor, and those whose bar is taken on the shoulders and goes overhead.
FROM_FLOOR, FROM_RACK = frozenset({"pull", "continental"}), frozenset({"jerk", "press"})
LIFT_KINDS = tuple(FAMILY_OF_KIND)
WIDE_GRIP = frozenset({"snatch", "power_snatch", "muscle_snatch", "snatch_pull", "overhead_squat"})
# Caught or held with straight arms over the head.
OVERHEAD = frozenset(
    {"snatch", "power_snatch", "muscle_snatch", "overhead_squat", "split_jerk", "power_jerk", "squat_jerk", "push_press", "press"}
)
# On the shoulders at some time.
RACKED = frozenset(kind for kind, family in FAMILY_OF_KIND.items() if family in FROM_RACK) | frozenset(
    {"clean", "power_clean", "muscle_clean", "continental_clean", "front_squat", "back_squat"}
)
RECEIVED = frozenset({"snatch", "power_snatch", "muscle_snatch", "clean", "power_clean", "muscle_clean"})
# What a coach says in one word and a lifter does in several lifts without letting go between them, or as one set.
COMPLEXES = {
    "clean_and_jerk": ("clean", "split_jerk"),
    "two_cleans_and_jerk": ("clean", "clean", "split_jerk"),
    "clean_and_two_jerks": ("clean", "split_jerk", "split_jerk"),
    "clean_front_squat_and_jerk": ("clean", "front_squat", "split_jerk"),
    "snatch_pull_and_snatch": ("snatch_pull", "snatch"),
    "clean_pull_and_clean": ("clean_pull", "clean"),
    "snatch_and_overhead_squat": ("snatch", "overhead_squat"),
    "continental_clean_and_press": ("continental_clean", "press"),
}
ASKED_FOR = {"jerk": ("split_jerk",), **COMPLEXES}


def sequence_of(asked: str) -> tuple[str, ...]:
    """The kinds of lift, in order, that an asked-for word stands for.

    Raises:
        ValueError: the word is not a lift Atleta knows.
    """
    if asked not in FAMILY_OF_KIND and asked not in ASKED_FOR:
        raise ValueError(f"'{asked}' is not a lift Atleta knows. Known lifts: {', '.join([*LIFT_KINDS, *ASKED_FOR])}.")
    return ASKED_FOR.get(asked, (asked,))


@dataclass(frozen=True)
class Grasp:
    """How a bar is held in a lift, wherever it pauses."""

    wide_grip: bool
    behind: bool
    """Behind the neck."""
    racked: bool
    """On the shoulders at some time."""

    @classmethod
    def of(cls, first: str, *others: str) -> Grasp:
        """In these lifts; the first says how it is gripped."""
        return cls(first in WIDE_GRIP, first == "back_squat", bool(RACKED & {first, *others}))


def done_otherwise(asked: str) -> list[str]:
    """What a lift might be taken for instead: of its family, one for every other way to hold a bar, receive it and go on with it. Not
    a complex: one that goes on longer is another stretch of the clip."""

    def way(word: str) -> tuple[Grasp, bool, frozenset[str]]:
        kinds = frozenset(sequence_of(word))
        return Grasp.of(*sequence_of(word)), bool(RECEIVED & kinds), kinds & {"split_jerk", "front_squat", "overhead_squat"}

    family = FAMILY_OF_KIND[sequence_of(asked)[0]]
    ways = {way(asked): asked}
    for kind in LIFT_KINDS:
        if FAMILY_OF_KIND[kind] == family:
            ways.setdefault(way(kind), kind)
    return list(ways.values())[1:]

"""Kinds of lift and the family whose events and measures each has."""

from __future__ import annotations

FAMILY_OF_KIND = {
    "snatch": "pull", "power_snatch": "pull", "muscle_snatch": "pull",
    "clean": "pull", "power_clean": "pull", "muscle_clean": "pull",
    "snatch_pull": "pull", "clean_pull": "pull", "high_pull": "pull", "deadlift": "pull",
    "split_jerk": "jerk", "power_jerk": "jerk", "squat_jerk": "jerk", "push_press": "jerk", "press": "jerk",
    "overhead_squat": "squat", "front_squat": "squat", "back_squat": "squat",
    "continental_clean": "other", "other": "other",
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
    "squat": ("descent_start", "bottom", "stand", "release"),
    "other": (),
}  # fmt: skip
LIFT_KINDS = tuple(FAMILY_OF_KIND)
SNATCHES = frozenset({"snatch", "power_snatch", "muscle_snatch", "snatch_pull"})
# Caught or held with straight arms over the head.
OVERHEAD = frozenset(
    {"snatch", "power_snatch", "muscle_snatch", "overhead_squat", "split_jerk", "power_jerk", "squat_jerk", "push_press", "press"}
)
RECEIVED = frozenset({"snatch", "power_snatch", "muscle_snatch", "clean", "power_clean", "muscle_clean"})
ASKED_FOR = {"jerk": "split_jerk", "clean_and_jerk": "clean"}


def resolve_kind(asked: str) -> tuple[str, bool]:
    """The kind an asked-for lift stands for, and whether a jerk follows it.

    Raises:
        ValueError: the word is not a lift Atleta knows.
    """
    kind = ASKED_FOR.get(asked, asked)
    if kind not in FAMILY_OF_KIND:
        raise ValueError(f"'{asked}' is not a lift Atleta knows. Known lifts: {', '.join([*LIFT_KINDS, *ASKED_FOR])}.")
    return kind, asked == "clean_and_jerk"

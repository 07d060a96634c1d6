"""What somebody asks of the simulation, in words and numbers, turned into a set to perform and a camera."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field, fields

import numpy as np

from .axle import ContinentalPlan
from .barpath import G, JerkSpec, PullSpec
from .build import Build
from .camera import Camera
from .jerks import JerkPlan, sound_jerk
from .pulls import PullPlan, sound_plan
from .sets import LIFTS, Asked, Changes, named
from .squats import SquatPlan, sound_squat

# What a fault does at full strength, added to the sound value; in between, that share of it. By the kind of lift: pull (everything
# that leaves the floor or blocks), jerk, squat, pause (of a squat), dip, hold. What a fault leads to comes with it: a bar that leaves
# the floor forward stays in front further up. Grips are narrow or wide for a snatch or for a clean.
AT_FULL_STRENGTH: dict[str, dict[str, dict[str, float]]] = {
    "bar_too_far_at_start": {"pull": {"bar_over_ball_m": 0.080}},
    "bar_too_close_at_start": {"pull": {"bar_over_ball_m": -0.105}},
    "shoulders_behind_at_start": {"pull": {"shoulder_start_m": -0.100}},
    "shoulders_ahead_at_start": {"pull": {"shoulder_start_m": 0.125}},
    "hips_high_at_start": {"pull": {"hip_start_m": 0.110}},
    "hips_low_at_start": {"pull": {"hip_start_m": -0.110}},
    "bar_rolled_in_setup": {"pull": {"roll_m": 0.065}},
    "yanked_from_floor": {"pull": {"early_ratio": 0.55, "middle_push_m_s2": -0.9}},
    "hips_rise_first": {"pull": {"trunk_tip_deg": 13.0, "shoulder_knee_m": 0.03}},
    "shoulders_too_far_over_at_knee": {"pull": {"shoulder_knee_m": 0.120}},
    "shins_vertical_early": {"pull": {"shin_early_m": 0.150}},
    "bar_forward_off_floor": {"pull": {"forward_off_floor_m": 0.040, "back_at_knee_m": -0.030, "back_at_contact_m": -0.02, "gap_m": 0.015}},
    "bar_not_brought_back": {"pull": {"back_at_knee_m": -0.047}},
    "opened_early": {"pull": {"opened_deg": 16.0}},
    "bar_left_in_front": {"pull": {"gap_m": 0.065}},
    "heels_up_early": {"pull": {"heel_lead_s": 0.210}},
    "legs_before_hips": {"pull": {"legs_first_s": 0.170}},
    "weight_on_toes": {"pull": {"back_at_contact_m": -0.150, "balance_m": 0.12}, "jerk": {"balance_m": 0.110}},
    "weight_on_heels": {"pull": {"back_at_contact_m": 0.052, "balance_m": -0.08}, "jerk": {"balance_m": -0.110}},
    "knees_not_rebent": {"pull": {"rebend_deg": -12.0}},
    "speed_lost_in_transition": {"pull": {"transition_m_s2": -3.4}},
    "arms_bent_early": {"pull": {"arms_early_s": 0.230}},
    "low_contact": {"pull": {"contact_trunk_deg": -42.0}},
    "banged_away": {"pull": {"bump_m_s": 0.85}},
    "pulled_into_hip": {"pull": {"approach_m_s": 0.88}},
    "hips_thrown_forward": {"pull": {"thrust_m_s": 1.65}},
    "bar_looped": {"pull": {"loop_forward_m": 0.090, "loop_back_m": 0.090}},
    "bar_away_from_body": {"pull": {"body_gap_m": 0.40, "loop_forward_m": 0.20, "loop_back_m": 0.15}},
    "extension_cut_short": {"pull": {"hip_top_deg": -20.0, "knee_top_deg": -25.0}},
    "leaned_back": {"pull": {"lean_deg": 20.0}},
    "force_fades": {"pull": {"transition_m_s2": 5.2, "early_ratio": 0.22}},
    "low_bar_speed": {"pull": {"speed_lost_share": 0.10}},
    "pulled_sideways": {"pull": {"back_at_contact_m": 0.08, "bump_m_s": 1.3, "approach_m_s": 1.0}},
    "bar_crashed": {"pull": {"drop_m": 0.160, "fall_share": 0.15}},
    "overpulled": {"pull": {"drop_m": 0.110}},
    "slow_turnover": {"pull": {"drop_m": 0.270, "ride_m": 0.07}},
    "not_punched_up": {"pull": {"ride_m": 0.150, "elbow_late_s": 0.190}},
    "pressed_out": {"pull": {"press_deg": 32.0, "elbow_late_s": 0.35}, "jerk": {"press_deg": 32.0}},
    "elbows_low_in_rack": {"pull": {"rack_elbow_deg": -84.0}, "squat": {"rack_elbow_deg": -75.0}},
    "caught_forward": {"pull": {"caught_m": 0.095}},
    "caught_behind": {"pull": {"caught_m": -0.095}},
    "torso_tipped_in_catch": {"pull": {"trunk_catch_deg": -22.0}, "squat": {"trunk_deg": -24.0, "shin_deg": 8.0}},
    "wrists_straight_overhead": {name: {"wrist_deg": -64.0} for name in ("pull", "squat", "jerk")},
    "jumped_forward": {"pull": {"feet_shift_m": 0.090}},
    "jumped_back": {"pull": {"feet_shift_m": -0.140}},
    "double_bounce": {"pull": {"rebound_m": 0.060}},
    "hips_shoot_out_of_hole": {"pull": {"hips_first": 4.4}, "squat": {"hips_first": 2.4}},
    "dip_too_deep": {"jerk": {"dip_share": 0.060}, "dip": {"dip_share": 0.060}},
    "dip_too_shallow": {"jerk": {"dip_share": -0.052}, "dip": {"dip_share": -0.052}},
    "dip_rushed": {"jerk": {"dip_s": -0.31}, "dip": {"down_s": -0.44}},
    "dip_forward": {"jerk": {"dip_forward_m": 0.050, "dip_tilt_deg": 5.0}, "dip": {"tilt_deg": 12.0}},
    "hips_back_in_dip": {"jerk": {"hips_back_m": 0.150}},
    "elbows_drop_in_dip": {"jerk": {"elbow_drop_deg": 80.0}},
    "knees_bend_before_split": {"jerk": {"knee_rebend_deg": 20.0}},
    "drive_cut_short": {"jerk": {"knee_top_deg": -27.0, "hip_top_deg": -20.0}},
    "bar_driven_forward": {"jerk": {"shift_m": 0.105}},
    "overdriven": {"jerk": {"surplus_m": 0.160}},
    "split_too_short": {"jerk": {"split_share": -0.42}},
    "front_shin_not_vertical": {"jerk": {"front_shin_deg": -24.0}},
    "back_leg_locked": {"jerk": {"back_knee_deg": 54.0}},
    "front_foot_first": {"jerk": {"back_first_s": -0.070}},
    "leaning_away": {"jerk": {"bar_over_hip_m": 0.110, "head_through_m": -0.10}},
    "wrong_recovery_order": {"jerk": {"back_step_first": 1.0}},
    "bar_tilted": {"pull": {"tilt_deg": 6.5}, "jerk": {"tilt_deg": 6.5}, "squat": {"tilt_deg": 6.5}},
    "uneven_grip": {name: {"aside_m": 0.05} for name in ("pull", "jerk", "squat")},
    "knees_in": {"pull": {"knee_in_deg": 36.0}, "squat": {"knee_in_deg": 36.0}},
    "shallow": {"squat": {"higher_m": 0.30}},
    "dropped_descent": {"squat": {"down_s": -0.85, "drop_late": 1.1}},
    "bar_off_midfoot": {"squat": {"drift_m": 0.085}},
    "not_parallel_shin_torso": {"squat": {"trunk_deg": -20.0, "shin_deg": 16.0}},
    "hold_too_short": {"hold": {"hold_s": -1.3}, "pause": {"pause_s": -1.3}},
    "hold_at_wrong_height": {"hold": {"above_knee_m": 0.130}},
    "shape_lost_in_hold": {"hold": {"hold_tip_deg": 18.0, "hold_drift_m": 0.03}},
    "chest_forward_in_dip": {"dip": {"tilt_deg": 15.0}},
    "curled_to_shoulder": {"continental": {"curl_s": 0.22}},
    "pressed_forward": {"press": {"forward_m": 0.11}},
    "stance_too_narrow": {"pull": {"stance_m": -0.110}},
    "stance_too_wide": {"pull": {"stance_m": 0.130}},
    "grip_too_narrow": {"snatch_grip": {"grip_m": -0.175}},
    "grip_too_wide": {"snatch_grip": {"grip_m": 0.150}, "clean_grip": {"grip_m": 0.170}},
    "bar_away_in_turnover": {"clean_grip": {"turnover_gap_m": 0.200}},
    "bar_not_behind_delts": {"clean_grip": {"rack_ahead_m": 0.120}, "jerk": {"rack_ahead_m": 0.120}},
}  # fmt: skip
# What cannot be had without the other, by bodies and bars alone; what one fault causes in the next is the cause graph's.
COMPANIONS: dict[str, tuple[str, ...]] = {
    "bar_too_close_at_start": ("shins_vertical_early", "weight_on_heels", "opened_early"),
    "shoulders_behind_at_start": ("hips_low_at_start",),
    "shoulders_ahead_at_start": ("hips_high_at_start", "opened_early", "bar_left_in_front", "shins_vertical_early"),
    "hips_low_at_start": ("opened_early",),
    "shins_vertical_early": ("opened_early",),
    "hips_rise_first": ("shins_vertical_early",),
    "bar_forward_off_floor": ("bar_not_brought_back",),
    "heels_up_early": ("low_contact",),
    "force_fades": ("yanked_from_floor",),
    "knees_not_rebent": ("force_fades", "yanked_from_floor"),
    "legs_before_hips": ("force_fades", "knees_not_rebent"),
    "low_contact": ("bar_away_from_body", "opened_early"),
    "pulled_into_hip": ("pulled_sideways",),
    "banged_away": ("pulled_sideways",),
    "pulled_sideways": ("banged_away", "pulled_into_hip", "weight_on_heels"),
    "bar_away_from_body": ("bar_looped", "hips_thrown_forward", "low_contact"),
    "torso_tipped_in_catch": ("low_bar_speed",),
    "bar_crashed": ("overpulled", "pressed_out", "banged_away"),
    "overpulled": ("banged_away",),
    "slow_turnover": ("overpulled", "banged_away"),
    "split_too_short": ("overdriven",),
    "overdriven": ("back_leg_locked",),
    "dip_forward": ("chest_forward_in_dip",),
    "chest_forward_in_dip": ("dip_forward",),
    "hold_at_wrong_height": ("bar_left_in_front",),
    "grip_too_narrow": ("low_contact", "elbows_low_in_rack"),
    "grip_too_wide": ("low_bar_speed",),
    "bar_away_in_turnover": ("bar_away_from_body",),
    "not_parallel_shin_torso": ("torso_tipped_in_catch",),
}
# Rep-to-rep variation of one lifter (one standard deviation, in the value's own unit); habits of a lifter vary twice as much.
VARIATION = {
    "early_ratio": 0.012, "back_at_knee_m": 0.0015, "loop_forward_m": 0.003, "loop_back_m": 0.003, "shoulder_start_m": 0.004,
    "hip_start_m": 0.004, "shoulder_knee_m": 0.004, "gap_m": 0.001, "lean_deg": 0.8, "caught_m": 0.004, "trunk_catch_deg": 0.5,
    "feet_shift_m": 0.004, "heel_lead_s": 0.006, "rack_elbow_deg": 1.0, "dip_s": 0.012, "dip_share": 0.002, "shift_m": 0.003,
    "split_share": 0.012, "back_knee_deg": 1.5, "front_shin_deg": 1.2, "bar_over_hip_m": 0.003, "down_s": 0.025, "up_s": 0.05,
    "drift_m": 0.003, "hold_s": 0.08,
}  # fmt: skip
# A session's tiredness at its worst: what creeps in without being a fault yet.
TIRED = {"early_ratio": 0.03, "caught_m": 0.008, "trunk_catch_deg": -1.2, "hips_first": 0.3, "up_s": 0.5, "shift_m": 0.006, "stand_s": 0.6}
# How much further down a light lift is ridden from where it is met, m for a load of nothing: light bars fly higher.
RIDDEN_WHEN_LIGHT_M = 0.20
CAN_BE_MISSED = ("snatch", "power_snatch", "clean", "power_clean", "split_jerk", "power_jerk")
_SHORT = {"yaw": "yaw_deg", "roll": "roll_deg", "distance": "distance_m", "height": "height_m", "cover": "cover_m",
          "width": "width_px", "exposure": "exposure_share"}  # fmt: skip


@dataclass(frozen=True)
class Wanted:
    """One set as somebody asks for it."""

    lifts: str
    build: Build
    load_kg: float = 80.0
    body_kg: float | None = None
    best_kg: float | None = None
    """The lifter's best in this lift; a load well below it flies higher."""
    faults: Mapping[str, float] = field(default_factory=dict)
    miss: str = ""
    seed: int = 1
    habit_seed: int | None = None
    tired: float = 0.0


def asked_set(wanted: Wanted) -> Asked:
    """The set to perform: sound lifts, the faults put in, this lifter's habits and this repetition's own variation.

    Raises:
        ValueError: a lift, fault, strength or miss that the simulation does not know, or a fault that these lifts cannot have.
    """
    lifts = named(wanted.lifts)
    unknown = [lift for lift in lifts if lift not in LIFTS]
    if unknown:
        raise ValueError(
            f"'{unknown[0]}' cannot be simulated. Choose from {', '.join([*LIFTS, 'jerk', 'clean_and_jerk'])}, or join several with +."
        )
    for fault, strength in wanted.faults.items():
        if fault not in AT_FULL_STRENGTH:
            raise ValueError(f"'{fault}' cannot be put into a lift. Choose from {', '.join(AT_FULL_STRENGTH)}.")
        if not 0 <= strength <= 1:
            raise ValueError(f"The strength of {fault} is {strength:g}; it lies between 0 and 1.")
        if not any(_family(lift) & AT_FULL_STRENGTH[fault].keys() for lift in lifts):
            raise ValueError(f"{fault} cannot be put into a {wanted.lifts}.")
    if wanted.miss not in ("", "forward", "behind", "short"):
        raise ValueError(f"A lift is missed forward, behind or short, not '{wanted.miss}'.")
    if wanted.miss and lifts[-1] not in CAN_BE_MISSED:
        raise ValueError(f"A missed {lifts[-1]} cannot be simulated; snatches and cleans from the floor and jerks can be missed.")
    if wanted.miss == "behind" and "clean" in lifts[-1]:
        raise ValueError("A clean is not missed behind; choose forward or short.")
    rng = np.random.default_rng(wanted.seed)
    habits = np.random.default_rng(wanted.habit_seed) if wanted.habit_seed is not None else None
    habit = {name: 2 * float(habits.normal(0, sd)) for name, sd in VARIATION.items()} if habits is not None else {}
    changes = []
    for index, lift in enumerate(lifts):
        last = index == len(lifts) - 1
        changes.append(_changes(lift, wanted, habit, rng, wanted.miss if last else ""))
    body = wanted.body_kg or 24.5 * wanted.build.stature_m**2 * wanted.build.girth
    return Asked(lifts, wanted.build, wanted.load_kg, body, tuple(changes))


def _family(lift: str) -> set[str]:
    if lift.endswith("jerk"):
        return {"jerk"}
    if lift.removesuffix("_pause").endswith("squat"):
        return {"squat", "pause"} if lift.endswith("_pause") else {"squat"}
    if lift == "jerk_dip":
        return {"dip"}
    if lift == "continental_clean":
        return {"continental"}
    if lift == "press":
        return {"press"}
    if lift.startswith("halting") or lift.endswith("pause_knee"):
        return {"hold"}
    if lift.startswith(("press", "brush")):
        return set()
    return {"pull", "snatch_grip" if "snatch" in lift else "clean_grip"}


def _sound(lift: str, build: Build) -> dict[str, float]:
    """Every value of the sound lift that can be changed, by name."""
    if lift.endswith("jerk"):
        jerk = sound_jerk(lift, build)
        return _numbers(jerk, JerkPlan) | _numbers(jerk.bar, JerkSpec) | {"dip_share": jerk.bar.dip_m / build.stature_m, "surplus_m": 0.0}
    if "squat" in _family(lift):
        return _numbers(sound_squat(lift.removesuffix("_pause"), paused="pause" in _family(lift)), SquatPlan)
    if lift == "jerk_dip":
        return {"dip_share": 0.086, "down_s": 0.55, "tilt_deg": 1.0}
    if lift == "continental_clean":
        return _numbers(ContinentalPlan(), ContinentalPlan)
    if lift == "press":
        return {"overhead_s": 1.5, "forward_m": 0.0}
    if _family(lift) == {"hold"}:
        return {"hold_s": 3.0, "above_knee_m": 0.0 if lift.endswith("pause_knee") else 0.12, "hold_drift_m": 0.0, "hold_tip_deg": 0.0}
    if not _family(lift):
        return {}
    kind = lift.removesuffix("_from_blocks")
    pull = sound_plan(kind, build)
    return _numbers(pull, PullPlan) | _numbers(pull.bar, PullSpec) | {"rebound_m": 0.0, "speed_lost_share": 0.0}


def _numbers(held: object, kind: type) -> dict[str, float]:
    return {one.name: getattr(held, one.name) for one in fields(kind) if isinstance(getattr(held, one.name), (int, float))}


def _changes(lift: str, wanted: Wanted, habit: Mapping[str, float], rng: np.random.Generator, miss: str) -> Changes:
    sound = _sound(lift, wanted.build)
    moved: dict[str, float] = {}
    for name, sd in VARIATION.items():
        noise = float(rng.normal(0, sd))
        if name in sound:
            moved[name] = noise + habit.get(name, 0.0)
    for name, most in TIRED.items():
        if name in sound and wanted.tired:
            moved[name] = moved.get(name, 0.0) + wanted.tired * most
    if wanted.best_kg and "ride_m" in sound and lift in ("snatch", "clean", "power_snatch", "power_clean"):
        moved["ride_m"] = RIDDEN_WHEN_LIGHT_M * max(1 - wanted.load_kg / wanted.best_kg, 0.0)
    put_in: dict[str, float] = {}
    for fault, strength in wanted.faults.items():
        for family in _family(lift) & AT_FULL_STRENGTH[fault].keys():
            for name, full in AT_FULL_STRENGTH[fault][family].items():
                # Where two faults move the same value, the larger move stands.
                if abs(strength * full) >= abs(put_in.get(name, 0.0)):
                    put_in[name] = strength * full
    for name, move in put_in.items():
        if name not in sound:
            raise ValueError(f"A {lift} has no '{name}' to change.")
        moved[name] = moved.get(name, 0.0) + move
    made: dict[str, float | bool | str] = {name: sound[name] + move for name, move in moved.items() if name in sound}
    if "fall_share" in sound and "slow_turnover" in wanted.faults:
        made["fall_share"] = 0.56
    _translate(made, wanted.build, sound)
    if miss:
        made["miss"] = miss
    return made


def _translate(made: dict[str, float | bool | str], build: Build, sound: Mapping[str, float]) -> None:
    """Values that people ask for in another way than the lifts take them."""
    if "dip_share" in made:
        depth = float(made.pop("dip_share")) * build.stature_m
        made["dip_m" if "dip_m" in sound else "depth_m"] = depth
    if "rebound_m" in made:
        depth = float(made.pop("rebound_m"))
        if depth > 0:
            made["rebounds_m"] = (depth, 0.8 * depth)  # type: ignore[assignment]
    if "speed_lost_share" in made:
        _slow_down(made, float(made.pop("speed_lost_share")), sound)
    if "back_step_first" in made:
        made["back_step_first"] = float(made["back_step_first"]) >= 0.5


def _slow_down(made: dict[str, float | bool | str], lost: float, sound: Mapping[str, float]) -> None:
    """A slower bar flies lower, so the lifter meets it sooner and rides it down less, as far as there is way to spare."""
    speed = sound["peak_speed_m_s"]
    lower = speed**2 * (1 - (1 - lost) ** 2) / (2 * G * sound["fall_share"])
    made["peak_speed_m_s"] = speed * (1 - lost)
    for name, least in (("ride_m", 0.005), ("drop_m", 0.015)):
        now = float(made.get(name, sound[name]))
        made[name] = max(now - lower, min(now, least))
        lower -= now - float(made[name])


def asked_camera(words: str) -> Camera:
    """A camera from `name=value` pairs divided by commas: `yaw=8,fps=60,width=720,height_px=1280`; empty gives the usual one.

    Raises:
        ValueError: a name that is none of the camera's, or a value that is no number.
    """
    known = {one.name: one.type for one in fields(Camera)}
    told: dict[str, object] = {}
    for pair in filter(None, words.split(",")):
        name, _, value = pair.partition("=")
        name = _SHORT.get(name.strip(), name.strip())
        if name not in known:
            raise ValueError(f"The camera has no '{name}'. It has {', '.join([*_SHORT, *known])}.")
        try:
            told[name] = value.strip() if known[name] == "str" else int(value) if known[name] == "int" else float(value)
        except ValueError:
            raise ValueError(f"The camera's {name} is a number, not '{value}'.") from None
    if told.get("facing", "right") not in ("left", "right"):
        raise ValueError("The camera's facing is left or right.")
    return Camera(**told)  # type: ignore[arg-type]

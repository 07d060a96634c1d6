"""Measures of the bar alone. Definitions follow the domain; lengths in the unit declared, forward and up positive.

Force on the bar is m(a + g), so every figure that divides one force by another needs no load.
"""

from __future__ import annotations

import numpy as np
from numpy.typing import NDArray

from ..events import RECEIVED
from ..events.pull import STRUCK_S
from ..motion import between_frames
from .registry import LiftData, Value, measure

G = 9.81
EARLY_S = 0.20
# Where the second pull begins when no knee shows the re-bend: this share of the time from lift-off to the largest speed.
LATE_SHARE = 0.55
REBOUND_M = 0.02
# Speeds of one lifter are not told apart more finely than this.
LEAST_SPREAD_M_S = 0.02
CLICK_WITHIN_S = 0.12

Floats = NDArray[np.float64]


def push_of(data: LiftData) -> Floats:
    """Upward force per kilogram of bar, N/kg."""
    return data.motion.ay_m_s2 + G


# -- speed and height ---------------------------------------------------------------------------------------------------


@measure("peak_velocity", "Peak velocity", "m/s", needs=("lift_off", "peak_speed"))
def peak_velocity(data: LiftData) -> Value:
    """Largest upward speed of the bar in the pull."""
    return Value(data.fastest("lift_off", "peak_speed").value, data.events_s["peak_speed"])


@measure("speed_against_usual", "Peak velocity against the usual", "spreads", needs=("lift_off", "peak_speed"), requires=("usual_speed",))
def speed_against_usual(data: LiftData) -> Value:
    """Peak velocity against what is usual for this lifter at this load, counted in the usual spread; negative is slower."""
    usual, spread = data.usual_speed or (np.nan, np.nan)
    peak = peak_velocity(data)
    assert peak is not None
    return Value((peak.value - usual) / max(spread, LEAST_SPREAD_M_S), peak.time_s)


@measure("peak_velocity_height", "Height of peak velocity", "m", needs=("peak_speed",), requires=("floor",))
def peak_velocity_height(data: LiftData) -> Value:
    """Height of the bar above the floor where it is fastest."""
    return Value(data.at("y_m", "peak_speed"), data.events_s["peak_speed"])


@measure(
    "peak_velocity_height_stature",
    "Height of peak velocity",
    "% stature",
    needs=("peak_speed",),
    requires=("floor", "stature"),
)
def peak_velocity_height_stature(data: LiftData) -> Value:
    """Height of the bar where it is fastest, as a share of the lifter's stature."""
    return Value(100 * data.at("y_m", "peak_speed") / float(data.stature_m or np.nan), data.events_s["peak_speed"])


@measure("peak_velocity_time", "Lift-off to peak velocity", "s", needs=("lift_off", "peak_speed"))
def peak_velocity_time(data: LiftData) -> Value:
    """How long after lift-off the bar is fastest."""
    return Value(data.events_s["peak_speed"] - data.events_s["lift_off"], data.events_s["peak_speed"])


@measure("velocity_at_knee", "Velocity at the knee", "m/s", needs=("knee",))
def velocity_at_knee(data: LiftData) -> Value:
    """Upward speed as the bar passes the knee."""
    return Value(data.at("vy_m_s", "knee"), data.events_s["knee"])


@measure("first_pull_mean_velocity", "Mean velocity to the knee", "m/s", needs=("lift_off", "knee"))
def first_pull_mean_velocity(data: LiftData) -> Value:
    """Mean upward speed from lift-off to the knee."""
    rise = data.at("y_m", "knee") - data.at("y_m", "lift_off")
    return Value(rise / (data.events_s["knee"] - data.events_s["lift_off"]), data.events_s["knee"])


@measure("peak_height", "Peak height", "m", needs=("apex",), requires=("floor",))
def peak_height(data: LiftData) -> Value:
    """Highest point of the bar's centre above the floor before it is met."""
    return Value(data.at("y_m", "apex"), data.events_s["apex"])


@measure("peak_height_stature", "Peak height", "% stature", needs=("apex",), requires=("floor", "stature"))
def peak_height_stature(data: LiftData) -> Value:
    """Highest point of the bar as a share of the lifter's stature."""
    return Value(100 * data.at("y_m", "apex") / float(data.stature_m or np.nan), data.events_s["apex"])


@measure("bar_travel", "Path length to apex", "m", needs=("lift_off", "apex"))
def bar_travel(data: LiftData) -> Value:
    """Length of the bar's path from lift-off to its highest point."""
    path = data.between("lift_off", "apex")
    steps = np.hypot(np.diff(data.motion.x_m[path]), np.diff(data.motion.y_m[path]))
    return Value(float(steps.sum()), data.events_s["apex"])


# -- meeting the bar ----------------------------------------------------------------------------------------------------


@measure("drop_to_meet", "Drop until met", "cm", needs=("apex", "meet"))
def drop_to_meet(data: LiftData) -> Value:
    """How far the bar falls from its highest point until the lifter takes the load again."""
    return Value(100 * (data.at("y_m", "apex") - data.at("y_m", "meet")), data.events_s["meet"])


@measure("meet_speed", "Falling speed when met", "m/s", needs=("meet",))
def meet_speed(data: LiftData) -> Value:
    """Downward speed of the bar when the lifter takes the load again."""
    return Value(max(-data.at("vy_m_s", "meet"), 0.0), data.events_s["meet"])


@measure("drop_to_bottom", "Drop to the bottom", "cm", needs=("apex", "bottom"))
def drop_to_bottom(data: LiftData) -> Value:
    """How far the bar comes down from its highest point to the lowest point of the catch."""
    return Value(100 * (data.at("y_m", "apex") - data.at("y_m", "bottom")), data.events_s["bottom"])


@measure("bounces", "Rebounds in the catch", "count", needs=("meet", "stand"))
def bounces(data: LiftData) -> Value:
    """Down-up reversals of more than 2 cm after the bar is met; one is a catch with a normal rebound."""
    after = data.between("meet", "stand")
    y = data.motion.y_m[after]
    count, top, low = 0, y[0], y[0]
    for height in y:
        if height < low:
            low = height
        if top - low > REBOUND_M and height - low > REBOUND_M:
            count += 1
            top = low = height
        if height > top and low >= top - REBOUND_M:
            top = low = height
    return Value(float(count), data.events_s["meet"])


# -- forward and back ---------------------------------------------------------------------------------------------------


def _forward_at(event: str, label: str) -> None:
    @measure(f"bar_x@{event}", f"Forward/back at {label}", "cm", needs=("lift_off", event))
    def forward(data: LiftData) -> Value:
        """Bar in front of (+) or behind (−) its place at lift-off."""
        return Value(100 * data.at("x_m", event), data.events_s[event])


for _event, _label in (
    ("knee", "the knee"),
    ("contact", "contact"),
    ("apex", "apex"),
    ("meet", "meet"),
    ("bottom", "bottom"),
    ("lockout", "lockout"),
):
    _forward_at(_event, _label)


@measure("bar_forward_before_knee", "Forward before the knee", "cm", needs=("lift_off", "knee"))
def bar_forward_before_knee(data: LiftData) -> Value:
    """Furthest the bar swings forward of its place at lift-off before it passes the knee."""
    path = data.between("lift_off", "knee")
    top = int(path[np.argmax(data.motion.x_m[path])])
    return Value(max(100 * float(data.motion.x_m[top]), 0.0), float(data.motion.time_s[top]))


@measure("bar_forward_max", "Furthest forward", "cm", needs=("lift_off", "meet"))
def bar_forward_max(data: LiftData) -> Value:
    """Furthest forward of its place at lift-off the bar is before it is met."""
    path = data.between("lift_off", "meet")
    top = int(path[np.argmax(data.motion.x_m[path])])
    return Value(100 * float(data.motion.x_m[top]), float(data.motion.time_s[top]))


@measure("bar_back_max", "Furthest back", "cm", needs=("lift_off", "meet"))
def bar_back_max(data: LiftData) -> Value:
    """Furthest behind its place at lift-off the bar is before it is met (negative)."""
    path = data.between("lift_off", "meet")
    low = int(path[np.argmin(data.motion.x_m[path])])
    return Value(100 * float(data.motion.x_m[low]), float(data.motion.time_s[low]))


@measure("loop_width", "Loop width", "cm", needs=("contact", "meet"))
def loop_width(data: LiftData) -> Value:
    """Forward travel from contact to the most forward point before the bar is met, plus the travel back from there."""
    path = data.between("contact", "meet")
    x = data.motion.x_m[path]
    front = int(np.argmax(x))
    width = (x[front] - data.at("x_m", "contact")) + (x[front] - data.at("x_m", "meet"))
    return Value(100 * float(max(width, 0.0)), float(data.motion.time_s[path[front]]))


@measure("loop_out", "Loop out from contact", "cm", needs=("contact", "meet"))
def loop_out(data: LiftData) -> Value:
    """Forward travel from contact to the most forward point before the bar is met."""
    path = data.between("contact", "meet")
    x = data.motion.x_m[path]
    front = int(np.argmax(x))
    return Value(100 * float(max(x[front] - data.at("x_m", "contact"), 0.0)), float(data.motion.time_s[path[front]]))


@measure("bump_speed", "Forward speed gained at contact", "m/s", needs=("contact",))
def bump_speed(data: LiftData) -> Value:
    """Forward speed the bar gains within 80 ms of contact."""
    contact = data.events_s["contact"]
    at, speed = data.forward_between_frames(contact, contact + STRUCK_S)
    top = int(np.argmax(speed))
    return Value(float(speed[top] - speed[0]), float(at[top]))


def _click(data: LiftData) -> tuple[float, float] | None:
    """The loudest click about contact, dB above the clip's own noise, and when it was made (s)."""
    assert data.clicks is not None
    heard = data.events_s["contact"] + data.sound_late_s
    found = data.clicks.loudest(heard - CLICK_WITHIN_S, heard + CLICK_WITHIN_S)
    return None if found is None else (found[0], found[1] - data.sound_late_s)


@measure("contact_click", "Click at contact", "dB", needs=("contact",), requires=("sound",), kinds=RECEIVED)
def contact_click(data: LiftData) -> Value | None:
    """How far the loudest click within 0.12 s of contact stands out of the clip's own noise."""
    found = _click(data)
    return None if found is None else Value(*found)


@measure("contact_click_after", "Click after contact", "ms", needs=("contact",), requires=("sound",), kinds=RECEIVED)
def contact_click_after(data: LiftData) -> Value | None:
    """When that click is heard after (+) contact, its way to the phone taken off."""
    found = _click(data)
    return None if found is None else Value(1000 * (found[1] - data.events_s["contact"]), found[1])


@measure("setup_roll", "Roll before lift-off", "cm", needs=("lift_off",))
def setup_roll(data: LiftData) -> Value:
    """How far the bar rolls, forward and back together, in the 2 s before lift-off."""
    t = data.motion.time_s
    before = (t <= data.events_s["lift_off"]) & (t >= data.events_s["lift_off"] - 2.0)
    if before.sum() < 3:
        return Value(np.nan, data.events_s["lift_off"])
    x = data.motion.x_m[before]
    return Value(100 * float(x.max() - x.min()), data.events_s["lift_off"])


# -- force and work -----------------------------------------------------------------------------------------------------


@measure("early_force_ratio", "Early force ratio", "–", needs=("lift_off", "peak_speed"), requires=("floor",))
def early_force_ratio(data: LiftData) -> Value:
    """Largest force in the first 0.20 s over the largest of the second pull; above 1 the lift was spent early."""
    t, push = data.motion.time_s, push_of(data)
    start, peak = data.events_s["lift_off"], data.events_s["peak_speed"]
    again = data.events_s.get("rebend", start + LATE_SHARE * (peak - start))
    early = np.flatnonzero((t >= start) & (t <= start + EARLY_S))
    late = np.flatnonzero((t >= again) & (t <= max(peak, data.events_s.get("extension", peak))))
    if len(early) == 0 or len(late) == 0 or push[late].max() <= 0:
        return Value(np.nan, start)
    top = int(early[np.argmax(push[early])])
    return Value(float(push[top] / push[late].max()), float(t[top]))


@measure("force_build", "Turns of force, knee to peak velocity", "count", needs=("knee", "peak_speed"))
def force_build(data: LiftData) -> Value:
    """How often the force turns from rising to falling or back between knee and peak velocity; one rise is ideal."""
    path = data.between("knee", "peak_speed")
    slope = np.diff(push_of(data)[path])
    turns = np.flatnonzero(np.diff(np.sign(slope[np.abs(slope) > 0.02])) != 0)
    return Value(float(len(turns)), data.events_s["knee"])


@measure("peak_acceleration", "Peak acceleration", "m/s²", needs=("lift_off", "peak_speed"))
def peak_acceleration(data: LiftData) -> Value:
    """Largest upward acceleration of the bar in the pull."""
    path = data.between("lift_off", "peak_speed")
    top = int(path[np.argmax(data.motion.ay_m_s2[path])])
    return Value(float(data.motion.ay_m_s2[top]), float(data.motion.time_s[top]))


@measure("vertical_work_share", "Vertical share of work", "%", needs=("lift_off", "peak_speed"))
def vertical_work_share(data: LiftData) -> Value:
    """Share of the work on the bar that went upwards, from lift-off to peak velocity; the best exceed 90."""
    t, motion = data.finely("lift_off", "peak_speed"), data.motion
    # Contact pushes forward for a moment only, often the last before peak velocity, which a calm acceleration would lose.
    push_up, speed_up, push_aside, speed_aside = (
        between_frames(motion.time_s, series, t, through=4)
        for series in (motion.quick_ay_m_s2 + G, motion.vy_m_s, motion.quick_ax_m_s2, motion.vx_m_s)
    )
    up_work, side_work = (float(np.trapezoid(np.abs(work), t)) for work in (push_up * speed_up, push_aside * speed_aside))
    whole = up_work + side_work
    return Value(100 * up_work / whole if whole else np.nan, data.events_s["peak_speed"])


@measure("peak_power", "Peak power", "W", needs=("lift_off", "peak_speed"), requires=("load",))
def peak_power(data: LiftData) -> Value:
    """Largest power on the bar from lift-off to peak velocity."""
    path = data.between("lift_off", "peak_speed")
    power = float(data.load_kg or np.nan) * push_of(data)[path] * data.motion.vy_m_s[path]
    top = int(np.argmax(power))
    return Value(float(power[top]), float(data.motion.time_s[path[top]]))


@measure("mean_power", "Mean power", "W", needs=("lift_off", "peak_speed"), requires=("load",))
def mean_power(data: LiftData) -> Value:
    """Mean power on the bar from lift-off to peak velocity."""
    path = data.between("lift_off", "peak_speed")
    power = float(data.load_kg or np.nan) * push_of(data)[path] * data.motion.vy_m_s[path]
    t = data.motion.time_s[path]
    took = float(t[-1] - t[0])
    return Value(float(np.trapezoid(power, t)) / took if took else np.nan, data.events_s["peak_speed"])


# -- times --------------------------------------------------------------------------------------------------------------


def _time_between(id: str, start: str, stop: str, label: str) -> None:
    @measure(id, label, "s", needs=(start, stop))
    def lasted(data: LiftData) -> Value:
        """Time from one position to the next."""
        return Value(data.events_s[stop] - data.events_s[start], data.events_s[stop])


for _id, _start, _stop, _label in (
    ("time_lift_off_knee", "lift_off", "knee", "Lift-off to knee"),
    ("time_knee_rebend", "knee", "rebend", "Knee to re-bend"),
    ("time_rebend_extension", "rebend", "extension", "Re-bend to extension"),
    ("time_extension_apex", "extension", "apex", "Extension to apex"),
    ("time_apex_meet", "apex", "meet", "Apex to meet"),
    ("time_meet_bottom", "meet", "bottom", "Meet to bottom"),
    ("time_bottom_stand", "bottom", "stand", "Bottom to standing"),
):
    _time_between(_id, _start, _stop, _label)


# -- jerk ---------------------------------------------------------------------------------------------------------------


@measure("dip_depth", "Dip depth", "cm", families=("jerk",), needs=("dip_start", "dip_bottom"))
def dip_depth(data: LiftData) -> Value:
    """How far the bar goes down in the dip."""
    return Value(-100 * data.at("y_m", "dip_bottom"), data.events_s["dip_bottom"])


@measure(
    "dip_depth_stature",
    "Dip depth",
    "% stature",
    families=("jerk",),
    needs=("dip_start", "dip_bottom"),
    requires=("stature",),
)
def dip_depth_stature(data: LiftData) -> Value:
    """How far the bar goes down in the dip, as a share of stature."""
    return Value(-100 * data.at("y_m", "dip_bottom") / float(data.stature_m or np.nan), data.events_s["dip_bottom"])


@measure("dip_time", "Dip time", "s", families=("jerk",), needs=("dip_start", "dip_bottom"))
def dip_time(data: LiftData) -> Value:
    """Time from the start of the dip to its lowest point."""
    return Value(data.events_s["dip_bottom"] - data.events_s["dip_start"], data.events_s["dip_bottom"])


@measure("dip_peak_speed", "Fastest downwards in the dip", "m/s", families=("jerk",), needs=("dip_start", "dip_bottom"))
def dip_peak_speed(data: LiftData) -> Value:
    """Largest downward speed of the bar in the dip."""
    return data.fastest("dip_start", "dip_bottom", up=False)


@measure("dip_bar_shift", "Forward in the dip", "cm", families=("jerk",), needs=("dip_start", "dip_bottom"))
def dip_bar_shift(data: LiftData) -> Value:
    """How far forward the bar has moved at the bottom of the dip."""
    return Value(100 * data.at("x_m", "dip_bottom"), data.events_s["dip_bottom"])


@measure("drive_peak_velocity", "Peak velocity of the drive", "m/s", families=("jerk",), needs=("dip_bottom", "drive_end"))
def drive_peak_velocity(data: LiftData) -> Value:
    """Largest upward speed of the bar in the drive."""
    return Value(data.fastest("dip_bottom", "drive_end").value, data.events_s["drive_end"])

"""Measures of the lifter from the start to the extension, and of the bar against the lifter."""

from __future__ import annotations

import numpy as np

from ..events.joints import REBENT_DEG
from ..events.search import first_crossing
from .bar import push_of
from .posture import CM, LEAST_RISE_M, change, first_past, most, past_until, stretch
from .registry import LiftData, Value, measure
from .start import Start, solved_start

OPENED_ABOVE_KNEE_M = 0.10
UPRIGHT_SHIN_DEG = 85.0
# Arms are long so long before the extension; an elbow that closes is made out where it is known so well there, half of what it closes by.
ARMS_LONG_S, ELBOW_KNOWN_DEG = 0.1, 6.0
# A bar so much above the knee (cm) has passed it, however late the shins come upright.
SHINS_MADE_WAY_CM = -10.0
HEEL_UP_M, HEEL_KNOWN_M, ELBOW_CLOSED_DEG, NEARLY_DONE_DEG, OPENED_DEG = 0.025, 0.01, 12.0, 5.0, 8.0
# Shoulders that have gone up so far against the trunk have begun to shrug.
SHRUGGED_M = 0.02
JUST_BEFORE_S = 0.03


def own_start(data: LiftData) -> Start:
    """The start that this lifter's build asks for."""
    body = data.lifter
    # Shoulders that reach lengthen a trunk: it is as long as while the bar hangs, not as it is overhead.
    trunk = body.at(np.hypot(body.x("shoulder") - body.x("hip"), body.y("shoulder") - body.y("hip")), data.events_s["lift_off"])
    return solved_start({**body.segments_m, "trunk": trunk}, body.stature_m, data.disc_radius_m)


# -- the start --------------------------------------------------------------------------------------------------------------


@measure("hip_height_against_start", "Hips against the own start", "cm", needs=("lift_off",), requires=("floor", "joints"))
def hip_height_against_start(data: LiftData) -> Value:
    """Hips above (+) or below the height at which this lifter's build grants bar over foot, shoulder over bar and knee over bar."""
    when = data.events_s["lift_off"]
    return Value(CM * (data.lifter.at(data.lifter.y("hip"), when) - own_start(data).points_m["hip"][1]), when)


@measure("trunk_angle_against_start", "Back against the own start", "°", needs=("lift_off",), requires=("floor", "joints"))
def trunk_angle_against_start(data: LiftData) -> Value:
    """Trunk steeper (+) or flatter than the angle that this lifter's build gives the start."""
    when = data.events_s["lift_off"]
    return Value(data.lifter.at(data.lifter.trunk, when) - own_start(data).trunk_deg, when)


# -- floor to knee ----------------------------------------------------------------------------------------------------------


@measure("trunk_change_to_knee", "Trunk from lift-off to the knee", "°", needs=("lift_off", "knee"), requires=("joints",))
def trunk_change_to_knee(data: LiftData) -> Value:
    """How much steeper the trunk is at the knee than at lift-off; negative is tipping forward."""
    return change(data, data.lifter.trunk, "lift_off", "knee")


@measure("hip_shoulder_rise_ratio@pull", "Hips against shoulders, rising", "–", needs=("lift_off", "knee"), requires=("joints",))
def hip_shoulder_rise_ratio(data: LiftData) -> Value:
    """Rise of the hips over rise of the shoulders from lift-off to the knee: 1 is together."""
    hips, shoulders = (change(data, data.lifter.y(name), "lift_off", "knee") for name in ("hip", "shoulder"))
    return Value(hips.value / shoulders.value if shoulders.value > LEAST_RISE_M else np.nan, hips.time_s)


@measure("shin_upright_below_knee", "Bar below the knee, shins upright", "cm", needs=("lift_off", "knee"), requires=("joints",))
def shin_upright_below_knee(data: LiftData) -> Value:
    """How far below the knee the bar still is when the shins pass 85°; negative once it is above, at most 10 cm."""
    body, off = data.lifter, data.events_s["lift_off"]
    until = data.events_s.get("peak_speed", data.events_s["knee"])
    here = stretch(data, off, until)
    upright = first_past(body.time_s[here], body.angle("ankle", "knee")[here] - UPRIGHT_SHIN_DEG)
    if upright is None:
        return Value(SHINS_MADE_WAY_CM, data.events_s["knee"])
    below = CM * body.at(body.y("knee") - body.y("bar"), upright)
    return Value(max(below, SHINS_MADE_WAY_CM), upright)


def _balance(event: str, called: str, families: tuple[str, ...]) -> None:
    @measure(f"balance@{event}", f"Balance {called}", "cm", families=families, needs=(event,), requires=("joints",))
    def balance(data: LiftData) -> Value:
        """Centre of mass of lifter and bar in front of (+) mid-foot, by a published table of segment masses."""
        series = data.lifter.balance(data.load_kg)
        return Value(CM * data.lifter.at(series, data.events_s[event]), data.events_s[event])


for _event, _called, _families in (
    ("lift_off", "at lift-off", ("pull", "continental")), ("knee", "at the knee", ("pull", "continental")),
    ("rebend", "at the re-bend", ("pull",)),
    ("contact", "at contact", ("pull",)), ("bottom", "at the bottom", ("pull", "squat")),
    ("dip_start", "before the dip", ("jerk",)), ("dip_bottom", "in the dip", ("jerk",)), ("lockout", "at lockout", ("jerk", "press")),
    ("shoulder", "on the shoulders", ("continental",)), ("press_start", "before the press", ("press",)),
):  # fmt: skip
    _balance(_event, _called, _families)


def _heels(event: str, called: str, family: str, flat: str) -> None:
    @measure(f"heel_rise@{event}", f"Heels up {called}", "cm", families=(family,), needs=(flat, event), requires=("joints",))
    def risen(data: LiftData) -> Value | None:
        """Heels above where they stood flat; only of feet that are known to a centimetre."""
        body, when = data.lifter, data.events_s[event]
        if body.doubt_up_m("heel", when) > HEEL_KNOWN_M:
            return None
        return Value(CM * (body.at(body.y("heel"), when) - body.at(body.y("heel"), data.events_s[flat])), when)


for _event, _called in (
    ("knee", "at the knee"),
    ("rebend", "at the re-bend"),
    ("contact", "at contact"),
    ("extension", "at the extension"),
):
    _heels(_event, _called, "pull", "lift_off")
for _event, _called in (("dip_bottom", "in the dip"), ("drive_end", "at the end of the drive")):
    _heels(_event, _called, "jerk", "dip_start")


# -- knee to contact --------------------------------------------------------------------------------------------------------


@measure("trunk_opened_early", "Trunk opened early", "°", needs=("lift_off", "knee"), requires=("joints",))
def trunk_opened_early(data: LiftData) -> Value | None:
    """How far the trunk opens from its flattest angle before the bar is 10 cm above the knee."""
    body, off = data.lifter, data.events_s["lift_off"]
    until = data.events_s.get("peak_speed", data.events_s["knee"])
    high = first_crossing(body.time_s, body.y("bar") - body.y("knee"), OPENED_ABOVE_KNEE_M, after_s=off, before_s=until)
    if high is None:
        return None
    # The trunk may open by several degrees from one frame to the next: the last moment counts, not the frame before or after it.
    times = np.append(body.time_s[stretch(data, off, high)], high)
    trunk = np.interp(times, body.time_s, body.trunk)
    opened = trunk - np.minimum.accumulate(trunk)
    top = int(np.argmax(opened))
    return Value(float(opened[top]), float(times[top]))


@measure("trunk_opening_height", "Bar above the knee, trunk opened", "cm", needs=("lift_off", "knee"), requires=("joints",))
def trunk_opening_height(data: LiftData) -> Value | None:
    """How far above the knee the bar is when the trunk has opened 8° from its flattest angle."""
    body, off = data.lifter, data.events_s["lift_off"]
    here = stretch(data, off, data.events_s.get("apex", data.events_s.get("peak_speed", data.events_s["knee"])))
    if len(here) == 0:
        return None
    opened = body.trunk[here] - np.minimum.accumulate(body.trunk[here])
    when = first_crossing(body.time_s[here], opened, OPENED_DEG, after_s=off, before_s=float(body.time_s[here[-1]]))
    return None if when is None else Value(CM * body.at(body.y("bar") - body.y("knee"), when), when)


@measure("bar_thigh_gap_max", "Largest gap to the thigh", "cm", needs=("knee", "contact"), requires=("joints",))
def bar_thigh_gap_max(data: LiftData) -> Value | None:
    """Largest distance from shaft to thigh between knee and contact, shaft and half a thigh taken off."""
    first, last = sorted((data.events_s["knee"], data.events_s["contact"]))
    return most(data, data.lifter.thigh_gap, first, last, CM)


@measure("knee_rebend_pull", "Re-bend of the knees", "°", needs=("knee", "contact"), requires=("joints",))
def knee_rebend_pull(data: LiftData) -> Value | None:
    """How far the knees bend again under the bar; 0 where they do not."""
    if "rebend" not in data.events_s:
        # Knees that are hidden may bend unseen.
        hidden = data.lifter.doubt_deg("knee", data.events_s["contact"]) > REBENT_DEG
        return None if hidden else Value(0.0, data.events_s["contact"])
    if "first_pull_end" not in data.events_s:
        # A re-bend that a coach has set, after no first pull that ends.
        return None
    return Value(-change(data, data.lifter.knee, "first_pull_end", "rebend").value, data.events_s["rebend"])


@measure("transition_velocity_loss", "Speed lost in the transition", "m/s", needs=("first_pull_end", "rebend"), requires=("joints",))
def transition_velocity_loss(data: LiftData) -> Value | None:
    """Largest drop of the bar's upward speed between the end of the first pull and the re-bend; 0 is ideal."""
    t = data.motion.time_s
    here = np.flatnonzero((t >= data.events_s["first_pull_end"]) & (t <= data.events_s["rebend"] + 0.05))
    if len(here) == 0:
        return None
    speed = data.motion.vy_m_s[here]
    lost = np.maximum.accumulate(speed) - speed
    top = int(np.argmax(lost))
    return Value(float(lost[top]), float(t[here[top]]))


@measure("heel_rise_lead", "Heels up before contact", "ms", needs=("lift_off", "contact"), requires=("joints",))
def heel_rise_lead(data: LiftData) -> Value | None:
    """How long before contact the heels have risen 2.5 cm above where they stood, to stay up; negative after it."""
    body, off, contact = data.lifter, data.events_s["lift_off"], data.events_s["contact"]
    flat = body.at(body.y("heel"), off)
    here = stretch(data, off, data.events_s.get("apex", contact + 0.3))
    risen = body.y("heel")[here] - flat
    up = past_until(body.time_s[here], risen - HEEL_UP_M, int(np.argmax(risen))) if len(here) else None
    return None if up is None else Value(1000 * (contact - up), up)


@measure("arm_bend_lead", "Arms bent before the extension", "ms", needs=("lift_off", "extension"), requires=("joints",))
def arm_bend_lead(data: LiftData) -> Value | None:
    """How long before the extension the elbows have closed by 12°; 0 where they stay straight until then."""
    body, off, top = data.lifter, data.events_s["lift_off"], data.events_s["extension"]
    here = stretch(data, off, top)
    if body.doubt_deg("elbow", max(off, top - ARMS_LONG_S)) > ELBOW_KNOWN_DEG:
        return None
    straight = float(np.median(body.elbow[here[: max(len(here) // 2, 1)]])) if len(here) else np.nan
    bent = first_past(body.time_s[here], straight - ELBOW_CLOSED_DEG - body.elbow[here])
    return Value(0.0, top) if bent is None else Value(1000 * (top - bent), bent)


def _knees_and_hips_done(data: LiftData) -> tuple[float, float] | None:
    """When knees, and when hips, come within 5° of their straightest in the second pull."""
    again = data.events_s.get("rebend", data.events_s["knee"])
    here = stretch(data, again, data.events_s.get("apex", data.events_s["extension"] + 0.1))
    if len(here) == 0:
        return None
    body = data.lifter
    first, second = (float(body.time_s[here[int(np.argmax(a[here] >= a[here].max() - NEARLY_DONE_DEG))]]) for a in (body.knee, body.hip))
    return first, second


@measure("knee_hip_extension_lag", "Knees finish before hips", "ms", needs=("knee", "contact", "extension"), requires=("joints",))
def knee_hip_extension_lag(data: LiftData) -> Value | None:
    """How long the knees are straight before the hips are: the legs are spent before the hips opened."""
    done = _knees_and_hips_done(data)
    return None if done is None else Value(1000 * (done[1] - done[0]), done[0])


@measure("hip_at_knee_extension", "Hip when the knees are straight", "°", needs=("knee", "contact", "extension"), requires=("joints",))
def hip_at_knee_extension(data: LiftData) -> Value | None:
    """Hip angle at the moment the knees are done."""
    done = _knees_and_hips_done(data)
    return None if done is None else Value(data.lifter.at(data.lifter.hip, done[0]), done[0])


@measure("shrug_lead", "Shoulders rise before the arms bend", "ms", needs=("contact", "extension", "apex"), requires=("joints",))
def shrug_lead(data: LiftData) -> Value | None:
    """How long after the shoulders have begun to rise off the trunk the elbows have closed by 12°; negative is arms before shoulders.

    None where either does not happen or is not known well enough."""
    body, contact, apex = data.lifter, data.events_s["contact"], data.events_s["apex"]
    here = stretch(data, contact, apex)
    if len(here) == 0 or body.doubt_deg("elbow", data.events_s["extension"]) > ELBOW_CLOSED_DEG:
        return None
    trunk = np.hypot(body.x("shoulder") - body.x("hip"), body.y("shoulder") - body.y("hip"))
    risen = first_past(body.time_s[here], trunk[here] - body.at(trunk, contact) - SHRUGGED_M)
    bent = first_past(body.time_s[here], body.at(body.elbow, contact) - ELBOW_CLOSED_DEG - body.elbow[here])
    if risen is None or bent is None:
        return None
    return Value(1000 * (bent - risen), risen)


# -- contact to apex --------------------------------------------------------------------------------------------------------


@measure("contact_height", "Where the bar meets the thigh", "%", needs=("contact",), requires=("joints",))
def contact_height(data: LiftData) -> Value:
    """Where along the thigh the bar is at contact: 0 at the knee joint, 100 at the hip joint."""
    return Value(data.lifter.at(data.lifter.up_thigh, data.events_s["contact"]), data.events_s["contact"])


@measure("bar_approach_speed", "Backward speed before contact", "m/s", needs=("contact",))
def bar_approach_speed(data: LiftData) -> Value:
    """How fast the bar comes back at the body just before contact: pulled in by arms or back."""
    when = data.events_s["contact"]
    at, speed = data.forward_between_frames(when - JUST_BEFORE_S, when)
    top = int(np.argmin(speed))
    return Value(max(-float(speed[top]), 0.0), float(at[top]))


@measure("hip_forward_speed@contact", "Hips forward at contact", "m/s", needs=("contact",), requires=("joints",))
def hip_forward_speed(data: LiftData) -> Value:
    """Forward speed of the hips at contact."""
    return Value(data.lifter.at(data.lifter.speed(data.lifter.x("hip")), data.events_s["contact"]), data.events_s["contact"])


def _at_extension(id: str, label: str, joint: str) -> None:
    @measure(id, label, "°", needs=("extension",), requires=("joints",))
    def straight(data: LiftData) -> Value:
        """Joint angle at the largest extension of hips and knees: 180 is straight."""
        return Value(data.lifter.at(getattr(data.lifter, joint), data.events_s["extension"]), data.events_s["extension"])


_at_extension("extension_hip", "Hip at the extension", "hip")
_at_extension("extension_knee", "Knee at the extension", "knee_straight")


@measure("lean_back", "Trunk past vertical", "°", needs=("contact", "peak_speed"), requires=("joints",))
def lean_back(data: LiftData) -> Value | None:
    """How far the trunk goes past the vertical between contact and peak velocity."""
    first, last = sorted((data.events_s["contact"], data.events_s["peak_speed"]))
    return most(data, data.lifter.trunk - 90, first, last, least=0.0)


@measure("bar_body_gap_after_contact", "Largest gap to the trunk", "cm", needs=("contact", "apex"), requires=("joints",))
def bar_body_gap_after_contact(data: LiftData) -> Value | None:
    """Largest distance from shaft to the front of the trunk between contact and the apex."""
    return most(data, data.lifter.trunk_gap, data.events_s["contact"], data.events_s["apex"], CM)


@measure("force_fade", "Push before contact over push after", "%", needs=("knee", "contact", "peak_speed"), requires=("joints",))
def force_fade(data: LiftData) -> Value | None:
    """By how much the largest force from knee to contact exceeds the largest after it; negative when force builds."""
    t, push = data.motion.time_s, push_of(data)
    knee, contact, peak = (data.events_s[name] for name in ("knee", "contact", "peak_speed"))
    before, after = ((t >= min(knee, contact)) & (t <= contact)), ((t >= contact) & (t <= peak))
    # Events that a coach has put into the flight leave no push to hold the one before against.
    if not before.any() or not after.any() or push[after].max() <= 0:
        return None
    return Value(100 * (float(push[before].max()) / float(push[after].max()) - 1), contact)

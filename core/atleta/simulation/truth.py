"""What was truly so in a performed set: events by their definitions and every measure from the exact kinematics.

Written apart from the analysis: nothing here is shared with it, so that neither can hide the other's mistakes. Everything is read off
a 2 ms clock of exact joints and bar. Units are those of the measure tables (cm, degrees, ms, m/s); what a lift does not have is left out.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from .build import DISC_RADIUS_M, SHAFT_RADIUS_M, Build
from .pulls import solved_start, sound_plan
from .script import Part, Performance
from .skeleton import BALL_SHARE

Floats = NDArray[np.float64]
CLOCK_S = 0.002
G = 9.81
# Share of the body's mass and where along the segment (from the first joint) its centre lies; a published table.
MASSES = {
    ("shoulder", "elbow"): (0.028, 0.436),
    ("elbow", "wrist"): (0.016, 0.430),
    ("wrist", "hand"): (0.006, 0.5),
    ("hip", "knee"): (0.100, 0.433),
    ("knee", "ankle"): (0.0465, 0.433),
    ("heel", "toe"): (0.0145, 0.5),
}
# Whoever is about to be as straight as at most is as good as that.
STRAIGHT_WITHIN_DEG = 3.0
# And who stands up under a bar that has come to the shoulders, but for so much, straightens once more.
ARRIVES_M = 0.03
# From the ear's opening to the top of the head, of stature; a published table.
TOP_ABOVE_EAR = 0.075
TRUNK_MASS, HEAD_MASS = 0.497, 0.081


@dataclass(frozen=True)
class LiftTruth:
    """One lift of a set: events in s on the performance's clock, measures by id."""

    kind: str
    begins: str
    made: bool
    start_s: float
    stop_s: float
    events_s: dict[str, float]
    measures: dict[str, float]


@dataclass
class Motion:
    """A part of a performance on a fine clock, `(samples,)` each; joints are the mean of both sides unless a side is named."""

    build: Build
    time: Floats
    joints: dict[str, Floats]
    vy: Floats
    ay: Floats
    load_kg: float
    body_kg: float
    events: dict[str, float] = field(default_factory=dict)

    def x(self, name: str) -> Floats:
        return np.asarray(self._mean(name)[0])

    def y(self, name: str) -> Floats:
        return np.asarray(self._mean(name)[1])

    def _mean(self, name: str) -> Floats:
        if name in self.joints:
            return self.joints[name]
        return np.asarray((self.joints[f"left_{name}"] + self.joints[f"right_{name}"]) / 2)

    def i(self, event: str) -> int:
        return int(np.argmin(np.abs(self.time - self.events[event])))

    def tilt(self, low: str, high: str, side: str = "") -> Floats:
        """Angle of low→high against the horizontal, degrees."""
        low, high = (f"{side}{name}" if side else name for name in (low, high))
        return np.asarray(np.degrees(np.arctan2(self.y(high) - self.y(low), self.x(high) - self.x(low))))

    def bend(self, a: str, b: str, c: str, side: str = "") -> Floats:
        """Included angle at b in the sagittal plane, degrees."""
        one, two = self.tilt(b, a, side), self.tilt(b, c, side)
        return np.asarray(180 - np.abs(180 - np.abs(one - two) % 360))

    def elbow(self) -> Floats:
        """Included angle at the elbow in space, degrees, the less straight side."""
        made = []
        for side in ("left_", "right_"):
            u = self.joints[f"{side}shoulder"] - self.joints[f"{side}elbow"]
            v = self.joints[f"{side}wrist"] - self.joints[f"{side}elbow"]
            cos = (u * v).sum(0) / np.sqrt((u**2).sum(0) * (v**2).sum(0))
            made.append(np.degrees(np.arccos(np.clip(cos, -1, 1))))
        return np.asarray(np.minimum(*made))

    def mid_foot(self, side: str = "") -> Floats:
        return np.asarray((self.x(f"{side}heel") + self.x(f"{side}toe")) / 2)

    def ball(self) -> Floats:
        return np.asarray(self.x("heel") + BALL_SHARE * (self.x("toe") - self.x("heel")))

    def thigh_gap(self) -> Floats:
        """Between the surfaces of shaft and thigh, m; the thigh's line runs on beyond both joints."""
        along = np.stack([self.x("knee") - self.x("hip"), self.y("knee") - self.y("hip")])
        off = np.stack([self.x("bar") - self.x("hip"), self.y("bar") - self.y("hip")])
        far = (along[0] * off[1] - along[1] * off[0]) / np.hypot(*along)
        return np.asarray(far - SHAFT_RADIUS_M - self.build.thigh_half_m)

    def along_thigh(self) -> Floats:
        """Where the bar lies along the thigh: 0 at the knee, 100 at the hip."""
        along = np.stack([self.x("hip") - self.x("knee"), self.y("hip") - self.y("knee")])
        off = np.stack([self.x("bar") - self.x("knee"), self.y("bar") - self.y("knee")])
        return np.asarray(100 * (along * off).sum(0) / (along**2).sum(0))

    def centre_of_mass_x(self) -> Floats:
        """Lifter and bar together."""
        total = TRUNK_MASS * (self.x("hip") + self.x("shoulder")) / 2 + HEAD_MASS * self.x("ear")
        for (a, b), (mass, where) in MASSES.items():
            for side in ("left_", "right_"):
                total = total + mass * ((1 - where) * self.x(side + a) + where * self.x(side + b))
        total = total / (TRUNK_MASS + HEAD_MASS + 2 * sum(mass for mass, _ in MASSES.values()))
        share = self.load_kg / self.body_kg
        return np.asarray((total + share * self.x("bar")) / (1 + share))

    def balance(self) -> Floats:
        return np.asarray(100 * (self.centre_of_mass_x() - self.mid_foot()))

    def first(self, holds: NDArray[np.bool_], since: int = 0) -> int | None:
        found = np.flatnonzero(holds[since:])
        return None if len(found) == 0 else since + int(found[0])


def truths(done: Performance) -> list[LiftTruth]:
    """Every lift of a set."""
    return [_lift(done, part, done.parts[n + 1].start_s if n + 1 < len(done.parts) else None) for n, part in enumerate(done.parts)]


def motion_of(done: Performance, start_s: float, stop_s: float) -> Motion:
    time = np.arange(max(start_s, 0.0), min(stop_s, float(done.path.time_s[-1])), CLOCK_S)
    joints = done.body_at(time)
    bar = np.stack([np.interp(time, done.path.time_s, series) for series in (done.path.x_m, done.path.y_m)])
    joints["bar"], joints["bar_right"] = np.vstack([bar, np.zeros_like(time)]), joints["bar_right"] - joints["bar"]
    vy, ay = (np.interp(time, done.path.time_s, series) for series in (done.path.vy_m_s, done.path.ay_m_s2))
    return Motion(done.build, time, joints, vy, ay, done.load_kg, done.body_kg)


def _lift(done: Performance, part: Part, next_s: float | None) -> LiftTruth:
    released = part.meant_s.get("release")
    m = motion_of(done, part.start_s, part.stop_s + (0.2 if released is not None and part.made else 0.0))
    kind = "high_pull" if part.kind.endswith("high_pull") else part.kind
    if "hold_start" in part.meant_s:
        _hold_events(m, part)
    if part.kind.endswith("jerk"):
        measures = _jerk(m, part)
    elif part.kind.endswith("squat"):
        measures = _squat(m)
    elif part.kind == "continental_clean":
        measures = _continental(m, part)
    elif "press_start" in part.meant_s:
        measures = _press(m)
    elif part.kind == "other" and "dip_bottom" in part.meant_s:
        measures = _dip(m)
    elif "peak_speed" in part.meant_s:
        measures = _pull(m, part, done)
    else:
        measures = _slow_pull(m, part) if part.begins == "floor" else {}
    if "hold_start" in m.events:
        measures |= _hold(m, part)
    measures |= _from_the_front(m, measures)
    if released is not None:
        m.events["release"] = released
    events = {name: round(float(at), 4) for name, at in sorted(m.events.items(), key=lambda item: item[1])}
    stop = next_s if next_s is not None else float(done.path.time_s[-1])
    return LiftTruth(
        kind, part.begins, part.made, part.start_s, min(stop, part.stop_s + 1.0), events, {k: float(v) for k, v in measures.items()}
    )


# -- pulls ------------------------------------------------------------------------------------------------------------------


def _pull_events(m: Motion, part: Part) -> None:
    e, t, y = m.events, m.time, m.y("bar")
    peak = int(np.argmax(m.vy))
    e["peak_speed"] = t[peak]
    held = "hold_end" in e
    since = m.i("hold_end") if held else 0
    if part.begins == "floor":
        off = m.first(y > DISC_RADIUS_M + 1e-4)
        assert off is not None
        e["lift_off"] = t[off]
        quiet = (np.abs(np.gradient(m.x("hip"), t)) < 0.01) & (np.abs(np.gradient(m.y("hip"), t)) < 0.01) & (np.abs(m.vy) < 0.005)
        still = np.flatnonzero(quiet[: off + 1])
        if len(still):
            e["set"] = t[still[-1]]
        knee = m.first(y >= m.y("knee"), off)
        if knee is not None:
            e["knee"] = t[knee]
    start = m.first(m.vy > 0.01, since)
    assert start is not None
    e["pull_start"] = min(t[start], e.get("lift_off", np.inf)) if not held else t[start]
    apex = peak + int(np.argmax(y[peak:][: _until_down(m.vy, peak)]))
    e["apex"] = t[apex]
    # The knees straighten, bend again and straighten once more.
    knees = m.bend("hip", "knee", "ankle")
    low = int(np.searchsorted(t, max(e.get("knee", e["pull_start"]), e["pull_start"])))
    hips = m.bend("shoulder", "hip", "knee")
    opened = m.first(hips > 160, low)
    turned = _turns(knees, low, min(peak, opened if opened is not None else peak))
    first = max(low, m.i("knee")) if "knee" in e else low
    if turned:
        e["first_pull_end"], e["rebend"] = t[turned[0]], t[turned[1]]
        # The re-bend is under way once the knees have closed by a degree and a half.
        under_way = m.first(knees < knees[turned[0]] - 1.5, turned[0])
        first = max(first, under_way if under_way is not None else turned[0])
    gap = m.thigh_gap()
    if not turned:
        first += int(np.argmax(gap[first:peak]))
    touch = m.first(gap[:peak] <= 0.02, first)
    first = min(first, peak - 1)
    e["contact"] = t[touch if touch is not None else first + int(np.argmin(gap[first:peak]))]
    contact = m.i("contact")
    reach = hips + knees
    e["extension"] = t[contact + int(np.argmax(reach[contact : max(apex, contact + 1)]))]


def _until_down(vy: Floats, since: int) -> int:
    """How many samples after `since` the bar still rises."""
    down = np.flatnonzero(vy[since:] < 0)
    return int(down[0]) + 1 if len(down) else len(vy) - since


def _turns(knees: Floats, low: int, high: int) -> tuple[int, int] | None:
    """Where the knee angle is largest before it closes again (by two degrees or more), and where it is smallest then."""
    span = knees[low:high]
    fallen = np.maximum.accumulate(span) - span
    again = int(np.argmax(fallen))
    if fallen[again] < 2.0:
        return None
    return low + int(np.argmax(span[: again + 1])), low + again


def _pull(m: Motion, part: Part, done: Performance) -> dict[str, float]:
    _pull_events(m, part)
    e, t = m.events, m.time
    received = "meet" in part.meant_s
    if received:
        _received_events(m, part)
    origin = m.i("lift_off") if "lift_off" in e else m.i("pull_start")
    contact, ext, peak, apex = m.i("contact"), m.i("extension"), m.i("peak_speed"), m.i("apex")
    knee = m.i("knee") if "knee" in e else origin
    end = m.i("meet") if "meet" in e else apex
    x, y = 100 * (m.x("bar") - m.x("bar")[origin]), m.y("bar")
    force = m.ay + G
    fx = np.gradient(np.gradient(m.x("bar"), t), t)
    vx = np.gradient(m.x("bar"), t)
    knees, hips = m.bend("hip", "knee", "ankle"), m.bend("shoulder", "hip", "knee")
    trunk = m.tilt("hip", "shoulder")
    rebend = min(m.i("rebend") if "rebend" in e else origin + int(0.55 * (peak - origin)), peak - 2)
    fresh = part.begins == "floor" and "hold_end" not in e
    made: dict[str, float] = {
        "bar_forward_max": x[origin : end + 1].max(),
        "bar_back_max": x[origin : end + 1].min(),
        "peak_velocity": m.vy[peak],
        "peak_velocity_height": y[peak],
        "peak_height": y[apex],
        "bar_travel": np.hypot(np.diff(m.x("bar")[origin : apex + 1]), np.diff(y[origin : apex + 1])).sum(),
        "peak_acceleration": m.ay[origin:peak].max(),
        "contact_height": m.along_thigh()[contact],
        "bump_speed": max(vx[contact : contact + round(0.08 / CLOCK_S) + 1].max() - vx[contact], 0.0),
        "bar_approach_speed": -min(vx[contact - round(0.03 / CLOCK_S) : contact + 1].min(), 0.0),
        "vertical_work_share": _share(force[origin : peak + 1] * m.vy[origin : peak + 1], fx[origin : peak + 1] * vx[origin : peak + 1]),
        "peak_power": done.load_kg * (force * m.vy)[origin : peak + 1].max(),
        "mean_power": done.load_kg * (force * m.vy)[origin : peak + 1].mean(),
        "bar_thigh_gap_max": 100 * m.thigh_gap()[min(knee, contact) : contact + 1].max(),
        "bar_body_gap_after_contact": 100 * _trunk_gap(m)[contact : apex + 1].max(),
        "extension_hip": hips[ext],
        "extension_knee": knees[ext],
        "lean_back": max(trunk[contact : peak + 1].max() - 90.0, 0.0),
        "hip_forward_speed@contact": np.gradient(m.x("hip"), t)[contact],
        "time_extension_to_apex": t[apex] - t[ext],
    }
    if "rebend" in e:
        made["knee_rebend_pull"] = knees[m.i("first_pull_end")] - knees[rebend]
        made["transition_velocity_loss"] = _loss(m.vy[m.i("first_pull_end") : rebend + round(0.05 / CLOCK_S)])
        made["time_rebend_to_extension"] = t[ext] - t[rebend]
    else:
        made["knee_rebend_pull"] = 0.0
    opened = m.first(trunk[origin : apex + 1] - np.minimum.accumulate(trunk[origin : apex + 1]) > 8.0)
    if opened is not None and fresh:
        made["trunk_opening_height"] = 100 * (y - m.y("knee"))[origin + opened]
    length = np.hypot(m.x("shoulder") - m.x("hip"), m.y("shoulder") - m.y("hip"))
    shrugged = m.first(length[: apex + 1] > length[contact] + 0.02, contact)
    closed = m.first(m.elbow()[: apex + 1] < m.elbow()[contact] - 12, contact)
    if shrugged is not None and closed is not None:
        made["shrug_lead"] = 1000 * (t[closed] - t[shrugged])
    heel = m.y("heel") - m.y("heel")[origin]
    risen = m.first(heel > 0.025, origin)
    if risen is not None and risen <= apex:
        made["heel_rise_lead"] = 1000 * (t[contact] - t[risen])
    elbow = m.elbow()
    bent = m.first(elbow < elbow[origin:contact].max() - 12, origin)
    made["arm_bend_lead"] = 1000 * (t[ext] - t[bent]) if bent is not None else 0.0
    # Knees that bent again are not done with before that.
    again = rebend if made["knee_rebend_pull"] >= 5 else knee
    knee_done, hip_done = (again + int(np.argmax(a[again : apex + 1] >= a[again : apex + 1].max() - 5)) for a in (knees, hips))
    made["knee_hip_extension_lag"] = 1000 * (t[hip_done] - t[knee_done])
    made["hip_at_knee_extension"] = hips[knee_done]
    before = force[min(knee, contact - 2) if fresh else origin : contact].max()
    after = force[contact:peak].max() if peak > contact else before
    made["force_fade"] = 100 * (before / after - 1)
    if fresh:
        made |= _off_the_floor(m, origin, knee, contact, x, force, trunk)
        early = force[origin : origin + round(0.2 / CLOCK_S) + 1].max()
        made["early_force_ratio"] = early / force[rebend : max(ext, peak)].max()
        made |= {
            "time_lift_off_to_knee": t[knee] - t[origin],
            "velocity_at_knee": m.vy[knee],
            "first_pull_mean_velocity": (y[knee] - y[origin]) / (t[knee] - t[origin]),
        }
        for name in ("knee", "contact", "apex", "meet", "bottom", "lockout"):
            if name in e:
                made[f"bar_x@{name}"] = x[m.i(name)]
    made |= _angles(m, ("lift_off", "knee", "first_pull_end", "rebend", "contact", "extension", "apex", "meet", "bottom"))
    if received:
        made |= _received(m, part, contact, apex, x, origin)
        usual = sound_plan(part.kind, m.build).bar.peak_speed_m_s
        made["speed_under_usual"] = 100 * (1 - m.vy[peak] / usual)
    return made


def _slow_pull(m: Motion, part: Part) -> dict[str, float]:
    """A pull without a second pull: what can be said of it up to the knee."""
    y = m.y("bar")
    off = m.first(y > DISC_RADIUS_M + 1e-4)
    knee = m.first(y >= m.y("knee"), off or 0)
    if off is None or knee is None:
        return {}
    m.events |= {"lift_off": m.time[off], "knee": m.time[knee]}
    if "stand" in part.meant_s:
        m.events["stand"] = m.time[int(np.argmax(y))]
    made = _off_the_floor(m, off, knee, knee, 100 * (m.x("bar") - m.x("bar")[off]), m.ay + G, m.tilt("hip", "shoulder"))
    for name in ("balance@contact", "trunk_opened_early"):
        del made[name]
    return made | {"bar_x@knee": 100 * (m.x("bar")[knee] - m.x("bar")[off])} | _angles(m, ("lift_off", "knee"))


def _continental(m: Motion, part: Part) -> dict[str, float]:
    """By way of the belt to the shoulders. The rest on the belt is known from the script; all else is read off."""
    e, t, y = m.events, m.time, m.y("bar")
    off = m.first(y > DISC_RADIUS_M + 1e-4)
    assert off is not None
    knee = m.first(y >= m.y("knee"), off)
    assert knee is not None
    e |= {"lift_off": t[off], "knee": t[knee], "belt": part.meant_s["belt"], "regrip": part.meant_s["regrip"]}
    left = m.i("regrip")
    peak = left + int(np.argmax(m.vy[left:]))
    reach = m.bend("shoulder", "hip", "knee") + m.bend("hip", "knee", "ankle")
    up = m.first((np.abs(m.vy) < 0.02) & (y > y.max() - 0.01), peak)
    assert up is not None
    # Who stands with the bar on the belt is straight already; what counts is straightening out of the dip.
    low = left + int(np.argmin(y[left:peak]))
    there = m.first(y > y[up] - ARRIVES_M, peak)
    assert there is not None
    straight = low + int(np.argmax(reach[low:there] >= reach[low:there].max() - STRAIGHT_WITHIN_DEG))
    e |= {"peak_speed": t[peak], "extension": t[straight], "shoulder": t[up]}
    return {
        "belt_rest": e["regrip"] - e["belt"],
        "belt_height": 100 * y[m.i("belt")],
        "peak_velocity_from_belt": m.vy[peak],
        "elbow_close_before_shrug": m.elbow()[left] - m.elbow()[left : straight + 1].min(),
    } | _angles(m, ("lift_off", "knee", "belt", "regrip", "extension", "shoulder"))


def _press(m: Motion) -> dict[str, float]:
    e, t, y = m.events, m.time, m.y("bar")
    start = m.first(m.vy > 0.01)
    assert start is not None
    up = m.first((np.abs(m.vy) < 0.02) & (y > y.max() - 0.01), start)
    assert up is not None
    e |= {"press_start": t[start], "recovered": t[up]}
    locked = m.first((m.elbow() >= 170) & (y > m.y("ear")), start)
    if locked is not None:
        e["lockout"] = t[locked]
    over = m.first(y > m.y("ear") + TOP_ABOVE_EAR * m.build.stature_m, start)
    assert over is not None
    return {
        "press_time": t[up] - t[start],
        "press_bar_forward": 100 * float((m.x("bar") - m.x("hip"))[over : up + 1].mean()),
    } | _angles(m, ("press_start", "lockout"))


def _off_the_floor(m: Motion, off: int, knee: int, contact: int, x: Floats, force: Floats, trunk: Floats) -> dict[str, float]:
    y = m.y("bar")
    start = solved_start(m.build, float(abs(m.joints["right_hand"][2][off])), bar_y=DISC_RADIUS_M)
    roll = m.x("bar")[max(off - round(2.0 / CLOCK_S), 0) : off + 1]
    high = m.first(y > m.y("knee") + 0.10, knee)
    shin = m.tilt("ankle", "knee")
    upright = m.first(shin > 85, off)
    early = max(100 * (m.y("knee")[upright] - y[upright]), -10.0) if upright is not None else -10.0
    return {
        "bar_over_ball@lift_off": 100 * (m.x("bar")[off] - m.ball()[off]),
        "bar_over_midfoot@lift_off": 100 * (m.x("bar")[off] - m.mid_foot()[off]),
        "hip_height_against_start": 100 * (m.y("hip")[off] - start.hip_y),
        "hip_above_knee@lift_off": 100 * (m.y("hip")[off] - m.y("knee")[off]),
        "setup_roll": 100 * (roll.max() - roll.min()),
        "trunk_change_to_knee": trunk[knee] - trunk[off],
        "hip_shoulder_rise_ratio@pull": (m.y("hip")[knee] - m.y("hip")[off]) / (m.y("shoulder")[knee] - m.y("shoulder")[off]),
        "shin_upright_below_knee": early,
        "bar_forward_before_knee": x[off : knee + 1].max(),
        "trunk_opened_early": _opened(trunk[off : (high or contact) + 1]),
        "balance@lift_off": m.balance()[off],
        "balance@knee": m.balance()[knee],
        "balance@contact": m.balance()[contact],
    }


def _opened(trunk: Floats) -> float:
    """Largest opening from the flattest angle until then."""
    return float((trunk - np.minimum.accumulate(trunk)).max())


def _received_events(m: Motion, part: Part) -> None:
    e, t = m.events, m.time
    apex = m.i("apex")
    meet = m.first(m.ay + G > G / 2, apex)
    if meet is None or part.meant_s["meet"] > t[-1]:
        return
    e["meet"] = t[meet]
    y = m.y("bar")
    e["bottom"] = t[meet + int(np.argmin(y[meet:]))]
    low = m.i("bottom")
    shoulders = m.y("shoulder")
    e["low_point"] = t[apex + _sunk(shoulders[apex : low + round(0.4 / CLOCK_S)])]
    if part.made:
        tall = y[low:].max()
        stood = m.first((y > tall - 0.01) & (np.abs(m.vy) < 0.02), low)
        if stood is not None:
            e["stand"] = t[stood]


def _received(m: Motion, part: Part, contact: int, apex: int, x: Floats, origin: int) -> dict[str, float]:
    e, t, y = m.events, m.time, m.y("bar")
    if "meet" not in e:
        return {}
    meet, bottom = m.i("meet"), m.i("bottom")
    after = x[contact : meet + 1]
    front = int(np.argmax(after))
    trunk = m.tilt("hip", "shoulder")
    made = {
        "loop_width": after[front] - after[0] + after[front] - after[-1],
        "loop_out": after[front] - after[0],
        "drop_to_meet": 100 * (y[apex] - y[meet]),
        "meet_speed": -m.vy[meet],
        "drop_to_bottom": 100 * (y[apex] - y[bottom]),
        "time_apex_to_meet": t[meet] - t[apex],
        "time_meet_to_bottom": t[bottom] - t[meet],
        "bounces": float(_bounces(y[meet:] if part.made else y[meet : bottom + 1])),
        "bar_over_midfoot@bottom": 100 * (m.x("bar") - m.mid_foot())[bottom],
        "trunk_angle@bottom": trunk[bottom],
        "feet_shift": 100 * (m.mid_foot()[bottom] - m.mid_foot()[origin]),
        "depth": _depth(m)[bottom],
        "overpull": 100 * (y[apex] - m.y("shoulder")[meet]),
    }
    off_floor = (m.joints["left_toe"][1] > 0.001) & (m.joints["left_heel"][1] > 0.001)
    made["feet_air_time"] = 1000 * CLOCK_S * off_floor[apex - round(0.4 / CLOCK_S) : meet + 1].sum()
    if "snatch" in part.kind:
        made |= _overhead(m, meet, "bottom")
        made["wrist_offset@bottom"] = 100 * (m.x("bar") - m.x("wrist"))[bottom]
        del made["overpull"]
    else:
        made["bar_shoulder_offset@rack"] = 100 * (m.x("bar") - m.x("shoulder"))[bottom]
        made["front_rack_elbow"] = m.tilt("shoulder", "elbow")[bottom]
        turned = np.hypot(m.x("bar") - m.x("shoulder"), m.y("bar") - m.y("shoulder"))
        made["bar_shoulder_gap"] = 100 * turned[apex : meet + 1].max()
        caught = slice(meet, min(bottom + round(0.5 / CLOCK_S), len(y)))
        made["elbow_to_knee"] = 100 * min(
            float(np.hypot(*(m.joints[f"{side}_elbow"][:2] - m.joints[f"{side}_knee"][:2])[:, caught]).min()) for side in ("left", "right")
        )
    if "stand" in e:
        stand = m.i("stand")
        low, tall = y[bottom], y[stand]
        third = m.first(y[:stand] > low + (tall - low) / 3, bottom) or stand
        made["hip_shoulder_rise_ratio@stand"] = _risen(m, bottom, third)
        made["time_bottom_to_stand"] = t[stand] - t[bottom]
        made["stand_peak_speed"] = m.vy[bottom:stand].max()
    return made


def _risen(m: Motion, bottom: int, until: int) -> float:
    """Rise of the hips over rise of the shoulders, each from where it is lowest after the bottom."""
    hips, shoulders = (m.y(name)[until] - m.y(name)[bottom : until + 1].min() for name in ("hip", "shoulder"))
    return float(hips / max(shoulders, 1e-6))


def _overhead(m: Motion, meet: int, low: str) -> dict[str, float]:
    """When the elbows are straight, and how much of that is made after the shoulders stopped sinking."""
    elbow = m.elbow()
    lock = m.first(elbow >= 170.0, meet)
    sunk = m.i("low_point") if "low_point" in m.events else m.i(low)
    until = m.first(elbow >= 170.0, sunk) or len(elbow) - 1
    made = {"press_out": max(elbow[sunk : until + 1].max() - elbow[sunk], 0.0) if elbow[sunk] < 170 else 0.0}
    if lock is not None:
        m.events["lockout"] = m.time[lock]
        made["elbow_lock_delay"] = 1000 * (m.time[lock] - m.time[meet])
    return made


def _share(up: Floats, aside: Floats) -> float:
    return float(100 * np.abs(up).sum() / (np.abs(up).sum() + np.abs(aside).sum()))


def _loss(speed: Floats) -> float:
    """Largest fall of a rising speed below what it had been."""
    return float((np.maximum.accumulate(speed) - speed).max()) if len(speed) else 0.0


def _trunk_gap(m: Motion) -> Floats:
    """Bar from the front of the trunk, the trunk's line running on beyond hips and shoulders, m."""
    along = np.stack([m.x("shoulder") - m.x("hip"), m.y("shoulder") - m.y("hip")])
    off = np.stack([m.x("bar") - m.x("hip"), m.y("bar") - m.y("hip")])
    far = (along[1] * off[0] - along[0] * off[1]) / np.hypot(*along)
    return np.asarray(far - SHAFT_RADIUS_M - m.build.trunk_half_m)


def _bounces(y: Floats) -> int:
    """Down-up reversals of more than 2 cm."""
    count, top, low, falling = 0, y[0], y[0], True
    for height in y:
        if falling:
            low = min(low, height)
            if height - low > 0.02 and top - low > 0.0:
                count, falling, top = count + 1, False, height
        else:
            top = max(top, height)
            if top - height > 0.02:
                falling, low = True, height
    return count


def _depth(m: Motion) -> Floats:
    """Hip crease below the top of the knee, cm."""
    trunk = np.radians(m.tilt("hip", "shoulder"))
    crease = m.y("hip") + 0.04 * m.build.thigh_m * np.sin(trunk)
    return np.asarray(100 * (m.y("knee") + 0.05 - crease))


def _angles(m: Motion, events: tuple[str, ...]) -> dict[str, float]:
    made: dict[str, float] = {}
    rows: dict[str, Callable[[], Floats]] = {
        "trunk_angle": lambda: m.tilt("hip", "shoulder"),
        "shin_angle": lambda: m.tilt("ankle", "knee"),
        "thigh_angle": lambda: m.tilt("knee", "hip") % 360,
        "knee_angle": lambda: m.bend("hip", "knee", "ankle"),
        "hip_angle": lambda: m.bend("shoulder", "hip", "knee"),
        "ankle_angle": lambda: m.bend("knee", "ankle", "toe"),
        "upper_arm_angle": lambda: m.tilt("shoulder", "elbow"),
        "elbow_angle": m.elbow,
        "shoulder_over_bar": lambda: 100 * (m.x("shoulder") - m.x("bar")),
        "knee_over_bar": lambda: 100 * (m.x("knee") - m.x("bar")),
        "hip_bar_distance": lambda: 100 * (m.x("bar") - m.x("hip")),
        "bar_over_ball": lambda: 100 * (m.x("bar") - m.ball()),
        "bar_over_midfoot": lambda: 100 * (m.x("bar") - m.mid_foot()),
        "hip_height": lambda: 100 * m.y("hip"),
        "hip_above_knee": lambda: 100 * (m.y("hip") - m.y("knee")),
        "balance": m.balance,
        "heel_rise": lambda: 100 * (m.y("heel") - m.y("heel")[0]),
    }
    for name, read in rows.items():
        series = read()
        for event in events:
            if event in m.events:
                made[f"{name}@{event}"] = series[m.i(event)]
    return made


# -- jerks ------------------------------------------------------------------------------------------------------------------


def _jerk(m: Motion, part: Part) -> dict[str, float]:
    e, t, y, build = m.events, m.time, m.y("bar"), m.build
    e["rack"] = t[0]
    peak = int(np.argmax(m.vy[: int(np.searchsorted(t, part.meant_s["meet"]))]))
    e["drive_end"] = t[peak]
    bottom = int(np.argmin(y[:peak]))
    e["dip_bottom"] = t[bottom]
    start = _starts_down(m, bottom)
    e["dip_start"] = t[start]
    apex = peak + int(np.argmax(y[peak:][: _until_down(m.vy, peak)]))
    e["apex"] = t[apex]
    meet = m.first(m.ay + G > G / 2, apex)
    assert meet is not None
    e["meet"] = t[meet]
    settled = int(np.searchsorted(t, part.meant_s["settled"])) if part.made else len(t) - 1
    shoulders = m.y("shoulder")
    e["low_point"] = t[apex + _sunk(shoulders[apex:settled])]
    low = m.i("low_point")
    leaves: dict[str, float] = {}
    split = abs(m.mid_foot("left_")[settled] - m.mid_foot("right_")[settled]) > 0.15
    for side, name in (("left_", "front_foot_down"), ("right_", "back_foot_down")):
        up = np.minimum(m.joints[f"{side}toe"][1], m.joints[f"{side}heel"][1]) > 0.001
        air = np.flatnonzero(up[peak:low])
        # Feet that land beside each other are neither in front nor behind.
        if split and len(air):
            e[name] = t[peak + int(air[-1]) + 1]
        step = m.first(up, settled)
        if step is not None:
            leaves[name] = t[step]
    trunk, knees = m.tilt("hip", "shoulder"), m.bend("hip", "knee", "ankle")
    made = {
        "dip_depth": 100 * (y[start] - y[bottom]),
        "dip_depth_share": 100 * (y[start] - y[bottom]) / build.stature_m,
        "dip_time": t[bottom] - t[start],
        "dip_peak_speed": -m.vy[start:bottom].min(),
        "dip_bar_shift": 100 * (m.x("bar")[bottom] - m.x("bar")[start]),
        "dip_hip_back": 100 * -((m.x("hip") - m.x("ankle"))[bottom] - (m.x("hip") - m.x("ankle"))[start]),
        "dip_trunk_tilt": trunk[start] - trunk[start : bottom + 1].min(),
        "dip_elbow_drop": m.tilt("shoulder", "elbow")[start] - m.tilt("shoulder", "elbow")[bottom],
        "dip_turn_time": t[bottom] - t[start + int(np.argmin(m.vy[start:bottom]))],
        "drive_extension_knee": knees[bottom : peak + round(0.04 / CLOCK_S)].max(),
        "drive_extension_hip": m.bend("shoulder", "hip", "knee")[bottom : peak + round(0.04 / CLOCK_S)].max(),
        "drive_peak_velocity": m.vy[peak],
        "peak_height": y[apex],
        "balance@dip_bottom": m.balance()[bottom],
        "balance@dip_start": m.balance()[start],
        "knee_rebend": _rebent(m, start, peak),
        "drop_to_meet": 100 * (y[apex] - y[meet]),
    }
    made |= _angles(m, ("dip_start", "dip_bottom", "drive_end"))
    made["bar_shoulder_offset@rack"] = 100 * (m.x("bar") - m.x("shoulder"))[start]
    if not part.made:
        return made
    made |= _overhead(m, apex, "low_point")
    made |= _angles(m, ("low_point", "lockout"))
    lock = m.i("lockout") if "lockout" in e else low
    made["wrist_offset@lockout"] = 100 * (m.x("bar") - m.x("wrist"))[lock]
    made["elbow_lock_delay"] = 1000 * (t[lock] - t[meet])
    proper = _proper_receiving_m(m, part)
    made |= {
        "bar_surplus": 100 * (y[apex] - proper),
        "under_drop": 100 * (shoulders[start] - shoulders[low]),
        "jerk_bar_shift": 100 * (m.x("bar")[lock] - m.x("bar")[start]),
        "bar_over_hip@lockout": 100 * (m.x("bar") - m.x("hip"))[lock],
        "head_through": 100 * (m.x("ear") - m.x("bar"))[lock],
    }
    if split:
        length = m.mid_foot("left_")[settled] - m.mid_foot("right_")[settled]
        made |= {
            "split_length": 100 * length,
            "split_length_share": length / build.hip_height_m,
            "front_shin_angle": m.tilt("ankle", "knee", "left_")[settled],
            "front_shin_off_vertical": abs(90 - m.tilt("ankle", "knee", "left_")[settled]),
            "back_knee_angle": m.bend("hip", "knee", "ankle", "right_")[settled],
        }
        if {"front_foot_down", "back_foot_down"} <= e.keys():
            made["foot_order"] = 1000 * (e["front_foot_down"] - e["back_foot_down"])
        if len(leaves) == 2:
            e["first_step"] = min(leaves.values())
            made["recovery_order"] = 1.0 if leaves["front_foot_down"] < leaves["back_foot_down"] else -1.0
    flat = (
        (np.abs(m.mid_foot("left_") - m.mid_foot("right_")) < 0.01)
        & (np.abs(m.vy) < 0.02)
        & (m.joints["left_toe"][1] < 1e-3)
        & (m.joints["right_toe"][1] < 1e-3)
    )
    done = m.first(flat & (y > y[settled] + 0.02), settled)
    if done is not None:
        e["recovered"] = t[done]
    return made


def _sunk(height: Floats) -> int:
    """The first sample within a centimetre of the lowest."""
    return int(np.argmax(height <= height.min() + 0.01))


def _starts_down(m: Motion, bottom: int) -> int:
    """The last sample before the bar's fastest way down at which it still stood."""
    fastest = int(np.argmin(m.vy[: bottom + 1]))
    still = np.flatnonzero(m.vy[:fastest] > -0.01)
    return int(still[-1]) if len(still) else 0


def _rebent(m: Motion, start: int, peak: int) -> float:
    """How much the knees bend between the drive's end and the moment the feet leave the floor."""
    knees = m.bend("hip", "knee", "ankle")
    top = peak - round(0.06 / CLOCK_S) + int(np.argmax(knees[peak - round(0.06 / CLOCK_S) : peak + round(0.03 / CLOCK_S)]))
    air = m.first(np.minimum(m.joints["left_toe"][1], m.joints["right_toe"][1]) > 0.001, top)
    until = air if air is not None else top + 1
    return float(max(knees[top] - knees[top : until + 1].min(), 0.0))


def _proper_receiving_m(m: Motion, part: Part) -> float:
    """Height at which this lifter would receive a jerk properly: in a split of 0.9 of the leg's length, or a shallow squat, arms locked."""
    from .jerks import received_hip_m, sound_jerk
    from .pulls import overhead_m

    plan = sound_jerk(part.kind, m.build, split_share=0.9) if part.kind == "split_jerk" else sound_jerk(part.kind, m.build)
    return received_hip_m(m.build, plan) + m.build.trunk_m + overhead_m(m.build, plan.grip_m, plan.wrist_deg) + 0.01


def _dip(m: Motion) -> dict[str, float]:
    y, t = m.y("bar"), m.time
    bottom = int(np.argmin(y))
    start = _starts_down(m, bottom)
    m.events |= {"rack": t[0], "dip_start": t[start], "dip_bottom": t[bottom]}
    stood = m.first((y > y.max() - 0.01) & (np.abs(m.vy) < 0.02), bottom)
    if stood is not None:
        m.events["stand"] = t[stood]
    trunk = m.tilt("hip", "shoulder")
    return {
        "dip_depth": 100 * (y[start] - y[bottom]),
        "dip_depth_share": 100 * (y[start] - y[bottom]) / m.build.stature_m,
        "dip_time": t[bottom] - t[start],
        "dip_peak_speed": -m.vy.min(),
        "dip_trunk_tilt": trunk[start] - trunk[start : bottom + 1].min(),
        "trunk_off_vertical": 90 - trunk[start : bottom + 1].min(),
        "dip_bar_shift": 100 * (m.x("bar")[bottom] - m.x("bar")[start]),
        "balance@dip_bottom": m.balance()[bottom],
    }


def _from_the_front(m: Motion, measures: dict[str, float]) -> dict[str, float]:
    """What only a view from the front or from behind shows: the bar against the level, the knees against the line from hip to ankle."""
    along = m.joints["bar_right"]
    held = slice(None, m.i("release") if "release" in m.events else None)
    made = {"bar_tilt_max": np.abs(np.degrees(np.arctan2(along[1], along[2])))[held].max()}
    for event in ("lift_off", "bottom", "dip_start", "descent_start"):
        if event in m.events:
            made[f"stance_width@{event}"] = 100 * abs(m.joints["left_ankle"][2] - m.joints["right_ankle"][2])[m.i(event)]
            made[f"stance_share@{event}"] = made[f"stance_width@{event}"] / (100 * m.build.stature_m)
    hands = [m.joints[f"{side}_hand"][2][0] for side in ("left", "right")]
    made["grip_width"] = 100 * abs(hands[0] - hands[1])
    made["grip_share"] = made["grip_width"] / (100 * m.build.stature_m)
    if "hip_shoulder_rise_ratio@stand" not in measures:
        return made
    up = slice(m.i("bottom"), m.i("stand"))
    inside = []
    for side, outward in (("left_", -1), ("right_", 1)):
        hip, knee, ankle = (m.joints[side + name][1:, up] for name in ("hip", "knee", "ankle"))
        share = (knee[0] - ankle[0]) / np.maximum(hip[0] - ankle[0], 0.05)
        inside.append(outward * (ankle[1] + np.clip(share, 0, 1) * (hip[1] - ankle[1]) - knee[1]))
    return made | {"knee_track": 100 * float(np.max(inside))}


# -- squats and holds -------------------------------------------------------------------------------------------------------


def _squat(m: Motion) -> dict[str, float]:
    e, t, y = m.events, m.time, m.y("bar")
    # The way down of a paused squat ends where the pause begins.
    bottom = m.i("hold_start") if "hold_start" in e else int(np.argmin(m.y("hip")))
    start = _starts_down(m, bottom)
    e["descent_start"], e["bottom"] = t[start], t[bottom]
    stood = m.first((y > y[0] - 0.01) & (np.abs(m.vy) < 0.02), bottom)
    assert stood is not None
    e["stand"] = t[stood]
    down = m.vy[start : bottom + 1]
    fastest = -down.min()
    last = start + int(np.flatnonzero(-down >= 0.98 * fastest)[-1])
    trunk, shin = m.tilt("hip", "shoulder"), m.tilt("ankle", "knee")
    low = len(y) - 1 - int(np.argmin(y[::-1]))
    third = low + int(np.searchsorted(y[low:stood], y[low] + (y[stood] - y[low]) / 3))
    over = 100 * (m.x("bar") - m.mid_foot())
    made = {
        "depth": _depth(m)[bottom],
        "trunk_angle@bottom": trunk[bottom],
        "torso_shin_difference": shin[bottom] - trunk[bottom],
        "sink_speed": fastest,
        "brake_distance": 100 * (y[last] - y[bottom]),
        "bar_off_midfoot": np.abs(over[start:stood] - over[start]).max(),
        "hip_shoulder_rise_ratio@stand": _risen(m, bottom, third),
        "stand_peak_speed": m.vy[low:stood].max(),
    }
    if abs(m.x("wrist")[bottom] - m.x("shoulder")[bottom]) < 0.3 and y[bottom] > m.y("shoulder")[bottom] + 0.2:
        made["wrist_offset@bottom"] = 100 * (m.x("bar") - m.x("wrist"))[bottom]
    if abs(y[bottom] - m.y("shoulder")[bottom]) < 0.1 and m.x("bar")[bottom] > m.x("shoulder")[bottom]:
        made["front_rack_elbow"] = m.tilt("shoulder", "elbow")[bottom]
        made["bar_shoulder_offset@rack"] = 100 * (m.x("bar") - m.x("shoulder"))[bottom]
    made |= _angles(m, ("descent_start", "bottom"))
    return made


def _hold_events(m: Motion, part: Part) -> None:
    """A hold: the bar, above where it lay, moves up or down by less than 1 cm/s around when it was meant to be held."""
    middle = int(np.searchsorted(m.time, (part.meant_s["hold_start"] + part.meant_s["hold_end"]) / 2))
    moving = np.flatnonzero(np.abs(m.vy) >= 0.01)
    before, after = moving[moving < middle], moving[moving > middle]
    m.events["hold_start"] = m.time[before[-1] + 1 if len(before) else 0]
    m.events["hold_end"] = m.time[after[0] - 1 if len(after) else -1]


def _hold(m: Motion, part: Part) -> dict[str, float]:
    a, b = m.i("hold_start"), m.i("hold_end")
    third = a + (b - a) // 3
    trunk = m.tilt("hip", "shoulder")
    made = {
        "hold_time": m.time[b] - m.time[a],
        "hold_drift_bar": 100 * (m.x("bar")[third : b + 1].max() - m.x("bar")[third]),
        "hold_drift_trunk": trunk[third] - trunk[third : b + 1].min(),
        "hold_settle": 100 * abs(m.x("bar")[third] - m.x("bar")[a]),
        "hold_height": 100 * m.y("bar")[a],
        "hold_missing": part.asked["hold_s"] - (m.time[b] - m.time[a]),
    }
    if "hold_height_m" in part.asked:
        made["hold_height_off"] = abs(100 * (m.y("bar")[a] - part.asked["hold_height_m"]))
    return made

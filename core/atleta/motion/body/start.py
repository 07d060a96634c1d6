"""Where a fit starts from, and what it never should believe."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import median_filter

from ..filters import runs
from .model import ANKLE_HEIGHT, AT, FOREARM, HALF, NECK, PALM, POINT, SHIN, SHOE_M, SIZE, THIGH, TRUNK, UPPER_ARM
from .residuals import CORRELATED_S, TRUSTED_M, hip_behind
from .scene import Scene

Floats = NDArray[np.float64]

# Shoulders are no further from a bar in the hands (shares of stature).
ARM_REACH = 0.43
HANGS_BELOW, HANGS_BELOW_RISING = 0.48, 0.66
# A bar so quick is thrown; and one that is met was, however slow, within so long before, while it had this share of its speed.
THROWN_M_S, CAUGHT_AFTER_S = 1.0, 0.30
FLIES_S, FLIES_SHARE = 1.0, 0.7
# How high the hips usually are (shares of stature) by how far a hanging bar has risen off the floor.
HIPS_BY_RISE = ([0.0, 0.15, 0.40], [0.32, 0.45, 0.53])
# A bar is off the floor when its discs are so high above it; for so long before that its lifter hangs on to it with all the weight.
LIES_WITHIN_M, SLACK_OUT_S = 0.01, 0.3
# How long the feet take to where they land.
JUMP_S = 0.25
# They land no later than this after the bar has stopped rising.
LANDS_AFTER_S = 0.15
# A bar that has been higher than this since it was caught has been stood up with; one on the shoulders is so high (shares of stature) and
# no quicker than this.
STOOD_ABOVE, STOOD_UP_M = 0.70, 0.05
# No squat takes a bar on the shoulders lower than this (share of stature).
LOWER_THAN_SQUATTED = 0.33
RESTS_M_S, RESTS_ABOVE, RESTS_BELOW = 1.3, 0.42, 0.95
# Shoulder joints are no further than this from a bar that lies on them, and so far above one that hangs (share of stature).
RACKED_REACH_M, HUNG_ABOVE = 0.25, 0.2


def thrown(height_m: Floats, time_s: Floats, met_s: Sequence[float] = ()) -> NDArray[np.bool_]:
    """Whether the bar rises as one does that is thrown.

    Args:
        met_s: when a thrown bar is known to be met.
    """
    speed = np.nan_to_num(np.gradient(height_m, time_s))
    quick = speed > THROWN_M_S
    for at in met_s:
        before = (time_s < at) & (time_s > at - FLIES_S)
        quick |= before & (speed > FLIES_SHARE * speed[before].max(initial=0.0))
    return np.asarray(quick)


def caught(time_s: Floats, quick: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Whether the bar has been `thrown` up and is held since: its last quick rise is over, and some time has passed."""
    last = np.maximum.accumulate(np.where(quick, time_s, -np.inf))
    return np.asarray(time_s - last > CAUGHT_AFTER_S) & np.isfinite(last)


def hangs(height_m: Floats, time_s: Floats, stature_m: float, quick: NDArray[np.bool_], *, squatted: bool = False) -> Floats:
    """1 where a bar this high above the floor hangs from the arms: below the hips, or still gaining speed on its way up from there; not
    where it was thrown, is caught as deep and has not been stood up with since.

    Args:
        squatted: whether a bar that was stood up with is squatted with later; then it is on the shoulders or overhead, however low.
    """
    low = height_m < HANGS_BELOW * stature_m
    for begins, ends in runs(low) if squatted else ():
        down = np.flatnonzero(height_m[:begins] < LOWER_THAN_SQUATTED * stature_m)
        stood = height_m[down[-1] + 1 if len(down) else 0 : begins]
        if len(stood) and np.nanmax(stood) > STOOD_ABOVE * stature_m and np.nanmin(height_m[begins:ends]) > LOWER_THAN_SQUATTED * stature_m:
            low[begins:ends] = False
    held_deep = caught(time_s, quick)
    for begins, ends in runs(low & held_deep):
        before = np.flatnonzero(~held_deep[:begins])
        since = height_m[before[-1] + 1 : ends] if len(before) else height_m[:0]
        # What it fell from when it was caught is not how high it was stood up with.
        again = since > np.fmin.accumulate(since) + STOOD_UP_M
        if len(since) and np.nanmax(since[again], initial=0.0) < STOOD_ABOVE * stature_m:
            low[begins:ends] = False
    speed = np.nan_to_num(np.gradient(height_m, time_s))
    made = np.asarray(low, float)
    for first in np.flatnonzero(low[:-1] & ~low[1:]) + 1:
        last = first
        while last < len(speed) and speed[last] > max(speed[last - 1], 0.3) and height_m[last] < HANGS_BELOW_RISING * stature_m:
            last += 1
        made[first:last] = 1.0
    return made


def turns(time_s: Floats, hanging: Floats, quick: NDArray[np.bool_]) -> Floats:
    """1 from where a bar is thrown off hanging arms until it is caught."""
    since = np.maximum.accumulate(np.where(hanging > 0, time_s, -np.inf))
    last = np.maximum.accumulate(np.where((hanging == 0) & quick, time_s, -np.inf))
    return np.asarray((hanging == 0) & (last >= since) & np.isfinite(since) & ~caught(time_s, quick), float)


def bears(height_m: Floats, time_s: Floats, disc_radius_m: float) -> Floats:
    """1 where the lifter bears the bar's weight: off the floor, and for a moment before, when the slack is out; NaN while it lies there."""
    off = height_m > disc_radius_m + LIES_WITHIN_M
    after = np.searchsorted(time_s[off], time_s)
    until = np.where(after < off.sum(), time_s[off][np.minimum(after, off.sum() - 1)] - time_s, np.inf) if off.any() else np.inf + time_s
    return np.where(until <= SLACK_OUT_S, 1.0, np.nan)


def just_met(time_s: Floats, met_s: Sequence[float]) -> Floats:
    """1 from where a thrown bar is met until its speed alone tells that it is held."""
    return np.asarray(np.any([(time_s >= at) & (time_s <= at + CAUGHT_AFTER_S) for at in met_s], axis=0), float) + np.zeros(len(time_s))


def jumped(time_s: Floats, hanging: Floats, quick: NDArray[np.bool_]) -> Floats:
    """From 0 to 1 how far the feet have gone, since the bar was thrown, from where they pull to where they receive."""
    since = np.maximum.accumulate(np.where(hanging > 0, time_s, -np.inf))
    off_arms = np.maximum.accumulate(np.where((hanging == 0) & quick, time_s, -np.inf)) > since
    return np.where(off_arms & np.isfinite(since), np.clip((time_s - since) / JUMP_S, 0.0, 1.0), 0.0)


def flies(
    height_m: Floats, time_s: Floats, hanging: Floats, resting: Floats, quick: NDArray[np.bool_], *, off_arms: bool
) -> Floats:  # fmt: skip
    """1 while the feet may be in the air under a bar thrown off the shoulders, or off hanging arms too: from where it is fastest until a
    little after it rises no more."""
    speed = np.nan_to_num(np.gradient(height_m, time_s))
    made = np.zeros(len(speed))
    for first, last in runs(quick):
        held = np.flatnonzero((hanging[:first] > 0) | (resting[:first] > 0))
        if len(held) == 0 or (hanging[held[-1]] > 0 and not off_arms):
            continue
        fastest = first + int(np.argmax(speed[first:last]))
        stopped = np.flatnonzero(speed[last:] <= 0)
        over = time_s[last + int(stopped[0])] if len(stopped) else time_s[-1]
        made[(time_s >= time_s[fastest]) & (time_s <= over + LANDS_AFTER_S)] = 1.0
    return made


def rests_high(
    height_m: Floats, time_s: Floats, speed_m_s: Floats, hanging: Floats, stature_m: float, quick: NDArray[np.bool_], met: Floats
) -> Floats:  # fmt: skip
    """1 where a bar lies on the shoulders: met or calm, as high as they can be in a squat or standing, and not on its way up from the
    floor; and where it is driven off them, until it is fastest."""
    since = np.maximum.accumulate(np.where(hanging > 0, time_s, -np.inf))
    as_high = (height_m > RESTS_ABOVE * stature_m) & (height_m < RESTS_BELOW * stature_m)
    calm = (np.nan_to_num(speed_m_s) < RESTS_M_S) & (caught(time_s, quick) | np.isinf(since))
    made = as_high & (hanging == 0) & (calm | (met > 0))
    rising = np.nan_to_num(np.gradient(height_m, time_s))
    for first, last in runs(quick):
        if first and made[first - 1] and np.nanmax(height_m[first:last]) > RESTS_BELOW * stature_m:
            leaves = first + int(np.argmax(rising[first:last])) + 1
            made[first:leaves], made[leaves:last] = as_high[first:leaves], False
    return np.asarray(made, float)


def without_impossible(scene: Scene, shared: Floats) -> Scene:
    """The scene without looks that cannot be so: at bodies out of the bar's reach, at shoulders where the bar's phase leaves none, at hips
    where the bar leaves no room for them, since a disc in front of a crouching lifter draws them to itself."""
    seen, S = scene.seen, scene.seen.stature_m
    bar = scene.bar_m(shared)
    hanging = seen.held & (scene.hanging > 0)
    depth = np.exp(shared[0])
    sd = seen.sd.copy()
    shoulder = (seen.points[:, POINT["near_shoulder"]] / scene.focal_px(depth, shared[1]) - [0.0, shared[2]]) * depth
    # Hands hold the bar: a body further from it than arms reach is somebody else's.
    reach = np.linalg.norm(shoulder - bar, axis=1)
    sd[seen.held & (reach > ARM_REACH * S)] = np.inf
    # Arms that hang are straight: shoulders are well above the bar.
    sd[hanging & (shoulder[:, 1] - bar[:, 1] < HUNG_ABOVE * S)] = np.inf
    # Nor can shoulders be away from a bar that lies on them.
    racked = seen.held & (scene.resting_high > 0)
    sd[racked & (reach > RACKED_REACH_M)] = np.inf
    # There the far arm is behind the neck, the near arm and the disc.
    sd[racked, POINT["far_elbow"]] = np.inf
    # Nor can they be up at a bar that is held overhead.
    overhead = seen.wide_grip & caught(seen.time_s, thrown(bar[:, 1], seen.time_s, seen.met_s)) & (scene.height_m > 0.62 * S)
    sd[seen.held & overhead & (reach < 0.22 * S)] = np.inf
    for name in ("near_hip", "far_hip"):
        x = seen.points[:, POINT[name], 0] * depth / scene.focal_px(depth, shared[1])
        sd[hanging & (bar[:, 0] - x < hip_behind(scene.height_m, S)), POINT[name]] = np.inf
    return replace(scene, seen=replace(seen, sd=sd))


def usual_once(scene: Scene) -> Scene:
    """The scene in which a long stretch without a sight of the body takes what is usual as said once, and not anew in every frame."""
    seen = scene.seen
    anew = np.ones(len(seen.time_s))
    for first, stop in runs(np.isfinite(seen.sd).sum(axis=1) == 0):
        anew[first:stop] = np.sqrt(min(CORRELATED_S * scene.rate_hz / (stop - first), 1.0))
    return replace(scene, anew=anew)


def first_guess(scene: Scene, shared: Floats) -> Floats:
    """A first guess, limb by limb: what is plainly seen; where a shoulder or hip is not, trunk and bar tell; knees bend forward."""
    seen, S = scene.seen, scene.seen.stature_m
    time, floor = seen.time_s, -shared[3]
    bar = scene.bar_m(shared)
    sure = np.isfinite(bar[:, 0])
    bar = np.stack([np.interp(time, time[sure], bar[sure, k]) for k in (0, 1)], axis=-1)
    low = floor + ANKLE_HEIGHT * S + SHOE_M
    depth = np.exp(shared[0])
    focal = scene.focal_px(depth, shared[1])

    def plain(name: str) -> tuple[Floats, NDArray[np.bool_]]:
        """A point in metres, runs of plain sight smoothed and carried on between; and where it was plain."""
        k = POINT[name]
        trust = np.isfinite(seen.points[:, k, 0]) & (seen.sd[:, k] < TRUSTED_M)
        if trust.sum() < 5:
            return np.full((len(time), 2), np.nan), np.zeros(len(time), bool)
        place = (seen.points[trust, k] / focal - [0.0, shared[2]]) * depth
        place = median_filter(place, (5, 1), mode="nearest")
        return np.stack([np.interp(time, time[trust], place[:, axis]) for axis in (0, 1)], axis=-1), trust

    (shoulder, seen_shoulder), (hip, seen_hip) = plain("near_shoulder"), plain("near_hip")
    raised = np.clip((bar[:, 1] - floor - scene.seen.disc_radius_m) / (0.40 * S), 0, 1)
    lean = np.radians(38 + 52 * raised)
    both = seen_shoulder & seen_hip
    if both.any():
        way = shoulder[both] - hip[both]
        known = np.interp(time, time[both], np.unwrap(np.arctan2(way[:, 1], way[:, 0])))
        near = np.array([np.min(np.abs(time[both] - t)) for t in time])
        lean = np.where(near < 0.4, known, lean)
    # While a bar hangs, its height tells how high the hips are, and with the shoulders how far the trunk leans.
    risen = np.maximum(np.nan_to_num(scene.height_m) - seen.disc_radius_m, 0.0)
    rise = (shoulder[:, 1] - floor) / S - np.interp(risen / S, *HIPS_BY_RISE)
    hung_lean = np.arcsin(np.clip(np.nan_to_num(rise) / TRUNK, 0.25, 1.0))
    lean = np.where((scene.hanging > 0) & seen_shoulder & ~seen_hip & seen.from_floor, hung_lean, lean)
    trunk = TRUNK * S * np.stack([np.cos(lean), np.sin(lean)], axis=-1)
    arm = (UPPER_ARM + FOREARM + PALM) * S * 0.95
    hung = bar + arm * np.array([0.05, 1.0])
    if seen.wide_grip:
        under = (bar[:, 1] > floor + 0.62 * S) & caught(time, thrown(bar[:, 1], time, seen.met_s))
        resting = bar - np.sqrt((UPPER_ARM + FOREARM + PALM) ** 2 - 0.15**2) * S * np.array([0.1, 0.99])
    else:
        under = scene.resting_high > 0
        resting = bar + S * scene.racked
    upright = np.column_stack([bar[:, 0] - 0.08 * S, np.full(len(time), low + (THIGH + SHIN) * S)])
    shoulder = np.where((under & ~seen_shoulder)[:, None], resting, shoulder)
    seen_shoulder = seen_shoulder | under
    hip = np.where(seen_hip[:, None], hip, np.where(seen_shoulder[:, None], shoulder - trunk,
                   np.where((raised < 1)[:, None], hung - trunk, np.where(np.isnan(hip), upright, hip))))  # fmt: skip
    shoulder = np.where(seen_shoulder[:, None], shoulder, np.where((seen_hip | (raised == 1))[:, None], hip + trunk, hung))
    states = np.zeros((len(time), SIZE))

    def put(name: str, place: Floats) -> None:
        states[:, AT[f"{name}_x"]], states[:, AT[f"{name}_y"]] = place[:, 0], place[:, 1]

    put("hip", hip)
    put("shoulder", shoulder)
    for side in ("near", "far"):
        ankle, trust = plain(f"{side}_ankle")
        stood = np.column_stack([np.full(len(time), bar[0, 0] - 0.075 * S), np.full(len(time), low)])
        ankle = np.where(trust[:, None], ankle, stood)
        ankle[:, 0] = median_filter(ankle[:, 0], 7, mode="nearest")
        put(f"{side}_ankle", ankle)
        way = hip - ankle
        reach = np.clip(np.linalg.norm(way, axis=1, keepdims=True), 0.1 * S, (THIGH + SHIN - 0.003) * S)
        bend = np.sqrt(np.maximum((SHIN * S) ** 2 - (reach / 2) ** 2, 0.0))
        way = way / np.maximum(np.linalg.norm(way, axis=1, keepdims=True), 1e-6)
        put(f"{side}_knee", ankle + way * reach / 2 + bend * np.stack([way[:, 1], -way[:, 0]], axis=-1))
    toward = bar - shoulder
    toward = toward / np.maximum(np.linalg.norm(toward, axis=1, keepdims=True), 1e-6)
    wrist = bar - PALM * S * toward
    put("wrist", wrist)
    racked = (np.linalg.norm(bar - shoulder, axis=1, keepdims=True) < 0.15 * S) & seen.racked
    # Under a bar on the shoulders the elbows point ahead.
    elbow = np.where(racked, shoulder + UPPER_ARM * S * scene.racked_elbow, 0.44 * shoulder + 0.56 * wrist)
    # Between pull and catch a wide grip's go up and out.
    put("elbow", np.where(scene.turning[:, None] * seen.wide_grip > 0, shoulder + UPPER_ARM * S * np.array([-0.3, 0.3]), elbow))
    states[:, AT["elbow_z"]] = 0.5 * (HALF["shoulder"] * S + shared[9])
    head = shoulder + NECK * S * np.array([0.15, 0.99])
    ear, trust = plain("near_ear")
    head = np.where(trust[:, None], ear, head)
    put("ear", head)
    put("nose", head + S * np.array([0.057, -0.02]))
    return states

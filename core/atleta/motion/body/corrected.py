"""A fitted body after a correction: fitted anew where something changed, so that whoever corrects need not wait for the whole."""

from __future__ import annotations

from dataclasses import replace
from typing import Any

import numpy as np
from numpy.typing import NDArray

from .fit import Stage, drawn, fit_body, phased, scene_of, settled, shared_of, told
from .model import AT, POINT, POINTS, SHARED
from .residuals import Believed
from .scene import KNOWN_BY, Body, Observed

Floats = NDArray[np.float64]

# From a fit to that of the same looks with a correction, which moves little: of the whole, and of a stretch of it.
WHOLE: tuple[Stage, ...] = (Stage(6, 1.0, enough=2e-3, near=True),)
STRETCH: tuple[Stage, ...] = (Stage(6, 1.0, alone=True, enough=2e-3),)
# What is fitted anew goes so far beyond what changed, and what is not known of it passes over within this into what was not known before
# (s). Once more than this share of the looks was fitted anew, the whole is.
ANEW_ABOUT_S, PASSES_OVER_S, MOST_ANEW, FEWEST_ANEW = 0.5, 0.2, 0.5, 8
# What differs by less than this is the same: px, and what is counted in metres follows from those.
ALIKE = 0.02
# A body is as well known as before where this share of all numbers is known as before, and this share of points seen as plainly but for so
# much (a share).
AS_MANY, AS_PLAINLY, AS_PLAIN = 0.995, 0.97, 0.1
# What a corrected disc changes of its radius in all frames together moves the camera by less than this share.
ALIKE_DEPTH = 1e-3


def corrected(seen: Observed, earlier: Body) -> Body:
    """The body after what little has changed since an earlier fit: fitted anew there and a little about it, with lengths and camera as
    they were and the rest as it was; or the whole of it, where more has changed, or has since the whole was fitted."""
    scene, _ = phased(seen)
    was = _between(earlier, seen.time_s)
    rests_on = scene.rests_on()
    with np.errstate(invalid="ignore"):
        apart = ~(np.abs(rests_on - was.fitted_to) < ALIKE) & (rests_on != was.fitted_to)
    changed = np.flatnonzero((apart & ~(np.isnan(rests_on) & np.isnan(was.fitted_to))).any(axis=1))
    if len(changed) == 0:
        return was
    time = seen.time_s
    first, stop = (int(row) for row in np.searchsorted(time, [time[changed[0]] - ANEW_ABOUT_S, time[changed[-1]] + ANEW_ABOUT_S]))
    anew = was.alone.copy()
    anew[first:stop] = 1.0
    if stop - first < FEWEST_ANEW or anew.mean() > MOST_ANEW:
        return fit_body(seen, was, WHOLE, as_well_known=_as_well_known(rests_on, was.fitted_to))
    part = scene.cut(first, stop)
    shared = shared_of(was)
    # The rest of the clip has told what is shared, and how well it is known.
    known = np.array([was.shared_sd[name] for name in SHARED])
    known[0] /= was.shared["depth"]
    believed = Believed(np.eye(len(SHARED)), shared, known, shared)
    ends = (2 if first else 0, 2 if stop < len(time) else 0)
    states, _, system = settled(part, was.states[first:stop], shared, believed, STRETCH, ends)
    new = told(part, states, shared, *system.covariance())
    other = drawn(part, states, shared, system)
    # What is not known of the new stretch passes over into what was not known before.
    before, after = time[first:stop] - time[first], time[stop - 1] - time[first:stop]
    share = np.minimum(before if ends[0] else np.inf, after if ends[1] else np.inf) / PASSES_OVER_S
    share = np.clip(share, 0.0, 1.0)

    def renewed(name: str, stretch: Floats) -> Floats:
        made: Floats = getattr(was, name).copy()
        made[first:stop] = stretch
        return made

    sd = share[:, None] * new.sd_m + (1 - share)[:, None] * was.sd_m[first:stop]
    moved, share = was.drawn_m.copy(), share[:, None, None]
    moved[:, first:stop] = share * other + np.sqrt(1 - share**2) * moved[:, first:stop]
    return replace(
        was, points_m=renewed("points_m", new.points_m), points_px=renewed("points_px", new.points_px), sd_m=renewed("sd_m", sd),
        bar_m=renewed("bar_m", new.bar_m), states=renewed("states", states), drawn_m=moved, fitted_to=rests_on, alone=anew,
    )  # fmt: skip


def _as_well_known(rests_on: Floats, before: Floats) -> bool:
    """Whether as much is known of each frame `(frames, numbers)` as before: the same points, seen as plainly, of who is as tall."""
    same = np.isfinite(rests_on) == np.isfinite(before)
    with np.errstate(invalid="ignore"):
        off = np.abs(rests_on - before)[:, :KNOWN_BY] > AS_PLAIN * np.abs(before[:, :KNOWN_BY])
    return bool(same.mean() > AS_MANY and off.mean() < 1 - AS_PLAINLY)


def less_believed(earlier: Body, seen: Observed, worse: float) -> NDArray[np.bool_]:
    """Looks `(looks,)` of most of whose points an earlier fit believed so many times less than they are said to be, or not at
    all."""
    was = _between(earlier, seen.time_s).fitted_to[:, KNOWN_BY - len(POINTS) : KNOWN_BY]
    told = np.isfinite(seen.sd)
    # Halfway, in factors, between as much and so much less.
    return np.asarray((told & (was > np.sqrt(worse) * seen.sd)).sum(axis=1) > told.sum(axis=1) / 2)


def laid(body: Body, seen: Observed, points_px: Floats) -> Body:
    """The body in a picture that is read otherwise now, by another plumb line or scale: the same camera shows it in the same places.

    Args:
        seen: what it is to be fitted to.
        points_px: where its points are in the picture now, as `seen` counts them `(frames, POINTS, 2)`.
    """
    scene, shared = scene_of(seen), shared_of(body)
    yaw, pitch = shared[1:3]
    cos, sin, focal = np.cos(yaw), np.sin(yaw), body.focal_px
    depth = focal * seen.disc_radius_m / scene.radius_px + scene.near_m * cos
    grown = depth / body.shared["depth"]
    if abs(grown - 1) < ALIKE_DEPTH and np.abs(points_px - body.points_px).max() < ALIKE:
        return body
    aside = grown * body.points_m[..., 2]
    u, v = points_px[..., 0], points_px[..., 1] - focal * pitch
    x = (u * (depth - cos * aside) + focal * sin * aside) / (focal * cos + sin * u)
    y = v * (depth - cos * aside - sin * x) / focal
    states = body.states.copy()
    states[:, AT["elbow_z"]] *= grown
    for name in AT:
        part, _, axis = name.rpartition("_")
        if axis in ("x", "y"):
            points = [POINT[part]] if part in POINT else [POINT[f"near_{part}"], POINT[f"far_{part}"]]
            states[:, AT[name]] = (x if axis == "x" else y)[:, points].mean(axis=1)
    ankles = [POINT["near_ankle"], POINT["far_ankle"]]
    shared[0], shared[3], shared[4:] = np.log(depth), np.median(grown * body.points_m[:, ankles, 1] - y[:, ankles]), grown * shared[4:]
    named = dict(zip(SHARED, map(float, shared), strict=True)) | {"depth": float(depth)}
    return replace(
        body, states=states, shared=named, points_px=points_px, sd_m=grown * body.sd_m, drawn_m=grown * body.drawn_m,
    )  # fmt: skip


def _between(body: Body, time_s: Floats) -> Body:
    """The body at other frames; what it was fitted to is not known (NaN) of those that are not its own."""
    if np.array_equal(body.time_s, time_s):
        return body
    row = np.clip(np.searchsorted(body.time_s, time_s, side="right") - 1, 0, len(body.time_s) - 2)
    share = np.clip((time_s - body.time_s[row]) / (body.time_s[row + 1] - body.time_s[row]), 0.0, 1.0)

    def at(values: Floats, axis: int = 0) -> Floats:
        if values.shape[axis] == 0:
            return values
        along = share.reshape((-1,) + (1,) * (values.ndim - 1 - axis))
        return np.asarray((1 - along) * values.take(row, axis) + along * values.take(row + 1, axis))

    moved: dict[str, Any] = {name: at(getattr(body, name)) for name in ("points_m", "points_px", "sd_m", "bar_m", "states", "alone")}
    fitted_to = body.fitted_to[row + (share == 1.0)]
    fitted_to[~np.isin(time_s, body.time_s)] = np.nan
    return replace(body, time_s=time_s, **moved, drawn_m=at(body.drawn_m, 1), fitted_to=fitted_to)

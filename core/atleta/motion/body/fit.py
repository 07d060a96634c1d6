"""The lifter's body, fitted to everything known about it at once: what a pose model saw, the bar that the hands hold, segments that
keep their length, feet that stand on the floor until they leave it, a body that stands over its feet and moves like one.

The state of one frame (`STATE`) is the body in the sagittal plane: x forward and y up in metres, counted from the camera's axis. Left
and right share hips, shoulders, elbows and wrists; each leg has its own knee, ankle and foot. Every frame's state and what is the same
in all of them (lengths, camera) are found together by robust least squares: the normal matrix is a band of blocks with a border,

    [ A  B ] [ states ]      A: states of neighbouring frames      so a hip behind a disc follows from trunk and thigh, and from
    [ B' C ] [ shared ]      B: states with what is shared         where it was seen before and after, with an honest deviation.

Model points are not joint centres: where this model's points lie against the joints is in `CONVENTION`.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.ndimage import gaussian_filter1d

from ..filters import runs
from .model import BODY_KG_PER_M2, POINT, SHARED, SIZE, places_of
from .residuals import SET_SD_M, Believed, camera_sds, is_overhead, priors
from .scene import Body, Observed, Scene, near_face_m
from .solver import Nudged, System, cost, costs, smoothness
from .start import bears, first_guess, flies, hangs, jumped, just_met, rests_high, thrown, turns, usual_once, without_impossible

Floats = NDArray[np.float64]

# What the fit leaves out of account, measured on simulated clips: errors that last longer than a few frames, in calm and in quick ones,
# and by how much the network errs alike on one body all along (share of stature).
SPREAD_WORSE, SPREAD_WORSE_QUICK, TURNS_QUICK_S, ALL_ALONG_SD = 0.6, 1.35, 0.1, 0.012
DISC_EDGE_SD = 0.007
# By how much more bodies are scattered so long (s) from where hip and shoulder were last seen so plainly: measured on filmed lifts, the
# angle of the trunk was off by one to two of its deviations there (root mean square; 1.1 where it is seen).
PLAIN_M, UNSEEN_WORSE = 0.12, ((0.0, 0.05, 0.1, 0.2, 0.3), (1.0, 1.2, 1.35, 1.5, 1.7))
# The points of one network on one body err alike in all frames: by them the camera is not known much better than the discs tell it.
CAMERA_DOUBT = 0.7
# Wrists under a bar overhead give by so much more or less, and nothing shows it.
WRIST_GIVES_SD_M = 0.03
# Feet that have jumped apart are turned out, and the model's points on them lie otherwise than when they stood.
JUMPED_SD_M = 0.007
# A fit is wrong for longer than a look; what differs from one look to the next is left out of its doubt.
ERRORS_LAST_S = 0.08
# A bar that goes up so quickly is being thrown: from none to fully.
RISES_M_S = (1.0, 1.5)
# Stretches of so many looks are tried straight, those so far apart at once.
LENGTHS, APART = (3, 6, 10), 4
# So many bodies that the fit leaves as likely are kept beside it.
DRAWS = 18


@dataclass(frozen=True)
class Stage:
    """Some rounds of the fit: how many at most, how forgiving of what disagrees, whether the body moves alone (and not what is the same in
    all frames), the gain, as a share, below which the next stage follows, and whether it begins so near to its end that slopes hold and
    what the equations promise comes true."""

    rounds: int
    loose: float
    alone: bool = False
    enough: float = 1e-3
    near: bool = False


# Well enough to tell whom the looks show; and from there to the end.
ROUGHLY: tuple[Stage, ...] = (Stage(5, 4.0, alone=True), Stage(4, 2.0, enough=4e-3))
CLOSELY: tuple[Stage, ...] = (Stage(13, 1.0, enough=6e-4),)
# From a fit of the same looks in another lift, or on another clock.
ONWARD: tuple[Stage, ...] = (Stage(13, 1.0, enough=2e-3),)
TRUNK = [POINT["near_hip"], POINT["near_shoulder"]]
WRISTS = [POINT["near_wrist"], POINT["far_wrist"]]
FEET = [POINT[f"{side}_{part}"] for side in ("near", "far") for part in ("ankle", "heel", "toe")]


def fit_body(
    seen: Observed, earlier: Body | None = None, stages: Sequence[Stage] = ROUGHLY + CLOSELY, *, as_well_known: bool = False
) -> Body:
    """Fit the body to what was observed, in stages, from an earlier fit of the same frames or from a first guess. A fit that still forgives
    at its end comes without other bodies as likely.

    Args:
        as_well_known: whether it is known as well as the earlier one, whose deviations and other bodies as likely then stand for its own.

    Raises:
        ValueError: fewer than eight frames, or no disc in any of them.
    """
    if len(seen.time_s) < 8 or not np.isfinite(seen.disc[:, 0]).any():
        raise ValueError("A body is fitted to at least eight frames with the disc in sight.")
    scene, believed = phased(seen)
    if earlier is not None and len(earlier.states) and earlier.time_s[0] <= seen.time_s[-1] and earlier.time_s[-1] >= seen.time_s[0]:
        states = np.stack([np.interp(seen.time_s, earlier.time_s, column) for column in earlier.states.T], axis=-1)
        shared = shared_of(earlier)
    else:
        states, shared = first_guess(scene, believed.start), believed.start
    states, shared, system = settled(scene, states, shared, believed, stages)
    if seen.splits and stages[-1] in (*CLOSELY, *ONWARD):
        # Feet go far in no time, and come back in steps.
        smooth = smoothness(seen.time_s, seen.quick)
        straight = straightened(scene, states, shared, smooth, 1.0, everywhere(len(states)))
        if straight is not states:
            states, shared, system = settled(scene, straight, shared, believed, stages[-1:])
    if as_well_known and earlier is not None:
        body = replace(
            placed(scene, states, shared),
            sd_m=earlier.sd_m,
            drawn_m=earlier.drawn_m,
            shared_sd=earlier.shared_sd,
            scale_sd=earlier.scale_sd,
        )
    else:
        body = told(scene, states, shared, *system.covariance())
        if stages[-1].loose <= 1:
            body = replace(body, drawn_m=drawn(scene, states, shared, system))
    return replace(body, fitted_to=scene.rests_on(), alone=np.zeros(len(states)))


def settled(
    scene: Scene, states: Floats, shared: Floats, believed: Believed, stages: Sequence[Stage], ends: tuple[int, int] = (0, 0)
) -> tuple[Floats, Floats, System]:
    """States and what is shared after these stages, and the equations about them; so many frames at either end stay as they are."""
    many = Nudged.of(scene)
    smooth = smoothness(scene.seen.time_s, scene.seen.quick)
    alone = replace(believed, sds=1e-3 * believed.sds)
    damping, system, at_rest = 1.0, None, False
    for stage in stages:
        known = alone if stage.alone else believed
        states = straightened(scene, states, shared, smooth, stage.loose, out_of_sight(scene, ends))
        before = cost(scene, states, shared, smooth, known, stage.loose)
        if not np.isfinite(before):
            # No step would ever be taken, and the first guess would pass for a fit.
            raise FloatingPointError("What the fit of the body is to make small is not a number.")
        for turn in range(stage.rounds):
            system = System.of(scene, many, states, shared, smooth, known, stage.loose, slopes=turn == 0 or not stage.near)
            eased = damping / 10
            for _ in range(10):
                step, shared_step = system.step(damping, ends)
                at_rest = stage.near and system.promised(step, shared_step) < stage.enough * before
                if at_rest:
                    break
                after = cost(scene, states + step, shared + shared_step, smooth, known, stage.loose)
                if after <= before:
                    break
                # What was too bold now is so in the next round.
                damping = eased = 5 * damping
            else:
                continue
            if at_rest:
                break
            states, shared = states + step, shared + shared_step
            damping = max(eased, 1e-4)
            gained, before = before - after, after
            at_rest = gained < stage.enough * before
            if at_rest:
                break
    # What a last step that hardly moved was found from tells how well its end is known, too; not if less was left open for it.
    if system is None or not at_rest or stages[-1].alone:
        system = System.of(scene, many, states, shared, smooth, believed, 1.0)
    return states, shared, system


def straightened(
    scene: Scene, states: Floats, shared: Floats, smooth: Floats, loose: float, stretches: Sequence[Sequence[tuple[int, int]]]
) -> Floats:  # fmt: skip
    """The states, straight from what was before to what is after wherever that agrees better. A body that was guessed bent the wrong way,
    or a foot that was taken to stand while it went, finds no way from there in small steps.

    Args:
        stretches: first row and the one past the last of what to try; those that are tried together are some rows apart.
    """
    if not stretches:
        return states
    time, now = scene.seen.time_s, costs(scene, states, shared, smooth, loose)
    for together in stretches:
        straight = states.copy()
        for first, stop in together:
            share = ((time[first:stop] - time[first - 1]) / (time[stop] - time[first - 1]))[:, None]
            straight[first:stop] = (1 - share) * states[first - 1] + share * states[stop]
        then = costs(scene, straight, shared, smooth, loose)
        for first, stop in together:
            # A state counts with its neighbours'.
            about = slice(first - 1, stop + 1)
            if then[about].sum() < now[about].sum():
                states = np.concatenate([states[:first], straight[first:stop], states[stop:]])
                now = np.concatenate([now[: about.start], then[about], now[about.stop :]])
    return states


def out_of_sight(scene: Scene, ends: tuple[int, int] = (0, 0)) -> list[list[tuple[int, int]]]:
    """Stretches without a point in sight, clear of so many frames at either end, and of the first and the last."""
    blind, rows = runs(np.isfinite(scene.seen.sd).sum(axis=1) == 0), len(scene.seen.sd)
    return [[(first, stop)] for first, stop in blind if first >= max(ends[0], 1) and stop <= rows - max(ends[1], 1)]


def everywhere(rows: int) -> list[list[tuple[int, int]]]:
    """Short stretches all along."""
    return [
        [(first, first + length) for first in range(offset, rows - length, length + APART)]
        for length in LENGTHS
        for offset in range(1, length + APART, APART // 2)
    ]


def shared_of(body: Body) -> Floats:
    """What all frames share, as `SHARED` counts it."""
    shared = np.array([body.shared[name] for name in SHARED])
    shared[0] = np.log(shared[0])
    return shared


def phased(seen: Observed) -> tuple[Scene, Believed]:
    """The scene with the bar's phases and without looks that cannot be so; and what is believed of what all frames share."""
    unknown = np.zeros(len(seen.time_s))
    scene = scene_of(seen)
    believed = priors(scene)
    shared = believed.start
    bar = scene.bar_m(shared)
    speed = np.hypot(*np.gradient(bar, seen.time_s, axis=0).T)
    height = bar[:, 1] + shared[3]
    quick = thrown(height, seen.time_s, seen.met_s)
    hanging = hangs(height, seen.time_s, seen.stature_m, quick, squatted=seen.squatted) if seen.from_floor or seen.on_blocks else unknown
    met = just_met(seen.time_s, seen.met_s)
    turning = turns(seen.time_s, hanging, quick) * (1 - met)
    resting = rests_high(height, seen.time_s, speed, hanging, seen.stature_m, quick, met) if seen.racked else unknown
    apart = (1 - hanging) * (1 - resting) if seen.splits else unknown
    received = jumped(seen.time_s, hanging, quick) if seen.received else np.full_like(unknown, float(seen.squats))
    rising = np.clip((np.nan_to_num(np.gradient(height, seen.time_s)) - RISES_M_S[0]) / (RISES_M_S[1] - RISES_M_S[0]), 0.0, 1.0)
    scene = replace(
        scene, speed_m_s=speed, height_m=height, hanging=hanging, turning=turning, resting_high=resting, apart=apart, received=received,
        rising=rising, met=met, borne=bears(height, seen.time_s, seen.disc_radius_m) if seen.from_floor else np.ones_like(height),
        flying=flies(height, seen.time_s, hanging, resting, quick, off_arms=False) if seen.splits else unknown,
        airborne=flies(height, seen.time_s, hanging, resting, quick, off_arms=True) if seen.received or seen.splits else unknown,
    )  # fmt: skip
    return usual_once(without_impossible(scene, shared)), believed


def scene_of(seen: Observed) -> Scene:
    """The scene as far as it is known without the bar's phases."""
    unknown = np.zeros(len(seen.time_s))
    return Scene(
        seen, 1 / float(np.median(np.diff(seen.time_s))), float(np.nanmedian(seen.disc[:, 2])), near_face_m(seen.load_kg),
        BODY_KG_PER_M2 * seen.stature_m**2, *(unknown,) * 12, unknown + 1, len(seen.time_s),
    )  # fmt: skip


def _spread(scene: Scene) -> Floats:
    """How much worse than the equations leave it a frame's state is known `(frames,)`."""
    worse = np.where(scene.seen.quick, SPREAD_WORSE_QUICK, SPREAD_WORSE)
    return np.asarray(gaussian_filter1d(worse, TURNS_QUICK_S * scene.rate_hz, mode="nearest"))


def _unseen(scene: Scene) -> Floats:
    """How much further off a body may be than the equations leave it, where its trunk is not plainly seen about a frame `(frames,)`: what
    is usual holds it there, and is wrong all along."""
    plain = scene.seen.time_s[scene.seen.sd[:, TRUNK].max(axis=1) < PLAIN_M]
    if len(plain) == 0:
        return np.full(len(scene.seen.time_s), UNSEEN_WORSE[1][-1])
    return np.asarray(np.interp(np.abs(scene.seen.time_s[:, None] - plain).min(axis=1), *UNSEEN_WORSE))


def drawn(scene: Scene, states: Floats, shared: Floats, system: System) -> Floats:
    """Bodies and bars as likely as the fitted one, less the fitted one."""
    rng = np.random.default_rng(len(states))
    off, shared_off = system.draws(rng, DRAWS)
    S = scene.seen.stature_m

    def with_bar(states: Floats, shared: Floats) -> Floats:
        points, bar = places_of(states, shared, S, scene.received), scene.bar_m(shared)
        points = np.concatenate([points, np.column_stack([bar, np.zeros(len(bar))])[:, None]], axis=1)
        return np.asarray(points + [0.0, shared[3], 0.0])

    fitted, spread = with_bar(states, shared), (_spread(scene) * _unseen(scene))[:, None]
    made = np.stack([with_bar(states + spread * a, shared + b) - fitted for a, b in zip(off, shared_off, strict=True)])
    # What the network errs by all along does not change from frame to frame.
    made[:, :, :-1, :2] += rng.normal(0, ALL_ALONG_SD * S, (DRAWS, 1, made.shape[2] - 1, 2))
    gives = rng.normal(0, WRIST_GIVES_SD_M, (DRAWS, 1)) * is_overhead(scene)
    for wrist in WRISTS:
        made[:, :, wrist, 0] += gives
    made[:, :, FEET, 0] += rng.normal(0, JUMPED_SD_M, (DRAWS, 1, 1)) * scene.received[:, None]
    made = gaussian_filter1d(np.nan_to_num(made), ERRORS_LAST_S * scene.rate_hz, axis=1, mode="nearest")
    return np.asarray(made.astype(np.float16).astype(np.float64))


def placed(scene: Scene, states: Floats, shared: Floats) -> Body:
    """Where the fitted body is; how well that is known is left open."""
    places = places_of(states, shared, scene.seen.stature_m, scene.received)
    zero = np.array([0.0, -shared[3], 0.0])
    named = dict(zip(SHARED, map(float, shared), strict=True))
    named["depth"] = float(np.exp(shared[0]))
    pixels, unknown = scene.project(places, shared)[0], np.full(places.shape[:2], np.nan)
    focal = float(scene.focal_px(np.exp(shared[0]), shared[1]))
    return Body(
        scene.seen.time_s, places - zero, pixels, unknown, scene.bar_m(shared) - zero[:2], named, {}, focal, np.nan, states,
    )  # fmt: skip


def told(scene: Scene, states: Floats, shared: Floats, own: Floats, lever: Floats, shared_cov: Floats) -> Body:
    """The fitted body with what its places leave open in the picture: a farther camera moves a body in metres, not in pixels."""
    seen, S = scene.seen, scene.seen.stature_m
    camera = np.square(CAMERA_DOUBT * np.array(camera_sds(scene)))
    doubted = shared_cov + np.diag(np.concatenate([np.maximum(camera - np.diag(shared_cov)[:3], 0), np.zeros(len(SHARED) - 3)]))
    if seen.camera is not None:
        # Where no discs tell the camera it is the body that does, and its joints are as well known as they are in the picture.
        shared_cov = doubted
    places = places_of(states, shared, S, scene.received)
    pixels, m_per_px = scene.project(places, shared)
    moved, known = np.tile(states, (SIZE + len(SHARED), 1, 1)), np.tile(shared, (SIZE + len(SHARED), len(states), 1))
    for column in range(SIZE):
        moved[column, :, column] += 1e-4
    for column in range(len(SHARED)):
        known[SIZE + column, :, column] += 1e-4
    moved, known = moved.reshape(-1, SIZE), known.reshape(-1, len(SHARED))
    by = (
        scene.project(places_of(moved, known, S, np.tile(scene.received, SIZE + len(SHARED))), known)[0].reshape(-1, *pixels.shape) - pixels
    ) / 1e-4
    by_state, by_shared = np.moveaxis(by[:SIZE], 0, -1), np.moveaxis(by[SIZE:], 0, -1)
    whole = by_shared + by_state @ lever[:, None]
    cov = by_state @ own[:, None] @ np.swapaxes(by_state, -1, -2) + whole @ shared_cov @ np.swapaxes(whole, -1, -2)
    sd = np.hypot(_spread(scene)[:, None] * np.sqrt(np.linalg.eigvalsh(cov)[..., -1]) * m_per_px, ALL_ALONG_SD * S)
    sd[:, WRISTS] = np.hypot(sd[:, WRISTS], WRIST_GIVES_SD_M * is_overhead(scene)[:, None])
    for index, point, _, _ in seen.fixed:
        sd[index, point] = SET_SD_M
    body = placed(scene, states, shared)
    depth = body.shared["depth"]
    sds = dict(zip(SHARED, map(float, np.sqrt(np.diag(doubted))), strict=True))
    sds["depth"] *= depth
    return replace(body, sd_m=sd, shared_sd=sds, scale_sd=float(np.hypot(sds["depth"] * scene.near_m / depth**2, DISC_EDGE_SD)))

"""From what the pose model and the disc tracker saw to what a body is fitted to, and from the fitted body back to the clip's frames."""

from __future__ import annotations

from base64 import b64decode, b64encode
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicSpline
from scipy.ndimage import median_filter
from scipy.signal import savgol_filter

from ...tracking import DiscTrack, PoseTrack, RawTracks
from ...tracking.pose_track import NOBODY
from ..calibration import Calibration
from .corrected import corrected, laid, less_believed
from .fit import CLOSELY, ONWARD, ROUGHLY, fit_body, scene_of
from .model import MODEL_POINT, PARTS, POINT, POINTS, included_deg
from .residuals import SEEN_SD, SOLES, TRUSTED_SD, discs_above_feet_m
from .scene import ABOVE, BEHIND, BELOW, Body, Observed

Floats = NDArray[np.float64]

JOINTS = ("nose", *(f"{side}_{part}" for side in ("left", "right") for part in PARTS))
# How much worse a point is known by how warm the model's map of it is where the point is told; measured on the demo clips.
WORSE_BY_HEAT = ((0.1, 0.2, 0.3, 0.4, 0.5, 0.6, 0.7), (10.0, 8.0, 5.0, 3.0, 1.4, 0.7, 0.0))
# In a quick body a point this warm (from not at all to fully) that jumps about is one that moves; at feet, which step under a calm bar, it
# may be either.
PLAIN_HEAT, FEET, FEET_STEP = (0.4, 0.7), frozenset({"ankle", "heel", "toe"}), 0.5
FAR_WORSE, BEHIND_DISC_WORSE, JITTER_WORSE = 1.5, 4.0, 3.0
# Behind a disc the model still tells hips and knees of a body that is open, from the trunk above; of a folded one it does not.
OPENS, OPEN_HIP_DEG, BEHIND_DISC_OPEN_WORSE = frozenset({"hip", "knee"}), 100.0, 1.5
# A body that moves quickly is not restless for it.
JITTER_WORSE_QUICK, QUICK_M_S, QUICK_ABOUT_S = 1.0, 0.8, 0.12
# A trunk that turns faster than this (°/s) over so many looks to either side is quick, and within so much of that (s), whatever the bar
# does, where it is seen so plainly.
TURNS_DEG_S, TURNS_OVER, TURNS_ABOUT_S, TURNS_PLAIN_SD = 150.0, 2, 0.06, 4.0
# A point that stays within this when the square is moved is seen (m); the model's own doubt makes the lower body no sight at all.
STEADY_M = 0.006
SMOOTH_WAY, JUMP_SCALE = 7, 1.5
UNSURE_SCORE, UNSURE_UPPER, UNSURE_LOWER = 0.5, 1.5, 20.0
LOWER = frozenset({"hip", "knee", "ankle", "heel", "toe"})
DISC_TO_BODY = 1.2
# Hips and heads are round in the outline: what is outermost in several directions belongs to one where it lies on a circle of such a
# radius, but for so much (shares of stature). What ends near to the disc is only cut off by it.
SEAT_RADIUS, CROWN_RADIUS, ROUND_SD, FEWEST_DIRECTIONS, CUT_EDGE = (0.01, 0.085), (0.045, 0.10), 0.006, 3, 1.15
# A head so far above the bar is the highest of a lifter. However a trunk is held, head and hips stay so far apart. Where no disc hides them
# both are where the model's points say, give or take so much: who stands behind a lifter ends further out (shares of stature).
CROWN_ABOVE_BAR, HEAD_TO_HIPS, AGREES = 0.2, (0.35, 0.47), 0.06
# A head, hips or feet that fewer than so many other looks about that time (s) show, within so much and what they may have moved (shares of
# stature, and a second), are none.
SHOWN_BY, ABOUT_S, SHOWN_WITHIN, MAY_MOVE = 2, 0.15, 0.02, 0.6
# Feet are no higher than this above the ground, no further from where the model's points say, and end at least so far beyond those that are
# plainly seen (shares of stature): now and then a map of the person leaves out the front of a foot, for as long as a squat is deep.
FEET_UP, FEET_OFF, FEET_END = 0.10, 0.12, 0.02
# A bar falls faster than this only when nobody holds it; it was let go so long before.
FALLS_M_S, LET_GO_BEFORE_S = 1.8, 0.22
GRIPPED_BEFORE_S = 0.8
FEWEST_LOOKS = 12
# A look is strange when half of its points are so far off the body (m), and so many times further than in most looks.
UPPER = [POINT[f"{side}_{part}"] for side in ("near", "far") for part in ("shoulder", "ear")] + [POINT["nose"]]
LOW_BAR_M, STRANGE_WORSE = 0.45, 36.0
TRIMS, STRANGE_M, STRANGER, STRANGE_PLAIN_SD, FEWEST_PLAIN = 3, 0.18, 2.2, 6.0, 4
# So many strange looks one after the other are a run, and so many on either side of it go with it.
RUN, BESIDE = 3, 4
# Fewer that turn up in a fit are not worth another.
FEW = 3
# An earlier fit knows at least this share of the looks that a new one starts from it with.
CARRIED_ON = 0.9
SEGMENTS = ("thigh", "shin", "trunk", "upper_arm", "forearm")
CORRECTED_ABOUT_S, CORRECTED_WORSE, CLEAR_OF_CORRECTED_S = 0.25, 8.0, 0.025
UNKNOWN_STATURE_M = 1.70
# How near a joint must be for its confidence: the chance that it lies within this of where it is told.
NEAR_M = 0.03


@dataclass(frozen=True)
class JointPoint:
    """The coach's word on where a joint is at one frame, in pixels of the upright original."""

    frame: int
    joint: str
    x_px: float
    y_px: float

    def __post_init__(self) -> None:
        if self.joint not in JOINTS:
            raise ValueError(f"There is no joint called {self.joint}. Known: {', '.join(JOINTS)}.")


@dataclass(frozen=True)
class Carried:
    """What the lift says of how the bar is held."""

    from_floor: bool
    wide_grip: bool
    behind: bool
    racked: bool
    """Whether it lies on the shoulders at some time."""
    received: bool
    """Whether it is received from above, feet apart."""
    squats: bool
    splits: bool
    """Whether one foot goes ahead and the other back under a thrown bar."""
    squatted: bool = False
    """Whether it comes from the floor and is squatted with later."""
    on_blocks: bool = False
    """Whether it begins on blocks."""
    met_s: tuple[float, ...] = ()
    """When a thrown bar is met."""


@dataclass(frozen=True)
class JointTracks:
    """Joints over the clip's frames, `(frames, JOINTS)` each and NaN where unknown: px of the original, and one deviation (m, px).

    `m_per_px` is the scale in the lifter's own plane with its deviation, `yaw_deg` how far the camera stands to the lifter's front, and
    `body` what was fitted, with the clip's frames it was fitted at.
    """

    x_px: Floats
    y_px: Floats
    sd_m: Floats
    m_per_px: float
    m_per_px_sd: float
    yaw_deg: float
    yaw_sd_deg: float
    distance_m: float
    bodies: tuple[tuple[NDArray[np.int64], Body], ...]

    def to_json(self) -> dict[str, Any]:
        return {
            "arrays": {name: _packed(getattr(self, name)) for name in ("x_px", "y_px", "sd_m")},
            "scalars": {name: getattr(self, name) for name in _SCALARS},
            "bodies": [
                {
                    "frames": at.tolist(), "shared": body.shared, "shared_sd": body.shared_sd,
                    "focal_px": body.focal_px, "scale_sd": body.scale_sd,
                    "arrays": {name: _packed(getattr(body, name)) for name in _BODY_ARRAYS},
                }
                for at, body in self.bodies
            ],
        }  # fmt: skip

    @classmethod
    def from_json(cls, held: dict[str, Any]) -> JointTracks:
        bodies = tuple(
            (
                np.array(row["frames"], np.int64),
                Body(
                    **{name: _unpacked(row["arrays"][name]) for name in _BODY_ARRAYS},
                    shared=row["shared"], shared_sd=row["shared_sd"], focal_px=row["focal_px"], scale_sd=row["scale_sd"],
                ),
            )
            for row in held["bodies"]
        )  # fmt: skip
        x, y, sd = (_unpacked(held["arrays"][name]) for name in ("x_px", "y_px", "sd_m"))
        return cls(x, y, sd, **held["scalars"], bodies=bodies)

    def points_px(self, frames: NDArray[np.int64], facing: str) -> Floats:
        """Where all points of a lifter who faces so are in the picture `(frames, POINTS, 2)`."""
        made = np.full((len(frames), len(POINTS), 2), np.nan)
        made[:, _points_of_joints(facing)] = np.stack([self.x_px[frames], self.y_px[frames]], axis=-1)
        return made

    @property
    def lengths_m(self) -> dict[str, float]:
        """The lifter's segments, as the longest fit has them."""
        shared = max(self.bodies, key=lambda pair: len(pair[0]))[1].shared
        return {name: shared[name] for name in SEGMENTS if name in shared}

    @property
    def confidence(self) -> Floats:
        """The chance that a joint lies within 3 cm of where it is told, `(frames, JOINTS)`; 0 where unknown."""
        return np.asarray(np.nan_to_num(1 - np.exp(-(NEAR_M**2) / (2 * self.sd_m**2))))


_SCALARS = ("m_per_px", "m_per_px_sd", "yaw_deg", "yaw_sd_deg", "distance_m")
_BODY_ARRAYS = ("time_s", "points_m", "points_px", "sd_m", "bar_m", "states", "drawn_m", "fitted_to", "alone")


def _packed(values: Floats) -> dict[str, Any]:
    # What is only a spread needs no more than three digits.
    kind = "<f2" if values.ndim == 4 else "<f8"
    return {"shape": list(values.shape), "as": kind, "raw": b64encode(values.astype(kind).tobytes()).decode()}


def _unpacked(held: dict[str, Any]) -> Floats:
    return np.frombuffer(b64decode(held["raw"]), held["as"]).reshape(held["shape"]).astype(np.float64)


def joint_tracks(
    raw: RawTracks, track: DiscTrack, calibration: Calibration, spans_s: Sequence[tuple[float, float]], carried: Carried, *,
    stature_m: float | None, load_kg: float | None, points: Sequence[JointPoint],
    earlier: Callable[[], Iterable[tuple[JointTracks, bool]]], far: Callable[[float], None] = lambda share: None,
) -> JointTracks | None:  # fmt: skip
    """Fit the lifter over the given stretches of time; None when nobody was seen in any of them.

    Args:
        earlier: fits before the last correction, from the first of which that knows enough the new one starts; and whether it is of the
            same lift on the same clock, so that what little has changed is all there is to fit.
        far: is told which share of the stretches is done.
    """
    looks = _with_corrected(raw, points)
    bodies = []
    stretches = _merged(spans_s)
    for place, (start_s, stop_s) in enumerate(stretches):
        far(place / len(stretches))
        inside = (raw.frame_time_s[looks] >= start_s) & (raw.frame_time_s[looks] <= stop_s)
        if inside.sum() < FEWEST_LOOKS or not np.isfinite(track.y_px[looks[inside]]).any():
            continue
        seen = _observed(raw, looks[inside], track, calibration, carried, stature_m, load_kg, points)
        if np.isfinite(seen.sd).any(axis=1).sum() < FEWEST_LOOKS:
            # Looked at, and nobody there.
            continue
        begun = ((_carried_on(tracks, raw, looks[inside], seen, calibration), near) for tracks, near in earlier())
        before, near = next(((body, near) for body, near in begun if body is not None), (None, False))
        bodies.append((looks[inside], _fitted(seen, before, near)))
    if not bodies:
        return None
    frames = len(raw.frame_time_s)
    x, y, sd = (np.full((frames, len(JOINTS)), np.nan) for _ in range(3))
    own = _points_of_joints(calibration.facing)
    for at, body in bodies:
        between = np.arange(at[0], at[-1] + 1)
        time = raw.frame_time_s[between]
        picture = _to_picture(CubicSpline(body.time_s, body.points_px[:, own])(time), calibration)
        x[between], y[between] = picture[..., 0], picture[..., 1]
        for k, point in enumerate(own):
            sd[between, k] = np.interp(time, body.time_s, body.sd_m[:, point])
    longest = max(bodies, key=lambda pair: len(pair[0]))[1]
    m_per_px = longest.shared["depth"] / longest.focal_px
    return JointTracks(
        x, y, sd, m_per_px, m_per_px * longest.scale_sd, float(np.degrees(longest.shared["yaw"])),
        float(np.degrees(longest.shared_sd["yaw"])), longest.shared["depth"], tuple(bodies),
    )  # fmt: skip


def begins_above_m(
    raw: RawTracks, track: DiscTrack, calibration: Calibration, spans_s: Sequence[tuple[float, float]], carried: Carried, *,
    stature_m: float | None, load_kg: float | None,
) -> float | None:  # fmt: skip
    """How much higher than where the feet stand the bar's discs lie before they are lifted (m); None where the feet were hardly seen."""
    time = raw.frame_time_s[raw.people.frame]
    looks = raw.people.frame[np.any([(time >= start) & (time <= stop) for start, stop in spans_s], axis=0)]
    if len(looks) < FEWEST_LOOKS or not np.isfinite(track.y_px[looks]).any():
        return None
    return discs_above_feet_m(scene_of(_observed(raw, looks, track, calibration, carried, stature_m, load_kg, (), outlined=False)))


def _carried_on(earlier: JointTracks, raw: RawTracks, looks: NDArray[np.int64], seen: Observed, calibration: Calibration) -> Body | None:
    """The earlier fit of this stretch of frames, as the picture is read now and on the clock of now; None where it knows too little of
    it."""
    for at, body in earlier.bodies:
        if np.mean((looks >= at[0]) & (looks <= at[-1])) >= CARRIED_ON:
            body = replace(body, time_s=raw.frame_time_s[at])
            return laid(body, seen, _upright(earlier.points_px(at, calibration.facing), calibration))
    return None


def _fitted(seen: Observed, before: Body | None, near: bool) -> Body:
    """The body, fitted with little regard to looks at somebody else or at nobody at all: those that it cannot follow, since hands hold the
    bar, feet stand and segments keep their length. Once looks are left out the fit begins afresh, since a rough one may have followed whom
    it should not; but not after a correction, for which somebody waits."""
    if before is not None:
        # What was found strange before a correction is so at once, or every correction would wait for more than one fit.
        strange = less_believed(before, seen, STRANGE_WORSE)
        more = _strange(seen, before) & ~strange
        strange |= more & (more.sum() >= FEW)
        doubted = _doubting(seen, strange)
        body = corrected(doubted, before) if near else fit_body(doubted, before, ONWARD)
    else:
        rough = fit_body(seen, None, ROUGHLY)
        strange = _strange(seen, rough)
        strange &= strange.sum() >= FEW
        body = fit_body(_doubting(seen, strange)) if strange.any() else fit_body(seen, rough, CLOSELY)
    for _ in range(TRIMS):
        more = _strange(seen, body) & ~strange
        if more.sum() < FEW:
            break
        strange |= more
        doubted = _doubting(seen, strange)
        body = fit_body(doubted, body, CLOSELY) if before is None else corrected(doubted, body)
    return body


def _doubting(seen: Observed, looks: NDArray[np.bool_]) -> Observed:
    """What was seen, with these looks (`(looks,)`) next to nothing beside others, and still better than nothing at all. Where a low
    disc draws points to itself, the outline still stands."""
    sd = np.where(looks[:, None], STRANGE_WORSE * seen.sd, seen.sd)
    elsewhere = (looks & ~_low(seen.disc, seen.disc_radius_m, seen.from_floor))[:, None]
    seat, crown, soles = (np.where(elsewhere, np.nan, ends) for ends in (seen.seat, seen.crown, seen.soles))
    return replace(seen, sd=sd, seat=seat, crown=crown, soles=soles)


def _low(disc: Floats, radius_m: float, from_floor: bool) -> NDArray[np.bool_]:
    """Where a bar that came from the floor is so low that its disc `(looks, 3)` hides the lower body, `(looks,)`."""
    height_m = (disc[:, 1] - np.nanpercentile(disc[:, 1], 3)) * radius_m / np.nanmedian(disc[:, 2])
    return np.asarray(from_floor & (np.nan_to_num(height_m, nan=np.inf) < LOW_BAR_M))


def _strange(seen: Observed, body: Body) -> NDArray[np.bool_]:
    """Looks `(looks,)` most of whose points lie far from where the body is, none of them set by hand. While the bar is low its disc draws
    hips, knees and feet to itself in every look: then head and shoulders alone say who it is."""
    nearest = np.abs(body.time_s[:, None] - seen.time_s).argmin(axis=0)
    off = np.hypot(*np.moveaxis(seen.points - body.points_px[nearest], -1, 0)) * body.shared["depth"] / body.focal_px
    off[~np.isfinite(seen.sd)] = np.nan
    off[np.ix_(_low(seen.disc, seen.disc_radius_m, seen.from_floor), np.setdiff1d(np.arange(len(POINTS)), UPPER))] = np.nan
    # Points that the model made up say nothing of who it saw.
    off[seen.sd > STRANGE_PLAIN_SD] = np.nan
    told = np.isfinite(off).sum(axis=1) >= FEWEST_PLAIN
    middle = np.zeros(len(off))
    middle[told] = np.nanmedian(off[told], axis=1)
    strange = told & (middle > max(STRANGE_M, STRANGER * float(np.median(middle[told])) if told.any() else 0.0))
    # Who walks into the picture is followed a little before and after being too far off to be followed.
    run = np.convolve(strange, np.ones(RUN), "same") >= RUN
    strange |= told & (np.convolve(run, np.ones(2 * (RUN // 2 + BESIDE) + 1), "same") > 0)
    strange[[row[0] for row in seen.fixed]] = False
    # Without enough looks left there is nothing to tell them from.
    return strange if (told & ~strange).sum() >= FEWEST_LOOKS else np.zeros(len(off), bool)


def facing_from_people(people: PoseTrack) -> tuple[str, bool] | None:
    """Which way the lifter faces, from noses before ears and toes before heels, and whether that is clear; None when nobody was seen."""
    sure = people.score > UNSURE_SCORE
    if sure.sum() < FEWEST_LOOKS:
        return None
    points = people.points[sure, :, 0]
    ahead = points[:, 0] - points[:, 7:9].mean(1)
    toes = points[:, 31:33].mean(1) - points[:, 29:31].mean(1)
    votes = np.concatenate([np.sign(ahead), np.sign(toes)])
    share = float(np.mean(votes > 0))
    return ("right" if share >= 0.5 else "left"), bool(abs(share - 0.5) > 0.2)


def _merged(spans_s: Sequence[tuple[float, float]]) -> list[tuple[float, float]]:
    made: list[tuple[float, float]] = []
    for start, stop in sorted(spans_s):
        if made and start <= made[-1][1] + 0.2:
            made[-1] = (made[-1][0], max(made[-1][1], stop))
        else:
            made.append((start, stop))
    return made


def _with_corrected(raw: RawTracks, points: Sequence[JointPoint]) -> NDArray[np.int64]:
    """The frames looked at, and those in which the coach set a joint instead of the looks next to them: a hand's correction between two
    close looks would have to be reached and left in no time."""
    looks = raw.people.frame
    if len(looks) == 0 or not points:
        return looks
    asked = np.array(sorted({point.frame for point in points if looks[0] <= point.frame <= looks[-1]}), np.int64)
    if len(asked) == 0:
        return looks
    apart = np.min(np.abs(raw.frame_time_s[looks][:, None] - raw.frame_time_s[asked]), axis=1)
    return np.union1d(looks[apart > CLEAR_OF_CORRECTED_S], asked)


def _observed(
    raw: RawTracks, looks: NDArray[np.int64], track: DiscTrack, calibration: Calibration, carried: Carried, stature_m: float | None,
    load_kg: float | None, points: Sequence[JointPoint], *, outlined: bool = True,
) -> Observed:  # fmt: skip
    """What was seen at these looks, in a level, upright picture of a lifter who faces right; without their outline if that is left out."""
    time_s = raw.frame_time_s[looks]
    people = raw.people
    row = {int(frame): k for k, frame in enumerate(people.frame)}
    m_per_px = calibration.scale.m_per_px * DISC_TO_BODY
    middle = _upright(np.column_stack([track.x_px[looks], track.y_px[looks]]), calibration)
    radius = track.radius_px[looks]
    if calibration.level_radius_px is not None:
        radius = np.where(np.isfinite(radius), calibration.level_radius_px, np.nan)
    disc = np.column_stack([middle, radius])
    near = "right" if calibration.facing == "right" else "left"
    quick = quick_frames(time_s, disc, m_per_px / DISC_TO_BODY, carried.met_s)
    own, sd = np.full((len(looks), len(POINTS), 2), np.nan), np.full((len(looks), len(POINTS)), np.inf)
    known = np.array([k for k, frame in enumerate(looks) if int(frame) in row and people.score[row[int(frame)]] > NOBODY], np.int64)
    rows = np.array([row[int(looks[k])] for k in known], np.int64)
    shoulders, hips, knees = (people.points[rows][:, list(MODEL_POINT[part])].mean(1) for part in ("shoulder", "hip", "knee"))
    open_hip = included_deg(shoulders, hips, knees) > OPEN_HIP_DEG
    named = [
        (k, side, part or side) for name, k in POINT.items() for side, _, part in [name.partition("_")] if (part or side) in MODEL_POINT
    ]
    columns = [MODEL_POINT[part][0 if (near if side == "near" else _other(near)) == "left" else 1] for _, side, part in named]
    places = _upright(people.points[rows][:, columns], calibration)
    jitter = restlessness(places) * m_per_px
    for i, (k, side, part) in enumerate(named):
        place = places[:, i]
        heat = people.heat[rows, columns[i]]
        plain = np.where(quick[known], 1.0, FEET_STEP if part in FEET else 0.0)
        jumps = 1 - plain * np.interp(heat, PLAIN_HEAT, (0.0, 1.0))
        restless = np.where(quick[known], JITTER_WORSE_QUICK, JITTER_WORSE) * jumps
        worse = np.hypot(1.0, np.maximum(jitter[:, i] - STEADY_M, 0.0) * restless / SEEN_SD[part])
        behind = np.where(open_hip, BEHIND_DISC_OPEN_WORSE, BEHIND_DISC_WORSE) if part in OPENS else BEHIND_DISC_WORSE
        worse *= np.where(np.hypot(*(place - disc[known, :2]).T) < 1.1 * disc[known, 2], behind, 1.0)
        worse = np.hypot(worse, np.interp(heat, *WORSE_BY_HEAT))
        worse *= FAR_WORSE if side == "far" else 1.0
        worse *= np.where(people.score[rows] < UNSURE_SCORE, UNSURE_LOWER if part in LOWER else UNSURE_UPPER, 1.0)
        own[known, k], sd[known, k] = place, worse
    looked = np.array([k for k, frame in enumerate(looks) if outlined and int(frame) in row], np.int64)
    heads, seats = (np.full((len(looks), 2), np.nan) for _ in range(2))
    heads[known] = _upright(people.points[rows][:, list(MODEL_POINT["ear"])].mean(1), calibration)
    seats[known] = _upright(hips, calibration)
    seat, crown = np.full((len(looks), len(BEHIND)), np.nan), np.full((len(looks), len(ABOVE)), np.nan)
    low = _low(disc, calibration.scale.disc_diameter_m / 2, carried.from_floor)
    seat[looked], crown[looked] = _ends(
        time_s[looked], _upright(people.outline[[row[int(looks[k])] for k in looked]], calibration), heads[looked], seats[looked],
        disc[looked], low[looked], (stature_m or UNKNOWN_STATURE_M) / m_per_px,
    )  # fmt: skip
    soles = np.full((len(looks), len(BELOW)), np.nan)
    soles[looked] = _soles(
        time_s[looked], _upright(people.soles[[row[int(looks[k])] for k in looked]], calibration), own[looked][:, SOLES],
        sd[looked][:, SOLES] < TRUSTED_SD, disc[looked], (stature_m or UNKNOWN_STATURE_M) / m_per_px,
    )  # fmt: skip
    fixed = tuple(_fixed(point, looks, near, calibration) for point in points if looks[0] <= point.frame <= looks[-1])
    for index, point, _, _ in fixed:
        # Where the coach corrects the model, it was wrong a moment before and after as well.
        away = np.abs(time_s - time_s[index]) / CORRECTED_ABOUT_S
        sd[:, point] *= 1 + CORRECTED_WORSE * np.clip(1 - away, 0, None)
    squeeze = track.squeeze[np.isfinite(track.squeeze)]
    camera = people.camera
    sign = 1.0 if calibration.facing == "right" else -1.0
    return Observed(
        time_s, own, sd, disc, _held(time_s, disc, m_per_px / DISC_TO_BODY), quick | trunk_turns(time_s, own, sd),
        stature_m or UNKNOWN_STATURE_M, stature_m is not None, float(max(raw.width_px, raw.height_px)), load_kg,
        carried.from_floor, float(np.median(squeeze)) if len(squeeze) else 1.0, carried.wide_grip, carried.behind, carried.racked,
        carried.received, carried.squats, carried.splits, carried.squatted, carried.on_blocks,
        carried.met_s,
        calibration.scale.disc_diameter_m / 2,
        None if camera is None else (
            (camera.distance_m, camera.distance_sd_m),
            (sign * float(np.radians(camera.yaw_deg)), float(np.radians(camera.yaw_sd_deg))),
            (0.0 if calibration.view else float(np.radians(camera.horizon_deg)), float(np.radians(camera.horizon_sd_deg))),
        ),
        seat=seat, crown=crown, soles=soles, fixed=fixed,
    )  # fmt: skip


def _ends(
    time_s: Floats, outline: Floats, heads: Floats, hips: Floats, disc: Floats, low: NDArray[np.bool_], stature_px: float
) -> tuple[Floats, Floats]:
    """How far out outlines `(looks, directions, 2)` go behind the hips `(looks, BEHIND)` and above the head `(looks, ABOVE)`, px; NaN where
    that is not theirs.

    Args:
        heads, hips: where the model's points are `(looks, 2)`; NaN where it told nobody.
        disc: `(looks, 3)`, and where it is so low that points may be drawn to it `(looks,)`.
    """
    if len(outline) == 0:
        return np.zeros((0, len(BEHIND))), np.zeros((0, len(ABOVE)))

    def apart(a: Floats, b: Floats) -> Floats:
        return np.asarray(np.linalg.norm(a - b, axis=-1) / stature_px)

    with np.errstate(invalid="ignore"):
        top, places = _outermost(outline, ABOVE)
        top[places[..., 1] - disc[:, None, 1] < CROWN_ABOVE_BAR * stature_px] = np.nan
        crown, head = _rounded(top, ABOVE, CROWN_RADIUS, stature_px)
        alone = ~_shown_by_others(time_s, head, stature_px) | (~low & ~(apart(head, heads) < AGREES))
        crown[alone], head[alone] = np.nan, np.nan
        back, places = _outermost(outline, BEHIND)
        back[apart(places, disc[:, None, :2]) * stature_px < CUT_EDGE * disc[:, None, 2]] = np.nan
        seat, middle = _rounded(back, BEHIND, SEAT_RADIUS, stature_px)
        reach = apart(np.where(np.isfinite(head), head, heads), middle)
        theirs = (reach > HEAD_TO_HIPS[0]) & (reach < HEAD_TO_HIPS[1]) & (low | (apart(middle, hips) < AGREES))
        middle[~theirs] = np.nan
        seat[~_shown_by_others(time_s, middle, stature_px)] = np.nan
    return seat, crown


def _soles(
    time_s: Floats, outline: Floats, feet: Floats, plain: NDArray[np.bool_], disc: Floats, stature_px: float
) -> Floats:  # fmt: skip
    """How far outlines `(looks, directions, 2)` go down ahead and down behind, where feet end `(looks, BELOW)`, px; NaN where that is not
    theirs, or not the whole of them.

    Args:
        feet: where the model's points on them are `(looks, points, 2)`; NaN where it told nobody.
        plain: which of those are plainly seen `(looks, points)`.
    """
    out, places = _outermost(outline, BELOW)
    out[out < np.where(plain[..., None], feet @ BELOW.T, -np.inf).max(axis=1) + FEET_END * stature_px] = np.nan
    with np.errstate(invalid="ignore"):
        out[np.linalg.norm(places - disc[:, None, :2], axis=-1) < CUT_EDGE * disc[:, None, 2]] = np.nan
        off = np.linalg.norm(places[:, :, None] - feet[:, None], axis=-1).min(axis=2) / stature_px
        out[~(off < FEET_OFF)] = np.nan
        if np.isfinite(out).any():
            ground = np.median(places[..., 1][np.isfinite(out)])
            out[places[..., 1] > ground + FEET_UP * stature_px] = np.nan
        for way in range(len(BELOW)):
            out[~_shown_by_others(time_s, np.where(np.isfinite(out[:, way, None]), places[:, way], np.nan), stature_px), way] = np.nan
    return out


def _shown_by_others(time_s: Floats, places: Floats, stature_px: float) -> NDArray[np.bool_]:
    """Whether other looks about that time show about the same place `(looks, 2)`, `(looks,)`."""
    alike = np.zeros(len(time_s), np.int64)
    for step in range(1, len(time_s)):
        between_s = time_s[step:] - time_s[:-step]
        near = between_s < ABOUT_S
        if not near.any():
            break
        same = near & (np.linalg.norm(places[step:] - places[:-step], axis=-1) / stature_px < SHOWN_WITHIN + MAY_MOVE * between_s)
        alike[step:] += same
        alike[:-step] += same
    return np.asarray(alike >= SHOWN_BY)


def _outermost(outline: Floats, ways: Floats) -> tuple[Floats, Floats]:
    """How far out outlines `(looks, directions, 2)` go `(looks, ways)`, px, and where; NaN where nothing is known."""
    out = np.where(np.isfinite(outline[..., :1]), outline @ ways.T, -np.inf)
    places = np.take_along_axis(outline, out.argmax(axis=1)[..., None], axis=1)
    out = out.max(axis=1)
    return np.where(np.isfinite(out), out, np.nan), places


def _rounded(out: Floats, ways: Floats, radius: tuple[float, float], stature_px: float) -> tuple[Floats, Floats]:
    """What of it lies on a circle of such a radius, `(looks, ways)` px, and the circle's middle `(looks, 2)`; NaN where nothing does."""
    made, middle, here = np.full_like(out, np.nan), np.full((len(out), 2), np.nan), np.isfinite(out)
    while (left := here.sum(axis=1) >= FEWEST_DIRECTIONS).any():
        # All looks in which the same directions are known are fitted at once.
        for known in np.unique(here[left], axis=0):
            rows, columns = np.flatnonzero(left & (here == known).all(axis=1)), np.flatnonzero(known)
            circle = np.column_stack([ways[columns], np.ones(len(columns))])
            ends = out[np.ix_(rows, columns)]
            fitted = ends @ np.linalg.pinv(circle).T
            off = np.abs(fitted @ circle.T - ends) / stature_px
            round_ = off.max(axis=1) <= ROUND_SD
            of_size = round_ & (fitted[:, 2] > radius[0] * stature_px) & (fitted[:, 2] < radius[1] * stature_px)
            made[np.ix_(rows[of_size], columns)], middle[rows[of_size]] = ends[of_size], fitted[of_size, :2]
            here[rows[round_]] = False
            # An end of the arc may be something else's.
            worse = np.where(off[:, 0] > off[:, -1], columns[0], columns[-1])
            here[rows[~round_], worse[~round_]] = False
    return made, middle


def restlessness(places: Floats) -> Floats:
    """How much points jump about their own smooth ways from look to look, `(looks, points)` in the unit of `places`, which is
    `(looks, points, 2)`."""
    if len(places) < SMOOTH_WAY:
        return np.zeros(places.shape[:2])
    jump = np.hypot(*np.moveaxis(places - savgol_filter(places, SMOOTH_WAY, 3, axis=0), -1, 0))
    return np.asarray(JUMP_SCALE * median_filter(jump, (9, 1), mode="nearest"))


def _fixed(point: JointPoint, looks: NDArray[np.int64], near: str, calibration: Calibration) -> tuple[int, int, float, float]:
    side, _, part = point.joint.partition("_")
    name = point.joint if not part else f"{'near' if side == near else 'far'}_{part}"
    u, v = _upright(np.array([[point.x_px, point.y_px]]), calibration)[0]
    return int(np.searchsorted(looks, point.frame)), POINT[name], float(u), float(v)


def quick_frames(time_s: Floats, disc: Floats, m_per_px: float, met_s: Sequence[float] = ()) -> NDArray[np.bool_]:
    """Whether bar or body are quick in a frame, or were or will be within a moment, `(looks,)`: a bar that hangs in the air is slow, and
    who gets under it before it is met is not.

    Args:
        met_s: when a thrown bar is known to be met.
    """
    seen = np.isfinite(disc[:, 1])
    speed = np.abs(np.gradient(np.interp(time_s, time_s[seen], disc[seen, 1]), time_s)) * m_per_px
    fast = speed > QUICK_M_S
    for at in met_s:
        thrown = time_s[fast & (time_s < at)]
        if len(thrown):
            fast |= (time_s >= thrown[-1]) & (time_s <= at)
    quick = time_s[fast]
    return np.asarray([bool(len(quick)) and float(np.min(np.abs(quick - t))) <= QUICK_ABOUT_S for t in time_s])


def trunk_turns(time_s: Floats, points: Floats, sd: Floats) -> NDArray[np.bool_]:
    """Whether the trunk, as far as it is plainly seen, turns quickly about a look `(looks,)`: it may whip open before the bar is quick.

    Args:
        points, sd: as in `Observed`.
    """
    if len(time_s) <= 2 * TURNS_OVER:
        return np.zeros(len(time_s), bool)
    hip, shoulder = POINT["near_hip"], POINT["near_shoulder"]
    trunk = points[:, shoulder] - points[:, hip]
    way, plain = np.arctan2(trunk[:, 1], trunk[:, 0]), sd[:, [hip, shoulder]].max(axis=1) < TURNS_PLAIN_SD
    before, after = slice(None, -2 * TURNS_OVER), slice(2 * TURNS_OVER, None)
    turned = np.abs(np.angle(np.exp(1j * (way[after] - way[before])))) / (time_s[after] - time_s[before])
    # What a single look shows is not believed.
    turned = median_filter(np.where(plain[before] & plain[after], turned, 0.0), 3)
    quick = time_s[TURNS_OVER:-TURNS_OVER][turned > np.radians(TURNS_DEG_S)]
    return np.asarray((np.abs(time_s[:, None] - quick) <= TURNS_ABOUT_S).any(axis=1))


def _held(time_s: Floats, disc: Floats, m_per_px: float) -> NDArray[np.bool_]:
    """Whether the bar is in the hands: from shortly before it moves until it is let fall, and again before it next moves."""
    seen = np.isfinite(disc[:, 1])
    height = np.interp(time_s, time_s[seen], disc[seen, 1]) * m_per_px
    speed = np.gradient(height, time_s)
    falls = time_s[speed < -FALLS_M_S]
    moves = time_s[np.abs(speed) > 0.1]
    held = np.ones(len(time_s), bool)
    if len(moves):
        held &= time_s >= moves[0] - GRIPPED_BEFORE_S
    let_go = -np.inf
    for fall in falls:
        if fall <= let_go:
            continue
        # Until the bar next leaves where it came to rest.
        lands = time_s[(time_s > fall) & (np.abs(speed) < 0.05)]
        again = moves[moves > lands[0] + 0.5] if len(lands) else moves[:0]
        let_go = float(again[0]) - GRIPPED_BEFORE_S if len(again) else np.inf
        held &= (time_s < fall - LET_GO_BEFORE_S) | (time_s >= let_go)
    return held


def _points_of_joints(facing: str) -> list[int]:
    """Which of `POINTS` each of `JOINTS` is on a lifter who faces so: the side by its name is the near one."""
    sides = {facing: "near", _other(facing): "far"}
    return [POINT[name if name == "nose" else f"{sides[name.partition('_')[0]]}_{name.partition('_')[2]}"] for name in JOINTS]


def _other(side: str) -> str:
    return "left" if side == "right" else "right"


def _upright(points: Floats, calibration: Calibration) -> Floats:
    """Pixels `(…, 2)` from the middle of a level, upright picture, u in the direction the lifter faces and v up."""
    u, v = calibration.level(points[..., 0], points[..., 1])
    return np.stack([u if calibration.facing == "right" else -u, v], axis=-1)


def _to_picture(points: Floats, calibration: Calibration) -> Floats:
    """The way back."""
    u = points[..., 0] if calibration.facing == "right" else -points[..., 0]
    return np.stack(calibration.picture(u, points[..., 1]), axis=-1)

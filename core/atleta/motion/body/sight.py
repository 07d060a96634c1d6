"""From what the lifter network and the disc tracker saw to what a body is fitted to, and from the fitted body back to the clip's frames."""

from __future__ import annotations

from base64 import b64decode, b64encode
from collections.abc import Callable, Iterable, Sequence
from dataclasses import dataclass, replace
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.interpolate import CubicSpline
from scipy.ndimage import median_filter

from ...tracking import DiscTrack, PoseTrack, RawTracks
from ...tracking.network import AT, pair
from ...tracking.pose_track import NOBODY
from ..calibration import Calibration
from .corrected import corrected, laid, less_believed
from .fit import CLOSELY, ONWARD, ROUGHLY, fit_body, scene_of
from .model import PARTS, POINT, POINTS
from .residuals import discs_above_feet_m
from .scene import Body, Observed

Floats = NDArray[np.float64]

JOINTS = ("nose", *(f"{side}_{part}" for side in ("left", "right") for part in PARTS))
# How quick a bar is (m/s), and what lies about that (s).
QUICK_M_S, QUICK_ABOUT_S = 0.8, 0.12
# A trunk that turns faster than this (°/s) over so many looks to either side is quick, and within so much of that (s), whatever the bar
# does, where it is known so well (m).
TURNS_DEG_S, TURNS_OVER, TURNS_ABOUT_S, TURNS_PLAIN_M = 150.0, 2, 0.06, 0.08
UNSURE_SCORE = 0.5
DISC_TO_BODY = 1.2
# A bar falls faster than this only when nobody holds it; it was let go so long before.
FALLS_M_S, LET_GO_BEFORE_S = 1.8, 0.22
GRIPPED_BEFORE_S = 0.8
FEWEST_LOOKS = 12
# A look is strange when half of its points are so far off the body (m), and so many times further than in most looks.
STRANGE_WORSE = 36.0
TRIMS, STRANGE_M, STRANGER, STRANGE_PLAIN_M, FEWEST_PLAIN = 3, 0.18, 2.2, 0.12, 4
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
        """`(frames, JOINTS)`, as `confidence` has it."""
        return confidence(self.sd_m)


_SCALARS = ("m_per_px", "m_per_px_sd", "yaw_deg", "yaw_sd_deg", "distance_m")
_BODY_ARRAYS = ("time_s", "points_m", "points_px", "sd_m", "bar_m", "states", "drawn_m", "fitted_to", "alone")


def confidence(sd_m: Floats) -> Floats:
    """The chance that a joint so well known (m) lies within 3 cm of where it is told; 0 where it is not known."""
    return np.asarray(np.nan_to_num(1 - np.exp(-(NEAR_M**2) / (2 * sd_m**2))))


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
    return discs_above_feet_m(scene_of(_observed(raw, looks, track, calibration, carried, stature_m, load_kg, ())))


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
    """What was seen, with these looks (`(looks,)`) next to nothing beside others, and still better than nothing at all."""
    return replace(seen, sd=np.where(looks[:, None], STRANGE_WORSE * seen.sd, seen.sd))


def _strange(seen: Observed, body: Body) -> NDArray[np.bool_]:
    """Looks `(looks,)` most of whose points lie far from where the body is, none of them set by hand."""
    nearest = np.abs(body.time_s[:, None] - seen.time_s).argmin(axis=0)
    off = np.hypot(*np.moveaxis(seen.points - body.points_px[nearest], -1, 0)) * body.shared["depth"] / body.focal_px
    off[~np.isfinite(seen.sd)] = np.nan
    # Points that are hardly known say nothing of who was seen.
    off[seen.sd > STRANGE_PLAIN_M] = np.nan
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
    ahead = points[:, AT["nose"]] - points[:, list(pair("ear"))].mean(1)
    toes = points[:, list(pair("toe"))].mean(1) - points[:, list(pair("heel"))].mean(1)
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
    load_kg: float | None, points: Sequence[JointPoint],
) -> Observed:  # fmt: skip
    """What was seen at these looks, in a level, upright picture of a lifter who faces right."""
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
    sides = {"near": near, "far": _other(near)}
    columns = [AT[name if name == "nose" else f"{sides[name.partition('_')[0]]}_{name.partition('_')[2]}"] for name in POINTS]
    own[known] = _upright(people.points[rows][:, columns], calibration)
    sd[known] = m_per_px * np.sqrt((people.sd[rows][:, columns] ** 2).mean(axis=2))
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
        fixed=fixed,
    )  # fmt: skip


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
    way, plain = np.arctan2(trunk[:, 1], trunk[:, 0]), sd[:, [hip, shoulder]].max(axis=1) < TURNS_PLAIN_M
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

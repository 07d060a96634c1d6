"""Look at the lifter with the pose model, in a second pass over the clip, once it is known which disc is lifted and when.

The model looks where the bar is, follows itself from look to look, and is moved about a little on purpose: a point that is really seen
stays where it is when the square moves, one that is made up moves with it. A raised disc that it takes for a head is painted over.
"""

from __future__ import annotations

import itertools
from collections import deque
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray
from scipy.signal import find_peaks

from ..footage import Frame
from .far_disc import USUAL, USUAL_SD, CameraPlace, DiscView, camera_from_discs, disc_view, outline_sd
from .pose import MARGIN, Picture, Pose, PoseModel, Square
from .pose_track import NOBODY, Box, PoseTrack
from .rim import DISC_RADIUS_M
from .stack import looked_from
from .track import DiscTrack, bridged

Floats = NDArray[np.float64]
# Middle and radius, px.
Disc = tuple[float, float, float]

# How often the lifter is looked at while the bar moves, about when it is thrown, while it is carried, and while it rests or has been let
# fall.
LOOKS_HZ, THROWN_LOOKS_HZ, CARRIED_LOOKS_HZ, CALM_LOOKS_HZ = 31.0, 60.0, 15.5, 10.4
# Pictures made ready while the model is busy with the one before.
READY = 3
# A lifter is looked at from so long before the bar moves to so long after.
BEFORE_S, AFTER_S = 1.5, 0.8
MOVING_RADII_S = 0.35
# Calm is what lies further than this from the bar's movements.
CALM_AFTER_S = 0.15
GRACE_S = 0.001
DISC_TO_BODY = 0.85
# Where a body may be about a bar: middle of the square above the disc (m), and its side.
FIRST_SQUARES_M = (0.45, 0.1, -0.35, -0.9)
FIRST_SIDES_M = (1.65, 2.3)
SETTLING_LOOKS = 3
# Who drops under a bar leaves the square that follows within a few hundredths of a second: hips that have gone so quickly since the last
# look (m/s) are looked at once more, where they were found.
QUICK_M_S = 0.8
# A lifter lost sight of while the bar is so high above where it was lowest (m) is looked for below it at once, with so many looks at
# each place, and may be further up or down than one who is followed. Lower down the disc hides the lifter, and what is found elsewhere is
# nobody.
RAISED_M, LOST_SETTLING, LOST_DROP_M = 0.45, 2, 0.25
# Hips are never further from the bar than this to either side (m): whoever is further off does not hold it.
AT_THE_BAR_M = 0.75
# Or, of a box that the coach drew, no further outside it than this share of its width.
BESIDE_BOX = 0.2
EARS, SHOULDERS, HIPS, HEELS = (7, 8), (11, 12), (23, 24), (29, 30)
# A body is seen clearly when the model's map agrees so well with its word; under a raised bar, where nothing hides it, one that is not is
# looked for between feet and bar, in a square so much larger than that, or at least so large (m).
CLEAR, UNDER_BAR, UNDER_BAR_M = 0.45, 1.5, 1.6
# So little, under such a bar, that it is made up.
MADE_UP = 0.3
# A search that shows the lifter no clearer by this much was in vain, and after so many of them only every so many looks have another, until
# the lifter is seen clearly again: who sits behind the disc is clear nowhere. One who is lost altogether is worth more searches.
CLEARER, VAIN_SEARCHES, LOST_LOOKS, SEARCH_AGAIN = 0.1, 2, 3, 5
# And this is how much clearer a lifter must be seen, two times together, who is shown without the disc from then on.
PLAINER = 0.06
# Whose head a disc was is so much higher or lower than who is then seen (m).
TAKEN_IN_DROP_M = 0.5
# A first look so clear (clearness times score) needs no other beside it, nor does one as clear at who is under a raised disc; a bent
# lifter about a low bar is never as clear, and is not looked for below it.
PLAINLY, FAIRLY = 0.6, 0.3
# From hips to shoulders, and from shoulders to ears (m): where a disc hides the lifter the model is as sure of a dwarf that it makes up of
# what is left to be seen, or of a giant who stands nearer to the camera.
# A bar in front of the neck hides it; then the trunk alone must be long enough.
TRUNK_M, NECK_M, PLAIN_TRUNK_M = (0.33, 0.74), 0.07, 0.40
# A trunk keeps its length: one so much longer than the longer ones so far is somebody's who is nearer to the camera; unless nobody else
# is seen for as many looks as it takes to know, and what was believed of it is given up.
LONGER, LONGER_ONES, ENOUGH_LOOKS = 1.2, 80, 8
# Hips do not jump by more than this, nor go faster (m, m/s), within the time after which they are looked for anew; those of a lifter who is
# hidden behind a low disc are so much slower.
JUMP_M, HIPS_M_S, FORGET_S, BENT_OVER_SLOWER = 0.15, 3.0, 0.5, 0.2
# Who carries a bar keeps hips and shoulders about where they were from it in the last few looks, so far and no faster (m, m/s): whoever
# walks by where a disc hides the lifter does not. About when the bar is thrown, from so long before it is quickest to so long after, as
# it falls so fast, and low down, the lifter moves about it.
CARRIED_LOOKS, CARRIED_M, CARRIED_M_S = 6, ((0.15,), (0.20,)), 0.2
QUICK_BEFORE_S, QUICK_AFTER_S, FALLS_RADII_S = 0.5, 0.6, 2.5
SURE = 0.5
# A body whose hips, shoulders and ears stay within this of where they were last seen (m) is the same one, however long its trunk seems: who
# stands up out of a squat, and reaches, has a longer one.
STAYS_M = 0.1
# Who was seen before is looked for all about the bar after so many looks in vain, and who has never been seen every so many looks.
LOOK_AGAIN, FIND_AGAIN = 10, 3
# How the square is moved from look to look: shares of its side.
SHIFTS = ((0.05, 0.05, 1.0), (-0.05, 0.05, 1.12), (-0.05, -0.05, 0.94), (0.05, -0.05, 1.06))
VIEW_HEIGHTS = 6
# Legs and hips are straight for a few hundredths of a second, about when a bar that is thrown is quickest.
THROWN_RADII_S, THROWN_BEFORE_S, THROWN_AFTER_S = 4.0, 0.20, 0.10
# A bar that is thrown loses this much of its speed (radii/s) in so long; one that is carried up out of a squat a third of it.
LET_GO_RADII_S, LET_GO_S = 2.7, 0.2
# Nobody lowers a bar as fast as that (2.5 m/s); for so long after it, it bounces.
LET_FALL_RADII_S, LET_FALL_S = 11.0, 1.5
# A distance that was assumed this much wrong (share) makes what outlines tell worth another look.
OFF_DISTANCE = 0.1
# The outer face of a usual stack of discs, from the middle of the bar.
NEAR_FACE_M = 0.76


def worth_looking(time_s: Floats, track: DiscTrack) -> NDArray[np.bool_]:
    """Which frames the lifter is looked at in, `(frames,)`: from a little before the bar moves to a little after, often while it moves."""
    looks = np.zeros(len(time_s), bool)
    if not np.isfinite(track.x_px).any() or len(time_s) < 5:
        return looks
    x, y = (bridged(time_s, values) for values in (track.x_px, track.y_px))
    radius = float(np.nanmedian(track.radius_px))
    speed = np.hypot(np.gradient(x, time_s), np.gradient(y, time_s)) / radius
    moving = time_s[speed > MOVING_RADII_S]
    if len(moving) == 0:
        return looks
    until_next = np.append(moving, np.inf)[np.searchsorted(moving, time_s)] - time_s
    since_last = _since(time_s, moving)
    near = (until_next <= BEFORE_S) | (since_last <= AFTER_S)
    often_hz = np.where(_carried(time_s, track), CARRIED_LOOKS_HZ, LOOKS_HZ)
    often_hz[np.minimum(until_next, since_last) > CALM_AFTER_S] = CALM_LOOKS_HZ
    often_hz[_thrown(time_s, y, radius, THROWN_BEFORE_S, THROWN_AFTER_S)] = THROWN_LOOKS_HZ
    # A bar that bounces up is not thrown.
    often_hz[_let_fall(time_s, y, radius)] = CALM_LOOKS_HZ
    looked_s = -np.inf
    for frame in np.flatnonzero(near):
        # A little grace, so that clocks that are not quite even do not halve the rate.
        if time_s[frame] - looked_s > 1 / often_hz[frame] - GRACE_S:
            looks[frame], looked_s = True, time_s[frame]
    return looks


def _since(time_s: Floats, moments_s: Floats) -> Floats:
    """How long ago the last of some moments was, `(frames,)` s; infinite before the first."""
    return np.asarray(time_s - np.append(-np.inf, moments_s)[np.searchsorted(moments_s, time_s, side="right")])


def _thrown(time_s: Floats, y_px: Floats, radius_px: float, before_s: float, after_s: float) -> NDArray[np.bool_]:
    """Which frames are about any moment in which a bar that is thrown is quickest, `(frames,)`."""
    rises = -np.gradient(y_px, time_s) / radius_px
    peaks = find_peaks(rises, height=THROWN_RADII_S, prominence=THROWN_RADII_S / 2)[0]
    slowed = rises[peaks] - np.interp(time_s[peaks] + LET_GO_S, time_s, rises)
    since_s = time_s[:, None] - time_s[peaks[slowed > LET_GO_RADII_S]]
    return np.asarray(((since_s >= -before_s) & (since_s <= after_s)).any(axis=1))


def _let_fall(time_s: Floats, y_px: Floats, radius_px: float) -> NDArray[np.bool_]:
    """Which frames are soon after a bar was let fall: while it bounces, `(frames,)`."""
    return np.asarray(_since(time_s, time_s[np.gradient(y_px, time_s) / radius_px > LET_FALL_RADII_S]) <= LET_FALL_S)


def _raised(time_s: Floats, track: DiscTrack) -> NDArray[np.bool_]:
    """Which frames show the bar well above where it was lowest, `(frames,)`."""
    return np.asarray(np.nanpercentile(track.y_px, 97) - bridged(time_s, track.y_px) > RAISED_M * _px_per_m(track))


def _px_per_m(track: DiscTrack) -> float:
    """How large a metre is at the lifter."""
    return float(np.nanmedian(track.radius_px)) / DISC_RADIUS_M * DISC_TO_BODY


def _carried(time_s: Floats, track: DiscTrack) -> NDArray[np.bool_]:
    """Which frames show a bar that is up, and neither thrown nor falling, `(frames,)`."""
    y, radius = bridged(time_s, track.y_px), float(np.nanmedian(track.radius_px))
    falls = np.gradient(y, time_s) / radius > FALLS_RADII_S
    return _raised(time_s, track) & ~falls & ~_thrown(time_s, y, radius, QUICK_BEFORE_S, QUICK_AFTER_S)


def _made_ready(frames: Iterable[Frame], wanted: NDArray[np.bool_], shown: set[int]) -> Iterator[tuple[Frame, Picture | None]]:
    """The frames that are asked for, in order; with its picture each that is looked at, made while the model is busy with those before."""
    last = int(np.flatnonzero(wanted)[-1])
    line: deque[tuple[Frame, Future[Picture] | None]] = deque()
    with ThreadPoolExecutor(1) as maker:
        for frame in frames:
            if frame.index > last:
                break
            if wanted[frame.index] or frame.index in shown:
                line.append((frame, maker.submit(frame.bgr) if wanted[frame.index] else None))
            if len(line) > READY:
                ready, picture = line.popleft()
                yield ready, picture.result() if picture else None
        for ready, picture in line:
            yield ready, picture.result() if picture else None


def follow_lifter(
    frames: Iterable[Frame],
    time_s: Floats,
    track: DiscTrack,
    on_progress: Callable[[float], None] | None = None,
    box: Box | None = None,
) -> PoseTrack:
    """Look at the lifter in `frames`, the clip's frames in order.

    Args:
        time_s: `(frames,)` as in the tracks.
        track: the lifted disc.
        box: where the lifter is, by the coach's word; otherwise whoever is at the bar.
    """
    wanted = worth_looking(time_s, track)
    if not wanted.any():
        return replace(PoseTrack.empty(), box=box)
    shown = _frames_to_view(time_s, track, wanted)
    last = int(np.flatnonzero(wanted)[-1])
    follower, views, seen = _Follower(time_s, track, box), list[DiscView](), list[tuple[int, Pose, tuple[Floats, Floats]]]()
    viewed, camera = max(shown, default=0), None
    with ThreadPoolExecutor(1) as beside:
        for frame, picture in _made_ready(frames, wanted, shown):
            if frame.index in shown and (view := disc_view(frame.luma(), *follower.disc(frame.index), follower.radius_px)):
                views.append(view)
            if picture is None:
                continue
            if camera is None and frame.index >= viewed:
                # Nothing more will come that tells where the camera stands: that is worked out while the model looks on.
                camera = beside.submit(_camera, views, track, picture.shape[1], picture.shape[0])
            pose = follower.look(frame.index, picture)
            outline = pose.outline((*follower.disc(frame.index), follower.radius_px))
            seen.append((frame.index, replace(pose, person=None), outline))
            if on_progress and len(seen) % 5 == 0:
                on_progress(min(frame.index / max(last, 1), 1.0))
    if not seen:
        return replace(PoseTrack.empty(), box=box)
    return PoseTrack(
        np.array([index for index, _, _ in seen]), np.array([pose.points for _, pose, _ in seen]),
        np.array([pose.score for _, pose, _ in seen]), np.array([pose.heat for _, pose, _ in seen]),
        np.array([outline for _, _, (outline, _) in seen]), np.array([soles for _, _, (_, soles) in seen]),
        camera.result() if camera else None, box,
    )  # fmt: skip


class _Follower:
    """Looks at whoever lifts, from frame to frame."""

    def __init__(self, time_s: Floats, track: DiscTrack, box: Box | None) -> None:
        self._time_s, self._box, self._model = time_s, box, PoseModel()
        self._disc_x, self._disc_y = bridged(time_s, track.x_px), bridged(time_s, track.y_px)
        self.radius_px = float(np.nanmedian(track.radius_px))
        self._px_per_m = _px_per_m(track)
        self._raised, self._carried = _raised(time_s, track), _carried(time_s, track)
        # The last look at the lifter, and when; what is followed after a look at somebody else.
        self._kept: tuple[Pose, int] | None = None
        # When the last looks at a lifter with the bar so were, and where hips and shoulders were from it then (px).
        self._about_bar: deque[tuple[float, Floats]] = deque(maxlen=CARRIED_LOOKS)
        self._trunks_m: list[float] = []
        self._looks = self._lost = self._in_vain = 0
        # What of the picture the model is not shown; how many looks in a row said that it had better be left so; and how much clearer the
        # lifter was without it when it was last tried.
        self._without: Disc | None = None
        self._left_so, self._clearer = 0, 0.0
        self._looked_s = -np.inf
        # How large the squares of a first look are: all sizes at once, then in turn.
        self._sides = itertools.chain([FIRST_SIDES_M], itertools.cycle([(side,) for side in FIRST_SIDES_M]))

    def disc(self, at: int) -> tuple[float, float]:
        """Where the lifted disc is in a frame, px."""
        return float(self._disc_x[at]), float(self._disc_y[at])

    def look(self, at: int, picture: Picture) -> Pose:
        """The lifter in a frame of the clip; with the score of `NOBODY` where it is not the lifter that was seen."""
        known, calm = self._known(at), self._time_s[at] - self._looked_s > 1.5 / LOOKS_HZ
        self._looked_s = self._time_s[at]
        raised = bool(self._raised[at])
        # Where a disc hides so much that points are made up, the model still knows where the person ends; not in a square gone astray.
        about_bar = _starts(*self.disc(at), self._px_per_m, self._box, FIRST_SIDES_M[:1])[0]
        bent_over = not raised and (self._kept is None or _middle(self._kept[0], HIPS)[1] < self._disc_y[at])
        still_hidden = bent_over and self._kept is not None and self._lost > 0
        self._without = (*self.disc(at), self.radius_px) if raised and self._without else None
        pose = self._look(picture, about_bar) if still_hidden else self._followed(at, picture)
        drop_m = 0.0
        if raised and self._headed_by_disc(pose, at) and (other := self._shown_otherwise(pose, known, at, picture)):
            pose, drop_m = other, TAKEN_IN_DROP_M
        # What a disc leaves to be seen is easily taken for a body elsewhere: who is bent over a bar does not go far.
        lifter = self._is(pose, replace(known, since_s=known.since_s * BENT_OVER_SLOWER) if still_hidden else known, at, drop_m)
        # While the bar is calm hips only seem to be quick.
        far_m = QUICK_M_S * max(known.since_s, 1 / LOOKS_HZ)
        if lifter and not calm and known.last and _apart_m(pose, HIPS, known.last, HIPS, self._px_per_m) > far_m:
            once_more = self._look(picture, _shifted(pose.follow, self._looks))
            if self._is(once_more, known, at):
                pose = once_more
        if raised and self._trunks_m:
            pose, lifter = self._under_raised(pose, lifter, known, at, picture)
        self._keep(pose, at, lifter and pose.score > SURE and not (raised and clearness(pose) < MADE_UP))
        if lifter:
            return pose
        if not bent_over:
            return replace(pose, score=NOBODY, person=None)
        return replace(pose if still_hidden else self._look(picture, about_bar), score=NOBODY)

    def _look(self, picture: Picture, square: Square) -> Pose:
        return self._model.look(picture, square, self._without)

    def _headed_by_disc(self, pose: Pose, at: int) -> bool:
        """Whether the head seems to be where the disc is: behind it, or it is the disc."""
        return bool(np.hypot(*(_middle(pose, EARS) - self.disc(at))) < self.radius_px)

    def _shown_otherwise(self, pose: Pose, known: Known, at: int, picture: Picture) -> Pose | None:
        """Who is seen without the disc, if clearer so this time and the last, or with it again, if clearer so; from then on the model is
        shown no other. Who is clear as it is needs none of it, and heads are behind discs, too: after some looks in vain only every so
        many looks have another."""
        if clearness(pose) > PLAINLY or (self._left_so >= VAIN_SEARCHES and self._looks % SEARCH_AGAIN):
            return None
        before = self._without
        self._without = None if before else (*self.disc(at), self.radius_px)
        other = self._look(picture, pose.follow)
        clearer = clearness(other) - clearness(pose)
        plainer = clearer > 0 if before else (clearer + self._clearer) / 2 > PLAINER
        self._clearer = 0.0 if before else clearer
        if plainer and self._is(other, known, at, TAKEN_IN_DROP_M):
            self._left_so = 0
            return other
        self._without, self._left_so = before, self._left_so + 1
        return None

    def _under_raised(self, pose: Pose, lifter: bool, known: Known, at: int, picture: Picture) -> tuple[Pose, bool]:
        """Under a raised bar: the body seen or a clearer one elsewhere, and whether it is the lifter's."""
        clear = clearness(pose) if lifter and pose.score > SURE else 0.0
        if clear > CLEAR + CLEARER:
            self._in_vain = 0
        if clear > CLEAR:
            return pose, lifter
        again = self._looks % SEARCH_AGAIN == 0
        if clear > MADE_UP and self._in_vain >= VAIN_SEARCHES and not again:
            return pose, lifter
        found = [pose] if clear else []
        far_below = clear < MADE_UP and (self._in_vain < LOST_LOOKS or again)
        for other in settled(self._look, picture, self._elsewhere(at, far_below), LOST_SETTLING, clear - CLEARER):
            if other.score > SURE and self._is(other, known, at, 0.0 if known.carried else LOST_DROP_M):
                found.append(other)
                if clearness(other) > max(clear, MADE_UP):
                    break
        clearest = max(found, key=clearness, default=pose)
        self._in_vain = 0 if found and clearness(clearest) > clear + CLEARER else self._in_vain + 1
        return clearest, lifter or bool(found)

    def _known(self, at: int) -> Known:
        since_s = self._time_s[at] - self._time_s[self._kept[1]] if self._kept else np.inf
        if self._kept is None or since_s >= FORGET_S:
            return Known(None, since_s, tuple(self._trunks_m))
        return Known(self._kept[0], since_s, tuple(self._trunks_m), self._carries(at))

    def _carries(self, at: int) -> Carried | None:
        """Where hips and shoulders of who carries the bar must be; None while it is not carried."""
        if not self._carried[at] or not self._about_bar:
            return None
        when = float(np.median([time_s for time_s, _ in self._about_bar]))
        return Carried(self.disc(at) + np.median([off for _, off in self._about_bar], axis=0), self._time_s[at] - when)

    def _is(self, pose: Pose, known: Known, at: int, drop_m: float = 0.0) -> bool:
        return _is_lifter(pose, known, self._disc_x[at], self._px_per_m, self._box, drop_m)

    def _followed(self, at: int, picture: Picture) -> Pose:
        """A look where the lifter was last, moved with the bar; or all about it."""
        if self._kept is None or (self._lost and self._lost % LOOK_AGAIN == 0):
            starts = _starts(*self.disc(at), self._px_per_m, self._box, next(self._sides))
            if self._kept is None and self._lost % FIND_AGAIN:
                return self._look(picture, starts[self._lost % len(starts)])
            looks = settled(self._look, picture, starts, SETTLING_LOOKS)
            return _clearest(looks, self._disc_x[at], self._px_per_m, self._box, len(starts) // 2)
        last, when = self._kept
        with_bar = replace(last.follow, x_px=last.follow.x_px + self._disc_x[at] - self._disc_x[when])
        return self._look(picture, _shifted(with_bar, self._looks))

    def _elsewhere(self, at: int, far_below: bool) -> list[Square]:
        """Where else the lifter under a raised bar may be: between it and the feet, or far below it."""
        starts = [_under_bar(self._kept[0], *self.disc(at), self._px_per_m)] if self._kept else []
        if far_below:
            # The last of them is the lowest.
            starts += _starts(*self.disc(at), self._px_per_m, self._box, FIRST_SIDES_M[:1])[-1:]
        return starts

    def _keep(self, pose: Pose, at: int, believed: bool) -> None:
        self._looks += 1
        if believed:
            self._kept, self._lost = (pose, at), 0
            if not self._carried[at]:
                self._about_bar.clear()
            self._about_bar.append((self._time_s[at], _hips_and_shoulders(pose) - self.disc(at)))
            self._trunks_m.append(_apart_m(pose, SHOULDERS, pose, HIPS, self._px_per_m))
            return
        self._lost += 1
        if self._lost == ENOUGH_LOOKS:
            self._trunks_m.clear()


def _camera(views: list[DiscView], track: DiscTrack, width_px: int, height_px: int) -> CameraPlace | None:
    """Where the camera stands: by both discs, or by the near one and what lenses of phones usually see."""
    long_side = float(max(width_px, height_px))
    distance = NEAR_FACE_M + USUAL * long_side * DISC_RADIUS_M / float(np.nanmedian(track.radius_px))
    told = looked_from(track, NEAR_FACE_M, distance, width_px, height_px)
    camera = camera_from_discs(views, NEAR_FACE_M, long_side, told)
    if camera is not None and told is not None and abs(camera.distance_m / distance - 1) > OFF_DISTANCE:
        told = looked_from(track, NEAR_FACE_M, camera.distance_m, width_px, height_px) or told
        camera = camera_from_discs(views, NEAR_FACE_M, long_side, told) or camera
    if camera is None and told is not None:
        yaw_sd, horizon_sd = np.degrees(outline_sd(told))
        camera = CameraPlace(distance, USUAL_SD * distance, told[0], float(yaw_sd), told[1], float(horizon_sd))
    return camera


def _there(pose: Pose, x_px: float, px_per_m: float, box: Box | None) -> bool:
    """Whether this is a body, with hips where the lifter's are: in the coach's box, or near the bar."""
    trunk_m, neck_m = _apart_m(pose, SHOULDERS, pose, HIPS, px_per_m), _apart_m(pose, EARS, pose, SHOULDERS, px_per_m)
    if not TRUNK_M[0] < trunk_m < TRUNK_M[1] or (neck_m < NECK_M and trunk_m < PLAIN_TRUNK_M):
        return False
    hips = float(_middle(pose, HIPS)[0])
    if box is None:
        return abs(hips - x_px) < AT_THE_BAR_M * px_per_m
    beside = BESIDE_BOX * (box.right - box.left)
    return box.left - beside < hips < box.right + beside


def _apart_m(one: Pose, part: tuple[int, ...], other: Pose, its: tuple[int, ...], px_per_m: float) -> float:
    """How far a part of one body, both sides together, is from a part of another."""
    return float(np.hypot(*(_middle(one, part) - _middle(other, its)))) / px_per_m


def _middle(pose: Pose, part: tuple[int, ...]) -> Floats:
    """Where a part of a body is, both sides together, `(2,)` px."""
    return np.asarray(pose.points[list(part)].mean(0))


def _hips_and_shoulders(pose: Pose) -> Floats:
    """`(2, 2)` px."""
    return np.array([_middle(pose, HIPS), _middle(pose, SHOULDERS)])


def clearness(pose: Pose) -> float:
    """How much the map agrees with where the model tells shoulders and hips, 0 to 1: a body made up is told, and seen nowhere."""
    return float(pose.heat[[*SHOULDERS, *HIPS]].mean())


def _under_bar(last: Pose, x_px: float, y_px: float, px_per_m: float) -> Square:
    """The square about who is between the feet, as they were last seen, and a raised bar."""
    floor_px = float(last.points[list(HEELS), 1].max())
    return Square(x_px, (floor_px + y_px) / 2, max(UNDER_BAR * (floor_px - y_px), UNDER_BAR_M * px_per_m / DISC_TO_BODY))


def _shifted(square: Square, turn: int) -> Square:
    """A square moved about a little, another way at each turn."""
    across, down, larger = SHIFTS[turn % len(SHIFTS)]
    side = square.side_px
    return replace(square, x_px=square.x_px + across * side, y_px=square.y_px + down * side, side_px=larger * side)


@dataclass(frozen=True)
class Carried:
    """Where hips and shoulders are by where they were from the bar `(2, 2)` px, and how long ago that was (s)."""

    places: Floats
    since_s: float

    def near(self, pose: Pose, px_per_m: float, drop_m: float) -> bool:
        """Whether hips and shoulders are about there; `drop_m` further up or down."""
        off_m = abs(_hips_and_shoulders(pose) - self.places) / px_per_m - [0.0, drop_m]
        return bool((off_m < np.array(CARRIED_M) + CARRIED_M_S * self.since_s).all())


@dataclass(frozen=True)
class Known:
    """What is known of the lifter before a look: the last one, if not long ago, how long ago (s), how long trunks were (m), and of who
    carries the bar where they are about it."""

    last: Pose | None
    since_s: float
    trunks_m: tuple[float, ...]
    carried: Carried | None = None

    def near(self, pose: Pose, px_per_m: float, drop_m: float) -> bool:
        """Whether hips are no further from where they were than they may have got since; `drop_m` further up or down."""
        if self.last is None:
            return True
        if self.carried is not None:
            return self.carried.near(pose, px_per_m, drop_m)
        across, up = (_middle(pose, HIPS) - _middle(self.last, HIPS)) / px_per_m
        gone = JUMP_M + HIPS_M_S * self.since_s
        return bool(np.hypot(across, max(abs(up) - drop_m, 0.0)) < gone)


def _is_lifter(pose: Pose, known: Known, x_px: float, px_per_m: float, box: Box | None, drop_m: float = 0.0) -> bool:
    """Whether this is a body where the lifter's may be, no further from the last than a body gets, with a trunk as long as the lifter's."""
    if not _there(pose, x_px, px_per_m, box) or not known.near(pose, px_per_m, drop_m):
        return False
    last = known.last
    if last is not None and all(_apart_m(pose, part, last, part, px_per_m) < STAYS_M for part in (HIPS, SHOULDERS, EARS)):
        return True
    trunk_m = _apart_m(pose, SHOULDERS, pose, HIPS, px_per_m)
    return len(known.trunks_m) < ENOUGH_LOOKS or trunk_m < LONGER * float(np.percentile(known.trunks_m, LONGER_ONES))


def _starts(x_px: float, y_px: float, px_per_m: float, box: Box | None, sides_m: tuple[float, ...]) -> list[Square]:
    """Where to look for a body about a bar, or the box that the coach drew."""
    if box is not None:
        return [about_box(box)]
    return [Square(x_px, y_px - above * px_per_m, side * px_per_m / DISC_TO_BODY) for above in FIRST_SQUARES_M for side in sides_m]


def about_box(box: Box) -> Square:
    """The square about what the coach drew a box about."""
    side = MARGIN * max(box.right - box.left, box.bottom - box.top)
    return Square((box.left + box.right) / 2, (box.top + box.bottom) / 2, side)


def settled(
    look: Callable[[Picture, Square], Pose], picture: Picture, starts: list[Square], looks: int, least: float = 0.0
) -> Iterator[Pose]:
    """A look at each square, settled by following itself as long as what it shows is as clear as `least`."""
    for square in starts:
        for _ in range(looks):
            pose = look(picture, square)
            square = pose.follow
            if clearness(pose) < least:
                break
        yield pose


def _clearest(looks: Iterator[Pose], x_px: float, px_per_m: float, box: Box | None, likely: int) -> Pose:
    """The clearest look at a body where the lifter's may be; the first that is clear enough, or of those that are `likely`."""
    best: tuple[float, Pose] | None = None
    for looked, pose in enumerate(looks, 1):
        worth = pose.score * clearness(pose) * _there(pose, x_px, px_per_m, box)
        if best is None or worth > best[0]:
            best = worth, pose
        if best[0] > (FAIRLY if looked == likely else PLAINLY):
            break
    assert best is not None
    return best[1]


def _frames_to_view(time_s: Floats, track: DiscTrack, wanted: NDArray[np.bool_]) -> set[int]:
    """Frames in which the bar is slowest, one for each of a few heights: there the discs are sharp."""
    known = wanted & np.isfinite(track.y_px) & (track.confidence > 0.5)
    if known.sum() < 3:
        return set()
    x, y = bridged(time_s, track.x_px), bridged(time_s, track.y_px)
    speed = np.hypot(np.gradient(x, time_s), np.gradient(y, time_s)) / float(np.nanmedian(track.radius_px))
    edges = np.linspace(y[known].min(), y[known].max() + 1e-6, VIEW_HEIGHTS + 1)
    chosen = set()
    for low, high in itertools.pairwise(edges):
        here = np.flatnonzero(known & (y >= low) & (y < high) & (speed < 2.0))
        if len(here):
            chosen.add(int(here[np.argmin(speed[here])]))
    return chosen

"""Look at the lifter with the pose model, in a second pass over the clip, once it is known which disc is lifted and when.

The model looks where the bar is, follows itself from look to look, and is moved about a little on purpose: a point that is really seen
stays where it is when the square moves, one that is made up moves with it. A raised disc that it takes for a head is painted over.
When it looks is in `schedule.py`, where in `squares.py`, and who is believed to be the lifter in `lifter.py`.
"""

from __future__ import annotations

import itertools
from collections import deque
from collections.abc import Callable, Iterable, Iterator, Mapping
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..footage import Frame
from .far_disc import USUAL, USUAL_SD, CameraPlace, DiscView, camera_from_discs, disc_view, outline_sd
from .lifter import (
    BENT_OVER_SLOWER,
    EARS,
    ENOUGH_LOOKS,
    FORGET_S,
    HIPS,
    SHOULDERS,
    SURE,
    Carried,
    Known,
    apart_m,
    clearness,
    hips_and_shoulders,
    is_lifter,
    leans,
    middle,
)
from .pose import Picture, Pose, PoseModel, Square
from .pose_track import NOBODY, Box, PoseTrack
from .rim import DISC_RADIUS_M
from .schedule import LOOKS_HZ, carried_frames, frames_to_view, px_per_m_at, raised_frames, worth_looking
from .squares import (
    BENT,
    FAIRLY,
    FIRST_SIDES_M,
    PLAINLY,
    clearest_at_bar,
    following,
    following_bent,
    settled,
    shifted,
    starts_about,
    under_bar,
    worth_at_bar,
)
from .stack import looked_from
from .track import DiscTrack, bridged

Floats = NDArray[np.float64]
# Middle and radius, px.
Disc = tuple[float, float, float]

# Pictures made ready while the model is busy with the one before.
READY = 3
# Where a body is found about a bar is settled by so many looks.
SETTLING_LOOKS = 3
# Who drops under a bar leaves the square that follows within a few hundredths of a second: hips that have gone so quickly since the last
# look (m/s) are looked at once more, where they were found.
QUICK_M_S = 0.8
# A lifter lost sight of under a raised bar is looked for below it at once, with so many looks at each place, and may be further up or down
# (m) than one who is followed. Lower down the disc hides the lifter, and what is found elsewhere is nobody.
LOST_SETTLING, LOST_DROP_M = 2, 0.25
# A body is seen clearly when the model's map agrees so well with its word; under a raised bar, where nothing hides it, one that is not is
# looked for elsewhere.
CLEAR = 0.45
# So little, under such a bar, that it is made up.
MADE_UP = 0.3
# A search that shows the lifter no clearer by this much was in vain, and after so many of them only every so many looks have another, until
# the lifter is seen clearly again: who sits behind the disc is clear nowhere. One who is lost altogether is worth more searches.
CLEARER, VAIN_SEARCHES, LOST_LOOKS, SEARCH_AGAIN = 0.1, 2, 3, 5
# And this is how much clearer a lifter must be seen, two times together, who is shown without the disc from then on.
PLAINER = 0.06
# Whose head a disc was is so much higher or lower than who is then seen (m).
TAKEN_IN_DROP_M = 0.5
# So many looks at who carries a bar tell where hips and shoulders are about it.
CARRIED_LOOKS = 6
# Who was seen before is looked for all about the bar after so many looks in vain, and who has never been seen every so many looks.
LOOK_AGAIN, FIND_AGAIN = 10, 3
# A distance that was assumed this much wrong (share) makes what outlines tell worth another look.
OFF_DISTANCE = 0.1
# The outer face of a usual stack of discs, from the middle of the bar.
NEAR_FACE_M = 0.76


def follow_lifter(
    frames: Iterable[Frame],
    time_s: Floats,
    track: DiscTrack,
    on_progress: Callable[[float], None] | None = None,
    box: Box | None = None,
    settle: Callable[[], DiscTrack | None] | None = None,
) -> PoseTrack:
    """Look at the lifter in `frames`, the clip's frames in order, to the last of them.

    Args:
        time_s: `(frames,)` as in the tracks.
        track: the lifted disc.
        box: where the lifter is, by the coach's word; otherwise whoever is at the bar.
        settle: asked after the last frame for a better track of the disc, if there is one, by which the camera's place is told.
    """
    frames, wanted = iter(frames), worth_looking(time_s, track)
    if not wanted.any():
        deque(frames, maxlen=0)
        return replace(PoseTrack.empty(), box=box)
    shown = frames_to_view(time_s, track, wanted)
    last = int(np.flatnonzero(wanted)[-1])
    follower, views, seen = _Follower(time_s, track, box), dict[int, DiscView](), list[tuple[int, Pose, tuple[Floats, Floats]]]()
    size = (0, 0)
    for frame, picture in _made_ready(frames, wanted, shown):
        if frame.index in shown and (view := disc_view(frame.luma(), *follower.disc(frame.index), follower.radius_px)):
            views[frame.index] = view
        if picture is None:
            continue
        size = picture.shape[1], picture.shape[0]
        pose = follower.look(frame.index, picture)
        outline = pose.outline((*follower.disc(frame.index), follower.radius_px))
        seen.append((frame.index, replace(pose, person=None), outline))
        if on_progress and len(seen) % 5 == 0:
            on_progress(min(frame.index / max(last, 1), 1.0))
    deque(frames, maxlen=0)
    if not seen:
        return replace(PoseTrack.empty(), box=box)
    settled = settle() if settle else None
    return PoseTrack(
        np.array([index for index, _, _ in seen]), np.array([pose.points for _, pose, _ in seen]),
        np.array([pose.score for _, pose, _ in seen]), np.array([pose.heat for _, pose, _ in seen]),
        np.array([outline for _, _, (outline, _) in seen]), np.array([soles for _, _, (_, soles) in seen]),
        _camera(views, settled or track, *size, settled is None), box,
    )  # fmt: skip


class _Follower:
    """Looks at whoever lifts, from frame to frame."""

    def __init__(self, time_s: Floats, track: DiscTrack, box: Box | None) -> None:
        self._time_s, self._box, self._model = time_s, box, PoseModel()
        self._disc_x, self._disc_y = bridged(time_s, track.x_px), bridged(time_s, track.y_px)
        self.radius_px = float(np.nanmedian(track.radius_px))
        self._px_per_m = px_per_m_at(track)
        self._raised, self._carried = raised_frames(time_s, track), carried_frames(time_s, track)
        # The last look at the lifter, and when; what is followed after a look at somebody else.
        self._kept: tuple[Pose, int] | None = None
        # When the last looks at a lifter with the bar so were, and where hips and shoulders, and the bar, were then (px).
        self._with_bar: deque[tuple[float, Floats, tuple[float, float]]] = deque(maxlen=CARRIED_LOOKS)
        self._trunks_m: list[float] = []
        self._looks = self._lost = self._in_vain = 0
        # What of the picture the model is not shown; how many looks in a row said that it had better be left so; and how much clearer the
        # lifter was without it when it was last tried.
        self._without: Disc | None = None
        self._left_so, self._clearer = 0, 0.0
        # Whether the lifter was found only without the disc; then it is left out lower down, too.
        self._found_without = False
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
        about_bar = self._about_bar(at)
        bent_over = not raised and (self._kept is None or middle(self._kept[0], HIPS)[1] < self._disc_y[at])
        still_hidden = bent_over and self._kept is not None and self._lost > 0
        self._without = (*self.disc(at), self.radius_px) if self._without and (raised or self._found_without) else None
        pose = self._look(picture, about_bar) if still_hidden else self._followed(at, picture)
        drop_m = 0.0
        if raised and self._headed_by_disc(pose, at) and (other := self._shown_otherwise(pose, known, at, picture)):
            pose, drop_m = other, TAKEN_IN_DROP_M
        # What a disc leaves to be seen is easily taken for a body elsewhere: who is bent over a bar does not go far.
        lifter = self._is(pose, replace(known, since_s=known.since_s * BENT_OVER_SLOWER) if still_hidden else known, at, drop_m)
        # While the bar is calm hips only seem to be quick.
        far_m = QUICK_M_S * max(known.since_s, 1 / LOOKS_HZ)
        if lifter and not calm and known.last and apart_m(pose, HIPS, known.last, HIPS, self._px_per_m) > far_m:
            once_more = self._look(picture, shifted(pose.follow, self._looks))
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

    def _about_bar(self, at: int) -> Square:
        """Where who bends over the bar may be, turned as the lifter was last seen to lean."""
        square = self._starts(at, FIRST_SIDES_M[:1], bent=False)[0]
        return square if self._kept is None else replace(square, turn=float(np.copysign(BENT, leans(self._kept[0]))))

    def _starts(self, at: int, sides_m: tuple[float, ...], *, bent: bool) -> list[Square]:
        return starts_about(*self.disc(at), self._px_per_m, self._box, sides_m, bent=bent)

    def _look(self, picture: Picture, square: Square) -> Pose:
        return self._model.look(picture, square, self._without)

    def _headed_by_disc(self, pose: Pose, at: int) -> bool:
        """Whether the head seems to be where the disc is: behind it, or it is the disc."""
        return bool(np.hypot(*(middle(pose, EARS) - self.disc(at))) < self.radius_px)

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
        if not self._carried[at] or not self._with_bar:
            return None
        when = float(np.median([time_s for time_s, _, _ in self._with_bar]))
        stood = np.median([places for _, places, _ in self._with_bar], axis=0)
        from_bar = np.median([places - disc for _, places, disc in self._with_bar], axis=0)
        return Carried((self.disc(at) + from_bar, stood), self._time_s[at] - when)

    def _is(self, pose: Pose, known: Known, at: int, drop_m: float = 0.0) -> bool:
        return is_lifter(pose, known, self._disc_x[at], self._px_per_m, self._box, drop_m)

    def _followed(self, at: int, picture: Picture) -> Pose:
        """A look where the lifter was last, moved with the bar; or all about it."""
        if self._kept is None or (self._lost and self._lost % LOOK_AGAIN == 0):
            starts = self._starts(at, next(self._sides), bent=not self._raised[at])
            if self._kept is None and self._lost % FIND_AGAIN:
                return self._look(picture, starts[self._lost % len(starts)])
            return self._found(at, picture, starts)
        last, when = self._kept
        follow = self._follow(at)(last)
        with_bar = replace(follow, x_px=follow.x_px + self._disc_x[at] - self._disc_x[when])
        return self._look(picture, shifted(with_bar, self._looks))

    def _follow(self, at: int) -> Callable[[Pose], Square]:
        """How who is seen in a frame is looked at next: under a raised bar nobody bends far."""
        return following if self._raised[at] else following_bent

    def _found(self, at: int, picture: Picture, starts: list[Square]) -> Pose:
        """Who is clearest about the bar, with its disc or else, if plainly so, without it: a disc may draw all looks to itself."""

        def clearest() -> Pose:
            looks = settled(self._look, picture, starts, SETTLING_LOOKS, follow=self._follow(at))
            likely = sum(square.y_px < self._disc_y[at] for square in starts)
            return clearest_at_bar(looks, self._disc_x[at], self._px_per_m, self._box, likely)

        before, self._without, self._found_without = self._without, None, False
        with_disc = clearest()
        clear = self._worth(with_disc, at)
        if clear > FAIRLY:
            return with_disc
        self._without = (*self.disc(at), self.radius_px)
        without = clearest()
        self._found_without = self._worth(without, at) > max(clear + PLAINER, FAIRLY)
        if self._found_without:
            return without
        self._without = before
        return with_disc

    def _worth(self, pose: Pose, at: int) -> float:
        return worth_at_bar(pose, self._disc_x[at], self._px_per_m, self._box)

    def _elsewhere(self, at: int, far_below: bool) -> list[Square]:
        """Where else the lifter under a raised bar may be: between it and the feet, or far below it."""
        starts = [under_bar(self._kept[0], *self.disc(at), self._px_per_m)] if self._kept else []
        if far_below:
            # The last of them is the lowest.
            starts += self._starts(at, FIRST_SIDES_M[:1], bent=False)[-1:]
        return starts

    def _keep(self, pose: Pose, at: int, believed: bool) -> None:
        self._looks += 1
        if believed:
            self._kept, self._lost = (pose, at), 0
            if not self._carried[at]:
                self._with_bar.clear()
            self._with_bar.append((self._time_s[at], hips_and_shoulders(pose), self.disc(at)))
            self._trunks_m.append(apart_m(pose, SHOULDERS, pose, HIPS, self._px_per_m))
            return
        self._lost += 1
        if self._lost == ENOUGH_LOOKS:
            self._trunks_m.clear()


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


def _camera(seen: Mapping[int, DiscView], track: DiscTrack, width_px: int, height_px: int, own: bool) -> CameraPlace | None:
    """Where the camera stands, where the far disc tells it; and by the near one's outlines, where these are each frame's `own`."""
    across, down = width_px / 2 - 0.5, height_px / 2 - 0.5
    views = [
        replace(view, u=float(track.x_px[frame]) - across, v=down - float(track.y_px[frame]), radius_px=float(track.radius_px[frame]))
        for frame, view in seen.items()
        if np.isfinite(track.x_px[frame])
    ]
    long_side = float(max(width_px, height_px))
    distance = NEAR_FACE_M + USUAL * long_side * DISC_RADIUS_M / float(np.nanmedian(track.radius_px))
    told = looked_from(track, NEAR_FACE_M, distance, width_px, height_px) if own else None
    camera = camera_from_discs(views, NEAR_FACE_M, long_side, told)
    if camera is not None and told is not None and abs(camera.distance_m / distance - 1) > OFF_DISTANCE:
        told = looked_from(track, NEAR_FACE_M, camera.distance_m, width_px, height_px) or told
        camera = camera_from_discs(views, NEAR_FACE_M, long_side, told) or camera
    if camera is None and told is not None:
        yaw_sd, horizon_sd = np.degrees(outline_sd(told))
        camera = CameraPlace(distance, USUAL_SD * distance, told[0], float(yaw_sd), told[1], float(horizon_sd))
    return camera

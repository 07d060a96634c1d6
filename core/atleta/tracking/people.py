"""Look at the lifter with the lifter network, in a second pass over the clip, once it is known which disc is lifted and when.

When it looks is in `schedule.py`. It looks where the lifter was last, moved with the bar; who is lost is looked for about the bar.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable, Iterable, Iterator, Mapping
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import replace

import numpy as np
from numpy.typing import NDArray

from ..footage import Frame
from .far_disc import USUAL, USUAL_SD, CameraPlace, DiscView, camera_from_discs, disc_view, outline_sd
from .network import MARGIN, LifterNetwork, Look, Picture, Square
from .pose_track import NOBODY, Box, PoseTrack
from .rim import DISC_RADIUS_M
from .schedule import carried_frames, frames_to_view, px_per_m_at, worth_looking
from .stack import looked_from
from .track import DiscTrack, bridged

Floats = NDArray[np.float64]

# Pictures made ready while the network is busy with the one before.
READY = 3
# So sure the network must be that there is a lifter, and so far off (m) half of the joints may be by its own word.
SURE, DOUBTED_M = 0.5, 0.12
# Hips are never further from the bar than this to either side (m): whoever is further off does not hold it. Or, of a box that the coach
# drew, no further outside it than this share of its width.
AT_THE_BAR_M, BESIDE_BOX = 0.75, 0.2
# Hands are this near to a bar that is carried (m): whoever walks by has theirs elsewhere.
HANDS_M = 0.35
# From hips to shoulders (m), seen from the side: what is longer is nearer to the camera.
TRUNK_M = (0.25, 0.74)
# Hips do not jump by more than this, nor go faster (m, m/s), within the time after which they are looked for anew (s).
JUMP_M, HIPS_M_S, FORGET_S = 0.15, 3.0, 0.5
# Where a body may be about a bar: middle of the square above the disc, and its side (m).
FIRST_SQUARES_M = ((0.45, 1.65), (0.1, 1.65), (-0.35, 1.65), (-0.9, 1.65), (0.1, 2.3), (-0.35, 2.3))
# Who is lost is looked for all about the bar at once, and then in every so many looks.
SEARCH_AGAIN = 5
# A square is no smaller than this (m).
SMALLEST_M = 0.9
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
    follower, views, seen = _Follower(time_s, track, box), dict[int, DiscView](), list[tuple[int, Look]]()
    size = (0, 0)
    for frame, picture in _made_ready(frames, wanted, shown):
        if frame.index in shown and (view := disc_view(frame.luma(), *follower.disc(frame.index), follower.radius_px)):
            views[frame.index] = view
        if picture is None:
            continue
        size = picture.shape[1], picture.shape[0]
        seen.append((frame.index, follower.look(frame.index, picture)))
        if on_progress and len(seen) % 5 == 0:
            on_progress(min(frame.index / max(last, 1), 1.0))
    deque(frames, maxlen=0)
    if not seen:
        return replace(PoseTrack.empty(), box=box)
    settled = settle() if settle else None
    return PoseTrack.of(seen, _camera(views, settled or track, *size, settled is None), box)


class _Follower:
    """Looks at whoever lifts, from frame to frame."""

    def __init__(self, time_s: Floats, track: DiscTrack, box: Box | None) -> None:
        self._time_s, self._box, self._network = time_s, box, LifterNetwork()
        self._disc_x, self._disc_y = bridged(time_s, track.x_px), bridged(time_s, track.y_px)
        self.radius_px = float(np.nanmedian(track.radius_px))
        self._px_per_m, self._carried = px_per_m_at(track), carried_frames(time_s, track)
        # The last look at the lifter, and when; how many looks there have been since at somebody else, or nobody.
        self._kept: tuple[Look, int] | None = None
        self._lost = 0

    def disc(self, at: int) -> tuple[float, float]:
        """Where the lifted disc is in a frame, px."""
        return float(self._disc_x[at]), float(self._disc_y[at])

    def look(self, at: int, picture: Picture) -> Look:
        """The lifter in a frame of the clip; with the score of `NOBODY` where it is not the lifter that was seen."""
        seen = self._network.look(picture, self._followed(at)) if self._kept else None
        if seen is None or not self._is_lifter(seen, at):
            found = self._found(at, picture) if self._lost % SEARCH_AGAIN == 0 else None
            if found is None:
                self._lost += 1
                return replace(seen or self._network.look(picture, self._starts(at)[0]), score=NOBODY)
            seen = found
        self._kept, self._lost = (seen, at), 0
        return seen

    def _followed(self, at: int) -> Square:
        """Where the lifter was last, moved with the bar."""
        assert self._kept is not None
        last, when = self._kept
        square = last.follow
        return Square(
            square.x_px + self._disc_x[at] - self._disc_x[when], square.y_px, max(square.side_px, SMALLEST_M * self._px_per_m)
        )  # fmt: skip

    def _starts(self, at: int) -> list[Square]:
        """Where to look for a body about the bar, or in the box that the coach drew."""
        if self._box is not None:
            return [about_box(self._box)]
        x, y = self.disc(at)
        return [Square(x, y - above * self._px_per_m, MARGIN * side * self._px_per_m) for above, side in FIRST_SQUARES_M]

    def _found(self, at: int, picture: Picture) -> Look | None:
        """Who is known best of those about the bar, looked at twice: a square that was guessed is never quite about them."""
        looks = [self._network.look(picture, self._network.look(picture, start).follow) for start in self._starts(at)]
        return min((look for look in looks if self._is_lifter(look, at)), key=self._doubt_m, default=None)

    def _is_lifter(self, look: Look, at: int) -> bool:
        """Whether a body is where the lifter's may be, no further from the last than a body gets."""
        trunk_m = float(np.linalg.norm(look.middle("shoulder") - look.middle("hip"))) / self._px_per_m
        if look.score < SURE or self._doubt_m(look) > DOUBTED_M or not TRUNK_M[0] < trunk_m < TRUNK_M[1]:
            return False
        hips = look.middle("hip")
        if self._box is None:
            if abs(hips[0] - self._disc_x[at]) > AT_THE_BAR_M * self._px_per_m:
                return False
        else:
            beside = BESIDE_BOX * (self._box.right - self._box.left)
            if not self._box.left - beside < hips[0] < self._box.right + beside:
                return False
        off = (look.middle("hand") - self.disc(at)) / self._px_per_m
        if self._carried[at] and float(np.hypot(*off)) > HANDS_M:
            return False
        if self._kept is None or (since_s := self._time_s[at] - self._time_s[self._kept[1]]) > FORGET_S:
            return True
        gone = float(np.linalg.norm(hips - self._kept[0].middle("hip"))) / self._px_per_m
        return bool(gone < JUMP_M + HIPS_M_S * since_s)

    def _doubt_m(self, look: Look) -> float:
        """How far off half of the joints may be, by the network's own word, m."""
        return float(np.median(np.hypot(*look.sd.T))) / self._px_per_m


def about_box(box: Box) -> Square:
    """The square about what the coach drew a box about."""
    side = MARGIN * max(box.right - box.left, box.bottom - box.top)
    return Square((box.left + box.right) / 2, (box.top + box.bottom) / 2, side)


def _made_ready(frames: Iterable[Frame], wanted: NDArray[np.bool_], shown: set[int]) -> Iterator[tuple[Frame, Picture | None]]:
    """The frames that are asked for, in order; with its picture each that is looked at, made while the network is busy with others."""
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

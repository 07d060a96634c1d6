"""Follow every disc of a clip while its frames stream by; memory does not grow with the clip but for the tracks themselves.

Discs are looked for at once and every half second after that, until one of them is plainly being lifted. Each is predicted, its rim
fitted where it is expected, and when that fails looked for by its own face nearby; one that was lifted and is lost, all over the picture.
What is lifted may be a ring of a disc whose rim did not show where it lay: on its way the rim is looked for about it.
A disc that lies still is only checked every few frames, and the frames between are fitted after all when it turns out to have moved.
"""

from __future__ import annotations

from collections import deque
from collections.abc import Callable
from dataclasses import replace

import cv2
import numpy as np

from .follow import LOST_AFTER_S, MOVES_PX, SAME_SIZE, Followed, append, face_of, overwrite, prepend, trim
from .repeats import RepeatWatch
from .rim import Luma, Rim
from .scout import SMALLER, Scout, outermost
from .sight import Plane, Sight
from .track import RawTracks, Tracklet

# Discs are looked for so often; and so often while one that was being lifted is out of sight.
SCOUT_EVERY_S, SCOUT_LOST_S = 0.5, 0.1
NAP_FRAMES = 5
MAX_LIVE = 6
MUCH_LARGER = 1.15
# What is lifted is looked around each time it has gone so many times as far as the last time.
LOOK_AROUND_AGAIN = 1.5
# The grid on which change in the picture is noted: fine enough to tell in front of the bar from behind it.
GRID_CELLS = 48
# As many pixels of a cell tell its brightness, each way.
CELL_SAMPLES = 6


class DiscTracker:
    """Feed frames in order with `feed`, then take everything with `finish`."""

    def __init__(self) -> None:
        self._times: list[float] = []
        self._recent: deque[tuple[int, float, Sight]] = deque(maxlen=NAP_FRAMES + 6)
        self._live: list[Followed] = []
        self._done: list[Tracklet] = []
        self._motion: list[Luma] = []
        self._thumb: Luma | None = None
        self._repeats = RepeatWatch()
        self._next_scout_s, self._scouted_s = 0.0, -np.inf
        self._watch = Scout()
        self._size = (0, 0)

    def feed(self, index: int, time_s: float, luma: Luma, chroma: Callable[[], tuple[Luma, Luma]] | None = None) -> None:
        """Take the next frame; `index` counts from 0 without gaps, `time_s` increases. `chroma` is asked only where brightness fails."""
        sight = Sight(luma, chroma)
        self._times.append(time_s)
        self._recent.append((index, time_s, sight))
        self._size = (luma.shape[1], luma.shape[0])
        self._note_motion(sight, time_s)
        for live in self._live:
            self._advance(live, index)
        self._retire(time_s)
        if any(live.travelled and live.missed_since_s is not None for live in self._live):
            self._next_scout_s = min(self._next_scout_s, self._scouted_s + SCOUT_LOST_S)
        if time_s >= self._next_scout_s and not any(live.lifted for live in self._live):
            self._next_scout_s, self._scouted_s = time_s + SCOUT_EVERY_S, time_s
            self._scout(index, time_s, sight)
        self._look_around(index, time_s, sight)

    def finish(self) -> RawTracks:
        """All tracks, once the last frame has been fed."""
        if self._times:
            for live in self._live:
                self._advance(live, len(self._times) - 1, waking=True)
        pieces = self._done + [live.piece for live in self._live]
        for piece in pieces:
            trim(piece)
        width, height = self._size
        motion = np.array(self._motion) if self._motion else np.zeros((0, 1, 1), np.uint8)
        tracklets = [p for p in pieces if len(p.x_px) >= 5]
        return RawTracks(np.array(self._times), width, height, tracklets, motion, self._repeats.finish())

    # -- following ------------------------------------------------------------------------------------------------

    def _advance(self, live: Followed, upto: int, waking: bool = False) -> None:
        """Bring one disc up to frame `upto`, napping through frames while it lies still."""
        pending = [entry for entry in self._recent if live.piece.last_frame < entry[0] <= upto]
        if not pending:
            return
        if live.still_for >= NAP_FRAMES:
            if len(pending) < NAP_FRAMES and not waking:
                return
            before = live.last
            _, time_s, sight = pending[-1]
            rim = live.unmoved(luma := sight.plane(live.plane))
            if rim is None:
                rim = live.fit(before, luma, max(4.0, 0.06 * before.radius_px))
                live.rested = None if rim is None else face_of(luma, rim)
            if rim and np.hypot(rim.x_px - before.x_px, rim.y_px - before.y_px) < 0.3:
                for step in range(1, len(pending) + 1):
                    share = step / len(pending)
                    between = replace(
                        rim,
                        x_px=before.x_px + share * (rim.x_px - before.x_px),
                        y_px=before.y_px + share * (rim.y_px - before.y_px),
                        radius_px=before.radius_px + share * (rim.radius_px - before.radius_px),
                    )
                    append(live.piece, between)
                live.rims.append((time_s, rim))
                return
            live.still_for, live.rested = 0, None
        for number, time_s, sight in pending:
            luma = sight.plane(live.plane)
            if self._repeats.found[number]:
                live.see_again(time_s, luma)
                continue
            rim = live.sought(time_s, luma)
            if live.stayed(rim):
                self._repeats.take_back(number - len(live.repeated), number)
            live.take(time_s, rim)

    def _retire(self, time_s: float) -> None:
        lost = [one for one in self._live if one.missed_since_s is not None and time_s - one.missed_since_s > LOST_AFTER_S]
        # Once the lifted disc is followed by brightness, nothing smaller is worth making the muted picture for, and nothing small a look.
        lifted = max((one.last.radius_px for one in self._live if one.plane == "luma" and one.lifted), default=0.0)
        large_enough = {"luma": SMALLER * lifted, "muted": lifted}
        lost += [one for one in self._live if one.last.radius_px < large_enough[one.plane] and one not in lost]
        for live in lost:
            self._live.remove(live)
            self._done.append(live.piece)

    # -- finding --------------------------------------------------------------------------------------------------

    def _scout(self, index: int, time_s: float, sight: Sight) -> None:
        for rim, plane in self._watch.look(sight, [(live.last, live.plane) for live in self._live if live.missed_since_s is None]):
            known = next((live for live in self._live if _same(rim, live.last)), None)
            if known is not None:
                if known.missed_since_s is not None and abs(rim.radius_px / known.last.radius_px - 1) < SAME_SIZE:
                    if known.plane != plane:
                        # What it was told by against the floor need not tell it against the wall.
                        known.plane, known.face = plane, face_of(sight.plane(plane), rim)
                    self._found_again(known, rim)
                continue
            if len(self._live) >= MAX_LIVE and not self._make_room(rim):
                continue
            self._begin(index, time_s, sight, rim, plane)

    def _look_around(self, index: int, time_s: float, sight: Sight) -> None:
        """Begin to follow the disc of which a ring was followed so far, if there is one."""
        for live in [one for one in self._live if one.lifted and one.travel_radii >= one.look_around_at]:
            live.look_around_at = LOOK_AROUND_AGAIN * live.travel_radii
            rim = outermost(sight.plane(live.plane), live.last)
            if not any(_same(rim, one.last) for one in self._live):
                self._begin(index, time_s, sight, rim, live.plane)

    def _begin(self, index: int, time_s: float, sight: Sight, rim: Rim, plane: Plane) -> None:
        live = Followed(Tracklet.begun(index), face_of(sight.plane(plane), rim), plane)
        live.see(time_s, rim)
        self._live.append(live)
        self._look_back(live, rim)

    def _make_room(self, rim: Rim) -> bool:
        """Let the smallest disc go that lies still, if it is smaller than this one: what is lifted is near the camera."""
        least = min((one for one in self._live if not one.travelled), key=lambda one: one.last.radius_px, default=None)
        if least is None or least.last.radius_px >= rim.radius_px:
            return False
        self._live.remove(least)
        self._done.append(least.piece)
        return True

    def _found_again(self, live: Followed, rim: Rim) -> None:
        """Go on with a disc that was lost from where it turned up; what was missed is filled in as far back as it can be followed."""
        missed = len(live.piece.x_px) - 1
        overwrite(live.piece, missed, rim)
        for found in self._before(live, rim):
            missed -= 1
            if np.isfinite(live.piece.x_px[missed]):
                break
            overwrite(live.piece, missed, found)
        live.rims.clear()
        live.missed_since_s = None
        live.rims.append((self._recent[-1][1], rim))

    def _look_back(self, live: Followed, rim: Rim) -> None:
        """Follow a newly found disc back through the few frames still at hand."""
        for found in self._before(live, rim):
            prepend(live.piece, found)

    def _before(self, live: Followed, rim: Rim) -> list[Rim]:
        """Where a disc was before it was found in the last frame, latest first, in the frames still at hand."""
        backwards = Followed(Tracklet.begun(0), live.face, live.plane)
        backwards.rims.append((self._recent[-1][1], rim))
        older: list[Rim] = []
        for _, time_s, sight in list(self._recent)[-2::-1]:
            guess, search = backwards.predict(time_s)
            found = backwards.fit(guess, sight.plane(live.plane), search)
            if found is None:
                break
            backwards.rims.append((time_s, found))
            older.append(found)
        return older

    def _note_motion(self, sight: Sight, time_s: float) -> None:
        luma = sight.luma
        cell = max(luma.shape) / GRID_CELLS
        size = (max(round(luma.shape[1] / cell), 1), max(round(luma.shape[0] / cell), 1))
        # A cell holds hundreds of pixels; some of them tell its brightness as well, at a fraction of the cost.
        sparse = cv2.resize(luma, (size[0] * CELL_SAMPLES, size[1] * CELL_SAMPLES), interpolation=cv2.INTER_NEAREST)
        thumb = np.asarray(cv2.resize(sparse, size, interpolation=cv2.INTER_AREA))
        self._motion.append(np.zeros_like(thumb) if self._thumb is None else np.asarray(cv2.absdiff(thumb, self._thumb)))
        self._thumb = thumb
        self._repeats.feed(sparse, any(live.goes_px(time_s) > MOVES_PX for live in self._live))


def _same(rim: Rim, known: Rim) -> bool:
    """Whether a rim is one that is followed already. A much larger one about the same centre is not: it is the disc, that was its hub."""
    near = np.hypot(rim.x_px - known.x_px, rim.y_px - known.y_px) < 0.6 * known.radius_px
    return bool(near and rim.radius_px < MUCH_LARGER * known.radius_px)

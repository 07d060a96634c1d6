"""The coach's word on where the disc is: it outranks what the program saw, and the frames around it follow."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from .track import DiscTrack, RawTracks, bridged

FOLLOW_S = 0.15
TRUSTED = 0.5
CORRECTION_SD_PX = 0.5


@dataclass(frozen=True)
class PointCorrection:
    """The disc's centre at one frame, in pixels of the upright original."""

    frame: int
    x_px: float
    y_px: float


def apply_corrections(raw: RawTracks, track: DiscTrack, corrections: Sequence[PointCorrection]) -> DiscTrack:
    """The track as corrected.

    A point set on another disc that was followed switches to that disc, for as long as it was followed apart from this one. Any
    other point shifts the track there. The shift fades out over 0.15 s to either side, or, where the frames beside it were hardly
    seen, over all of that stretch; between two corrected frames within reach it runs from one shift to the other.

    Raises:
        ValueError: a correction for a frame the clip does not have.
    """
    frames = len(raw.frame_time_s)
    ordered = sorted({c.frame: c for c in corrections}.values(), key=lambda c: c.frame)
    if any(not 0 <= c.frame < frames for c in ordered):
        raise ValueError(f"The clip has frames 0 to {frames - 1}.")
    if not ordered:
        return track
    track = track.copied()
    for correction in ordered:
        _switch_disc(raw, track, correction)

    shift = np.zeros((frames, 2))
    time = raw.frame_time_s
    base = np.stack([bridged(time, track.x_px), bridged(time, track.y_px)], axis=1)
    anchors: dict[int, np.ndarray] = {}
    for correction in ordered:
        anchors[correction.frame] = np.array([correction.x_px, correction.y_px]) - base[correction.frame]
    known = list(anchors.items())
    for order, (frame, amount) in enumerate(known):
        shift[frame] = amount
        for direction in (-1, 1):
            end = _reach(time, track, frame, direction)
            neighbour = known[order + direction] if 0 <= order + direction < len(known) else None
            for here in range(frame + direction, end, direction):
                if neighbour and (neighbour[0] - end) * direction < 0:
                    # The next corrected frame lies within reach: run from this shift to that one.
                    share = (time[here] - time[frame]) / (time[neighbour[0]] - time[frame])
                    if share >= 1:
                        break
                    shift[here] = (1 - share) * amount + share * neighbour[1]
                else:
                    last = time[np.clip(end, 0, frames - 1)]
                    away = abs(time[here] - time[frame]) / max(abs(last - time[frame]), 1e-9)
                    shift[here] = amount * (0.5 + 0.5 * np.cos(np.pi * min(away, 1.0)))
    touched = np.abs(shift).max(axis=1) > 0
    touched[[frame for frame, _ in known]] = True
    track.x_px[touched] = (base + shift)[touched, 0]
    track.y_px[touched] = (base + shift)[touched, 1]
    typical = np.nanmedian(track.radius_px) if np.isfinite(track.radius_px).any() else np.nan
    track.radius_px[touched & np.isnan(track.radius_px)] = typical
    track.sd_px[touched] = np.fmax(np.nan_to_num(track.sd_px[touched], nan=2.0), CORRECTION_SD_PX)
    for frame, _ in known:
        track.confidence[frame], track.sd_px[frame] = 1.0, CORRECTION_SD_PX
    return track


def without(
    track: DiscTrack, distrusted: Sequence[tuple[int, int]], trim: tuple[int, int] | None, *, keep: Sequence[int] = ()
) -> DiscTrack:
    """The track without stretches of frames that are not to be believed, and without what lies outside the trim; frames in `keep`,
    where the coach set the disc, stay."""
    frames = len(track.x_px)
    gone = np.zeros(frames, bool)
    for first, last in distrusted:
        gone[max(first, 0) : last + 1] = True
    gone[[frame for frame in keep if 0 <= frame < frames]] = False
    if trim is not None:
        gone[: max(trim[0], 0)] = True
        gone[trim[1] + 1 :] = True
    if not gone.any():
        return track
    made = {name: np.where(gone, np.nan, getattr(track, name)) for name in ("x_px", "y_px", "radius_px", "squeeze", "sd_px")}
    return replace(track, **made, confidence=np.where(gone, 0.0, track.confidence))


def _reach(time: np.ndarray, track: DiscTrack, frame: int, direction: int) -> int:
    """The first frame, going in a direction, that a correction at `frame` no longer moves; one past the clip at its ends."""
    here = frame + direction
    if 0 <= here < len(time) and not track.confidence[here] >= TRUSTED:
        while 0 <= here < len(time) and not track.confidence[here] >= TRUSTED:
            here += direction
        return here
    while 0 <= here < len(time) and abs(time[here] - time[frame]) < FOLLOW_S:
        here += direction
    return here


def _switch_disc(raw: RawTracks, track: DiscTrack, correction: PointCorrection) -> None:
    """If the point lies on another followed disc, lay that disc's track in from where the two parted to where they meet again."""
    frame = correction.frame
    radius = np.nanmedian(track.radius_px) if np.isfinite(track.radius_px).any() else np.inf
    here = np.hypot(track.x_px[frame] - correction.x_px, track.y_px[frame] - correction.y_px)
    if here < 0.6 * radius:
        return
    for piece in raw.tracklets:
        if not piece.covers(frame):
            continue
        at = frame - piece.first_frame
        size = float(np.nanmedian(piece.radius_px))
        if np.hypot(piece.x_px[at] - correction.x_px, piece.y_px[at] - correction.y_px) < 0.5 * size:
            track.write(piece)
            return

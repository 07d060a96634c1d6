"""What the coach should know of an analysis; and, where there is one, an offer of what would mend it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

import numpy as np

from ..document import rounded
from ..events import Lift
from ..motion import BarTrack
from ..tracking import DiscTrack, RawTracks

# What is left about the lifts when a clip is cut to them, and how much must lie outside before that is offered.
LEFT_ABOUT_S, MUCH_OUTSIDE_S = 1.5, 6.0
# A bar this quick moves; and so many pictures that repeat the one before, a share of those in which it does, are no hiccup.
MOVES_M_S, MANY_REPEATS = 0.5, 0.1


def warning(code: str, message: str, **offer: Any) -> dict[str, Any]:
    """What the coach should know of this analysis; and, ready to be taken up, what would mend it."""
    return {"code": code, "message": message} | ({"offer": offer} if offer else {})


def from_front(side: str) -> dict[str, Any]:
    """What a clip from the front can say."""
    where, shows = (
        ("in front of", "the bar's level and height, knees, feet and hands are measured;")
        if side == "front"
        else ("behind", "the bar's level and height are measured; knees, feet and hands need a film from the front;")
    )
    return warning(
        "from_front",
        f"The camera stands {where} the lifter: {shows} the bar's path, angles and balance need a film from the side. If this is one, say "
        "which way the lifter faces.",
    )


def on_blocks(high_m: float) -> dict[str, Any]:
    """The bar does not begin on the floor."""
    return warning(
        "on_blocks",
        f"The discs begin about {100 * high_m:.0f} cm above the feet: this looks like a lift from blocks or from the hang. Heights above "
        "the floor and the own start are left out.",
    )


def out_of_sight(raw: RawTracks, track: DiscTrack, bars: Sequence[BarTrack]) -> list[dict[str, Any]]:
    """What was bridged, and what was not because the bar was gone for too long."""
    told = []
    hidden = sum(int((~np.isfinite(track.x_px[bar.first_frame : bar.first_frame + len(bar.time_s)])).sum()) for bar in bars)
    if hidden:
        frames = "1 frame" if hidden == 1 else f"{hidden} frames"
        told.append(warning("disc_hidden", f"The disc was out of sight for {frames}; the path there is bridged."))
    if len(bars) > 1:
        ends = [bar.first_frame + len(bar.time_s) - 1 for bar in bars[:-1]]
        gone = sum(raw.frame_time_s[bar.first_frame] - raw.frame_time_s[end] for bar, end in zip(bars[1:], ends, strict=True))
        between = ", ".join(f"{end} and {bar.first_frame}" for bar, end in zip(bars[1:], ends, strict=True))
        told.append(
            warning(
                "disc_gone",
                f"The disc was out of sight for {gone:.1f} s (between frames {between}): no path is drawn there, and a lift that falls "
                "into it is not measured. Set the disc by hand in a few of those frames, or film again.",
            )
        )
    return told


def repeats(raw: RawTracks, bars: Sequence[BarTrack]) -> list[dict[str, Any]]:
    """That the file repeats pictures, where it does so time and again while the bar moves."""
    if not raw.repeated.any():
        return []
    speed = np.concatenate([np.hypot(bar.motion.vx_m_s, bar.motion.vy_m_s) for bar in bars])
    moved = np.concatenate([bar.first_frame + np.arange(len(bar.time_s)) for bar in bars])[speed > MOVES_M_S]
    share = float(raw.repeated[moved].mean()) if len(moved) else 0.0
    if share < MANY_REPEATS:
        return []
    taken_hz = (1 - share) / float(np.median(np.diff(raw.frame_time_s)))
    return [
        warning(
            "repeated",
            f"{100 * share:.0f} % of the pictures in which the bar moves only repeat the one before: this film seems to have been "
            f"made over from one with about {taken_hz:.0f} pictures a second. What lies between is filled in. If you have the "
            "original, send that.",
        )
    ]


def zoomed(raw: RawTracks) -> list[dict[str, Any]]:
    """That somebody zoomed while this was filmed, and by how much."""
    if not raw.shake.zoomed:
        return []
    return [
        warning(
            "zoomed",
            f"The picture was zoomed by {100 * raw.shake.zoomed:.0f} % while this was filmed. That is taken out, but where the camera "
            "stands is not known so well, and every figure is less sure for it. Film without zooming.",
        )
    ]


def seen_late(lift: Lift, bar: BarTrack) -> list[dict[str, Any]]:
    """That a bar from the floor was on its way when it was first seen."""
    if not lift.seen_late:
        return []
    first = f"The disc was followed from {bar.time_s[0]:.1f} s on, when" if bar.first_frame > 0 else "When the clip begins,"
    return [
        warning(
            "start_not_seen",
            f"{first} the bar was already on its way up: nothing is told that rests on when and where it left the floor. Set the disc by "
            "hand where the lift begins, or film from before the bar moves.",
        )
    ]


def no_lift(kind: str, bar: BarTrack) -> dict[str, Any]:
    name = kind.replace("_", " ")
    if bar.first_frame > 0:
        return warning(
            "start_not_seen",
            f"The disc was followed from {bar.time_s[0]:.1f} s on, and no {name} begins after that. Set the disc by hand where the lift "
            "begins, or film again with the disc plain against what is behind it.",
        )
    return warning("no_lift", f"No {name} was found in the bar's path. Check which lift this is.")


def slow_clock(slower: float, rate_hz: float) -> dict[str, Any]:
    return warning(
        "slow_motion",
        f"The bar falls {slower:g} times slower than anything falls: this looks like a slow-motion file. If it was taken at "
        f"{slower * rate_hz:.0f} frames a second, set that; speeds and forces are wrong until then.",
        capture_rate_hz=rounded(slower * rate_hz, 3),
    )


def long_clip(raw: RawTracks, lifts: Sequence[dict[str, Any]], trim: tuple[int, int] | None) -> list[dict[str, Any]]:
    """An offer to leave out what lies before and after the lifts, where that is much."""
    if not lifts or trim is not None:
        return []
    first, last = lifts[0]["start_frame"], lifts[-1]["end_frame"]
    time = raw.frame_time_s
    begin, end = (int(np.argmin(np.abs(time - at))) for at in (time[first] - LEFT_ABOUT_S, time[last] + LEFT_ABOUT_S))
    if time[-1] - (time[end] - time[begin]) < MUCH_OUTSIDE_S:
        return []
    said = "The lift takes" if len(lifts) == 1 else f"The {len(lifts)} lifts take"
    message = f"{said} {time[end] - time[begin]:.0f} of the clip's {time[-1]:.0f} s."
    return [warning("much_outside", message, trim=[begin, end])]

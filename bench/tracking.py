"""Disc, joints, camera and scale against truth: `python -m bench.tracking`, part of `make bench`.

Every clip is analysed from its pixels as the application does it. Its disc is compared with where it truly is, its joints likewise,
beside the network's own points in the same looks; so are segment angles, the scales, the plumb line, the camera's yaw, and the share
of errors that lie within two stated deviations. The demo clips come first, then clips that nothing was fitted to (`unseen.toml`). Each
set ends with its medians over clips, and with the same by the conditions in which clips were filmed.
"""

from __future__ import annotations

import json
import sys
import time
from collections.abc import Callable
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np
from bench.clips import from_the_side
from bench.tables import table

from atleta.analysis import Settings, build_document, track_clip
from atleta.footage import ClipInfo, content_hash, probe
from atleta.motion import fill_short_gaps
from atleta.simulation import Camera
from atleta.simulation.asked import asked_camera
from atleta.simulation.look import Gym
from atleta.simulation.recipe import Clip, read_recipe
from atleta.tracking import RawTracks
from atleta.tracking.network import AT, pair

HERE = Path(__file__).parent
SETS = {"demo": HERE.parent / "demo" / "clips", "unseen": HERE / ".unseen"}
RECIPES = {"demo": HERE.parent / "demo" / "film.toml", "unseen": HERE / "unseen.toml"}
CONDITIONS: dict[str, Callable[[Clip, Camera], bool]] = {
    "square from the side": lambda clip, camera: abs(camera.yaw_deg) < 3,
    "from 4–12° aside": lambda clip, camera: abs(camera.yaw_deg) >= 3,
    "up to 30 frames/s": lambda clip, camera: camera.fps <= 30,
    "60 frames/s": lambda clip, camera: 30 < camera.fps <= 60,
    "120 frames/s and more": lambda clip, camera: camera.fps > 60,
    "held upright": lambda clip, camera: camera.height_px > camera.width_px,
    "dim": lambda clip, camera: camera.light < 0.8,
    "in a hand": lambda clip, camera: camera.shake_px > 0,
    "people walk behind": lambda clip, camera: clip.told.get("walkers", 0) > 0,
    "somebody passes in front": lambda clip, camera: "loader_at_s" in clip.told,
    "discs lie about": lambda clip, camera: clip.room.get("spare_discs", Gym().spare_discs) > 0,
}
# An occlusion is short up to this. What one of each length would do to a disc in sight is tried anew so often, where the bar moves so fast.
SHORT_S = 0.3
HIDDEN_S, HIDDEN_ANEW_S, MOVES_M_S = (0.1, 0.2, 0.3), 0.05, 0.3
PARTS = ("shoulder", "elbow", "hip", "knee", "ankle", "heel", "toe", "ear")
SEGMENTS = {"trunk": ("hip", "shoulder"), "thigh": ("hip", "knee"), "shin": ("knee", "ankle"), "upper arm": ("shoulder", "elbow")}
HIP_NEAR = 0.10


def compared(clip: Path) -> dict:
    """Errors of one clip, analysed from its pixels, and what that took."""
    info = probe(clip)
    began = time.perf_counter()
    raw = track_clip(clip, info)
    return errors(clip, info, raw, began)


def errors(clip: Path, info: ClipInfo, raw: RawTracks, began: float) -> dict:
    """Errors of one clip: the disc in px of a 720p picture, joints in mm (ours and the model's own, seen and hidden), angles in degrees,
    and the rest."""
    truth = json.loads(clip.with_suffix(".truth.json").read_text())
    lift = truth["lifts"][0]
    kinds = {one["kind"] for one in truth["lifts"]}
    said = Settings(
        lift="clean_and_jerk" if {"clean", "split_jerk"} <= kinds else lift["kind"],
        load_kg=truth["simulation"]["load_kg"], stature_m=truth["simulation"]["stature_m"],
    )  # fmt: skip
    document = build_document(raw, info, content_hash(clip), said)
    took = (time.perf_counter() - began) / document["clip"]["duration_s"]
    if not document["joints"]:
        return {"clip": clip.stem}
    disc, bridged = disc_errors(document, truth)
    until = truth["lifts"][-1]["events"].get("release", {"frame": len(truth["disc"]["x_px"])})["frame"] - 3
    mm = 1000 * truth["scale"]["body_m_per_px"]
    near = truth["clip"]["facing"]
    looks = raw.people.frame[raw.people.frame < until]
    score = raw.people.score[: len(looks)]
    seen, hidden, model_seen, model_hidden, within = [], [], [], [], []
    ours, true = {}, {}
    for part in PARTS:
        told, joint = document["joints"][f"{near}_{part}"], truth["joints"][f"{near}_{part}"]
        ours[part], true[part] = (np.array([row["x_px"], row["y_px"]], float)[:, :until] for row in (told, joint))
        off = mm * np.hypot(*(ours[part] - true[part]))
        known = np.isfinite(off)
        behind = np.array(joint["occluded"], bool)[:until]
        seen += off[known & ~behind].tolist()
        hidden += off[known & behind].tolist()
        within += (off[known] < 20 * np.array(told["sd_cm"], float)[:until][known]).tolist()
        column = AT[f"{near}_{part}"]
        model = mm * np.hypot(*(raw.people.points[: len(looks), column].T - true[part][:, looks]))
        model_seen += model[~behind[looks]].tolist()
        model_hidden += model[behind[looks]].tolist()
    angles = []
    for a, b in SEGMENTS.values():
        turned = [np.arctan2(*(rows[b] - rows[a])[::-1]) for rows in (ours, true)]
        off = np.degrees(np.abs(np.angle(np.exp(1j * (turned[0] - turned[1])))))
        angles += off[np.isfinite(off)].tolist()
    hips = raw.people.points[: len(looks), list(pair("hip"))].mean(1).T
    true_hips = np.mean([[truth["joints"][f"{side}_hip"][axis] for axis in ("x_px", "y_px")] for side in ("left", "right")], axis=0)
    found = (score > 0.5) & (np.hypot(*(hips - true_hips[:, looks])) < HIP_NEAR * truth["clip"]["height"])
    view, scale = document["clip"]["view"], document["scale"]
    return {
        "clip": clip.stem, "seen": seen, "hidden": hidden, "model_seen": model_seen, "model_hidden": model_hidden, "angles": angles,
        "within": within, "disc": disc, "bridged": bridged, "took": took, "plumb": scale["plumb_deg"] - truth["scale"]["plumb_deg"],
        "plumb_source": scale["plumb_source"], "person": float(np.mean(score > 0.5)), "placed": float(np.mean(found)),
        "scale": 100 * (scale["body_m_per_px"] / truth["scale"]["body_m_per_px"] - 1),
        "disc_scale": 100 * (scale["m_per_px"] / truth["scale"]["m_per_px"] - 1),
        "yaw": view["yaw_deg"] - truth["clip"]["view"]["yaw_deg"], "true_yaw": truth["clip"]["view"]["yaw_deg"],
        "facing": document["clip"]["facing"] == truth["clip"]["facing"], "hidden_px": hidden_errors(document, truth),
    }  # fmt: skip


def disc_errors(document: dict, truth: dict) -> tuple[list[float], list[float]]:
    """Of the disc's centre until the bar is let go, in px of a picture whose shorter side has 720: where it was in sight, and where a
    short gap was bridged."""
    until = truth["lifts"][-1]["events"].get("release", {"frame": len(truth["disc"]["x_px"])})["frame"]
    small = 720 / min(truth["clip"]["width"], truth["clip"]["height"])
    told, true = (np.array([rows["disc"][axis][:until] for axis in ("x_px", "y_px")], float) for rows in (document, truth))
    off = small * np.hypot(*(told - true))
    at = np.array(truth["clip"]["frame_time_s"][:until])
    gone = ~np.isfinite(told[0])
    # As whatever is measured of the bar bridges them.
    whole, filled = zip(*(fill_short_gaps(at, row, longest_s=SHORT_S) for row in told), strict=True)
    bridged = (small * np.hypot(*(np.array(whole) - true)))[filled[0]].tolist()
    return off[~gone].tolist(), bridged


def hidden_errors(document: dict, truth: dict) -> list[float]:
    """Of the disc's centre while it would be hidden for each of `HIDDEN_S`, px as above: RMS of a stretch, median over all of them in which
    the bar of the first lift moves."""
    lift = truth["lifts"][0]
    first, last = lift["start_frame"], min(lift["end_frame"], lift["events"].get("release", {"frame": lift["end_frame"]})["frame"])
    small = 720 / min(truth["clip"]["width"], truth["clip"]["height"])
    at = np.array(truth["clip"]["frame_time_s"][first:last])
    told, true = (np.array([rows["disc"][axis][first:last] for axis in ("x_px", "y_px")], float) for rows in (document, truth))
    found = []
    for length in HIDDEN_S:
        off = []
        for begins in np.arange(at[0], at[-1] - length, HIDDEN_ANEW_S):
            gone = (at > begins) & (at < begins + length)
            if truth["scale"]["m_per_px"] * np.hypot(*np.diff(true[:, gone])).sum() < MOVES_M_S * length:
                continue
            # The frames about it are no part of it.
            longest = length + 2 * float(np.diff(at).max())
            way = np.array([fill_short_gaps(at, np.where(gone, np.nan, row), longest_s=longest)[0] for row in told])
            off.append(small * np.sqrt(np.mean(((way - true)[:, gone] ** 2).sum(axis=0))))
        found.append(float(np.nanmedian(off)) if np.isfinite(off).any() else float("nan"))
    return found


def rms(values: list[float]) -> float:
    return float(np.sqrt(np.mean(np.square(values)))) if values else float("nan")


def _median(values: list[float]) -> str:
    return f"{np.median(values):.0f}" if values else "–"


def row(got: dict) -> list[str]:
    return [
        got["clip"], f"{rms(got['disc']):.2f} ({max(got['disc']):.1f})", f"{got['person']:.0%}", f"{got['placed']:.0%}",
        f"{_median(got['seen'])} / {_median(got['model_seen'])}", f"{_median(got['hidden'])} / {_median(got['model_hidden'])}",
        f"{np.median(got['angles']):.1f} ({np.percentile(got['angles'], 95):.0f})", f"{np.mean(got['within']):.0%}",
        f"{got['disc_scale']:+.1f}", f"{got['scale']:+.1f}", f"{got['plumb']:+.2f} {got['plumb_source']}",
        f"{got['true_yaw']:+.0f}: {got['yaw']:+.1f}", "yes" if got["facing"] else "NO", f"{got['took']:.1f}",
    ]  # fmt: skip


def middle(name: str, told: list[dict]) -> list[str]:
    """Medians over clips."""

    def over(value: Callable[[dict], float]) -> float:
        values = [value(one) for one in told]
        return float(np.nanmedian(values)) if np.isfinite(values).any() else float("nan")

    def pair(ours: str, model: str) -> str:
        both = [over(lambda one, key=key: float(np.median(one[key])) if one[key] else float("nan")) for key in (ours, model)]
        return "{:.0f} / {:.0f}".format(*both)

    angles = [over(lambda one, q=q: float(np.percentile(one["angles"], q))) for q in (50, 95)]
    return [
        name, str(len(told)), f"{over(lambda one: rms(one['disc'])):.2f}", f"{over(lambda one: rms(one['bridged'])):.1f}",
        f"{over(lambda one: abs(one['disc_scale'])):.2f}", f"{over(lambda one: abs(one['scale'])):.1f}",
        f"{over(lambda one: abs(one['plumb'])):.2f}", pair("seen", "model_seen"), pair("hidden", "model_hidden"),
        "{:.1f} ({:.0f})".format(*angles), f"{over(lambda one: float(np.mean(one['within']))):.0%}",
        f"{over(lambda one: abs(one['yaw'])):.1f}", f"{sum(one['facing'] for one in told)}", f"{over(lambda one: one['took']):.1f}",
    ]  # fmt: skip


def report(name: str, got: list[dict]) -> None:
    """The tables of one set of clips."""
    head = [
        "clip", "disc px RMS (most)", "person", "placed", "seen mm", "hidden mm", "angles °", "in 2 sd", "disc scale %", "body scale %",
        "plumb °", "yaw °", "facing", "x length",
    ]  # fmt: skip
    told = [one for one in got if "seen" in one]
    table(head, [row(one) for one in told])
    for one in got:
        if "seen" not in one:
            print(f"{one['clip']}: no joints were told\n")
    recipe = {clip.name: clip for clip in read_recipe(RECIPES[name])}
    rows = [middle(f"all of {name}", told)]
    for condition, holds in CONDITIONS.items():
        if those := [one for one in told if holds(clip := recipe[one["clip"]], asked_camera(clip.told.get("camera", "")))]:
            rows.append(middle(condition, those))
    hidden = np.nanmedian([one["hidden_px"] for one in told], axis=0)
    print("The disc hidden anywhere where it moves, and bridged (median over clips): "
          + ", ".join(f"{px:.1f} px for {length:g} s" for px, length in zip(hidden, HIDDEN_S, strict=True)) + "\n")  # fmt: skip
    print("Medians over clips, of errors without their sign; joints and angles: a clip's median, and in brackets its 95th percentile.\n")
    head = [
        "condition", "clips", "disc px RMS", "short gaps px", "disc scale %", "body scale %", "plumb °", "seen mm", "hidden mm", "angles °",
        "in 2 sd", "yaw °", "facing right", "x length",
    ]  # fmt: skip
    table(head, rows)


def main(names: list[str]) -> None:
    print("Joints of the side towards the camera, median error: ours / the network's own points. Angles: median (95th percentile).\n")
    for name in names:
        clips = from_the_side(SETS[name])
        # One at a time: what a clip takes is told as well.
        with ProcessPoolExecutor(1, max_tasks_per_child=1) as pool:
            report(name, list(pool.map(compared, clips)))


if __name__ == "__main__":
    main(sys.argv[1:] or list(SETS))

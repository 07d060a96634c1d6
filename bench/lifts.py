"""Events, measures and findings against truth: `python -m bench.lifts`, part of `make bench`.

Every clip is analysed from its pixels as the application does it, once; its first matching lift is compared with the true one. The demo
clips come first, then clips that nothing was fitted to (`unseen.toml`).
"""

from __future__ import annotations

import json
import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np
from bench.clips import from_the_side
from bench.tables import table
from bench.tracking import SETS

from atleta.analysis import Settings, build_document, track_clip
from atleta.footage import content_hash, probe

# Rows of the table: how they are called, and which measures they gather.
GROUPS = {
    "peak velocity, m/s": ("peak_velocity",),
    "peak height, cm": ("peak_height",),
    "drop to meet, cm": ("drop_to_meet",),
    "trunk angles, °": ("trunk_angle@",),
    "knee and hip angles, °": ("knee_angle@", "hip_angle@", "extension_"),
    "shoulder, knee, hip against bar, cm": ("shoulder_over_bar@", "knee_over_bar@", "hip_bar_distance@"),
    "bar against foot, cm": ("bar_over_ball@", "bar_over_midfoot@"),
    "balance, cm": ("balance@",),
    "depth, cm": ("depth",),
}
IN_CM = {"m": 100.0}
EVENTS = ("set", "lift_off", "knee", "first_pull_end", "rebend", "contact", "peak_speed", "extension", "apex", "meet", "lockout", "bottom",
          "low_point", "stand", "release", "dip_start", "dip_bottom", "drive_end", "back_foot_down", "front_foot_down", "first_step",
          "recovered", "descent_start", "hold_start", "hold_end")  # fmt: skip


def compared(clip: Path) -> dict:
    """Errors of one clip: events in frames, measures by group with their deviations, findings by true and found level."""
    truth = json.loads(clip.with_suffix(".truth.json").read_text())
    kinds = [lift["kind"] for lift in truth["lifts"]]
    info = probe(clip)
    said = Settings(
        lift="clean_and_jerk" if {"clean", "split_jerk"} <= set(kinds) else kinds[0],
        load_kg=truth["simulation"]["load_kg"], stature_m=truth["simulation"]["stature_m"],
    )  # fmt: skip
    document = build_document(track_clip(clip, info), info, content_hash(clip), said)
    got: dict = {"clip": clip.stem, "lifts": (len(document["lifts"]), len(truth["lifts"])), "events": [], "measures": [], "findings": []}
    step = float(np.median(np.diff(truth["clip"]["frame_time_s"])))
    for true in truth["lifts"]:
        # The found lift of this kind that begins nearest to where it truly does.
        same = [lift for lift in document["lifts"] if lift["kind"] == true["kind"]]
        found = min(same, key=lambda lift: abs(lift["start_frame"] - true["start_frame"]), default=None)
        for name in EVENTS:
            if name in true["events"]:
                told = found["events"].get(name) if found else None
                got["events"].append((name, None if told is None else (told["time_s"] - true["events"][name]["time_s"]) / step))
        if found is None:
            continue
        for group, starts in GROUPS.items():
            for name, measure in found["measures"].items():
                if _belongs(name, starts) and name in true["measures"] and measure["value"] is not None:
                    scale = IN_CM.get(measure["unit"], 1.0)
                    off = scale * (measure["value"] - true["measures"][name]["value"])
                    got["measures"].append((group, off, scale * measure["sd"]))
        truly = {row["fault"]: row["level"] for row in true["findings"]}
        got["findings"] += [(row["fault"], truly[row["fault"]], row["level"]) for row in found["findings"] if row["fault"] in truly]
    return got


def _belongs(measure: str, starts: tuple[str, ...]) -> bool:
    """Whether a measure is one of these; a name that ends in @ or _ stands for all that begin so."""
    return any(measure == start or (start[-1] in "@_" and measure.startswith(start)) for start in starts)


def report(name: str, clips: list[Path]) -> None:
    """Compare these clips, and print the tables."""
    with ProcessPoolExecutor(2) as pool:
        got = list(pool.map(compared, clips))
    print(f"\n{name}: lifts found {sum(one['lifts'][0] for one in got)} of {sum(one['lifts'][1] for one in got)}\n")
    events = [event for one in got for event in one["events"]]
    rows = []
    for event in EVENTS:
        off = [abs(value) for told, value in events if told == event and value is not None]
        asked = sum(told == event for told, _ in events)
        if asked:
            rows.append([event, f"{len(off)} of {asked}", *(f"{np.percentile(off, p):.1f}" if off else "–" for p in (50, 95))])
    off = [abs(value) for _, value in events if value is not None]
    rows.append(["all", f"{len(off)} of {len(events)}", f"{np.median(off):.1f}", f"{np.percentile(off, 95):.1f}"])
    table(["event", "found", "median frames", "95th percentile"], rows)
    rows = []
    for group in GROUPS:
        here = np.array([(value, sd) for told, value, sd in (row for one in got for row in one["measures"]) if told == group])
        if len(here):
            within = np.mean(np.abs(here[:, 0]) <= 2 * np.maximum(here[:, 1], 1e-9))
            rows.append([group, str(len(here)), f"{np.median(np.abs(here[:, 0])):.2f}", f"{np.percentile(np.abs(here[:, 0]), 95):.2f}",
                         f"{within:.0%}"])  # fmt: skip
    table(["measure", "numbers", "median error", "95th percentile", "in 2 sd"], rows)
    findings = [row for one in got for row in one["findings"]]
    count = {pair: sum((true, found) == pair for _, true, found in findings) for pair in {row[1:] for row in findings}}
    hit, false = count.get(("fault", "fault"), 0), count.get(("fine", "fault"), 0)
    there = sum(n for (true, _), n in count.items() if true == "fault")
    untold = count.get(("fault", "cannot_tell"), 0)
    lifts = sum(one["lifts"][1] for one in got)
    print(f"faults: {there} there, {hit} found, {untold} said to be not to be told, {there - hit - untold} missed or only watched; "
          f"{false} found that are not there ({false / max(lifts, 1):.2f} a lift)")  # fmt: skip
    print("found though not there:", ", ".join(sorted({fault for fault, true, found in findings if (true, found) == ("fine", "fault")})))


def main(names: list[str]) -> None:
    for name in names:
        report(name, from_the_side(SETS[name]))


if __name__ == "__main__":
    main(sys.argv[1:] or list(SETS))

"""Measure Atleta here and now: `make bench`.

Every row is computed in this run. Each clip's analysis runs in a process of its own, so that its memory is its own; the general
trackers of OpenCV get the same clips, and the true box in the first frame.
"""

from __future__ import annotations

import argparse
import json
import resource
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

import cv2
import numpy as np
from bench.clips import looped
from bench.tables import table

from atleta.analysis import Settings, build_document, track_clip
from atleta.footage import content_hash, probe, read_frames
from atleta.tracking import DiscTracker, choose_lifted
from atleta.tracking.network import LifterNetwork, Square

CLIPS = Path(__file__).parents[1] / "demo" / "clips"
GENERAL: dict[str, Callable[[], cv2.Tracker]] = {
    name: getattr(cv2, f"Tracker{name}_create") for name in ("CSRT", "KCF") if hasattr(cv2, f"Tracker{name}_create")
}
# A clip of twelve lifts is as long as a session on one film gets.
LOOPS, LOOKS = 12, 40
# General trackers take minutes a clip; these stand for the rest.
COMPARED = ("bram-clean-104", "ida-jerk-92", "ida-snatch-68", "ida-snatch-76", "orla-snatch-45", "tobin-clean-85")


def truth_of(clip: Path) -> dict:
    """What is compared of a clip's truth: its first lift's events and measures as bare numbers, and the disc."""
    told = json.loads(clip.with_suffix(".truth.json").read_text())
    lift = told["lifts"][0]
    return {
        "kind": lift["kind"], "load_kg": told["simulation"]["load_kg"], "stature_m": told["simulation"]["stature_m"],
        "frame_time_s": told["clip"]["frame_time_s"], "disc": told["disc"],
        "events": {name: event["time_s"] for name, event in lift["events"].items()},
        "measures": {name: measure["value"] for name, measure in lift["measures"].items()},
        "faults": {row["fault"]: row["level"] for row in lift["findings"]},
    }  # fmt: skip


def rms_px(x: np.ndarray, y: np.ndarray, truth: dict) -> tuple[float, float, float]:
    """RMS and largest error of the disc's centre (px) until the bar is let go, and the share of those frames in which it was seen."""
    until = int(np.searchsorted(truth["frame_time_s"], truth["events"].get("release", np.inf)))
    off = np.hypot(x - np.array(truth["disc"]["x_px"][: len(x)]), y - np.array(truth["disc"]["y_px"][: len(y)]))[:until]
    seen = np.isfinite(off)
    return float(np.sqrt(np.mean(off[seen] ** 2))), float(off[seen].max()), float(seen.mean())


def measure(clip: Path) -> dict:
    """Decode, follow and derive one clip; CPU time a frame and peak memory of this process."""
    cv2.setNumThreads(1)
    info = probe(clip)
    start, cpu = time.perf_counter(), time.process_time()
    count = sum(1 for frame in read_frames(clip) if frame.luma().size)
    decode_s, decode_cpu = time.perf_counter() - start, time.process_time() - cpu

    cpu = time.process_time()
    tracker = DiscTracker()
    for frame in read_frames(clip):
        tracker.feed(frame.index, frame.time_s, frame.luma(), frame.chroma)
    choose_lifted(tracker.finish())
    discs_cpu = time.process_time() - cpu

    start, cpu = time.perf_counter(), time.process_time()
    raw = track_clip(clip, info)
    track_s, track_cpu = time.perf_counter() - start, time.process_time() - cpu

    start = time.perf_counter()
    settings = Settings(lift="other", stature_m=1.7)
    side = clip.with_suffix(".truth.json")
    if side.exists():
        truth = truth_of(clip)
        settings = Settings(lift=truth["kind"], load_kg=truth["load_kg"], stature_m=truth["stature_m"])
    document = build_document(raw, info, content_hash(clip), settings)
    derive_s = time.perf_counter() - start
    return {
        "frames": count, "decode_hz": count / decode_s, "decode_cpu_ms": 1000 * decode_cpu / count,
        "follow_cpu_ms": 1000 * (discs_cpu - decode_cpu) / count, "track_cpu_ms": 1000 * track_cpu / count,
        "whole_hz": count / (track_s + derive_s), "derive_s": derive_s,
        "realtime": document["clip"]["duration_s"] / (track_s + derive_s),
        "memory_mb": resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024,
        "document": document,
    }  # fmt: skip


def look_cpu_ms(clip: Path) -> float:
    """What one look of the lifter network takes here (CPU-ms), by which other machines' figures can be compared."""
    network, picture = LifterNetwork(), next(read_frames(clip)).bgr()
    square = Square(picture.shape[1] / 2, picture.shape[0] / 2, float(picture.shape[0]))
    network.look(picture, square)
    cpu = time.process_time()
    for _ in range(LOOKS):
        network.look(picture, square)
    return 1000 * (time.process_time() - cpu) / LOOKS


def in_own_process(clip: Path) -> dict:
    out = subprocess.run([sys.executable, __file__, "--one", str(clip)], check=True, capture_output=True, text=True)
    return json.loads(out.stdout)


def general_tracker(make: Callable[[], cv2.Tracker], clip: Path, truth: dict) -> tuple[np.ndarray, np.ndarray, float]:
    """Centres by one of OpenCV's general trackers, and its CPU time a frame (ms)."""
    x, y, r = (truth["disc"][name] for name in ("x_px", "y_px", "radius_px"))
    tracker, xs, ys, spent = make(), [], [], 0.0
    for frame in read_frames(clip):
        picture = frame.bgr()
        begin = time.process_time()
        if frame.index == 0:
            tracker.init(picture, (round(x[0] - r[0]), round(y[0] - r[0]), round(2 * r[0]), round(2 * r[0])))
            found, box = True, (x[0] - r[0], y[0] - r[0], 2 * r[0], 2 * r[0])
        else:
            found, box = tracker.update(picture)
        spent += time.process_time() - begin
        xs.append(box[0] + box[2] / 2 if found else np.nan)
        ys.append(box[1] + box[3] / 2 if found else np.nan)
    return np.array(xs), np.array(ys), 1000 * spent / len(xs)


def _error(measure: dict, true: float) -> str:
    return "cannot tell" if measure["value"] is None else f"{measure['value'] - true:+.3f} ({measure['sd']:.3f})"


def main() -> None:
    clips = [CLIPS / f"{name}.mp4" for name in COMPARED]
    results = {clip: in_own_process(clip) for clip in clips}
    print("Speed and memory, one process a clip (whole analysis: decode, follow, derive everything)\n")
    rows = []
    for clip, got in results.items():
        info = probe(clip)
        rows.append([
            clip.stem, f"{info.width_px}x{info.height_px}", str(got["frames"]), f"{got['decode_hz']:.0f}", f"{got['follow_cpu_ms']:.1f}",
            f"{got['track_cpu_ms']:.1f}", f"{got['whole_hz']:.0f}", f"{got['realtime']:.1f}",
            f"{1000 * got['derive_s']:.0f}", f"{got['memory_mb']:.0f}",
        ])  # fmt: skip
    with tempfile.TemporaryDirectory() as folder:
        long = in_own_process(looped(clips[0], Path(folder) / "long.mp4", LOOPS))
    rows.append([
        f"{clips[0].stem} x {LOOPS}", "", str(long["frames"]), f"{long['decode_hz']:.0f}", f"{long['follow_cpu_ms']:.1f}",
        f"{long['track_cpu_ms']:.1f}", f"{long['whole_hz']:.0f}", f"{long['realtime']:.1f}",
        f"{1000 * long['derive_s']:.0f}", f"{long['memory_mb']:.0f}",
    ])  # fmt: skip
    table(
        ["clip", "picture", "frames", "decode f/s", "discs CPU-ms/f", "all CPU-ms/f", "whole f/s", "x real time", "derive ms", "peak MB"],
        rows,
    )

    times = [1 / got["realtime"] for got in results.values()]
    print(
        f"Whole analysis, median: {np.median(times):.2f} x the clip. One look of the lifter network: {look_cpu_ms(clips[0]):.0f} CPU-ms.\n"
    )

    print("Disc centre against truth until the bar is let go: RMS (largest) in px, share of frames seen, CPU-ms a frame\n")
    rows = []
    for clip, got in results.items():
        truth = truth_of(clip)
        x, y = (np.array(got["document"]["disc"][axis], float) for axis in ("x_px", "y_px"))
        cells = [clip.stem, "{:.2f} ({:.2f}) {:.0%}".format(*rms_px(x, y, truth))]
        cells[-1] += f" {got['follow_cpu_ms']:.1f} ms"
        for make in GENERAL.values():
            x, y, cpu_ms = general_tracker(make, clip, truth)
            cells.append("{:.2f} ({:.1f}) {:.0%}".format(*rms_px(x, y, truth)) + f" {cpu_ms:.1f} ms")
        rows.append(cells + [""] * (1 + len(GENERAL) + 1 - len(cells)))
    table(["clip", "Atleta", *GENERAL], rows)

    print("Measures against truth: error (stated standard deviation)\n")
    names = [
        "peak_velocity",
        "peak_height",
        "drop_to_meet",
        "bar_forward_before_knee",
        "loop_width",
        "early_force_ratio",
        "vertical_work_share",
    ]
    rows, units = [], {}
    for clip, got in results.items():
        true = truth_of(clip)["measures"]
        if not set(names) <= true.keys() or not got["document"]["lifts"]:
            continue
        told = got["document"]["lifts"][0]["measures"]
        units |= {name: told[name]["unit"] for name in names}
        rows.append([clip.stem, *(_error(told[name], true[name]) for name in names)])
    table(["clip", *(f"{name}, {units[name]}" for name in names)], rows)


if __name__ == "__main__":
    parser = argparse.ArgumentParser()
    parser.add_argument("--one", type=Path)
    asked = parser.parse_args()
    if asked.one:
        print(json.dumps(measure(asked.one)))
    else:
        main()

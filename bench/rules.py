"""The rules against truth, from perfect tracks: `python -m bench.rules [repetitions]`, part of `make bench`.

Every fault that can be put into a lift is put in alone, several times, with other builds and other strengths; sound lifts stand beside
them. What is found is compared with what the simulation's own independent judgement calls a fault, something to watch, or absent.
"""

from __future__ import annotations

import sys
from collections import Counter
from concurrent.futures import ProcessPoolExecutor

import numpy as np
from bench.tables import table

from atleta.analysis import Settings, build_document
from atleta.faults import load_catalogue
from atleta.footage import ClipInfo
from atleta.simulation import Build, Camera, Wanted, asked_set, play, truths, verdicts
from atleta.simulation.asked import AT_FULL_STRENGTH
from atleta.simulation.perfect import PerfectBody, perfect_tracks
from atleta.simulation.pulls import sound_plan

KINDS = {"pull": ("snatch", "clean"), "jerk": ("split_jerk",), "squat": ("front_squat", "back_squat", "overhead_squat")}
SOUND = ("snatch", "clean", "power_snatch", "power_clean", "split_jerk", "front_squat", "back_squat")
HIGH = Camera(cover_m=3.0, aim_height_m=1.25)
# Seeds that no test uses.
FIRST_SEED = 9000
LEAST, ROUND = 0.75, 3
# A lifter repeats a bar's largest speed at one load within this share.
USUAL_SPREAD = 0.02


def cases(repetitions: int) -> list[tuple[str, str, int]]:
    """Kind, fault (empty: sound) and seed of every lift."""
    catalogue = load_catalogue()
    found = []
    for fault, families in AT_FULL_STRENGTH.items():
        for kind in (kind for family in families for kind in KINDS.get(family, ())):
            if catalogue.faults[fault].measured and kind in catalogue.faults[fault].kinds:
                found += [(kind, fault) for _ in range(repetitions)]
    found += [(kind, "") for kind in SOUND for _ in range(2 * repetitions)]
    return [(*case, FIRST_SEED + i) for i, case in enumerate(found)]


def judged(case: tuple[str, str, int]) -> dict:
    """One lift: what is truly so of every rule, what was found, and which was named as the first cause."""
    kind, fault, seed = case
    rng = np.random.default_rng(seed)
    build = Build(float(rng.uniform(1.52, 1.95)))
    faults = {fault: float(rng.uniform(0.75, 1.0))} if fault else {}
    load_kg = float(rng.uniform(50, 120))
    done = play(asked_set(Wanted(kind, build, load_kg, 80.0, None, faults, "", seed)))
    camera = HIGH if "jerk" in kind or kind == "overhead_squat" else Camera()
    raw, truth = perfect_tracks(done, camera, seed=seed)
    said = Settings(
        lift=kind,
        load_kg=load_kg,
        stature_m=build.stature_m,
        facing=truth["clip"]["facing"],
        plumb_deg=0.0,
        usual_speed=_usual(kind, build),
    )
    info = ClipInfo(camera.width_px, camera.height_px, 0, 5.0, len(raw.frame_time_s), 60.0, "h264")
    lifts = build_document(raw, info, "0" * 64, said, PerfectBody(done, camera, seed))["lifts"]
    found = lifts[0]["findings"] if lifts else []
    root = next((row["fault"] for row in found if row["root"] and row["level"] == "fault"), None)
    return {"fault": fault, "truly": verdicts(truths(done)[0], build.stature_m), "found": {row["fault"]: row["level"] for row in found},
            "root": root}  # fmt: skip


def _usual(kind: str, build: Build) -> tuple[float, float] | None:
    """How fast this lifter's bar usually is, with its spread: what eight made lifts before this one would have told."""
    if kind.removeprefix("power_") not in KINDS["pull"]:
        return None
    speed = sound_plan(kind, build).bar.peak_speed_m_s
    return speed, USUAL_SPREAD * speed


def main(repetitions: int = ROUND) -> None:
    with ProcessPoolExecutor(2) as pool:
        got = list(pool.map(judged, cases(repetitions), chunksize=4))
    pairs = Counter((rule, level, one["found"].get(rule, "absent")) for one in got for rule, level in one["truly"].items())
    faults = load_catalogue().faults
    # What a coach alone can see is nothing to be found here.
    rules = sorted({rule for rule, _, _ in pairs if faults[rule].measured}, key=list(faults).index)
    rows, total = [], Counter()
    for rule in rules:
        hit, missed = pairs[rule, "fault", "fault"], sum(pairs[rule, "fault", level] for level in ("fine", "watch", "absent"))
        untold, false = pairs[rule, "fault", "cannot_tell"], pairs[rule, "absent", "fault"]
        total.update(hit=hit, missed=missed, untold=untold, false=false)
        there = hit + missed + untold
        if there or false:
            rows.append([rule, str(there), _share(hit, there), str(untold), str(missed), str(false), _share(hit, hit + false)])
    table(["rule", "there", "found", "cannot tell", "missed or watched", "found though absent", "right when found"], rows)
    there = total["hit"] + total["missed"] + total["untold"]
    right, found, untold = _share(total["hit"], total["hit"] + total["false"]), _share(total["hit"], there), _share(total["untold"], there)
    print(f"\nall rules: {right} of what is found is there, {found} of what is there is found, {untold} said to be not to be told")
    weak = [row[0] for row in rows if min(_number(row[2]), _number(row[6])) < LEAST]
    print(f"rules below {LEAST:.0%} in either: {', '.join(weak) or 'none'}")
    sound = [sum(level == "fault" and one["truly"].get(rule) == "absent" for rule, level in one["found"].items()) for one in got
             if not one["fault"]]  # fmt: skip
    print(f"false faults on {len(sound)} sound lifts: {np.mean(sound):.2f} a lift")
    asked = [one for one in got if one["fault"] and one["truly"].get(one["fault"]) == "fault"]
    named = sum(one["root"] == one["fault"] for one in asked)
    print(f"first cause named right: {_share(named, len(asked))} of {len(asked)} lifts with one cause")
    wrong = Counter((one["fault"], one["root"]) for one in asked if one["root"] != one["fault"])
    print("named instead, most often:", "; ".join(f"{root} for {fault} ({n})" for (fault, root), n in wrong.most_common(12)))


def _share(part: int, whole: int) -> str:
    return f"{part / whole:.0%}" if whole else "–"


def _number(share: str) -> float:
    return float(share.rstrip("%")) / 100 if share != "–" else 1.0


if __name__ == "__main__":
    main(*(int(word) for word in sys.argv[1:]))

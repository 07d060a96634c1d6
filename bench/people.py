"""Joints, camera and scale against truth: `python -m bench.people`, part of `make bench`.

Every clip is analysed from its pixels as the application does it. Its joints are compared with where they truly are, beside the pose
model's own points in the same looks; so are segment angles, the scale in the lifter's plane, the camera's yaw, and the share of errors
that lie within two stated deviations. The demo clips come first, then clips that nothing was fitted to (`unseen.toml`).
"""

from __future__ import annotations

import json
import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

import numpy as np
from bench.tables import table

from atleta.analysis import Settings, build_document, track_clip
from atleta.footage import content_hash, probe
from atleta.motion.body.model import MODEL_POINT

HERE = Path(__file__).parent
SETS = {"demo": HERE.parent / "demo" / "clips", "unseen": HERE / ".unseen"}
PARTS = ("shoulder", "elbow", "hip", "knee", "ankle", "heel", "toe", "ear")
SEGMENTS = {"trunk": ("hip", "shoulder"), "thigh": ("hip", "knee"), "shin": ("knee", "ankle"), "upper arm": ("shoulder", "elbow")}
HIP_NEAR = 0.10


def compared(clip: Path) -> dict:
    """Errors of one clip: joints in mm (ours and the model's own, seen and hidden), angles in degrees, and the rest."""
    truth = json.loads(clip.with_suffix(".truth.json").read_text())
    lift = truth["lifts"][0]
    kinds = {one["kind"] for one in truth["lifts"]}
    info = probe(clip)
    raw = track_clip(clip, info)
    said = Settings(
        lift="clean_and_jerk" if {"clean", "split_jerk"} <= kinds else lift["kind"],
        load_kg=truth["simulation"]["load_kg"], stature_m=truth["simulation"]["stature_m"],
    )  # fmt: skip
    document = build_document(raw, info, content_hash(clip), said)
    if not document["joints"]:
        return {"clip": clip.stem}
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
        column = MODEL_POINT[part][0 if near == "left" else 1]
        model = mm * np.hypot(*(raw.people.points[: len(looks), column].T - true[part][:, looks]))
        model_seen += model[~behind[looks]].tolist()
        model_hidden += model[behind[looks]].tolist()
    angles = []
    for a, b in SEGMENTS.values():
        turned = [np.arctan2(*(rows[b] - rows[a])[::-1]) for rows in (ours, true)]
        off = np.degrees(np.abs(np.angle(np.exp(1j * (turned[0] - turned[1])))))
        angles += off[np.isfinite(off)].tolist()
    hips = raw.people.points[: len(looks), 23:25].mean(1).T
    true_hips = np.mean([[truth["joints"][f"{side}_hip"][axis] for axis in ("x_px", "y_px")] for side in ("left", "right")], axis=0)
    found = (score > 0.5) & (np.hypot(*(hips - true_hips[:, looks])) < HIP_NEAR * truth["clip"]["height"])
    view, scale = document["clip"]["view"], document["scale"]
    return {
        "clip": clip.stem, "seen": seen, "hidden": hidden, "model_seen": model_seen, "model_hidden": model_hidden, "angles": angles,
        "within": within, "person": float(np.mean(score > 0.5)), "placed": float(np.mean(found)),
        "scale": 100 * (scale["body_m_per_px"] / truth["scale"]["body_m_per_px"] - 1),
        "disc_scale": 100 * (scale["m_per_px"] / truth["scale"]["m_per_px"] - 1),
        "yaw": view["yaw_deg"] - truth["clip"]["view"]["yaw_deg"], "true_yaw": truth["clip"]["view"]["yaw_deg"],
        "facing": document["clip"]["facing"] == truth["clip"]["facing"],
    }  # fmt: skip


def _median(values: list[float]) -> str:
    return f"{np.median(values):.0f}" if values else "–"


def row(got: dict) -> list[str]:
    return [
        got["clip"], f"{got['person']:.0%}", f"{got['placed']:.0%}", f"{_median(got['seen'])} / {_median(got['model_seen'])}",
        f"{_median(got['hidden'])} / {_median(got['model_hidden'])}",
        f"{np.median(got['angles']):.1f} ({np.percentile(got['angles'], 95):.0f})", f"{np.mean(got['within']):.0%}",
        f"{got['disc_scale']:+.1f}", f"{got['scale']:+.1f}", f"{got['true_yaw']:+.0f}: {got['yaw']:+.1f}", "yes" if got["facing"] else "NO",
    ]  # fmt: skip


def main(names: list[str]) -> None:
    head = ["clip", "person", "placed", "seen mm", "hidden mm", "angles °", "in 2 sd", "disc scale %", "body scale %", "yaw °", "facing"]
    print("Joints of the side towards the camera, median error: ours / the pose model's own points. Angles: median (95th percentile).\n")
    for name in names:
        clips = sorted(SETS[name].glob("*.mp4"))
        with ProcessPoolExecutor(2) as pool:
            got = list(pool.map(compared, clips))
        told = [one for one in got if "seen" in one]
        whole = {
            key: [value for one in told for value in one[key]]
            for key in ("seen", "hidden", "model_seen", "model_hidden", "angles", "within")
        }
        middle = {key: float(np.median([abs(one[key]) for one in told])) for key in ("scale", "disc_scale", "yaw", "true_yaw")}
        middle |= {key: float(np.mean([one[key] for one in told])) for key in ("person", "placed")}
        every = {"clip": f"all of {name}", "facing": all(one["facing"] for one in told)}
        table(head, [*(row(one) for one in told), row(whole | middle | every)])
        for one in got:
            if "seen" not in one:
                print(f"{one['clip']}: no joints were told")


if __name__ == "__main__":
    main(sys.argv[1:] or list(SETS))

"""How well single squares of clips that other code drew are read by a network that has learned, with no tracking and no fit.

    python -m training.judge --clips FOLDER --run training/.runs/first

FOLDER holds clips with their truth beside them, as the foreign clips have it. For judging only: nothing is learned from these.
"""

from __future__ import annotations

import argparse
import json
from pathlib import Path

import cv2
import numpy as np
import torch
from numpy.typing import NDArray

from atleta.footage import read_frames
from atleta.tracking.network import Square

from .network import Held, Learner
from .squares import JOINTS, KEPT_PX

Floats = NDArray[np.float64]
EVERY = 7
# A square reaches so much beyond the joints of its lifter.
MARGIN = 1.3
ANGLES = {"hip": ("shoulder", "hip", "knee"), "knee": ("hip", "knee", "ankle"), "elbow": ("shoulder", "elbow", "wrist")}


def looks(clip: Path, truth: dict) -> list[tuple[NDArray[np.uint8], Square, dict[str, Floats], dict[str, bool]]]:
    """Pictures, the square about the lifter in each, where the joints are and which are hidden."""
    told = []
    for frame in read_frames(clip):
        if frame.index % EVERY:
            continue
        at = {name: np.array([joint["x_px"][frame.index], joint["y_px"][frame.index]], float) for name, joint in truth["joints"].items()}
        hidden = {name: bool(joint["occluded"][frame.index]) for name, joint in truth["joints"].items()}
        places = np.array(list(at.values()))
        low, high = places.min(0), places.max(0)
        told.append((frame.bgr(), Square(*((low + high) / 2), MARGIN * float(max(high - low))), at, hidden))
    return told


@torch.no_grad()
def learned(held: Held, learner: Learner, picture: NDArray[np.uint8], square: Square) -> tuple[dict[str, Floats], dict[str, Floats]]:
    """Joints and their deviations, px of the picture."""
    scale = KEPT_PX / square.side_px
    matrix = np.array([[scale, 0, KEPT_PX / 2 - scale * square.x_px], [0, scale, KEPT_PX / 2 - scale * square.y_px]])
    crop = cv2.warpAffine(picture, matrix, (KEPT_PX, KEPT_PX), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
    given = torch.from_numpy(cv2.cvtColor(crop, cv2.COLOR_BGR2RGB).transpose(2, 0, 1)[None].astype(np.float32) / 255)
    told = learner(*held(given))
    corner = np.array([square.x_px, square.y_px]) - square.side_px / 2
    # A pixel's middle is half a pixel from its corner.
    points = told.points[0].numpy() * square.side_px + corner
    return dict(zip(JOINTS, points, strict=True)), dict(zip(JOINTS, told.sd[0].numpy() * square.side_px, strict=True))


def angle(at: dict[str, Floats], side: str, names: tuple[str, str, str]) -> float:
    a, b, c = (at[f"{side}_{name}"] for name in names)
    one, two = a - b, c - b
    return float(np.degrees(np.arccos(np.clip(one @ two / np.linalg.norm(one) / np.linalg.norm(two), -1, 1))))


def report(rows: list[tuple[str, bool, bool, float, float]], angles: list[tuple[str, float]]) -> None:
    """Median and 95th percentile in mm by side and sight, and of the near side's angles."""
    parts = []
    for near in (True, False):
        for hidden in (False, True):
            off = np.array([row[3] for row in rows if row[1] == near and row[2] == hidden])
            parts.append(
                f"{'near' if near else 'far'} {'hidden' if hidden else 'in sight'} {np.median(off):.0f} / {np.percentile(off, 95):.0f}"
            )
    turned = [f"{joint} {np.median([off for name, off in angles if name == joint]):.1f}°" for joint in ANGLES]
    sure = np.array([row[4] for row in rows])
    print(f"{', '.join(parts)} mm; {', '.join(turned)}; within two deviations {np.mean(sure < 2):.0%}")


def main() -> None:
    asked = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    asked.add_argument("--clips", type=Path, required=True)
    asked.add_argument("--run", type=Path, required=True)
    chosen = asked.parse_args()
    held, learner = Held(), Learner()
    learner.load_state_dict(torch.load(chosen.run / "last.pt")["averaged"])
    learner.eval()
    rows: list[tuple[str, bool, bool, float, float]] = []
    angles: list[tuple[str, float]] = []
    clips = sorted(chosen.clips.glob("*.mp4"))
    if not clips:
        asked.error(f"There are no clips in {chosen.clips}. Give the folder that holds the .mp4 files and their .truth.json.")
    for clip in clips:
        truth = json.loads(clip.with_suffix(".truth.json").read_text())
        mm = 1000 * truth["camera"]["distance_m"] / truth["camera"]["focal_px"]
        for picture, square, at, hidden in looks(clip, truth):
            points, sds = learned(held, learner, picture, square)
            near = truth["near_side"]
            for joint, place in at.items():
                off = points[joint] - place
                sure = float(np.abs(off / sds[joint]).max())
                rows.append((joint, joint.startswith(near), hidden[joint], float(np.linalg.norm(off)) * mm, sure))
            angles.extend((joint, abs(angle(points, near, of) - angle(at, near, of))) for joint, of in ANGLES.items())
    report(rows, angles)


if __name__ == "__main__":
    main()

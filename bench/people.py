"""Does a pose model that was trained on real people see the simulated lifter? `python -m bench.people`, part of `make bench`.

The detector of a general pose model looks at every twentieth frame of every demo clip until the bar is let go, in the largest square
around the disc (people smaller than half the picture are beyond it). It sees somebody when its score passes a half, and has placed the
lifter when the middle of the hips it tells lies within a tenth of the picture's height of where it truly is.
"""

from __future__ import annotations

import hashlib
import json
from pathlib import Path

import cv2
import numpy as np
from ai_edge_litert.interpreter import Interpreter

from atleta.footage import read_frames

HERE = Path(__file__).parent
CLIPS = HERE.parent / "demo" / "clips"
MODEL = HERE / "pose" / "node_modules" / "@mediapipe" / "pose" / "pose_solution_packed_assets.data"
SHA256 = "a63c614bef30d35947f13be361820b1e4e3bec9cfeebf4d11216a18373108e85"
SIDE, EVERY = 224, 20
# Anchors of the detector: squares of the picture at strides 8, 16 and 32, two, two and six to a square.
GRIDS = ((28, 2), (14, 2), (7, 6))


def anchors() -> np.ndarray:
    """Middles of the anchors `(2254, 2)`, as shares of the picture's sides."""
    made = []
    for cells, each in GRIDS:
        y, x = np.mgrid[0:cells, 0:cells]
        made.append(np.repeat(np.stack([x.ravel(), y.ravel()], axis=1), each, axis=0).astype(float) / cells + 0.5 / cells)
    return np.concatenate(made)


class Detector:
    """The pose model's detector of people."""

    def __init__(self) -> None:
        content = MODEL.read_bytes()
        if hashlib.sha256(content).hexdigest() != SHA256:
            raise RuntimeError("The pose weights are not the ones that the figures were made with; run `npm ci` in weights.")
        self.net = Interpreter(model_content=content, num_threads=1)
        self.net.allocate_tensors()
        self.anchors = anchors()

    def hips(self, picture: np.ndarray, disc: tuple[float, float]) -> tuple[float, float, float]:
        """Score of the surest detection in the square around the disc, and the pixel it tells for the middle of the hips."""
        height, width = picture.shape[:2]
        side = min(height, width)
        left = int(np.clip(disc[0] - side / 2, 0, width - side))
        top = int(np.clip(disc[1] - side / 2, 0, height - side))
        square = np.ascontiguousarray(picture[top : top + side, left : left + side])
        small = cv2.resize(square, (SIDE, SIDE), interpolation=cv2.INTER_AREA)[..., ::-1].astype(np.float32) / 127.5 - 1
        self.net.set_tensor(self.net.get_input_details()[0]["index"], small[None])
        self.net.invoke()
        outputs = {row["shape"][-1]: self.net.get_tensor(row["index"])[0] for row in self.net.get_output_details()}
        best = int(np.argmax(outputs[1][:, 0]))
        score = float(1 / (1 + np.exp(-outputs[1][best, 0])))
        middle = outputs[12][best, 4:6] / SIDE + self.anchors[best]
        return score, float(middle[0] * side + left), float(middle[1] * side + top)


def looked_at(clip: Path, detector: Detector) -> tuple[int, int, int]:
    """Frames looked at, frames in which somebody was seen, and in which the lifter was placed."""
    truth = json.loads(clip.with_suffix(".truth.json").read_text())
    hips = {axis: np.mean([truth["joints"][f"{side}_hip"][f"{axis}_px"] for side in ("left", "right")], axis=0) for axis in "xy"}
    until = truth["lifts"][-1]["events"].get("release", {"frame": np.inf})["frame"]
    looked, seen, placed = 0, 0, 0
    for frame in read_frames(clip):
        if frame.index >= until:
            break
        if frame.index % EVERY:
            continue
        looked += 1
        score, x, y = detector.hips(frame.bgr(), (truth["disc"]["x_px"][frame.index], truth["disc"]["y_px"][frame.index]))
        far = float(np.hypot(x - hips["x"][frame.index], y - hips["y"][frame.index])) / truth["clip"]["height"]
        seen += score > 0.5
        placed += score > 0.5 and far < 0.10
    return looked, seen, placed


def main() -> None:
    detector = Detector()
    print("A general pose model's detector on the simulated lifters: frames looked at, somebody seen, lifter placed\n")
    sums = np.zeros(3, int)
    for clip in sorted(CLIPS.glob("*.mp4")):
        counts = looked_at(clip, detector)
        sums += counts
        print(f"{clip.stem:28s} {counts[0]:5d} {counts[1] / counts[0]:7.0%} {counts[2] / counts[0]:7.0%}")
    print(f"{'all':28s} {sums[0]:5d} {sums[1] / sums[0]:7.0%} {sums[2] / sums[0]:7.0%}\n")


if __name__ == "__main__":
    main()

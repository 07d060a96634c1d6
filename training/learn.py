"""Let the lifter network learn from the pictures that are there.

    python -m training.learn --pictures training/.pictures --run training/.runs/first --hours 2

It goes on from where it was stopped; pictures that came meanwhile are learned from, too. With `--onward` a new run begins where the one
ended whose weights ship.
"""

from __future__ import annotations

import argparse
import json
import math
import time
from dataclasses import dataclass
from pathlib import Path

import cv2
import numpy as np
import torch
from numpy.typing import NDArray
from torch import Tensor
from torch.nn import functional

from .export import learned
from .network import HEAT, HELD, Held, Learner, Told
from .squares import JOINTS, KEPT_PX, MASK_PX

# Performances whose number ends so are never learned from.
KEPT_BACK = 50
BATCH = 16
# Of the learning rate at its highest; the layers that were published learn slower than the head.
HEAD_RATE, LAYERS_RATE, WARM = 1.5e-3, 5e-4, 300
AVERAGED = 0.999
# What has been learned is kept after so many steps, and new pictures are looked for.
KEPT_EVERY = 100
# How heavy the tails of an error are, as the degrees of freedom of its distribution.
TAILS = 4.0
HEAT_SD = 0.012
SWAPPED = [JOINTS.index(name.replace("left", "RIGHT").replace("right", "left").replace("RIGHT", "right")) for name in JOINTS]
REACH = 0.04


@dataclass
class Pictures:
    """Many samples: what the layers that stay make of each as it is and mirrored, by file; joints `(n, 21, 2)` in shares of the square, the
    rest as `pictures.Sample` has it."""

    held: list[list[NDArray[np.float16]]]
    ends: NDArray[np.int64]
    points: NDArray[np.float32]
    hidden: NDArray[np.bool_]
    mask: NDArray[np.bool_]
    there: NDArray[np.bool_]

    def __len__(self) -> int:
        return len(self.points)

    def held_of(self, one: int, mirrored: bool) -> list[NDArray[np.float16]]:
        file = int(np.searchsorted(self.ends, one, side="right"))
        place = one - (int(self.ends[file - 1]) if file else 0)
        return [kind[int(mirrored), place] for kind in self.held[file]]


@torch.no_grad()
def hold(file: Path, held: Held) -> list[NDArray[np.float16]]:
    """What the layers that stay make of a file's pictures `(2, n, ...)`, as they are and mirrored: worked out once, and read from the disk
    as it is needed."""
    kept = [file.with_name(f"held-{file.stem[-6:]}-{kind}.npy") for kind in range(len(HELD))]
    if not kept[-1].exists():
        told = np.load(file)
        pictures = np.stack([cv2.imdecode(one, cv2.IMREAD_COLOR_RGB) for one in np.split(told["bytes"], told["ends"][:-1])])
        both = np.stack([pictures, pictures[:, :, ::-1]]).transpose(0, 1, 4, 2, 3)
        rows = [
            [part.half().numpy() for part in held(torch.from_numpy(np.ascontiguousarray(some)).float() / 255)]
            for way in both
            for some in np.array_split(way, max(len(way) // BATCH, 1))
        ]
        for target, kind in zip(kept, zip(*rows, strict=True), strict=True):
            whole = np.concatenate(kind)
            part = target.with_suffix(".part.npy")
            np.save(part, whole.reshape(2, len(pictures), *whole.shape[1:]))
            part.rename(target)
    return [np.load(target, mmap_mode="r") for target in kept]


def read(files: list[Path], held: Held) -> Pictures:
    rows = []
    for file in files:
        told = np.load(file)
        count = len(told["points"])
        mask = np.unpackbits(told["mask"], axis=1).reshape(count, MASK_PX, MASK_PX).astype(bool)
        rows.append((told["points"] / KEPT_PX, told["hidden"], mask, told["there"]))
    columns = [np.concatenate(column) for column in zip(*rows, strict=True)]
    return Pictures([hold(file, held) for file in files], np.cumsum([len(row[0]) for row in rows]), *columns)


def batch(pictures: Pictures, chosen: NDArray[np.int64], rng: np.random.Generator | None) -> tuple[list[Tensor], tuple[Tensor, ...]]:
    """What the layers that stay make of pictures; joints, which count, which are in sight, mask, there; half of them mirrored when there is
    chance."""
    mirrored = rng.uniform(size=len(chosen)) < 0.5 if rng is not None else np.zeros(len(chosen), bool)
    points, hidden = pictures.points[chosen].copy(), pictures.hidden[chosen].copy()
    mask, there = pictures.mask[chosen].copy(), pictures.there[chosen]
    for row in np.flatnonzero(mirrored):
        mask[row] = mask[row, :, ::-1]
        # Pixels are counted by their middles, the first of them nought.
        points[row, :, 0] = 1 - 1 / KEPT_PX - points[row, :, 0]
        points[row], hidden[row] = points[row][SWAPPED], hidden[row][SWAPPED]
    given = [pictures.held_of(int(one), bool(way)) for one, way in zip(chosen, mirrored, strict=True)]
    held = [torch.from_numpy(np.stack(kind)).float().contiguous(memory_format=torch.channels_last) for kind in zip(*given, strict=True)]
    counts = ((points > -REACH) & (points < 1 + REACH)).all(2) & there[:, None]
    return held, tuple(torch.from_numpy(np.ascontiguousarray(part)) for part in (points, counts, ~hidden, mask, there))


def surprise(told: Told, points: Tensor, counts: Tensor) -> Tensor:
    """How unlikely the joints are by what is told of them, `(n, 21)` (a negative logarithm)."""
    z = (points - told.points) / told.sd
    rest = 1 - told.correlation**2
    square = (z[..., 0] ** 2 - 2 * told.correlation * z[..., 0] * z[..., 1] + z[..., 1] ** 2) / rest
    nll = told.sd.log().sum(2) + 0.5 * rest.log() + (TAILS + 2) / 2 * torch.log1p(square / TAILS)
    return torch.where(counts, nll, torch.zeros_like(nll))


def loss_of(
    told: Told, points: Tensor, counts: Tensor, seen: Tensor, mask: Tensor, there: Tensor, heat_share: float
) -> tuple[Tensor, Tensor]:
    """The loss, and the mean surprise within it."""
    mean = surprise(told, points, counts).sum() / counts.sum().clamp_min(1)
    places = (torch.arange(HEAT) + 0.5) / HEAT
    near = torch.exp(-0.5 * ((points.clamp(0, 1)[..., None] - places) / HEAT_SD) ** 2)
    target = near[..., 1, :, None] * near[..., 0, None, :]
    target = target / target.sum((2, 3), keepdim=True).clamp_min(1e-9)
    heat = (-(target * told.heat).sum((2, 3)) * counts).sum() / counts.sum().clamp_min(1)
    sight = functional.binary_cross_entropy_with_logits(told.seen, seen.float(), weight=counts.float())
    who = functional.binary_cross_entropy_with_logits(told.mask, mask.float())
    anybody = functional.binary_cross_entropy_with_logits(told.there, there.float())
    return mean + heat_share * heat + 0.3 * sight + 0.5 * who + 0.2 * anybody, mean.detach()


@torch.no_grad()
def judge(learner: Learner, pictures: Pictures) -> dict[str, float]:
    """On pictures that were not learned from: median and 95th percentile of the error in per cent of the square, in sight and hidden, and
    the share within two stated deviations."""
    learner.eval()
    off, sight, within = [], [], []
    for start in range(0, len(pictures), BATCH):
        held, (points, counts, seen, _, _) = batch(pictures, np.arange(start, min(start + BATCH, len(pictures))), None)
        told = learner(*held)
        distance = (told.points - points).norm(dim=2)
        off.append(distance[counts])
        sight.append(seen[counts])
        within.append((((points - told.points).abs() < 2 * told.sd).float().mean(2))[counts])
    learner.train()
    distance, seen = 100 * torch.cat(off), torch.cat(sight)
    row = {}
    for name, part in (("in sight", distance[seen]), ("hidden", distance[~seen])):
        row |= {f"{name}, median": part.median().item(), f"{name}, p95": part.quantile(0.95).item()}
    return row | {"within two": torch.cat(within).mean().item()}


def main() -> None:
    asked = argparse.ArgumentParser(description=__doc__, formatter_class=argparse.RawDescriptionHelpFormatter)
    asked.add_argument("--pictures", type=Path, action="append", required=True)
    asked.add_argument("--run", type=Path, required=True)
    asked.add_argument("--hours", type=float, default=2.0)
    asked.add_argument("--steps", type=int, default=25_000, help="over how many steps the learning rate falls to nothing")
    asked.add_argument("--threads", type=int, default=2)
    asked.add_argument("--onward", type=Path, help="a new run begins with what this exported file has learned")
    chosen = asked.parse_args()
    torch.set_num_threads(chosen.threads)
    cv2.setNumThreads(1)
    chosen.run.mkdir(parents=True, exist_ok=True)
    held, learner = Held().to(memory_format=torch.channels_last), Learner().to(memory_format=torch.channels_last)
    averaged = Learner()
    averaged.load_state_dict(learner.state_dict())
    layers = list(learner.graph.parameters())
    others = [one for name, one in learner.named_parameters() if not name.startswith("graph.")]
    optimiser = torch.optim.AdamW(
        [{"params": layers, "top": LAYERS_RATE}, {"params": others, "top": HEAD_RATE}], lr=1e-3, weight_decay=1e-4
    )
    step, kept = 0, chosen.run / "last.pt"
    if chosen.onward and not kept.exists():
        learner.load_state_dict(learned(chosen.onward))
        averaged.load_state_dict(learner.state_dict())
    if kept.exists():
        state = torch.load(kept)
        learner.load_state_dict(state["learner"])
        averaged.load_state_dict(state["averaged"])
        optimiser.load_state_dict(state["optimiser"])
        step = state["step"]
    until = time.monotonic() + 3600 * chosen.hours
    rng, known = np.random.default_rng(step), list[Path]()
    while time.monotonic() < until and step < chosen.steps:
        files = sorted(file for folder in chosen.pictures for file in folder.glob("pictures-??????.npz"))
        if files != known:
            known, there = files, read([file for file in files if int(file.stem[-6:]) % KEPT_BACK], held)
            back = read([file for file in files if int(file.stem[-6:]) % KEPT_BACK == 0][:6], held)
        order, begun, surprises = rng.permutation(len(there)), time.monotonic(), []
        for place in range(0, len(order) - BATCH + 1, BATCH):
            share = min(step / WARM, 1.0) * 0.5 * (1 + math.cos(math.pi * min(step / chosen.steps, 1.0)))
            for group in optimiser.param_groups:
                group["lr"] = group["top"] * share
            given, truth = batch(there, order[place : place + BATCH], rng)
            told = learner(*given)
            loss, mean = loss_of(told, *truth, heat_share=0.4)
            optimiser.zero_grad()
            loss.backward()
            torch.nn.utils.clip_grad_norm_(learner.parameters(), 5.0)
            optimiser.step()
            step += 1
            with torch.no_grad():
                for old, new in zip(averaged.parameters(), learner.parameters(), strict=True):
                    old.lerp_(new, 1 - min(AVERAGED, (1 + step) / (10 + step)))
            surprises.append(mean.item())
            if time.monotonic() > until or step >= chosen.steps or step % KEPT_EVERY == 0:
                break
        row = {"step": step, "pictures": len(there), "surprise": float(np.mean(surprises)), "s": round(time.monotonic() - begun)}
        row |= judge(averaged, back)
        with (chosen.run / "log.jsonl").open("a") as log:
            log.write(json.dumps(row) + "\n")
        print(row, flush=True)
        state = {"learner": learner.state_dict(), "averaged": averaged.state_dict(), "optimiser": optimiser.state_dict(), "step": step}
        torch.save(state, kept.with_suffix(".part"))
        kept.with_suffix(".part").rename(kept)


if __name__ == "__main__":
    main()

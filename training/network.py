"""The lifter network: the general pose network's layers, and a head of our own that tells where each joint is and how well it is known."""

from __future__ import annotations

from dataclasses import dataclass

import torch
from torch import Tensor, nn
from torch.nn import functional

from .graph import Graph

JOINTS = 21
# Tensors of the published file: pictures halved twice and three times as they leave the layers that stay as they are, what the layers that
# learn make of them, and the widest view.
HELD, FINE, WIDE = [216, 226], 279, 270
FINE_CHANNELS, WIDE_CHANNELS, HEAD = 48, 864, 64
HEAT = 64
# What a square's middle pixel of the heat map is, in shares of the square.
_PLACES = (torch.arange(HEAT, dtype=torch.float32) + 0.5) / HEAT
# How far about a peak its middle is looked for (shares of the square).
NEAR = 0.04
# No joint is known better than this nor worse than that (shares of the square).
FINEST, COARSEST = 0.0015, 0.3


@dataclass
class Told:
    """Of n squares: joints `(n, 21, 2)` in shares of the square; the standard deviations along the picture's axes `(n, 21, 2)` and their
    correlation `(n, 21)`; how likely each is in sight, as a logit; the lifter's pixels `(n, 64, 64)` and whether there is one, as logits;
    the heat maps `(n, 21, 64, 64)` as logarithms of probabilities."""

    points: Tensor
    sd: Tensor
    correlation: Tensor
    seen: Tensor
    mask: Tensor
    there: Tensor
    heat: Tensor


class Held(nn.Module):
    """The first layers, which stay as they were published."""

    def __init__(self) -> None:
        super().__init__()
        self.graph = Graph(None, HELD)
        self.requires_grad_(False)

    def forward(self, pictures: Tensor) -> list[Tensor]:
        return list(self.graph(pictures))


class Learner(nn.Module):
    """The layers that learn, and the head."""

    def __init__(self) -> None:
        super().__init__()
        self.graph = Graph(HELD, [FINE, WIDE])
        self.shared = nn.Conv2d(FINE_CHANNELS, HEAD, 3, padding=1)
        self.heat = nn.Conv2d(HEAD, JOINTS, 1)
        self.mask = nn.Conv2d(HEAD, 1, 1)
        self.there = nn.Linear(WIDE_CHANNELS, 1)
        self.joint = nn.Parameter(torch.randn(JOINTS, 16) * 0.1)
        self.doubt = nn.Sequential(nn.Linear(2 * HEAD + 16 + 6, 64), nn.ReLU(), nn.Linear(64, 4))

    def forward(self, *held: Tensor) -> Told:
        fine, wide = self.graph(*held)
        shared = functional.relu(self.shared(fine))
        count = len(shared)
        heat = self.heat(shared).flatten(2)
        logs = functional.log_softmax(heat, 2)
        share = logs.exp()
        maps = share.view(count, JOINTS, HEAT, HEAT)
        x, y = self._about_peak(heat)
        # How far the map itself spreads, and how sure it is: what doubt is told from, with what is seen at the joint and all over.
        away = (_PLACES - torch.stack([x, y], 2)[..., None]) ** 2
        spread = torch.stack([(maps.sum(2) * away[:, :, 0]).sum(2), (maps.sum(3) * away[:, :, 1]).sum(2)], 2).clamp_min(1e-8).sqrt()
        peak, sure = share.amax(2), (share * logs).sum(2)
        at = share @ shared.flatten(2).transpose(1, 2)
        everywhere = shared.mean((2, 3))[:, None].expand(-1, JOINTS, -1)
        about = torch.cat([at, everywhere, self.joint.expand(count, -1, -1), spread.log(), peak.log()[..., None], sure[..., None],
                           torch.stack([x, y], 2)], 2)  # fmt: skip
        doubt = self.doubt(about)
        sd = FINEST + (COARSEST - FINEST) * torch.sigmoid(doubt[..., :2] - 3.0)
        return Told(
            torch.stack([x, y], 2), sd, 0.95 * torch.tanh(doubt[..., 2]), doubt[..., 3], self.mask(shared)[:, 0],
            self.there(wide.mean((2, 3)))[:, 0], logs.view(count, JOINTS, HEAT, HEAT),
        )  # fmt: skip

    @staticmethod
    def _about_peak(heat: Tensor) -> tuple[Tensor, Tensor]:
        """The middle of each map's highest peak: of what lies about it alone, since a little everywhere would draw it to the square's
        middle."""
        peak = heat.detach().argmax(2)
        column, row = (_PLACES - _PLACES[at][..., None] for at in (peak % HEAT, peak // HEAT))
        near = -0.5 * ((row / NEAR) ** 2)[..., :, None] - 0.5 * ((column / NEAR) ** 2)[..., None, :]
        maps = functional.softmax(heat + near.flatten(2), 2).unflatten(2, (HEAT, HEAT))
        return maps.sum(2) @ _PLACES, maps.sum(3) @ _PLACES

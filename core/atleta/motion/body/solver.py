"""The robust least squares over all frames at once: a band of blocks with a border."""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import cho_solve_banded, cholesky_banded, solve_banded, solveh_banded

from .model import ANKLE_HEIGHT, BALL_AHEAD, SHARED, SHOE_M, SIZE
from .residuals import FULL, ONLY_BELOW, SOFT, SOFT_ABOVE, Believed, floor_seen, residuals
from .scene import Scene
from .sparsity import NUDGE, TERMS, apart, depends

Floats = NDArray[np.float64]

# Accelerations a body reaches now and then (m/s², rad/s²), one deviation.
PUSH = np.array([9, 9, 10, 10, 14, 14, 14, 14, 12, 12, 12, 12, 90, 90, 20, 20, 12, 20, 20, 11, 11, 12, 12], float)
PUSH_LASTS_S = 0.1
# While the bar is quick, and shortly before and after, so is the body.
QUICKER = 4.0
ROBUST = 2.0
STILL_SD_M = 0.001
# Feet in the air go this far from one look to the next; only what is seen of them, and how quick a body can be, says where.
FLYING_SD_M = 0.1
# Feet that jump apart under a bar that is received go so much forward or back from one look to the next.
JUMPING_SD_M = 0.006


def smoothness(time_s: Floats, quick: NDArray[np.bool_]) -> Floats:
    """Second differences `(frames - 2, 4)`: what each of three neighbours counts in a residual of acceleration over its deviation, and up
    to how many deviations one counts fully."""
    before, after = np.diff(time_s)[:-1], np.diff(time_s)[1:]
    whole = before + after
    rows = np.stack([2 / (before * whole), -2 / (before * after), 2 / (after * whole)], axis=-1)
    rows = rows * (np.sqrt(whole / 2 / PUSH_LASTS_S) / np.where(quick[1:-1], QUICKER, 1.0))[:, None]
    return np.column_stack([rows, np.where(quick[1:-1], _PUSH_FREE, _PUSH_FREE_CALM)])


def _counted(off: Floats, kinds: NDArray[np.int64], loose: float) -> Floats:
    """Weights of residuals."""
    soft = 1 / (1 + (off / (ROBUST * loose)) ** 2)
    made = np.ones_like(off)
    made[:, kinds == SOFT] = soft[:, kinds == SOFT]
    above = kinds == SOFT_ABOVE
    made[:, above] = np.where(off[:, above] > 0, soft[:, above], 1.0)
    below = kinds == ONLY_BELOW
    made[:, below] = off[:, below] < 0
    return made


# How a step is damped: metres and radians alike cost little until they are large.
_RELUCTANCE = np.where(np.isin(np.arange(SIZE), [12, 13]), 10.0, 400.0)
_STAYS = 1e12
_FEET = ((8, 9, 12), (10, 11, 13))
_FEET_FREE = 2.0
# Feet that land and a bar that is struck make short large pushes; a calm body makes none.
_PUSH_FREE, _PUSH_FREE_CALM = 3.0, 12.0


def _balls(scene: Scene, states: Floats, columns: tuple[int, int, int]) -> tuple[Floats, Floats]:
    """Where the ball of a foot stands `(frames, 2)`, about which it turns when the heel rises, and their slope by ankle and angle
    `(frames, 2, 3)`."""
    x, y, angle = (states[:, column] for column in columns)
    ahead, low = BALL_AHEAD * scene.seen.stature_m, ANKLE_HEIGHT * scene.seen.stature_m + SHOE_M
    cos, sin = np.cos(angle), np.sin(angle)
    place = np.stack([x + ahead * cos + low * sin, y + ahead * sin - low * cos], axis=-1)
    slope = np.zeros((len(states), 2, 3))
    slope[:, 0, 0] = slope[:, 1, 1] = 1.0
    slope[:, 0, 2], slope[:, 1, 2] = low * cos - ahead * sin, ahead * cos + low * sin
    return place, slope


def _still_sd_m(scene: Scene) -> Floats:
    """How far the ball of a foot goes from each frame to the next, one deviation `(frames - 1, 2)`: forward or back, and up or down."""
    flying, airborne = (np.maximum(moves[:-1], moves[1:]) > 0 for moves in (scene.flying, scene.airborne))
    ahead = np.where(flying, FLYING_SD_M, np.where(airborne, JUMPING_SD_M, STILL_SD_M))
    return np.stack([ahead, np.where(airborne, FLYING_SD_M, STILL_SD_M)], axis=-1)


def _curves(states: Floats, smooth: Floats) -> Floats:
    """Accelerations over their deviations `(frames - 2, SIZE)`."""
    return np.asarray((smooth[:, :1] * states[:-2] + smooth[:, 1:2] * states[1:-1] + smooth[:, 2:3] * states[2:]) / PUSH)


def cost(scene: Scene, states: Floats, shared: Floats, smooth: Floats, believed: Believed, loose: float) -> float:
    """What the fit makes small."""
    total = float(costs(scene, states, shared, smooth, loose).sum())
    total += float((((believed.rows @ shared - believed.values) / believed.sds) ** 2).sum())
    return total + float((floor_seen(scene, shared) ** 2).sum())


def costs(scene: Scene, states: Floats, shared: Floats, smooth: Floats, loose: float) -> Floats:
    """What of it each frame's state adds, alone and with its neighbours `(frames,)`."""
    off, kinds = residuals(scene, states, shared)

    def soft(value: Floats, free: float | Floats) -> Floats:
        return np.asarray(free**2 * np.log1p((value / free) ** 2))

    free = ROBUST * loose
    made: Floats = (off[:, kinds == FULL] ** 2).sum(axis=1) + soft(off[:, kinds == SOFT], free).sum(axis=1)
    above, below = off[:, kinds == SOFT_ABOVE], off[:, kinds == ONLY_BELOW]
    made += np.where(above > 0, soft(above, free), above**2).sum(axis=1) + (np.minimum(below, 0) ** 2).sum(axis=1)
    made[1:-1] += soft(_curves(states, smooth), smooth[:, 3:]).sum(axis=1)
    for columns in _FEET:
        gone = np.linalg.norm(np.diff(_balls(scene, states, columns)[0], axis=0) / _still_sd_m(scene), axis=1)
        made[1:] += soft(gone, _FEET_FREE * loose)
    return made


@dataclass(frozen=True)
class Nudged:
    """What is looked at in one go to find slopes: the frames as they are and once for every group of terms that are nudged. And room for
    what is found, kept from round to round: so much of it takes longer to come by than to fill."""

    scene: Scene
    by_term: Floats
    looked: Floats

    @classmethod
    def of(cls, scene: Scene) -> Nudged:
        by_hand = bool(scene.seen.fixed)
        count, frames = len(depends(by_hand)), len(scene.seen.held)
        by_term, looked = np.empty((TERMS + 1, frames, count)), np.empty((frames, count, TERMS + 1))
        return cls(scene.repeated(1 + len(apart(by_hand))), by_term, looked)


def _looked_at(scene: Scene, many: Nudged, states: Floats, shared: Floats, slopes: bool) -> tuple[Floats, NDArray[np.int64]]:
    """The slopes of residuals by every term (those of before where they are not asked for) and, last, the residuals themselves
    `(frames, residuals, TERMS + 1)`, in the room there is for them; and how each counts."""
    by_hand, frames = bool(scene.seen.fixed), len(states)
    if not slopes:
        many.by_term[TERMS], kinds = residuals(scene, states, shared)
        many.looked[:] = np.moveaxis(many.by_term, 0, -1)
        return many.looked, kinds
    groups, found = apart(by_hand), depends(by_hand)
    moved, known = np.tile(states, (len(groups) + 1, 1, 1)), np.tile(shared, (len(groups) + 1, frames, 1))
    at = np.zeros(TERMS + 1, int)
    for turn, group in enumerate(groups, 1):
        for term in group:
            at[term] = turn
            if term < SIZE:
                moved[turn, :, term] += NUDGE
            else:
                known[turn, :, term - SIZE] += NUDGE
    off, kinds = residuals(many.scene, moved.reshape(-1, SIZE), known.reshape(-1, len(SHARED)))
    off = off.reshape(len(groups) + 1, frames, -1)
    off[1:] -= off[0]
    off[1:] /= NUDGE
    np.take(off, at, axis=0, out=many.by_term, mode="clip")
    many.by_term[:TERMS] *= found.T[:, None]
    many.looked[:] = np.moveaxis(many.by_term, 0, -1)
    return many.looked, kinds


@dataclass(frozen=True)
class System:
    """The normal equations about one state: diagonal blocks, what couples a frame with the next and the one after, and the border."""

    blocks: Floats
    one: Floats
    two: Floats
    border: Floats
    corner: Floats
    right: Floats
    right_shared: Floats

    @classmethod
    def of(
        cls, scene: Scene, many: Nudged, states: Floats, shared: Floats, smooth: Floats, believed: Believed, loose: float,
        slopes: bool = True,
    ) -> System:  # fmt: skip
        """The equations about a state.

        Args:
            slopes: whether slopes are found anew, or are those of the state before, which is near.
        """
        frames = len(states)
        counted, kinds = _looked_at(scene, many, states, shared, slopes)
        counted *= np.sqrt(_counted(counted[..., TERMS], kinds, loose))[..., None]
        floor_off = floor_seen(scene, shared)
        floor_by = np.stack([(floor_seen(scene, shared + NUDGE * row) - floor_off) / NUDGE for row in np.eye(len(SHARED))], axis=-1)
        scaled = believed.rows / believed.sds[:, None] ** 2
        products = counted.transpose(0, 2, 1) @ counted
        blocks, border, right = products[:, :SIZE, :SIZE], products[:, :SIZE, SIZE:TERMS], -products[:, :SIZE, TERMS]
        of_shared = products[:, SIZE:].sum(axis=0)[:-1, SIZE:]
        corner = of_shared[:, :-1] + floor_by.T @ floor_by + scaled.T @ believed.rows
        right_shared = -of_shared[:, -1] - floor_by.T @ floor_off - scaled.T @ (believed.rows @ shared - believed.values)

        one, two, own = np.zeros((frames - 1, SIZE, SIZE)), np.zeros((frames - 2, SIZE)), np.full((frames, SIZE), 1e-6)
        diagonal = np.arange(SIZE)
        bend = smooth[:, None, :] / PUSH[:, None]
        curve = _curves(states, smooth)
        calm = 1 / (1 + (curve / smooth[:, 3:]) ** 2)
        for i in range(3):
            part = slice(i, frames - 2 + i)
            own[part] += calm * bend[..., i] ** 2
            right[part] -= calm * bend[..., i] * curve
        one[:-1, diagonal, diagonal] += calm * bend[..., 0] * bend[..., 1]
        one[1:, diagonal, diagonal] += calm * bend[..., 1] * bend[..., 2]
        two += calm * bend[..., 0] * bend[..., 2]
        # A foot on the floor stays where it is; one that moves is let go.
        for columns in _FEET:
            place, slope = _balls(scene, states, columns)
            still = _still_sd_m(scene)
            gone = np.diff(place, axis=0) / still
            before, after = (end / still[:, :, None] for end in (slope[:-1], slope[1:]))
            stays = np.sqrt(1 / (1 + (gone**2).sum(1) / (_FEET_FREE * loose) ** 2))
            gone, before, after = gone * stays[:, None], before * stays[:, None, None], after * stays[:, None, None]
            rows, across = np.ix_(columns, columns)
            blocks[:-1, rows, across] += np.swapaxes(before, 1, 2) @ before
            blocks[1:, rows, across] += np.swapaxes(after, 1, 2) @ after
            # Rows belong to the later frame, columns to the earlier one.
            one[:, rows, across] -= np.swapaxes(after, 1, 2) @ before
            right[:-1, columns] += np.einsum("nrk,nr->nk", before, gone)
            right[1:, columns] -= np.einsum("nrk,nr->nk", after, gone)
        blocks[:, diagonal, diagonal] += own
        return cls(blocks, one, two, border, corner, right, right_shared)

    def _band(self) -> Floats:
        """The matrix of all states, its lower band row by row."""
        frames = len(self.blocks)
        band = np.zeros((2 * SIZE + 1, frames * SIZE))
        for i in range(SIZE):
            for j in range(i + 1):
                band[i - j, j::SIZE] = self.blocks[:, i, j]
        for i, j in [(k, k) for k in range(SIZE)] + [(i, j) for columns in _FEET for i in columns for j in columns if i != j]:
            band[SIZE + i - j, j : (frames - 1) * SIZE : SIZE] = self.one[:, i, j]
        band[2 * SIZE, : (frames - 2) * SIZE] = self.two.ravel()
        return band

    def step(self, damping: float, held: tuple[int, int] = (0, 0)) -> tuple[Floats, Floats]:
        """What states and what is shared are to change by, and less the more it is damped; so many frames at either end stay."""
        frames = len(self.blocks)
        band = self._band()
        band[0] += damping * np.tile(_RELUCTANCE, frames)
        band[0, : held[0] * SIZE] += _STAYS
        band[0, (frames - held[1]) * SIZE :] += _STAYS
        border = self.border.reshape(frames * SIZE, -1)
        sides = np.concatenate([self.right.reshape(-1, 1), border], axis=1)
        solved = solveh_banded(band, sides, lower=True, check_finite=False)
        inner = self.corner + damping * np.diag(np.diag(self.corner)) - border.T @ solved[:, 1:]
        shared_step = np.linalg.solve(inner, self.right_shared - border.T @ solved[:, 0])
        return (solved[:, 0] - solved[:, 1:] @ shared_step).reshape(-1, SIZE), np.asarray(shared_step)

    def promised(self, step: Floats, shared_step: Floats) -> float:
        """By how much a step makes smaller what the fit makes small, if the equations hold."""
        return float((self.right * step).sum() + self.right_shared @ shared_step)

    @cached_property
    def _factor(self) -> Floats:
        """Cholesky factor of the matrix of all states, its lower band row by row."""
        return np.asarray(cholesky_banded(self._band(), lower=True, check_finite=False))

    @cached_property
    def _lever(self) -> Floats:
        """How states go with what is shared `(frames * SIZE, SHARED)`."""
        border = self.border.reshape(self._factor.shape[1], -1)
        return -np.asarray(cho_solve_banded((self._factor, True), border, check_finite=False))

    @cached_property
    def _shared_covariance(self) -> Floats:
        return np.asarray(np.linalg.inv(self.corner + self.border.reshape(len(self._lever), -1).T @ self._lever))

    def draws(self, rng: np.random.Generator, count: int) -> tuple[Floats, Floats]:
        """What states `(count, frames, SIZE)` and what is shared `(count, SHARED)` may as well be off by, as the equations leave them."""
        width, size = self._factor.shape
        upper = np.zeros_like(self._factor)
        for k in range(width):
            upper[width - 1 - k, k:] = self._factor[k, : size - k]
        states = solve_banded((0, width - 1), upper, rng.normal(size=(size, count)), check_finite=False)
        shared = np.linalg.cholesky(self._shared_covariance) @ rng.normal(size=(len(self.corner), count))
        states += self._lever @ shared
        return states.T.reshape(count, len(self.blocks), SIZE), shared.T

    def covariance(self) -> tuple[Floats, Floats, Floats]:
        """Of every frame's state given what is shared `(frames, SIZE, SIZE)`; how states go with what is shared `(frames, SIZE,
        SHARED)`; and of what is shared."""
        return _inverse_blocks(self.blocks, self.one, self.two), self._lever.reshape(len(self.blocks), SIZE, -1), self._shared_covariance


def _inverse_blocks(blocks: Floats, one: Floats, two: Floats) -> Floats:
    """Diagonal blocks of the inverse of the banded matrix, by elimination over pairs of frames and back."""
    frames = len(blocks)
    pairs = (frames + 1) // 2
    diagonal = np.zeros((pairs, 2 * SIZE, 2 * SIZE))
    upper = np.zeros((pairs - 1, 2 * SIZE, 2 * SIZE))
    k = np.arange(SIZE)
    for pair in range(pairs):
        a, b = 2 * pair, 2 * pair + 1
        diagonal[pair, :SIZE, :SIZE] = blocks[a]
        if b < frames:
            diagonal[pair, SIZE:, SIZE:] = blocks[b]
            diagonal[pair, SIZE:, :SIZE] = one[a]
            diagonal[pair, :SIZE, SIZE:] = one[a].T
        else:
            diagonal[pair, SIZE + k, SIZE + k] = 1.0
        if pair < pairs - 1:
            upper[pair, k, k] = two[a]
            upper[pair, SIZE:, :SIZE] = one[b].T
            if b < len(two):
                upper[pair, SIZE + k, SIZE + k] = two[b]
    inverse = np.empty_like(diagonal)
    reduced = [np.linalg.inv(diagonal[0])]
    for pair in range(1, pairs):
        link = upper[pair - 1]
        reduced.append(np.linalg.inv(diagonal[pair] - link.T @ reduced[-1] @ link))
    inverse[-1] = reduced[-1]
    for pair in range(pairs - 2, -1, -1):
        gain = reduced[pair] @ upper[pair]
        inverse[pair] = reduced[pair] + gain @ inverse[pair + 1] @ gain.T
    made = np.empty((2 * pairs, SIZE, SIZE))
    made[0::2], made[1::2] = inverse[:, :SIZE, :SIZE], inverse[:, SIZE:, SIZE:]
    return made[:frames]

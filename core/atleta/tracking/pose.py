"""A general pose model, trained on pictures of people at large: where a body's points seem to be in one frame.

The weights and what goes around them (the square it looks at, the refinement by heat map) are those of the model's publishers; they
lie in `weights/` with their licence, each file known by its SHA-256. What the model says is an observation like any other: the body
is fitted to it, and to what else is known, in `motion/body/`.

Beside the points the model says which pixels are the person. Behind a disc it draws hips and knees to the disc, and still knows where the
person ends: of that the outline is kept, the outermost place in each of `DIRECTIONS`, and where the feet end below the disc.
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from importlib.resources import files
from typing import Any

import cv2
import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
Picture = NDArray[np.uint8]

WEIGHTS, SHA256 = "pose_landmark_full.tflite", "e9a5c5cb17f736fafd4c2ec1da3b3d331d6edbe8a0d32395855aeb2cdfd64b9f"
POINTS = 33
INPUT, HEAT = 256, 64
# The model's own square reaches this much beyond the circle about hips and head or feet.
MARGIN = 1.25
# Networks run on so many threads: as many cores as the smallest machine has that this is made for.
THREADS = 2
KERNEL, SURE_HEAT = 9, 0.5
# The outline's directions, evenly all around, clockwise from the right of the picture: `(directions, 2)`.
DIRECTIONS = np.stack([np.cos(np.radians(np.arange(0, 360, 15))), np.sin(np.radians(np.arange(0, 360, 15)))], axis=1)
# Of those, the ones in which feet are outermost: down and to either side.
DOWNWARD = DIRECTIONS[[2, 3, 4, 8, 9, 10]]
# A disc in front of the person is cut out of them, so much larger than it is (it is blurred, and the map of the person is coarse).
DISC_CUT = 1.08
# A disc that is painted over, so much larger than it is, in the colour of what lies so much further out than its rim.
OVER_DISC, AROUND_DISC = 1.05, 1.12
_CIRCLE = np.stack([np.cos(np.linspace(0, 2 * np.pi, 48, endpoint=False)), np.sin(np.linspace(0, 2 * np.pi, 48, endpoint=False))], axis=1)
# What ends at the edge of the square (px of the model's input) goes on outside it.
AT_THE_EDGE = 2
NOSE_EARS_SHOULDERS = [0, 7, 8, 11, 12]


@dataclass(frozen=True)
class Square:
    """The turned square of the picture that the model looks at: middle and side in px, turn in radians, clockwise as seen."""

    x_px: float
    y_px: float
    side_px: float
    turn: float = 0.0


@dataclass(frozen=True)
class Pose:
    """What the model says of one picture.

    `points` `(33, 2)` px, `score` that there is a person at all, `heat` `(33,)` how much the model's other half, a map of where each point
    may be, agrees with where it is told (0 to 1), the square in which to look next, and which of the input's pixels are the person
    `(INPUT, INPUT)`, with the way back from these into the picture.
    """

    points: Floats
    score: float
    heat: Floats
    follow: Square
    person: Picture | None = None
    to_picture: Floats | None = None

    def outline(self, disc: tuple[float, float, float]) -> tuple[Floats, Floats]:
        """Where the person ends in each of `DIRECTIONS` `(directions, 2)` and of `DOWNWARD`, px; NaN where that is not in the square. Of
        several pieces, and of what a disc (middle and radius, px) leaves of one, that with head and shoulders counts, or the largest;
        downward also what goes on beyond the disc."""
        if self.person is None or self.to_picture is None:
            return np.full(DIRECTIONS.shape, np.nan), np.full(DOWNWARD.shape, np.nan)
        to_square = cv2.invertAffineTransform(self.to_picture)
        covered = np.zeros_like(self.person)
        if np.isfinite(disc).all():
            x, y = to_square[:, :2] @ disc[:2] + to_square[:, 2]
            radius = DISC_CUT * disc[2] * float(np.hypot(*to_square[:, 0]))
            cv2.circle(covered, (round(x), round(y)), round(radius), 1, -1)
        uncovered = self.person & (1 - covered)
        return (
            self._farthest(self._upper(uncovered, to_square), DIRECTIONS, to_square),
            self._farthest(self._upper(self.person | covered, to_square) & uncovered, DOWNWARD, to_square),
        )

    def _upper(self, inside: Picture, to_square: Floats) -> Picture:
        """Of the pieces of a map that with head and shoulders, or the largest."""
        _, pieces = cv2.connectedComponents(inside)
        column, row = np.clip(self.points[NOSE_EARS_SHOULDERS] @ to_square[:, :2].T + to_square[:, 2], 0, INPUT - 1).round().astype(int).T
        upper = pieces[row, column]
        # Where the points are made up they lie on nobody.
        counts = np.bincount(upper if upper.any() and self.score > 0 else pieces.ravel(), minlength=2)
        return np.asarray(pieces == 1 + counts[1:].argmax(), np.uint8)

    def _farthest(self, piece: Picture, directions: Floats, to_square: Floats) -> Floats:
        if not piece.any() or self.to_picture is None:
            return np.full(directions.shape, np.nan)
        edges, _ = cv2.findContours(piece, cv2.RETR_EXTERNAL, cv2.CHAIN_APPROX_NONE)
        places = np.concatenate(edges)[:, 0].astype(float)
        turn = to_square[:, :2] / np.hypot(*to_square[:, 0])
        ways = directions @ turn.T
        farthest = places[(places @ ways.T).argmax(axis=0)]
        cut = ((farthest < AT_THE_EDGE) | (farthest > INPUT - 1 - AT_THE_EDGE)).any(axis=1)
        # The last pixel inside ends half a pixel further on.
        told = (farthest + ways / 2) @ self.to_picture[:, :2].T + self.to_picture[:, 2]
        return np.where(cut[:, None], np.nan, told)


class PoseModel:
    """The landmark model, loaded once."""

    def __init__(self) -> None:
        """
        Raises:
            RuntimeError: the weights are not there or not the ones known.
        """
        self._net = _network()
        self._input = self._net.get_input_details()[0]["index"]
        self._outputs = {tuple(row["shape"]): row["index"] for row in self._net.get_output_details()}

    def look(self, picture: Picture, square: Square, without: tuple[float, float, float] | None = None) -> Pose:
        """Look at a square of a picture `(height, width, 3)` in blue, green, red; without a disc (middle and radius, px) that passes for a
        head."""
        to_square = _matrix(square)
        crop = cv2.warpAffine(picture, to_square, (INPUT, INPUT), flags=cv2.INTER_LINEAR, borderMode=cv2.BORDER_REPLICATE)
        if without is not None:
            _take_away(crop, to_square, without)
        self._net.set_tensor(self._input, np.multiply(cv2.cvtColor(crop, cv2.COLOR_BGR2RGB)[None], np.float32(1 / 255)))
        self._net.invoke()
        rows = self._net.get_tensor(self._outputs[1, 195])[0].reshape(39, 5).astype(float)
        heat = self._net.get_tensor(self._outputs[1, HEAT, HEAT, 39])[0]
        score = float(self._net.get_tensor(self._outputs[1, 1])[0, 0])
        shares = _refined(rows[:, :2] / INPUT, heat)
        points = shares * INPUT
        back = cv2.invertAffineTransform(to_square)
        placed = points @ back[:, :2].T + back[:, 2]
        person = (self._net.get_tensor(self._outputs[1, INPUT, INPUT, 1])[0, ..., 0] > 0).astype(np.uint8)
        return Pose(placed[:POINTS], score, _heat_at(shares, heat)[:POINTS], _next_square(placed[33], placed[34]), person, back)


def _take_away(crop: Picture, to_square: Floats, disc: tuple[float, float, float]) -> None:
    """Paint a disc over with what is around it."""
    middle = to_square[:, :2] @ disc[:2] + to_square[:, 2]
    radius = disc[2] * float(np.hypot(*to_square[:, 0]))
    column, row = np.clip(middle + AROUND_DISC * radius * _CIRCLE, 0, INPUT - 1).round().astype(int).T
    colour = np.median(crop[row, column], axis=0)
    cv2.circle(crop, (round(middle[0]), round(middle[1])), round(OVER_DISC * radius), tuple(colour.tolist()), -1)


def _network() -> Any:
    """A network ready to run.

    Raises:
        RuntimeError: the weights are not there or not the ones known.
    """
    from ai_edge_litert.interpreter import Interpreter

    place = files(__package__).joinpath("weights", WEIGHTS)
    if not place.is_file():
        raise RuntimeError(f"The pose weights {WEIGHTS} are missing: run `make setup`.")
    content = place.read_bytes()
    if hashlib.sha256(content).hexdigest() != SHA256:
        raise RuntimeError(f"The pose weights {WEIGHTS} are not the ones this version was made with: run `make setup`.")
    net = Interpreter(model_content=content, num_threads=THREADS)
    net.allocate_tensors()
    return net


def _matrix(square: Square) -> Floats:
    """From the picture into the model's input."""
    cos, sin = np.cos(square.turn), np.sin(square.turn)
    scale = INPUT / square.side_px
    turn = scale * np.array([[cos, sin], [-sin, cos]])
    shift = INPUT / 2 - turn @ [square.x_px, square.y_px]
    return np.column_stack([turn, shift])


def _next_square(middle: Floats, rim: Floats) -> Square:
    """The square about a body whose hips and whose circle's rim (above the head when upright) the model has told."""
    dx, dy = rim - middle
    turn = float(np.pi / 2 - np.arctan2(-dy, dx))
    return Square(float(middle[0]), float(middle[1]), float(2 * MARGIN * np.hypot(dx, dy)), turn)


def _heat_at(points: Floats, heat: NDArray[np.float32]) -> Floats:
    """The heat at each of the points `(39, 2)` (shares of the square), 0 to 1; none outside it."""
    column, row = np.floor(points * HEAT).astype(int).T
    inside = (column >= 0) & (column < HEAT) & (row >= 0) & (row < HEAT)
    here = heat[np.clip(row, 0, HEAT - 1), np.clip(column, 0, HEAT - 1), np.arange(len(points))].astype(float)
    return np.where(inside, 1 / (1 + np.exp(-here)), 0.0)


def _refined(points: Floats, heat: NDArray[np.float32]) -> Floats:
    """Points `(39, 2)` as shares of the square, moved to the middle of the heat about them where the heat is sure."""
    reach = (KERNEL - 1) // 2
    column, row = (points * HEAT).astype(int).T
    inside = (column >= 0) & (column < HEAT) & (row >= 0) & (row < HEAT)
    columns, rows = (at[:, None] + np.arange(-reach, reach + 1) for at in (column, row))
    there = ((rows >= 0) & (rows < HEAT))[:, :, None] & ((columns >= 0) & (columns < HEAT))[:, None, :]
    near = heat[np.clip(rows, 0, HEAT - 1)[:, :, None], np.clip(columns, 0, HEAT - 1)[:, None, :], np.arange(len(points))[:, None, None]]
    part = np.where(there, 1 / (1 + np.exp(-near.astype(float))), 0.0)
    total = part.sum((1, 2))
    sure = inside & (part.max((1, 2)) >= SURE_HEAT)
    middle = np.stack([(part.sum(1) * columns).sum(1), (part.sum(2) * rows).sum(1)], axis=1)
    return np.where(sure[:, None], middle / np.where(sure, total, 1.0)[:, None] / HEAT, points)

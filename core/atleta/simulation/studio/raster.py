"""Fill triangles into a picture with a depth buffer, compiled."""

from __future__ import annotations

import numpy as np
from numba import njit
from numpy.typing import NDArray


@njit(cache=True, fastmath=True)
def fill(picture: NDArray[np.float32], depth: NDArray[np.float32], xy: NDArray[np.float32], near: NDArray[np.float32],
         faces: NDArray[np.int64], light: NDArray[np.float32], colours: NDArray[np.float32], under: NDArray[np.float32],
         cover: NDArray[np.float32]) -> None:  # pragma: no cover - compiled  # fmt: skip
    """Draw triangles whose corners are at pixels `xy` and `near` (one over the distance), lit at the corners, coloured by face.

    Args:
        picture: `(height, width, 3)`; pixel centres at whole numbers.
        depth: `(height, width)`, one over the distance of what is there already.
        colours, under: what a triangle shows where `cover`, given at the corners, is above zero, and where it is not: hems run
            through triangles.
    """
    height, width = depth.shape
    for index in range(faces.shape[0]):
        a, b, c = faces[index]
        ax, ay, bx, by, cx, cy = xy[a, 0], xy[a, 1], xy[b, 0], xy[b, 1], xy[c, 0], xy[c, 1]
        area = (bx - ax) * (cy - ay) - (by - ay) * (cx - ax)
        if abs(area) < 1e-9:
            continue
        left = max(int(np.ceil(min(ax, bx, cx))), 0)
        right = min(int(np.floor(max(ax, bx, cx))), width - 1)
        top = max(int(np.ceil(min(ay, by, cy))), 0)
        bottom = min(int(np.floor(max(ay, by, cy))), height - 1)
        for y in range(top, bottom + 1):
            for x in range(left, right + 1):
                u = ((bx - x) * (cy - y) - (by - y) * (cx - x)) / area
                v = ((cx - x) * (ay - y) - (cy - y) * (ax - x)) / area
                w = 1.0 - u - v
                if u < 0.0 or v < 0.0 or w < 0.0:
                    continue
                there = u * near[a] + v * near[b] + w * near[c]
                if there <= depth[y, x]:
                    continue
                depth[y, x] = there
                shown = colours if u * cover[a] + v * cover[b] + w * cover[c] > 0.0 else under
                for channel in range(3):
                    lit = u * light[a, channel] + v * light[b, channel] + w * light[c, channel]
                    picture[y, x, channel] = shown[index, channel] * lit


@njit(cache=True, fastmath=True)
def normals(points: NDArray[np.float64], faces: NDArray[np.int64]) -> NDArray[np.float64]:  # pragma: no cover - compiled
    """Unit normals at the points `(n, 3)`, each the sum of its triangles' by area."""
    made = np.zeros_like(points)
    for index in range(faces.shape[0]):
        a, b, c = faces[index]
        u = points[b] - points[a]
        v = points[c] - points[a]
        x, y, z = u[1] * v[2] - u[2] * v[1], u[2] * v[0] - u[0] * v[2], u[0] * v[1] - u[1] * v[0]
        for corner in (a, b, c):
            made[corner, 0] += x
            made[corner, 1] += y
            made[corner, 2] += z
    for index in range(made.shape[0]):
        size = np.sqrt(made[index, 0] ** 2 + made[index, 1] ** 2 + made[index, 2] ** 2)
        if size > 1e-12:
            made[index] /= size
    return made

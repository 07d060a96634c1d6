"""Draw one instant of a simulated lift: a shaded lifter of rounded limbs, a barbell with discs, a plain gym.

Everything is drawn at twice the size with sub-pixel vertices and averaged down, so that edges fall where the truth says.
"""

from __future__ import annotations

from dataclasses import dataclass, field

import cv2
import numpy as np
from numpy.typing import NDArray

from .build import DISC_RADIUS_M, Build
from .camera import Camera
from .lifter import Pose

Picture = NDArray[np.uint8]
Colour = tuple[int, int, int]
SUPER = 2
_SHIFT = 5


@dataclass(frozen=True)
class Look:
    """Colours (blue, green, red) and furniture of a scene."""

    wall: Colour = (150, 158, 162)
    floor: Colour = (92, 98, 104)
    platform: Colour = (120, 150, 178)
    disc: Colour = (38, 36, 36)
    disc_inner: Colour = (60, 60, 170)
    skin: Colour = (128, 158, 205)
    shirt: Colour = (120, 82, 52)
    shorts: Colour = (48, 44, 42)
    shoes: Colour = (220, 220, 225)
    hair: Colour = (40, 50, 66)
    light: float = 1.0
    spare_discs: tuple[tuple[float, float, float], ...] = field(default=((-1.35, 0.225, -1.1), (1.5, 0.18, -1.3)))
    """Discs standing about: x, radius, z in metres."""


class Painter:
    """Draws poses for one camera, build and look; the background is drawn once."""

    def __init__(self, camera: Camera, build: Build, look: Look, half_bar_m: float = 0.66) -> None:
        self.camera, self.build, self.look, self.half_bar_m = camera, build, look, half_bar_m
        self._background = self._gym()

    def draw(self, pose: Pose, spin: float = 0.0) -> Picture:
        """The picture of one instant at the camera's size, without noise."""
        canvas = self._background.copy()
        build, look, half = self.build, self.look, self.half_bar_m
        girth = build.girth * build.stature_m / 1.72
        stance, grip = pose.stance_half_width_m, pose.grip_half_width_m
        self._shadow(canvas, pose)
        self._disc(canvas, pose.bar, -half - 0.03, spin, far=True)
        self._limb(canvas, (*pose.bar, -half - 0.3), (*pose.bar, -grip), 0.018, 0.018, (150, 150, 152))
        for z, side in ((-1.0, "far"), (1.0, "near")):
            hip_z, foot_z, shoulder_z, hand_z = z * 0.10 * girth, z * stance, z * 0.19 * girth, z * grip
            if side == "near":
                self._trunk(canvas, pose, girth)
                self._limb(canvas, (*pose.bar, -grip), (*pose.bar, grip), 0.014, 0.014, (165, 165, 168))
            split_back = side == "far"
            knee, ankle, heel, toe = (
                (pose.back_knee, pose.back_ankle, pose.back_heel, pose.back_toe)
                if split_back
                else (pose.knee, pose.ankle, pose.heel, pose.toe)
            )
            dim = 0.72 if side == "far" else 1.0
            self._limb(
                canvas,
                (*knee, (hip_z + foot_z) / 2),
                (*ankle, foot_z),
                0.058 * girth,
                0.040 * girth,
                _dim(look.skin, dim),
            )
            self._foot(canvas, ankle, heel, toe, foot_z, _dim(look.shoes, dim))
            self._limb(
                canvas,
                (*pose.hip, hip_z),
                (*knee, (hip_z + foot_z) / 2),
                0.094 * girth,
                0.062 * girth,
                _dim(look.shorts, dim),
            )
            elbow_z = (shoulder_z + hand_z) / 2
            self._limb(
                canvas,
                (*pose.shoulder, shoulder_z),
                (*pose.elbow, elbow_z),
                0.058 * girth,
                0.044 * girth,
                _dim(look.shirt, dim),
            )
            self._limb(canvas, (*pose.elbow, elbow_z), (*pose.bar, hand_z), 0.042 * girth, 0.032 * girth, _dim(look.skin, dim))
            self._ball(canvas, (*pose.bar, hand_z), 0.045, _dim(look.skin, dim * 0.95))
        self._limb(canvas, (*pose.bar, grip), (*pose.bar, half + 0.02), 0.014, 0.014, (175, 175, 178))
        self._disc(canvas, pose.bar, half, spin)
        self._limb(canvas, (*pose.bar, half + 0.05), (*pose.bar, half + 0.30), 0.025, 0.025, (190, 190, 192))
        small = cv2.resize(canvas, (self.camera.width_px, self.camera.height_px), interpolation=cv2.INTER_AREA)
        return np.asarray(small, dtype=np.uint8)

    def _px(self, points: NDArray[np.float64]) -> NDArray[np.int32]:
        """Fixed-point vertices on the large canvas. Pixel centres sit at whole numbers of the small picture."""
        large = (self.camera.project(points) + 0.5) * SUPER - 0.5
        return np.asarray(np.round(large * (1 << _SHIFT)), dtype=np.int32)

    def _fill(self, canvas: Picture, points: NDArray[np.int32], colour: Colour) -> None:
        cv2.fillPoly(canvas, [points], _dim(colour, self.look.light), lineType=cv2.LINE_AA, shift=_SHIFT)

    def _gym(self) -> Picture:
        cam, look = self.camera, self.look
        height, width = cam.height_px * SUPER, cam.width_px * SUPER
        shade = np.linspace(1.08, 0.86, height)[:, None, None]
        canvas = np.clip(np.ones((height, width, 3)) * np.array(look.wall) * shade * look.light, 0, 255).astype(np.uint8)
        rng = np.random.default_rng(11)
        # Boards on the wall: soft vertical joints that move with the camera.
        for x in np.arange(-6.0, 6.0, 0.62):
            self._fill(
                canvas,
                self._px(np.array([[x, 0, -2.2], [x + 0.015, 0, -2.2], [x + 0.015, 3.4, -2.2], [x, 3.4, -2.2]])),
                _dim(look.wall, 0.9),
            )
        floor = np.array([[-9, 0, -2.2], [9, 0, -2.2], [9, 0, 2.0], [-9, 0, 2.0]], float)
        self._fill(canvas, self._px(floor), look.floor)
        self._fill(
            canvas,
            self._px(np.array([[-1.3, 0, -1.3], [1.3, 0, -1.3], [1.3, 0, 1.25], [-1.3, 0, 1.25]], float)),
            look.platform,
        )
        for x in (-2.6, 2.35):
            post = np.array([[x, 0, -1.9], [x + 0.07, 0, -1.9], [x + 0.07, 2.4, -1.9], [x, 2.4, -1.9]], float)
            self._fill(canvas, self._px(post), (70, 66, 64))
        for x, radius, z in look.spare_discs:
            self._circle(canvas, (x, radius, z), radius, look.disc)
            self._circle(canvas, (x, radius, z + 0.01), radius * 0.55, _dim(look.disc, 1.6))
        grain = rng.normal(0, 3.0, (height // 4, width // 4, 1))
        rough = cv2.resize(grain, (width, height), interpolation=cv2.INTER_LINEAR)[..., None]
        return np.asarray(np.clip(canvas + rough, 0, 255), dtype=np.uint8)

    def _circle(self, canvas: Picture, centre: tuple[float, float, float], radius: float, colour: Colour) -> None:
        radius -= self._fringe_m(centre)
        angle = np.linspace(0, 2 * np.pi, 180, endpoint=False)
        ring = np.array(centre) + radius * np.stack([np.cos(angle), np.sin(angle), np.zeros_like(angle)], axis=-1)
        self._fill(canvas, self._px(ring), colour)

    def _fringe_m(self, centre: tuple[float, float, float]) -> float:
        """How much too large the anti-aliased polygon filler draws a disc here (measured: 0.57 of its own pixels)."""
        return 0.57 / SUPER / self.camera.scale_at(np.array(centre))

    def _disc(self, canvas: Picture, bar: NDArray[np.float64], z: float, spin: float, far: bool = False) -> None:
        look, thick = self.look, 0.045
        inner, outer = (z, z + thick) if not far else (z - thick, z)
        # The tread first, as the hull between the two faces, then the face towards the camera.
        angle = np.linspace(0, 2 * np.pi, 90, endpoint=False)
        drawn = DISC_RADIUS_M - self._fringe_m((bar[0], bar[1], outer))
        ring = np.stack([bar[0] + drawn * np.cos(angle), bar[1] + drawn * np.sin(angle)], axis=-1)
        both = np.concatenate([self._px(np.column_stack([ring, np.full(len(ring), side)])) for side in (inner, outer)])
        self._fill(canvas, cv2.convexHull(both), _dim(look.disc, 0.8))
        self._circle(canvas, (bar[0], bar[1], outer), DISC_RADIUS_M, look.disc)
        self._circle(canvas, (bar[0], bar[1], outer), DISC_RADIUS_M * 0.90, _dim(look.disc, 1.25))
        self._circle(canvas, (bar[0], bar[1], outer), DISC_RADIUS_M * 0.62, look.disc_inner)
        self._circle(canvas, (bar[0], bar[1], outer), DISC_RADIUS_M * 0.30, (150, 150, 150))
        for turn in np.arange(3) * 2 * np.pi / 3 + spin:
            across = np.array([[-0.16, 0.68], [0.16, 0.68], [0.13, 0.80], [-0.13, 0.80]]) * DISC_RADIUS_M
            cos, sin = np.cos(turn), np.sin(turn)
            mark = np.column_stack([bar[0] + across @ [cos, -sin], bar[1] + across @ [sin, cos], np.full(4, outer)])
            self._fill(canvas, self._px(mark), (205, 205, 205))

    def _ball(self, canvas: Picture, centre: tuple[float, float, float], radius: float, colour: Colour) -> None:
        place, size = np.array(centre), radius * self.camera.scale_at(np.array(centre)) * SUPER
        x, y = self._px(place[None])[0]
        for share, tone in ((1.0, 0.82), (0.85, 0.92), (0.6, 1.0)):
            offset = int((1 - share) * size * 0.4 * (1 << _SHIFT))
            cv2.circle(
                canvas,
                (int(x), int(y - offset)),
                int(size * share * (1 << _SHIFT)),
                _dim(colour, tone * self.look.light),
                -1,
                cv2.LINE_AA,
                _SHIFT,
            )

    def _limb(self, canvas: Picture, start: tuple[float, ...], end: tuple[float, ...], r0: float, r1: float, colour: Colour) -> None:
        """A tapered, rounded limb, lit from above."""
        a, b = np.array(start, float), np.array(end, float)
        pa, pb = (self._px(p[None])[0] / (1 << _SHIFT) for p in (a, b))
        sa, sb = r0 * self.camera.scale_at(a) * SUPER, r1 * self.camera.scale_at(b) * SUPER
        for share, tone in ((1.0, 0.78), (0.86, 0.90), (0.62, 1.0)):
            rise = (1 - share) * 0.45
            hull = np.concatenate([_round(pa - [0, sa * rise], sa * share), _round(pb - [0, sb * rise], sb * share)])
            points = cv2.convexHull(np.round(hull * (1 << _SHIFT)).astype(np.int32))
            self._fill(canvas, points, _dim(colour, tone))

    def _trunk(self, canvas: Picture, pose: Pose, girth: float) -> None:
        look = self.look
        hip, shoulder = np.append(pose.hip, 0.0), np.append(pose.shoulder, 0.0)
        middle = 0.55 * shoulder + 0.45 * hip
        self._limb(canvas, tuple(hip), tuple(middle), 0.115 * girth, 0.105 * girth, look.shorts)
        self._limb(canvas, tuple(0.75 * hip + 0.25 * shoulder), tuple(shoulder), 0.108 * girth, 0.105 * girth, look.shirt)
        neck = 0.55 * pose.shoulder + 0.45 * pose.head
        self._limb(canvas, (*pose.shoulder, 0.0), (*neck, 0.0), 0.05, 0.05, look.skin)
        self._ball(canvas, (*pose.head, 0.0), 0.062 * self.build.stature_m, look.skin)
        up = pose.head - pose.shoulder
        up = up / max(float(np.hypot(*up)), 1e-9)
        self._ball(canvas, (*(pose.head + 0.022 * up + [-0.022, 0.012]), 0.0), 0.056 * self.build.stature_m, look.hair)

    def _foot(
        self,
        canvas: Picture,
        ankle: NDArray[np.float64],
        heel: NDArray[np.float64],
        toe: NDArray[np.float64],
        z: float,
        colour: Colour,
    ) -> None:
        lift = np.array([0.0, 0.03])
        self._limb(canvas, (*(heel + lift), z), (*(toe + lift * 0.75), z), 0.034, 0.024, colour)
        self._limb(canvas, (*(heel + lift), z), (*ankle, z), 0.036, 0.042, colour)

    def _shadow(self, canvas: Picture, pose: Pose) -> None:
        angle = np.linspace(0, 2 * np.pi, 48, endpoint=False)
        spread = np.stack([pose.ankle[0] + 0.45 * np.cos(angle), np.zeros_like(angle), 0.55 * np.sin(angle)], axis=-1)
        layer = canvas.copy()
        self._fill(layer, self._px(spread), (40, 44, 48))
        cv2.addWeighted(layer, 0.35, canvas, 0.65, 0, canvas)


def _round(centre: NDArray[np.float64], radius: float) -> NDArray[np.float64]:
    angle = np.linspace(0, 2 * np.pi, 24, endpoint=False)
    return np.asarray(centre + radius * np.stack([np.cos(angle), np.sin(angle)], axis=-1))


def _dim(colour: Colour, share: float) -> Colour:
    return tuple(int(np.clip(part * share, 0, 255)) for part in colour)  # type: ignore[return-value]

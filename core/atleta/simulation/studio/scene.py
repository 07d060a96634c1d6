"""One clip's scene: gym, figures and barbell, drawn at twice the size and averaged down."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from itertools import pairwise

import cv2
import numpy as np
from numpy.typing import NDArray

from ..barbell import COLLAR_M, SLEEVE_END_M, Disc
from ..build import SHAFT_RADIUS_M, Build
from ..camera import Camera
from ..look import Colour, DiscLook, Gym, Light, Look, Outfit
from ..truth_document import JOINTS
from .figure import Figure, Joints
from .raster import fill, normals

Floats = NDArray[np.float64]
Picture = NDArray[np.float32]
SUPER = 2
SEGMENTS = 96
# A cast disc's edge is drawn in so many steps; its signs are so many rows high and need a finer circle.
ARC, LETTER_ROWS, LETTERED_SEGMENTS = 5, 6, 288


@dataclass
class Mesh:
    """Points `(n, 3)`, triangles, colours by triangle; where something else shows below a hem, that colour and the cover by point."""

    points: Floats
    faces: NDArray[np.int64]
    colours: Floats
    under: Floats | None = None
    cover: Floats | None = None
    normals: Floats | None = None

    def fill(self, picture: Picture, near: Picture, pixels: Floats, away: Floats, under_light: Light) -> None:
        if self.normals is None:
            self.normals = normals(self.points, self.faces)
        light = _lit(self.normals, under_light)
        colours = self.colours.astype(np.float32)
        under = colours if self.under is None else self.under.astype(np.float32)
        cover = np.ones(len(self.points), np.float32) if self.cover is None else self.cover.astype(np.float32)
        fill(picture, near, pixels.astype(np.float32), away.astype(np.float32), self.faces, light, colours, under, cover)


class Scene:
    """Draws the instants of one clip."""

    def __init__(self, camera: Camera, build: Build, look: Look, discs: tuple[Disc, ...], blocks_m: float = 0.0) -> None:
        """`blocks_m` is how high the blocks are that the discs stand on; 0 for none."""
        self.camera, self.look, self.blocks_m = camera, look, blocks_m
        self.figure = Figure(build, look.outfit, muscle=look.muscle)
        rng = np.random.default_rng(look.gym.seed)
        self.strangers = [_stranger(rng) for _ in range(look.walkers + int(look.loader))]
        self._barbell = _barbell(discs, look.disc, rng)
        self._drawn: list[Mesh] = []
        self._room, self._near, self._floor = self._empty()
        self._small = cv2.resize(self._room, (camera.width_px, camera.height_px), interpolation=cv2.INTER_AREA)

    def draw(
        self, bodies: list[Joints], turned: list[float], strangers: list[Joints], more: Sequence[Mesh] = ()
    ) -> tuple[Picture, list[bool]]:
        """The picture `(height, width, 3)` of the instants while the shutter is open, red green blue, 0 to 1, as the lens hands it on
        (no noise, no shake), and which of the lifter's `JOINTS` something hides.

        Args:
            bodies: places by name, `(3,)` each, for every instant; the middle one stands for the frame.
            turned: how far the discs have turned, radians.
            strangers: joints of the people walking by.
            more: what else stands about.
        """
        others = [*(worn(figure, place) for figure, place in zip(self.strangers, strangers, strict=True)), *more]
        lifters = [self._lifter(joints, angle) for joints, angle in zip(bodies, turned, strict=True)]
        middle = lifters[len(lifters) // 2]
        self._drawn = [*middle, *others]
        cast = [self._seen(_shadow(thing.points))[0] for thing in [*others, *middle]]
        part = self._window([self._seen(thing.points)[0] for thing in [*others, *(one for pair in lifters for one in pair)]] + cast)
        if part is None:
            return self._small.copy(), [True] * len(JOINTS)
        rows, columns = part
        low = np.array([columns.start, rows.start])
        base, base_near = self._room[part].copy(), self._near[part].copy()
        self._shade(base, part, [(pixels - low, thing.faces) for pixels, thing in zip(cast, [*others, *middle], strict=True)])
        for thing in others:
            pixels, away = self._seen(thing.points)
            thing.fill(base, base_near, pixels - low, away, self.look.light)
        inner = self._window([self._seen(thing.points)[0] for pair in lifters for thing in pair])
        small = cv2.resize(base, (base.shape[1] // SUPER, base.shape[0] // SUPER), interpolation=cv2.INTER_AREA)
        if inner is not None:
            y, x = (
                slice(inner[0].start - rows.start, inner[0].stop - rows.start),
                slice(inner[1].start - columns.start, inner[1].stop - columns.start),
            )
            corner = np.array([inner[1].start, inner[0].start])
            shots = []
            for pair in lifters:
                picture, near = base[y, x].copy(), base_near[y, x].copy()
                for thing in pair:
                    pixels, away = self._seen(thing.points)
                    thing.fill(picture, near, pixels - corner, away, self.look.light)
                shots.append(cv2.resize(picture, (picture.shape[1] // SUPER, picture.shape[0] // SUPER), interpolation=cv2.INTER_AREA))
            small[y.start // SUPER : y.stop // SUPER, x.start // SUPER : x.stop // SUPER] = (
                np.mean(shots, axis=0) if len(shots) > 1 else shots[0]
            )
        made = self._small.copy()
        made[rows.start // SUPER : rows.stop // SUPER, columns.start // SUPER : columns.stop // SUPER] = small
        return made, self._hidden(bodies[len(bodies) // 2], [*middle, *others])

    def mask(self) -> NDArray[np.bool_]:
        """Which pixels of a picture a quarter as large show the lifter as drawn last."""
        scale = 0.25
        near = np.zeros((int(self.camera.height_px * scale), int(self.camera.width_px * scale)), np.float32)
        shown = np.zeros((*near.shape, 3), np.float32)
        for place, thing in enumerate(self._drawn):
            pixels, depth = self.camera.see(thing.points)
            tone = np.full((len(thing.faces), 3), float(place == 0))
            plain = Mesh(thing.points, thing.faces, tone, normals=np.tile([0.0, 1.0, 0.0], (len(thing.points), 1)))
            plain.fill(shown, near, pixels * scale, np.where(depth > 0.2, 1 / np.maximum(depth, 0.2), 0.0), Light())
        return shown[..., 0] > 0

    def _lifter(self, joints: Joints, turned: float) -> tuple[Mesh, Mesh]:
        spin = np.array([[np.cos(turned), -np.sin(turned), 0], [np.sin(turned), np.cos(turned), 0], [0, 0, 1]])
        bar = self._barbell
        return worn(self.figure, joints), Mesh(bar.points @ (_tilted(joints) @ spin).T + joints["bar"], bar.faces, bar.colours)

    def _window(self, pixels: list[Floats]) -> tuple[slice, slice] | None:
        """Rows and columns of the large picture that hold all these, with a rim; None when nothing is inside."""
        height, width = self._near.shape
        ends = np.concatenate(pixels)
        low = np.clip(np.floor(ends.min(0)).astype(int) - 24, 0, [width, height]) // SUPER * SUPER
        high = np.clip(-(-(np.ceil(ends.max(0)).astype(int) + 24) // SUPER) * SUPER, 0, [width, height])
        return None if (high <= low).any() else (slice(low[1], high[1]), slice(low[0], high[0]))

    def _hidden(self, joints: Joints, things: list[Mesh]) -> list[bool]:
        """Which of the lifter's joints lie behind a disc, somebody else, or deep behind the lifter's own body, or out of the picture."""
        scale = 0.25
        near = np.zeros((int(self.camera.height_px * scale) + 1, int(self.camera.width_px * scale) + 1), np.float32)
        blank = np.zeros((*near.shape, 3), np.float32)
        for thing in things:
            pixels, depth = self.camera.see(thing.points)
            thing.fill(blank, near, pixels * scale, np.where(depth > 0.2, 1 / np.maximum(depth, 0.2), 0.0), self.look.light)
        made = []
        pixels, depth = self.camera.see(np.array([joints[name] for name in JOINTS]))
        for (x, y), away in zip(np.round(pixels * scale).astype(int), depth, strict=True):
            inside = 0 <= x < near.shape[1] and 0 <= y < near.shape[0]
            # A joint lies under its own flesh: only what is 14 cm nearer hides it.
            made.append(not inside or bool(near[y, x] > 0 and 1 / near[y, x] < away - 0.14))
        return made

    # -- parts --------------------------------------------------------------------------------------------------------------

    def _seen(self, points: Floats) -> tuple[Floats, Floats]:
        """Pixels on the large picture, and one over the distance (zero behind the lens)."""
        pixels, depth = self.camera.see(points)
        return (pixels + 0.5) * SUPER - 0.5, np.where(depth > 0.2, 1 / np.maximum(depth, 0.2), 0.0)

    def _shade(self, picture: Picture, part: tuple[slice, slice], casts: list[tuple[Floats, NDArray[np.int64]]]) -> None:
        """Darken the floor under what stands on it. A shadow's edge is soft, so a quarter of the size is enough."""
        height, width = picture.shape[0] // 4 + 1, picture.shape[1] // 4 + 1
        canvas, near = np.zeros((height, width, 3), np.float32), np.zeros((height, width), np.float32)
        for pixels, faces in casts:
            count = len(pixels)
            white, one = np.ones((len(faces), 3), np.float32), np.ones(count, np.float32)
            fill(canvas, near, (pixels / 4).astype(np.float32), one, faces, np.ones((count, 3), np.float32), white, white, one)
        mask = cv2.GaussianBlur(canvas[..., 0], (0, 0), 1.3 * SUPER * self.camera.height_px / 720)
        mask = cv2.resize(mask, (4 * width, 4 * height), interpolation=cv2.INTER_LINEAR)[: picture.shape[0], : picture.shape[1]]
        mask *= self._floor[part]
        picture *= (1 - 0.42 * np.clip(mask * 1.15, 0, 1))[..., None]

    def _empty(self) -> tuple[Picture, Picture, NDArray[np.bool_]]:
        """The empty room at the large size: picture, one over the distance, and where the floor shows."""
        camera, gym = self.camera, self.look.gym
        height, width = camera.height_px * SUPER, camera.width_px * SUPER
        rng = np.random.default_rng(gym.seed)
        x, y = np.meshgrid(
            (np.arange(width) + 0.5) / SUPER - 0.5 - camera.middle_px[0], (np.arange(height) + 0.5) / SUPER - 0.5 - camera.middle_px[1]
        )
        roll = np.radians(-camera.roll_deg)
        x, y = x * np.cos(roll) - y * np.sin(roll), x * np.sin(roll) + y * np.cos(roll)
        if camera.facing == "left":
            x = -x
        right, up, ahead = camera.axes()
        ray = x[..., None] / camera.focal_px * right - y[..., None] / camera.focal_px * up + ahead
        eye = camera.eye_m
        with np.errstate(divide="ignore", invalid="ignore"):
            to_floor = np.where(ray[..., 1] < -1e-6, -eye[1] / ray[..., 1], np.inf)
            to_wall = np.where(ray[..., 2] < -1e-6, (gym.wall_m - eye[2]) / ray[..., 2], np.inf)
            to_roof = np.where(ray[..., 1] > 1e-6, (3.6 - eye[1]) / ray[..., 1], np.inf)
            to_side = np.where(np.abs(ray[..., 0]) > 1e-6, (np.sign(ray[..., 0]) * 7.0 - eye[0]) / ray[..., 0], np.inf)
        far = np.minimum(np.minimum(to_floor, to_wall), np.minimum(to_roof, np.where(to_side > 0, to_side, np.inf)))
        place = eye + far[..., None] * ray
        floor = to_floor <= far
        picture = np.empty((height, width, 3), np.float32)
        picture[:] = gym.wall
        self._paint_walls(picture, place, to_wall <= far)
        self._paint_floor(picture, place, floor, rng)
        picture[to_roof <= far] = (0.50, 0.50, 0.50)
        # The room is brighter in its middle and under its lamps.
        fade = 1.05 - 0.035 * np.hypot(place[..., 0], place[..., 2] - 0.5) + 0.04 * np.cos(place[..., 0] * 1.3)
        picture *= np.clip(fade, 0.55, 1.1)[..., None].astype(np.float32)
        near = (1 / np.maximum(far, 0.2)).astype(np.float32)
        before = near.copy()
        for thing in [*_furniture(gym, self.look.disc, rng), *_blocks(self.blocks_m)]:
            pixels, away = self._seen(thing.points)
            thing.fill(picture, near, pixels, away, self.look.light)
        return picture, near, floor & (near == before)

    def _paint_walls(self, picture: Picture, place: Floats, wall: NDArray[np.bool_]) -> None:
        gym = self.look.gym
        x, y = place[..., 0], place[..., 1]
        band = y < 1.1
        picture[band] = gym.band
        picture[np.abs(y - 1.1) < 0.012] = np.array(gym.band) * 0.7
        joints = wall & ((np.abs((x + 0.31) % 1.24 - 0.62) < 0.004) | (np.abs(y - 2.3) < 0.004))
        picture[joints] *= 0.88
        if gym.windows:
            pane = wall & (y > 1.5) & (y < 2.9) & ((x + 0.2) % 2.3 < 1.5)
            picture[pane] = (0.86, 0.90, 0.94)
            bars = pane & ((np.abs((x + 0.2) % 2.3 - 0.75) < 0.02) | (np.abs(y - 2.2) < 0.02))
            picture[bars] = (0.45, 0.46, 0.48)

    def _paint_floor(self, picture: Picture, place: Floats, floor: NDArray[np.bool_], rng: np.random.Generator) -> None:
        gym = self.look.gym
        x, z = np.where(floor, place[..., 0], 0.0), np.where(floor, place[..., 2], 0.0)
        grain = rng.normal(0, 1, (256, 256)).astype(np.float32)
        speck = grain[(z * 90).astype(int) % 256, (x * 90).astype(int) % 256]
        base = np.array(gym.floor, np.float32) * (1 + 0.06 * speck[..., None])
        seams = (np.abs(x % 1.0 - 0.5) > 0.497) | (np.abs(z % 1.0 - 0.5) > 0.497)
        base *= np.where(seams, 0.75, 1.0)[..., None]
        wood = (np.abs(x) < 1.35) & (np.abs(z) < 0.62)
        plank = np.floor(z / 0.13).astype(int)
        tone = 1 + 0.07 * np.sin(plank * 12.9898) + 0.02 * np.sin(x * 31 + plank * 2.1) + 0.012 * speck
        timber = (
            np.array(gym.platform, np.float32)
            * tone[..., None]
            * np.where(np.abs(z / 0.13 - np.round(z / 0.13)) < 0.015, 0.72, 1.0)[..., None]
        )
        mat = (np.abs(x) < 1.35) & (np.abs(z) >= 0.62) & (np.abs(z) < 1.35)
        rubber = np.array(gym.mats, np.float32) * (1 + 0.10 * speck[..., None])
        picture[floor] = np.where(wood[..., None], timber, np.where(mat[..., None], rubber, base))[floor]
        frame = floor & (np.maximum(np.abs(x), np.abs(z)) > 1.35) & (np.maximum(np.abs(x), np.abs(z)) < 1.39)
        picture[frame] = np.array(gym.posts) * 1.1


def worn(figure: Figure, joints: Joints) -> Mesh:
    """A figure with its clothes on, as its joints are."""
    points = figure.posed(joints)
    return Mesh(points, figure.faces, figure.colours, figure.under, figure.cover, figure.normals_of(points))


def _lit(across: Floats, light: Light) -> Picture:
    """Light on surfaces facing `across` `(n, 3)`: sky, lamp and what the walls throw back."""
    lamp, fill_in = (np.array(way) / np.linalg.norm(way) for way in (light.lamp, light.fill))
    sky = light.sky + light.from_above * across[:, 1]
    direct = light.lamp_strength * np.maximum(across @ lamp, 0)
    back = light.fill_strength * np.maximum(across @ fill_in, 0)
    return np.asarray((sky + direct + back)[:, None] * np.array(light.tint), np.float32)


def _shadow(points: Floats) -> Floats:
    """Where the lamp throws the points' shadow on the floor."""
    steep = np.array([0.12, 1.0, 0.16])
    made = points - points[:, 1:2] * steep
    made[:, 1] = 0.0
    return np.asarray(made)


def _tilted(joints: Joints) -> Floats:
    """Turn `(3, 3)` that lays the z axis along the bar."""
    _, sin, cos = joints["bar_right"] - joints["bar"]
    return np.array([[1.0, 0, 0], [0, cos, sin], [0, -sin, cos]])


def _barbell(discs: tuple[Disc, ...], look: DiscLook, rng: np.random.Generator) -> Mesh:
    steel = (0.62, 0.62, 0.64)
    parts = [_rod(SHAFT_RADIUS_M, -COLLAR_M, COLLAR_M, steel)]
    for side in (-1.0, 1.0):
        end = max(disc.outer_m for disc in discs)
        for radius, inner, outer, colour in (
            (0.040, COLLAR_M, COLLAR_M + 0.030, (0.55, 0.55, 0.57)),
            (0.025, end, SLEEVE_END_M, (0.66, 0.66, 0.68)),
            (0.036, end, end + 0.045, (0.30, 0.30, 0.32)),
        ):
            low, high = sorted((side * inner, side * outer))
            parts.append(_rod(radius, low, high, colour))
        parts += [_disc(disc, side, look, rng) for disc in discs]
    return _joined(parts)


def _rod(radius: float, low: float, high: float, colour: Colour, sides: int = 20) -> Mesh:
    angle = np.linspace(0, 2 * np.pi, sides, endpoint=False)
    ring = np.stack([radius * np.cos(angle), radius * np.sin(angle)], axis=1)
    points = np.concatenate([np.column_stack([ring, np.full(sides, z)]) for z in (low, high)])
    caps = np.concatenate([np.column_stack([ring, np.full(sides, z)]) for z in (low, high)])
    k, after = np.arange(sides), (np.arange(sides) + 1) % sides
    faces = [np.stack([k, after, after + sides], 1), np.stack([k, after + sides, k + sides], 1)]
    fan = np.arange(1, sides - 1)
    faces += [np.stack([np.full(len(fan), 2 * sides), 2 * sides + fan + 1, 2 * sides + fan], 1)]
    faces += [np.stack([np.full(len(fan), 3 * sides), 3 * sides + fan, 3 * sides + fan + 1], 1)]
    joined = np.concatenate(faces)
    return Mesh(np.concatenate([points, caps]), joined, np.tile(colour, (len(joined), 1)))


def _disc(disc: Disc, side: float, look: DiscLook, rng: np.random.Generator) -> Mesh:
    """A disc: tread, and a face of rings with marks and scuffs."""
    if look.depths_m and disc.radius_m > 0.2:
        return _cast(disc, side, look, rng)
    inner, outer = side * disc.inner_m, side * disc.outer_m
    rings = look.rings if disc.radius_m > 0.2 else ((1.0, (0.34, 0.35, 0.37)), (0.8, (0.40, 0.41, 0.43)), (0.4, (0.55, 0.55, 0.57)))
    angle = np.linspace(0, 2 * np.pi, SEGMENTS, endpoint=False)
    circle = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    k, after = np.arange(SEGMENTS), (np.arange(SEGMENTS) + 1) % SEGMENTS
    parts: list[Mesh] = []
    tread = np.concatenate([np.column_stack([disc.radius_m * circle, np.full(SEGMENTS, z)]) for z in (inner, outer)])
    turn = side > 0
    walls = [np.stack([k, after, after + SEGMENTS], 1), np.stack([k, after + SEGMENTS, k + SEGMENTS], 1)]
    parts.append(Mesh(tread, _turned(np.concatenate(walls), not turn), np.tile(np.array(rings[0][1]) * 0.9, (2 * SEGMENTS, 1))))
    for index, (share, colour) in enumerate(rings):
        inside = rings[index + 1][0] if index + 1 < len(rings) else 0.0
        # Discs are a little hollow between rim and hub.
        sunk = 0.006 if 0 < index < len(rings) - 1 else 0.0
        for plane, flip in ((outer - side * sunk, turn), (inner + side * sunk, not turn)):
            points = np.concatenate(
                [np.column_stack([radius * disc.radius_m * circle, np.full(SEGMENTS, plane)]) for radius in (share, max(inside, 1e-3))]
            )
            faces = np.concatenate([np.stack([k, after, after + SEGMENTS], 1), np.stack([k, after + SEGMENTS, k + SEGMENTS], 1)])
            tones = np.tile(colour, (2 * SEGMENTS, 1)) * (1 + look.wear * 0.35 * rng.normal(0, 1, (1, 1)))
            scuff = np.convolve(rng.normal(0, 1, SEGMENTS + 8), np.ones(9) / 9, "valid")
            tones = tones * (1 + look.wear * np.concatenate([scuff, scuff]))[:, None]
            if index == 1 and look.marks:
                marked = (angle * look.marks / (2 * np.pi) % 1.0) < 0.16
                tones[np.concatenate([marked, marked])] = look.mark
            parts.append(Mesh(points, _turned(faces, flip), np.clip(tones, 0, 1)))
    return _joined(parts)


def _cast(disc: Disc, side: float, look: DiscLook, rng: np.random.Generator) -> Mesh:
    """A disc with a rounded edge, rings that lie at their depths, and signs on one of them: one profile turned about the bar."""
    R, thick = disc.radius_m, disc.outer_m - disc.inner_m
    shoulder = min(look.shoulder_m, 0.45 * thick, (1 - look.rings[1][0]) * R if len(look.rings) > 1 else R)
    # Radius and depth below the face, from the middle of the tread inward, and the ring that each stretch of it belongs to.
    profile, belongs = [(R, thick / 2)], []
    for angle in np.linspace(0, np.pi / 2, ARC):
        profile.append((R - shoulder * (1 - np.cos(angle)), shoulder * (1 - np.sin(angle))))
        belongs.append(0)
    lettered = int(np.argmax([one[0] - other[0] for one, other in pairwise([*look.rings, (0.0, None)])])) if look.letters else -1
    for index, depth in enumerate(look.depths_m[: len(look.rings)]):
        end = (look.rings[index + 1][0] if index + 1 < len(look.rings) else 0.002) * R
        begin = min(profile[-1][0], look.rings[index][0] * R)
        rows = LETTER_ROWS + 2 if index == lettered else 1
        # A step is a steep slope.
        profile.append((begin - 0.3 * abs(depth - profile[-1][1]), depth))
        profile += [(begin + (end - begin) * row / rows, depth) for row in range(1, rows + 1)]
        belongs += [index] * (rows + 1)
    sides = LETTERED_SEGMENTS if look.letters else SEGMENTS
    angle = np.linspace(0, 2 * np.pi, sides, endpoint=False)
    circle = np.stack([np.cos(angle), np.sin(angle)], axis=1)
    k, after = np.arange(sides), (np.arange(sides) + 1) % sides
    tones = [np.clip(np.array(colour) * (1 + look.wear * 0.35 * rng.normal(0, 1)), 0, 1) for _, colour in look.rings]
    scuff = np.convolve(rng.normal(0, 1, sides + 8), np.ones(9) / 9, "valid")[:, None]
    signs = _signs(look.letters, sides, rng)
    parts = []
    for face in (1.0, -1.0):
        plane = disc.outer_m if face > 0 else disc.inner_m
        points = np.concatenate([np.column_stack([r * circle, np.full(sides, side * (plane - face * depth))]) for r, depth in profile])
        faces, colours, row = [], [], 0
        for place, index in enumerate(belongs):
            a, b = place * sides, (place + 1) * sides
            faces.append(np.concatenate([np.stack([a + k, a + after, b + after], 1), np.stack([a + k, b + after, b + k], 1)]))
            tone = tones[index] * (1 + look.wear * scuff)
            if index == lettered:
                if 2 <= row < 2 + LETTER_ROWS:
                    tone = np.where(signs[row - 2][:, None], look.mark, tone)
                row += 1
            colours.append(np.concatenate([tone, tone]))
        parts.append(Mesh(points, _turned(np.concatenate(faces), side * face > 0), np.clip(np.concatenate(colours), 0, 1)))
    return _joined(parts)


def _signs(letters: int, sides: int, rng: np.random.Generator) -> NDArray[np.bool_]:
    """Where signs stand `(LETTER_ROWS, sides)`: in two words opposite each other, each sign a few strokes of its own."""
    made = np.zeros((LETTER_ROWS, sides), bool)
    wide = max(sides // 72, 3)
    for word in range(2):
        for sign in range(letters):
            strokes = np.zeros((LETTER_ROWS, wide), bool)
            strokes[:, rng.integers(wide)] = True
            strokes[rng.integers(LETTER_ROWS)] = True
            strokes[:, 0] |= rng.uniform() < 0.5
            first = word * sides // 2 + sign * (wide + 1)
            made[:, np.arange(first, first + wide) % sides] |= strokes
    return made


def _turned(faces: NDArray[np.int64], flip: bool) -> NDArray[np.int64]:
    return faces[:, ::-1] if flip else faces


def _joined(parts: list[Mesh]) -> Mesh:
    starts = np.cumsum([0] + [len(part.points) for part in parts])
    return Mesh(
        np.concatenate([part.points for part in parts]),
        np.concatenate([part.faces + start for part, start in zip(parts, starts, strict=False)]),
        np.concatenate([part.colours for part in parts]),
    )  # fmt: skip


def _box(low: tuple[float, float, float], high: tuple[float, float, float], colour: Colour) -> Mesh:
    corners = np.array([[x, y, z] for x in (low[0], high[0]) for y in (low[1], high[1]) for z in (low[2], high[2])])
    quads = [(0, 1, 3, 2), (4, 6, 7, 5), (0, 4, 5, 1), (2, 3, 7, 6), (0, 2, 6, 4), (1, 5, 7, 3)]
    points = np.concatenate([corners[list(quad)] for quad in quads])
    faces = np.concatenate([[[4 * i, 4 * i + 1, 4 * i + 2], [4 * i, 4 * i + 2, 4 * i + 3]] for i in range(6)])
    return Mesh(points, faces.astype(np.int64), np.tile(colour, (12, 1)))


def _furniture(gym: Gym, disc: DiscLook, rng: np.random.Generator) -> list[Mesh]:
    made: list[Mesh] = []
    back = gym.wall_m
    if gym.rack:
        for x in (-2.35, -1.35):
            for z in (back + 0.35, back + 1.0):
                made.append(_box((x, 0, z), (x + 0.07, 2.35, z + 0.07), gym.posts))
        made.append(_box((-2.35, 2.28, back + 0.35), (-1.28, 2.35, back + 0.42), gym.posts))
        made.append(_box((-2.35, 2.28, back + 1.0), (-1.28, 2.35, back + 1.07), gym.posts))
    for index in range(gym.spare_discs):
        x = float(rng.uniform(-2.6, 2.6))
        z = back + 0.12 + 0.07 * index
        spare = _disc(Disc(20.0, 0.225, -0.025, 0.025), 1.0, disc, rng)
        lean = np.radians(float(rng.uniform(4, 12)))
        tilt = np.array([[1, 0, 0], [0, np.cos(lean), -np.sin(lean)], [0, np.sin(lean), np.cos(lean)]])
        made.append(Mesh(spare.points @ tilt.T + [x, 0.224, z], spare.faces, spare.colours))
    if gym.bench:
        made.append(_box((1.7, 0.38, back + 0.5), (2.9, 0.46, back + 0.8), (0.15, 0.16, 0.2)))
        for x in (1.8, 2.75):
            made.append(_box((x, 0, back + 0.6), (x + 0.06, 0.38, back + 0.7), gym.posts))
    # A low shelf of small weights along the wall.
    made.append(_box((0.4, 0.0, back + 0.05), (2.0, 0.30, back + 0.35), (0.30, 0.29, 0.28)))
    made.append(_box((0.4, 0.55, back + 0.05), (2.0, 0.60, back + 0.35), (0.30, 0.29, 0.28)))
    for x in np.arange(0.5, 1.9, 0.2):
        made.append(_box((x, 0.60, back + 0.1), (x + 0.12, 0.72, back + 0.3), (0.16 + 0.2 * float(rng.uniform()), 0.16, 0.18)))
    return made


def _blocks(height_m: float) -> list[Mesh]:
    """A stack of boards under the discs of each side; the topmost is a rubber mat."""
    made: list[Mesh] = []
    boards = max(round(height_m / 0.08), 1) if height_m > 0 else 0
    for side in (-1.0, 1.0):
        inner, outer = sorted((side * (COLLAR_M - 0.02), side * (SLEEVE_END_M - 0.05)))
        for board in range(boards):
            low, high = height_m * board / boards, height_m * (board + 1) / boards
            tone = 0.9 + 0.1 * (board % 2)
            colour = (0.20, 0.20, 0.22) if board == boards - 1 else (0.62 * tone, 0.49 * tone, 0.34 * tone)
            made.append(_box((-0.36, low + 0.004, inner), (0.62, high, outer), colour))
    return made


def _stranger(rng: np.random.Generator) -> Figure:
    build = Build(float(rng.uniform(1.58, 1.86)), girth=float(rng.uniform(0.92, 1.1)), sex=float(rng.integers(0, 2)))

    def tone(colour: Floats) -> Colour:
        red, green, blue = (float(part) for part in colour)
        return red, green, blue

    shirt, trousers, shoes = (tone(rng.uniform(0.1, 0.7, 3)) for _ in range(3))
    skin = tone(np.array([0.80, 0.60, 0.47]) * rng.uniform(0.45, 1.05))
    return Figure(build, Outfit(skin=skin, shirt=shirt, shorts=trousers, shoes=shoes, legs_covered=2.0), muscle=0.3)

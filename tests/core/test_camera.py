"""What the picture tells of the camera: gravity's direction, the hand that holds it, and how it sees a stack of discs."""

from dataclasses import replace

import cv2
import numpy as np
import pytest

from atleta.analysis import build_document
from atleta.simulation import Camera
from atleta.tracking import DiscTrack, RawTracks, Shake, ShakeWatch, Uprights, View, edges, find_uprights, near_face
from atleta.tracking.far_disc import CameraPlace, outline_sd
from atleta.tracking.rim import SECTOR_ANGLE
from atleta.tracking.stack import looked_from

from .world import INFO, lift, settings_for, true_tracks


def room(*, roll_deg: float, fan_deg: float, posts: int = 6, size: tuple[int, int] = (720, 1280), seed: int = 1) -> np.ndarray:
    """A wall with posts that lean as upright ones do in a camera that rolls, and a few leaning bars that must not count."""
    rng = np.random.default_rng(seed)
    height, width = size
    picture = np.full(size, 140, np.uint8)
    for place in np.linspace(-0.7, 0.7, posts) * width / height:
        lean = np.radians(roll_deg - fan_deg * place)
        middle = np.array([width / 2 + place * height, height / 2])
        along = np.array([-np.sin(lean), np.cos(lean)]) * 0.3 * height
        cv2.line(picture, *(tuple(int(v * 16) for v in middle + s * along) for s in (-1, 1)), 60, 9, cv2.LINE_AA, 4)
    cv2.line(picture, (300, 600), (420, 200), 220, 7, cv2.LINE_AA)
    cv2.line(picture, (900, 600), (1010, 250), 220, 7, cv2.LINE_AA)
    return np.clip(cv2.GaussianBlur(picture, (0, 0), 0.8) + rng.normal(0, 2, size), 0, 255).astype(np.uint8)


@pytest.mark.parametrize(("roll", "fan"), [(0.0, 0.0), (2.3, 1.5), (-4.1, -3.0)])
def test_gravity_is_read_off_what_stands_upright(roll: float, fan: float) -> None:
    found = find_uprights([edges(room(roll_deg=roll, fan_deg=fan))])
    assert found is not None
    assert found.roll_deg == pytest.approx(roll, abs=0.2)
    assert found.lean_at(1100, 1280, 720) == pytest.approx(roll - fan * (1100 - 640) / 720, abs=0.3)
    assert found.sd_deg < 0.3


def test_a_bare_room_says_nothing_of_gravity() -> None:
    assert find_uprights([edges(room(roll_deg=0, fan_deg=0, posts=0))]) is None
    assert find_uprights([edges(np.full((720, 1280), 90, np.uint8))]) is None
    assert find_uprights([]) is None


def test_a_lift_filmed_with_a_tilted_phone_is_judged_upright() -> None:
    done = lift("snatch")
    raw, truth = true_tracks(done, Camera(roll_deg=3.0))
    # Without the drop, which would show gravity as well.
    held = (0, int(np.searchsorted(raw.frame_time_s, truth["events"]["release"])) - 2)
    straight = build_document(replace(raw, uprights=Uprights(3.0, 0.0, 0.12)), INFO, "0" * 64, settings_for(truth, trim=held))
    crooked = build_document(raw, INFO, "0" * 64, settings_for(truth, trim=held))
    assert [document["scale"]["plumb_source"] for document in (straight, crooked)] == ["footage", "picture"]
    measured = {name: doc["lifts"][0]["measures"]["bar_x@apex"]["value"] for name, doc in (("straight", straight), ("crooked", crooked))}
    assert measured["straight"] == pytest.approx(truth["measures"]["bar_x@apex"], abs=0.7)
    assert abs(measured["crooked"] - truth["measures"]["bar_x@apex"]) > 3
    assert "plumb_unmeasured" in {row["code"] for row in crooked["warnings"]} - {row["code"] for row in straight["warnings"]}


@pytest.mark.parametrize("facing", ["left", "right"])
def test_where_nothing_stands_upright_the_falling_bar_shows_gravity(facing: str) -> None:
    raw, truth = true_tracks(lift("snatch"), Camera(roll_deg=3.0, facing=facing), noise_px=0.15)
    scale = build_document(raw, INFO, "0" * 64, settings_for(truth))["scale"]
    assert scale["plumb_source"] == "fall"
    assert scale["plumb_deg"] == pytest.approx(3.0, abs=2 * scale["plumb_sd_deg"])
    assert scale["plumb_sd_deg"] < 0.8
    # Seen so badly that it tells less than the picture's edge it is left alone.
    raw, truth = true_tracks(lift("snatch"), Camera(roll_deg=3.0, facing=facing), noise_px=2.5)
    scale = build_document(raw, INFO, "0" * 64, settings_for(truth))["scale"]
    assert (scale["plumb_source"], scale["plumb_deg"], scale["plumb_sd_deg"]) == ("picture", 0.0, 1.0)


def shaken_room(moves: np.ndarray, grown: np.ndarray | None = None) -> list[np.ndarray]:
    """The room as a hand moves it: `(frames, 3)` px right, px down, degrees clockwise, and zooms in on it; something large moves about
    before it."""
    still = room(roll_deg=0, fan_deg=0, posts=9)
    made = []
    for k, (x, y, turn) in enumerate(moves):
        matrix = cv2.getRotationMatrix2D((639.5, 359.5), -turn, 1.0 if grown is None else grown[k])
        matrix[:, 2] += (x, y)
        picture = cv2.warpAffine(still, matrix, (1280, 720), flags=cv2.INTER_CUBIC, borderMode=cv2.BORDER_REFLECT)
        cv2.circle(picture, (500 + 6 * k, 400 - 3 * k), 60, 30, -1, cv2.LINE_AA)
        made.append(picture)
    return made


def watched(pictures: list[np.ndarray]) -> Shake:
    watch = ShakeWatch()
    for k, picture in enumerate(pictures):
        watch.feed(k / 30, picture)
    return watch.finish()


def test_a_hand_that_shakes_is_taken_out_to_a_fraction_of_a_pixel() -> None:
    t = np.arange(45) / 30
    moves = np.stack([4 * np.sin(2 * np.pi * 0.8 * t), 3 * np.sin(2 * np.pi * 1.7 * t), 0.3 * np.sin(2 * np.pi * 0.5 * t)], axis=1)
    shake = watched(shaken_room(moves))
    assert shake
    late = slice(12, None)
    assert np.abs(shake.x_px - moves[:, 0])[late].max() < 0.4
    assert np.abs(shake.y_px - moves[:, 1])[late].max() < 0.4
    assert np.abs(np.degrees(shake.turn_rad) - moves[:, 2])[late].max() < 0.06
    assert (shake.grown == 1.0).all()
    frames, points = np.arange(45), np.random.default_rng(0).uniform(100, 700, (45, 3, 2))
    assert shake.put_in(frames, shake.taken_out(frames, points)) == pytest.approx(points)
    held = RawTracks(t, 1280, 720, [], np.zeros((45, 1, 1), np.uint8), shake=shake, uprights=Uprights(1, 2, 0.1))
    again = RawTracks.from_json(held.to_json())
    assert again.shake.x_px == pytest.approx(shake.x_px, abs=1e-3)
    assert again.uprights == held.uprights


@pytest.mark.parametrize(("hand", "by"), [(0.0, 0.12), (1.0, 0.25)])
def test_a_zoom_is_taken_out_too(hand: float, by: float) -> None:
    t = np.arange(60) / 30
    moves = hand * np.stack([4 * np.sin(2 * np.pi * 0.8 * t), 3 * np.sin(2 * np.pi * 1.7 * t), 0 * t], axis=1)
    grown = 1 + by * np.clip((t - 0.4) / 1.2, 0, 1)
    shake = watched(shaken_room(moves, grown))
    # Until it is noticed frames are compared now and then.
    late = slice(18, None)
    assert np.abs(shake.grown / grown - 1)[late].max() < 0.003
    assert np.abs(shake.x_px - moves[:, 0])[late].max() < 0.6
    frames, points = np.arange(60), np.random.default_rng(0).uniform(100, 700, (60, 3, 2))
    assert shake.put_in(frames, shake.taken_out(frames, points)) == pytest.approx(points)
    assert Shake.from_json(shake.to_json()).grown == pytest.approx(shake.grown, abs=1e-6)


def test_a_phone_on_a_stand_does_not_shake_however_much_moves_before_it() -> None:
    assert not watched(shaken_room(np.zeros((40, 3))))
    assert not watched([np.full((720, 1280), 90, np.uint8)] * 20)


def bare_room(moves: np.ndarray) -> list[np.ndarray]:
    """A wall with hardly anything on it, as a hand moves it, and before it somebody full of corners who goes up and stays there."""
    wall = np.full((900, 1500), 120, np.uint8)
    for x in range(150, 1500, 200):
        cv2.line(wall, (x, 0), (x, 900), 90, 2)
    for y in (140, 330, 520, 800):
        cv2.line(wall, (0, y), (1500, y), 90, 2)
    plain = np.kron(np.random.default_rng(3).integers(20, 230, (16, 12)), np.ones((20, 20))).astype(np.uint8)
    made = []
    for k, (x, y) in enumerate(moves):
        shift = np.float32([[1, 0, x - 110], [0, 1, y - 90]])
        picture = cv2.warpAffine(wall, shift, (1280, 720), flags=cv2.INTER_CUBIC)
        up = round(min(6 * max(k - 10, 0), 150))
        picture[300 - up + round(y) : 620 - up + round(y), 520 + round(x) : 760 + round(x)] = plain
        made.append(cv2.GaussianBlur(picture, (0, 0), 0.7))
    return made


def test_before_a_bare_wall_who_moves_is_not_taken_for_the_room() -> None:
    assert not watched(bare_room(np.zeros((50, 2))))
    t = np.arange(60) / 30
    moves = np.stack([6 * np.sin(2 * np.pi * 0.5 * t), 5 * np.sin(2 * np.pi * 0.9 * t)], axis=1)
    shake = watched(bare_room(moves))
    assert shake
    off = np.hypot(shake.x_px - moves[:, 0], shake.y_px - moves[:, 1])
    assert off[12:].max() < 1.0


def test_the_shake_of_a_hand_changes_no_measure() -> None:
    done = lift("snatch")
    raw, truth = true_tracks(done, Camera())
    steady = build_document(raw, INFO, "0" * 64, settings_for(truth))
    t = raw.frame_time_s
    shake = Shake(5 * np.sin(7 * t), 4 * np.cos(9 * t), 0.004 * np.sin(5 * t), 1 + 0.05 * np.sin(3 * t), (639.5, 359.5))
    piece = raw.tracklets[0]
    moved = shake.put_in(np.arange(len(t)), np.column_stack([piece.x_px, piece.y_px]))
    grown_px = list(np.array(piece.radius_px) * shake.grown)
    shaken = replace(raw, shake=shake, tracklets=[replace(piece, x_px=list(moved[:, 0]), y_px=list(moved[:, 1]), radius_px=grown_px)])
    document = build_document(shaken, INFO, "0" * 64, settings_for(truth))
    assert document["disc"]["x_px"] == pytest.approx(list(moved[:, 0]), abs=1e-3)
    assert next(row["message"] for row in document["warnings"] if row["code"] == "zoomed").startswith("The picture was zoomed by 11 %")
    for name, value in steady["lifts"][0]["measures"].items():
        if value["value"] is not None:
            assert document["lifts"][0]["measures"][name]["value"] == pytest.approx(value["value"], abs=1e-3), name


# -- the near face of a stack of discs -----------------------------------------------------------------------------------


def ring_px(view: View, x: float, y: float, aside_m: float) -> np.ndarray:
    """A disc's rim `(360, 2)` as a picture of 1280 x 720 shows it, worked out here anew: turn the world, then divide by depth."""
    angle = np.linspace(0, 2 * np.pi, 360, endpoint=False)
    world = np.stack([x + 0.225 * np.cos(angle), y + 0.225 * np.sin(angle), np.full(360, aside_m)])
    turn = np.array([[np.cos(view.yaw), 0, -np.sin(view.yaw)], [0, 1, 0], [np.sin(view.yaw), 0, np.cos(view.yaw)]])
    right, up, towards = turn @ world
    ahead, cos, sin = view.depth_m - towards, np.cos(view.horizon), np.sin(view.horizon)
    away, above = ahead * cos - up * sin, up * cos + ahead * sin
    return np.stack([639.5 + view.focal_px * right / away, 359.5 - view.focal_px * above / away], axis=1)


def seen_stack(view: View, places: np.ndarray, thick_m: float) -> tuple[DiscTrack, np.ndarray]:
    """The outline of near and far face together, read from the outline's own middle; and the near face's true middle and half-height."""
    track, true = DiscTrack.empty(len(places)), []
    for k, (x, y) in enumerate(places):
        near = ring_px(view, x, y, view.near_m)
        both = np.concatenate([near, ring_px(view, x, y, view.near_m - thick_m)]).astype(np.float32)
        hull = cv2.convexHull(both)[:, 0].astype(float)
        middle = (hull.min(0) + hull.max(0)) / 2
        track.x_px[k], track.y_px[k] = middle
        track.radius_px[k], track.squeeze[k], track.confidence[k] = (hull.max(0) - hull.min(0))[1] / 2, 1.0, 1.0
        off = hull - middle
        turn = np.arctan2(off[:, 1], off[:, 0]) % (2 * np.pi)
        order = np.argsort(turn)
        around = np.interp(SECTOR_ANGLE, turn[order], np.hypot(*off.T)[order], period=2 * np.pi)
        track.outline[k] = around - track.radius_px[k]
        true.append([*(near.min(0) + near.max(0)) / 2, (near.max(0) - near.min(0))[1] / 2])
    return track, np.array(true)


@pytest.mark.parametrize("yaw_deg", [-12.0, 0.0, 9.0])
@pytest.mark.parametrize("horizon_deg", [-7.0, 1.0])
def test_the_face_is_told_from_the_outline_of_a_heavy_stack(yaw_deg: float, horizon_deg: float) -> None:
    view = View(4.6, np.radians(yaw_deg), np.radians(horizon_deg), 0.78, 1180.0)
    places = np.stack([np.linspace(-0.05, 0.1, 40), np.linspace(-0.9, 0.9, 40)], axis=1)
    outline, true = seen_stack(view, places, thick_m=0.13)
    faced, told = near_face(outline, CameraPlace(4.6, 0.1, yaw_deg, 0.5, horizon_deg, 0.4), 0.78, 1280, 720)
    assert told is not None
    before = np.hypot(outline.x_px - true[:, 0], outline.y_px - true[:, 1])
    after = np.hypot(faced.x_px - true[:, 0], faced.y_px - true[:, 1])
    assert np.sqrt(np.mean(before**2)) > 1.5
    assert np.sqrt(np.mean(after**2)) < 0.25
    assert faced.radius_px == pytest.approx(true[:, 2], rel=0.003)
    # And with it where the bar is, though the disc looked at hangs well to the side of it.
    x, y = told.bar_m(*told.level(faced.x_px - 639.5, 359.5 - faced.y_px))
    assert x == pytest.approx(places[:, 0], abs=0.004)
    assert y == pytest.approx(places[:, 1], abs=0.006)


@pytest.mark.parametrize(("yaw_deg", "horizon_deg"), [(-14.0, 3.0), (0.0, 0.0), (8.0, -9.0)])
def test_outlines_alone_tell_from_where_the_camera_looks(yaw_deg: float, horizon_deg: float) -> None:
    view = View(4.6, np.radians(yaw_deg), np.radians(horizon_deg), 0.78, 1180.0)
    places = np.stack([np.linspace(-0.05, 0.1, 40), np.linspace(-0.9, 0.9, 40)], axis=1)
    told = looked_from(seen_stack(view, places, thick_m=0.10)[0], 0.76, 4.6, 1280, 720)
    assert told is not None
    off = np.radians(np.array(told) - [yaw_deg, horizon_deg])
    assert (np.abs(off) < 1.5 * outline_sd(told)).all(), told


def test_an_outline_hardly_seen_stays_what_it_was() -> None:
    camera = CameraPlace(4.6, 0.1, 0.0, 0.5, 0.0, 0.4)
    unseen = replace(DiscTrack.empty(20), x_px=np.full(20, 600.0), y_px=np.full(20, 300.0), radius_px=np.full(20, 60.0))
    assert near_face(unseen, camera, 0.76, 1280, 720) == (unseen, None)
    assert looked_from(unseen, 0.76, 4.6, 1280, 720) is None

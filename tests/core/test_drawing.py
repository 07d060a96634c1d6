"""Where in the picture a measure shows, and the start that a build asks for."""

from __future__ import annotations

import math

import pytest

from atleta.analysis.drawing import lines_of
from atleta.measures.start import solved_start

PLACES = {"shoulder": (340, 200), "hip": (280, 300), "knee": (350, 380), "ankle": (310, 460), "heel": (290, 480), "toe": (390, 484)}
DOCUMENT = {
    "clip": {"facing": "right"}, "scale": {"plumb_deg": 0.0}, "disc": {"x_px": [320.0, 345.0], "y_px": [450.0, 400.0]},
    "joints": {
        f"{side}_{name}": {"x_px": [None, x + ahead], "y_px": [None, y]}
        for side, ahead in (("right", 0), ("left", 20)) for name, (x, y) in PLACES.items()
    },
}  # fmt: skip
LIFT = {"start_frame": 0, "events": {"lift_off": {"frame": 0}}}


@pytest.mark.parametrize(("measure", "line"), [
    # Joints of an angle on the side towards the camera; two places, each between left and right, and the corner between them, level or
    # upright; the bar against the upright through its first place.
    ("trunk_angle@knee", [(280, 300), (340, 200)]),
    ("extension_knee", [(280, 300), (350, 380), (310, 460)]),
    ("shoulder_over_bar@knee", [(350, 200), (345, 200), (345, 400)]),
    ("depth", [(290, 300), (290, 380), (360, 380)]),
    ("bar_x@knee", [(320, 400), (345, 400)]),
    # The ball is seven tenths of the way from heel to toe, on the lower of the two.
    ("bar_over_ball@lift_off", [(345, 400), (370, 400), (370, 484)]),
    ("balance@knee", [(350, 484)]),
    ("split_length_share", [(360, 484), (340, 484)]),
    ("back_knee_angle", [(280, 300), (350, 380), (310, 460)]),
    ("hip_forward_speed@contact", [(290, 300)]),
    ("peak_speed_of_something", [(345, 400)]),
])  # fmt: skip
def test_a_measure_is_a_line_through_what_it_rests_on(measure: str, line: list) -> None:
    assert lines_of(measure, DOCUMENT, LIFT, 1) == [pytest.approx(spot) for spot in line]


@pytest.mark.parametrize("measure", ["trunk_angle@knee", "shoulder_over_bar@knee", "depth", "balance@knee", "foot_order"])
def test_what_is_not_in_the_picture_is_not_drawn(measure: str) -> None:
    assert lines_of(measure, DOCUMENT, LIFT, 0) == []


def test_on_a_leaning_phone_the_upright_leans() -> None:
    leaning = {**DOCUMENT, "scale": {"plumb_deg": 5.0}}
    (start, _), _ = lines_of("bar_x@knee", leaning, LIFT, 1)
    assert start == pytest.approx(320 + 50 * math.tan(math.radians(5)))


def test_the_own_start_keeps_its_relations_and_the_length_of_the_trunk() -> None:
    segments = {"thigh": 0.42, "shin": 0.42, "trunk": 0.51, "upper_arm": 0.31, "forearm": 0.24, "grip": 0.46}
    start = solved_start(segments, 1.70, 0.225)
    points = start.points_m
    assert points["bar"] == (0.0, 0.225)
    assert points["shoulder"][0] == pytest.approx(0.03)
    assert math.dist(points["hip"], points["shoulder"]) == pytest.approx(0.51, abs=1e-6)
    assert points["ankle"][0] < points["bar"][0] < points["shoulder"][0]
    assert points["hip"][1] > points["knee"][1] > points["ankle"][1]
    rise, reach = (points["shoulder"][axis] - points["hip"][axis] for axis in (1, 0))
    assert start.trunk_deg == pytest.approx(math.degrees(math.atan2(rise, reach)))

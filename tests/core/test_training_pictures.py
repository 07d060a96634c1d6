"""What the lifter network learns from: bodies that could be, and squares whose joints are where they are said to be."""

from __future__ import annotations

import itertools
from dataclasses import replace

import numpy as np
import pytest
from training import people
from training.pictures import samples
from training.squares import JOINTS, KEPT_PX

from atleta.simulation import Build, DiscLook, Wanted, asked_set, play
from atleta.simulation.barbell import Disc
from atleta.simulation.look import Outfit
from atleta.simulation.skeleton import soled
from atleta.simulation.studio.figure import Figure
from atleta.simulation.studio.scene import _disc


@pytest.fixture(scope="module")
def standing() -> tuple[dict[str, np.ndarray], Build]:
    who = Build(1.7)
    body = play(asked_set(Wanted("snatch", who))).body_at(np.array([1.2]))
    return {name: place[:, 0] for name, place in body.items()}, who


def lengths(body: dict[str, np.ndarray], *joints: str) -> list[float]:
    return [
        float(np.linalg.norm(body[f"{side}_{a}"] - body[f"{side}_{b}"]))
        for side in ("left", "right")
        for a, b in itertools.pairwise(joints)
    ]


@pytest.mark.parametrize("seed", range(12))
def test_a_lift_done_otherwise_keeps_its_limbs_and_its_hands_on_the_bar(standing: tuple[dict[str, np.ndarray], Build], seed: int) -> None:
    body, who = standing
    made = people.otherwise(body, who, np.random.default_rng(seed))
    assert lengths(made, "hip", "knee", "ankle") == pytest.approx(2 * [who.thigh_m, who.shank_m], abs=0.03)
    assert lengths(made, "shoulder", "elbow", "wrist") == pytest.approx(2 * [who.upper_arm_m, who.forearm_m], abs=0.03)
    for side in ("left", "right"):
        assert made[f"{side}_hand"] == pytest.approx(body[f"{side}_hand"])
    assert any(np.abs(made[name] - body[name]).max() > 0.005 for name in ("left_knee", "right_elbow", "left_hip"))


def test_heels_and_toes_are_told_at_the_ends_of_the_soles(standing: tuple[dict[str, np.ndarray], Build]) -> None:
    body, who = standing
    ends = soled(body, who)
    for side in ("left", "right"):
        heel, toe = (body[f"{side}_{name}"] for name in ("heel", "toe"))
        assert np.linalg.norm(ends[f"{side}_heel"] - heel) == pytest.approx(0.08 * who.foot_m)
        assert np.linalg.norm(ends[f"{side}_toe"] - toe) == pytest.approx(0.06 * who.foot_m)
        longer = np.linalg.norm(ends[f"{side}_toe"] - ends[f"{side}_heel"]) / np.linalg.norm(toe - heel)
        assert longer == pytest.approx(1.14, abs=0.02)


def test_a_body_whose_joints_lie_elsewhere_is_drawn_a_little_otherwise_about_them(standing: tuple[dict[str, np.ndarray], Build]) -> None:
    body, who = standing
    usual, other, again = (Figure(who, Outfit(jointed=seed)).posed(body) for seed in (0, 5, 5))
    np.testing.assert_array_equal(other, again)
    off = np.linalg.norm(other - usual, axis=1)
    assert 0.002 < np.median(off) < 0.03
    assert off.max() < 0.12


@pytest.mark.parametrize(
    ("share", "longer", "shorter"), [("forearm_share", "forearm_m", "upper_arm_m"), ("shank_share", "shank_m", "thigh_m")]
)
def test_what_a_forearm_or_a_shin_takes_the_other_half_of_the_limb_gives(share: str, longer: str, shorter: str) -> None:
    usual, other = Build(1.7), replace(Build(1.7), **{share: 1.1})
    assert getattr(other, longer) == pytest.approx(1.1 * getattr(usual, longer))
    assert getattr(other, longer) + getattr(other, shorter) == pytest.approx(getattr(usual, longer) + getattr(usual, shorter))


def test_samples_of_a_number_are_the_same_each_time_and_their_joints_lie_on_the_lifter() -> None:
    first, again = (list(zip(range(3), samples(11), strict=False)) for _ in range(2))
    looked_at = 0
    for (_, one), (_, other) in zip(first, again, strict=True):
        assert np.array_equal(one.picture, other.picture)
        assert np.array_equal(one.points, other.points)
        assert one.picture.shape == (KEPT_PX, KEPT_PX, 3)
        assert one.points.shape == (len(JOINTS), 2)
        seen = one.points[~one.hidden & one.there].round().astype(int) // (KEPT_PX // len(one.mask))
        inside = seen[((seen >= 0) & (seen < len(one.mask))).all(1)]
        if one.there and len(inside):
            near = np.pad(one.mask, 2)
            on = [near[y : y + 5, x : x + 5].any() for x, y in inside]
            assert np.mean(on) > 0.8
            looked_at += 1
    assert looked_at


def test_a_cast_disc_keeps_its_rim_and_has_rings_at_their_depths_and_signs_on_one() -> None:
    disc = Disc(20.0, 0.225, 0.0, 0.06)
    look = DiscLook(
        rings=((1.0, (0.1, 0.1, 0.1)), (0.8, (0.1, 0.1, 0.4)), (0.3, (0.5, 0.5, 0.5))),
        mark=(1.0, 1.0, 1.0), wear=0.0, shoulder_m=0.012, depths_m=(0.0, 0.008, 0.002), letters=6,
    )  # fmt: skip
    drawn = _disc(disc, 1.0, look, np.random.default_rng(0))
    out, z = np.hypot(*drawn.points[:, :2].T), drawn.points[:, 2]
    assert out.max() == pytest.approx(0.225)
    # The edge is round: nothing of the face is as far out as the tread.
    assert out[z > 0.06 - 1e-9].max() == pytest.approx(0.225 - 0.012)
    assert {round(float(0.06 - depth), 4) for depth in z[(out < 0.17) & (out > 0.08) & (z > 0.03)]} == {0.008}
    white = (drawn.colours == 1.0).all(axis=1)
    middles = drawn.points[drawn.faces[white]].mean(axis=1)
    assert white.any()
    assert np.ptp(np.hypot(*middles[:, :2].T)) < 0.11
    # As seen from outside, every triangle of the near face faces outwards.
    a, b, c = (drawn.points[drawn.faces[:, corner]] for corner in range(3))
    way = np.cross(b - a, c - a)[:, 2]
    near = drawn.points[drawn.faces].mean(axis=1)[:, 2] > 0.045
    plain = _disc(disc, 1.0, DiscLook(), np.random.default_rng(0))
    a, b, c = (plain.points[plain.faces[:, corner]] for corner in range(3))
    before = np.cross(b - a, c - a)[plain.points[plain.faces].mean(axis=1)[:, 2] > 0.055][:, 2]
    assert (way[near] * np.sign(np.median(before)) > -1e-12).all()

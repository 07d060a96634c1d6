"""The made-up lifter who serves as a technical model."""

from __future__ import annotations

import numpy as np
import pytest

from atleta.document import validate_document
from atleta.simulation import Build, build_like, reference_for, reference_lift


def lengths(build: Build) -> dict[str, float]:
    return {
        "thigh": build.thigh_m, "shin": build.shank_m, "trunk": build.trunk_m, "upper_arm": build.upper_arm_m, "forearm": build.forearm_m,
    }  # fmt: skip


def test_a_build_is_told_from_segments() -> None:
    build = Build(1.8, leg_share=1.03, arm_share=0.97)
    assert build_like(1.8, lengths(build)) == build
    # Nobody seen, or not all of a limb: as most people are.
    assert build_like(1.8, {}) == Build(1.8)
    assert build_like(1.8, {"thigh": 0.5}) == Build(1.8)
    assert build_like(1.8, lengths(Build(1.8, leg_share=1.2, arm_share=0.7))) == Build(1.8, leg_share=1.05, arm_share=0.95)


@pytest.mark.parametrize("kind", ["snatch", "clean", "split_jerk", "power_jerk", "back_squat", "high_pull"])
def test_the_made_up_lifter_does_a_lift_without_a_fault(kind: str) -> None:
    document = reference_lift(kind, "floor", Build(1.66), 70.0, "left")
    validate_document(document)
    (lift,) = document["lifts"]
    assert lift["kind"] == kind
    assert [row["fault"] for row in lift["findings"] if row["level"] == "fault"] == []
    assert document["clip"]["facing"] == "left"
    # Hands hold the bar while it goes up, as the picture shows both.
    start, top = lift["start_frame"], lift["events"].get("apex", {"frame": lift["end_frame"]})["frame"]
    wrist = document["joints"]["left_wrist"]
    apart = [np.hypot(wrist["x_px"][frame] - document["disc"]["x_px"][frame], wrist["y_px"][frame] - document["disc"]["y_px"][frame])
             for frame in range(start, top)]  # fmt: skip
    assert max(apart) * document["scale"]["body_m_per_px"] < 0.25


def test_a_bar_overhead_is_inside_the_picture_however_near_the_camera() -> None:
    document = reference_lift("snatch", "floor", Build(1.9), 70.0, "right", cover_m=1.0)
    assert min(document["disc"]["y_px"]) > 0
    assert max(document["joints"]["right_heel"]["y_px"]) < document["clip"]["height"]


def test_from_blocks_it_begins_on_blocks_and_what_it_cannot_do_it_says() -> None:
    low, high = (reference_lift("clean", begins, Build(), 80.0, "right")["disc"]["y_px"][0] for begins in ("floor", "blocks"))
    assert high < low - 20
    with pytest.raises(ValueError, match="does not do a deadlift"):
        reference_lift("deadlift", "floor", Build(), 80.0, "right")


def test_limbs_with_which_a_lift_would_be_done_with_a_fault_are_given_up() -> None:
    long = Build(1.45, leg_share=1.05, arm_share=1.05)
    asked = {"stature_m": 1.45, "lengths_m": lengths(long), "load_kg": 120.0, "facing": "right", "cover_m": 3.0}
    with_own = reference_lift("snatch", "floor", long, 120.0, "right", 3.0)["lifts"][0]["findings"]
    assert any(row["level"] == "fault" for row in with_own)
    assert reference_for("snatch", "floor", **asked)[1] == Build(1.45)
    assert reference_for("clean", "floor", **asked)[1] == long


def test_what_is_not_known_is_usual_and_what_cannot_be_is_brought_to_the_edge() -> None:
    document, build = reference_for("back_squat", "rack", stature_m=1.2, lengths_m={}, load_kg=500.0, facing="right", cover_m=90.0)
    assert build == Build(1.45)
    assert document["clip"]["height"] * document["scale"]["body_m_per_px"] == pytest.approx(4.0, rel=0.05)
    _, build = reference_for("back_squat", "rack", stature_m=None, lengths_m={}, load_kg=None, facing="left", cover_m=2.5)
    assert build == Build(1.7)

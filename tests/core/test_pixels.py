"""The whole chain against truth, from the demo clips' pixels."""

from __future__ import annotations

import json

import numpy as np
import pytest

from atleta.document import validate_document

from .conftest import NAMES, demo_case
from .world import DEMO, NEAR, errors_mm, value


def test_the_disc_is_followed_to_a_fraction_of_a_pixel_on_every_demo_clip(demo: tuple[dict, dict]) -> None:
    document, truth = demo
    seen = np.array([v is not None for v in document["disc"]["x_px"]])
    until = int(np.searchsorted(truth["frame_time_s"], truth["events"].get("release", 1e9)))
    x, y = (np.array([np.nan if v is None else v for v in document["disc"][name]]) for name in ("x_px", "y_px"))
    error_x, error_y = x - np.array(truth["disc"]["x_px"]), y - np.array(truth["disc"]["y_px"])
    assert seen[:until].all()
    off = np.hypot(error_x, error_y)[:until] * 720 / min(document["clip"]["width"], document["clip"]["height"])
    assert np.sqrt(np.mean(off**2)) < 0.25
    assert off.max() < 1.0
    assert document["scale"]["m_per_px"] == pytest.approx(truth["m_per_px"], rel=0.003)


def test_every_demo_clip_gives_a_valid_document_with_the_right_facing(demo: tuple[dict, dict]) -> None:
    document, truth = demo
    validate_document(document)
    # From the rack nothing leans forward above the bar, so that a jerk's facing is a guess the coach can turn round (docs/not-yet.md).
    if not truth["kind"].endswith("jerk"):
        assert document["clip"]["facing"] == truth["facing"] or "facing_unsure" in {w["code"] for w in document["warnings"]}
    assert document["clip"]["frame_time_s"] == pytest.approx(truth["frame_time_s"], abs=1e-4)


def test_demo_measures_from_pixels_agree_with_truth(demo: tuple[dict, dict]) -> None:
    document, truth = demo
    true = truth["measures"]
    if "peak_velocity" not in true:
        pytest.skip("a jerk is told by other measures")
    found = document["lifts"][0]
    assert value(found, "peak_velocity") == pytest.approx(
        true["peak_velocity"], rel=0.02 if document["clip"]["capture_rate_hz"] > 50 else 0.03
    )
    assert value(found, "peak_height") == pytest.approx(true["peak_height"], abs=0.015)
    assert value(found, "drop_to_meet") == pytest.approx(true["drop_to_meet"], abs=1.5)
    for name, least in (("early_force_ratio", 0.08),):
        measure = found["measures"][name]
        assert abs(measure["value"] - true[name]) < max(3 * measure["sd"], least), (name, measure)
    for name in ("bar_forward_before_knee", "bar_back_max", "loop_width"):
        measure = found["measures"][name]
        assert abs(measure["value"] - true[name]) < max(3 * measure["sd"], 1.0), name


@pytest.mark.parametrize(
    ("name", "faults", "root"),
    [
        ("ida-snatch-68", set(), None),
        ("ida-snatch-76", {"bar_forward_off_floor", "bar_looped"}, "bar_forward_off_floor"),
        ("tobin-clean-85", {"yanked_from_floor", "bar_forward_off_floor"}, "yanked_from_floor"),
        # A bar that crashes was pulled higher than it is met: that comes first.
        ("bram-clean-104", {"bar_crashed"}, None),
    ],
)
def test_the_faults_put_into_the_demo_lifts_are_the_ones_found(name: str, faults: set[str], root: str | None) -> None:
    document, _ = demo_case(name)
    found = {row["fault"]: row for row in document["lifts"][0]["findings"] if row["level"] == "fault"}
    assert set(found) >= faults
    truly = {row["fault"]: row["level"] for row in json.loads((DEMO / f"{name}.truth.json").read_text())["lifts"][0]["findings"]}
    assert not [fault for fault in found if truly.get(fault) == "fine"]
    assert root is None or found[root]["root"]


@pytest.mark.parametrize("name", NAMES)
def test_from_pixels_the_side_towards_the_camera_is_found(name: str) -> None:
    document, flat_truth = demo_case(name)
    truth = json.loads((DEMO / f"{name}.truth.json").read_text())
    side = truth["clip"]["facing"]
    until = flat_truth["events"].get("release", 99.0) - 0.1
    off = {part: np.median(errors_mm(document, truth, f"{side}_{part}", until)) for part in NEAR}
    # In the portrait clip the model alone is lost for half of the lift.
    assert np.median(list(off.values())) < 50, off
    assert max(off.values()) < 120, off
    assert document["clip"]["view"]["yaw_deg"] == pytest.approx(truth["clip"]["view"]["yaw_deg"], abs=3.0)
    assert document["scale"]["body_m_per_px"] == pytest.approx(truth["scale"]["body_m_per_px"], rel=0.05)


@pytest.mark.parametrize("name", [name for name in NAMES if "jerk" not in name])
def test_hips_of_a_lifter_bent_over_the_bar_are_not_drawn_to_its_disc(name: str) -> None:
    document, flat_truth = demo_case(name)
    truth = json.loads((DEMO / f"{name}.truth.json").read_text())
    off = errors_mm(document, truth, f"{truth['clip']['facing']}_hip", flat_truth["events"]["knee"])
    assert np.median(off) < 30
    assert np.percentile(off, 95) < 70


def test_the_schema_is_held_to() -> None:
    document = json.loads(json.dumps(demo_case("ida-snatch-68")[0]))
    document["disc"]["x_px"].pop()
    with pytest.raises(ValueError, match=r"disc\.x_px"):
        validate_document(document)
    document["lifts"][0]["measures"]["peak_velocity"].pop("sd")
    with pytest.raises(ValueError, match="schema"):
        validate_document(document)

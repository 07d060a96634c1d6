from __future__ import annotations

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from numpy.typing import NDArray

from atleta.motion import (
    Calibration,
    bar_tracks,
    brake,
    chosen_cutoff_hz,
    derivatives,
    facing_from_motion,
    fill_short_gaps,
    scale_from_disc,
    slowed_by,
)
from atleta.motion.filters import noise_size
from atleta.simulation import Camera
from atleta.tracking import DiscTrack, DiscTracker, RawTracks, choose_lifted

from .world import disc_picture, lift, true_tracks

Floats = NDArray[np.float64]

RATE = 60.0
TIME = np.arange(240) / RATE


@given(st.floats(-5, 5), st.floats(-3, 3), st.floats(-8, 8))
@settings(max_examples=40, deadline=None)
def test_a_parabola_comes_through_unchanged_with_its_exact_derivatives(place: float, speed: float, acceleration: float) -> None:
    signal = place + speed * TIME + acceleration * TIME**2 / 2
    s, v, a = derivatives(TIME, signal, cutoff_hz=6.0, rate_hz=RATE)
    inner = slice(60, -60)
    assert s[inner] == pytest.approx(signal[inner], abs=0.01)
    assert v[inner] == pytest.approx((speed + acceleration * TIME)[inner], abs=0.02)
    assert a[inner] == pytest.approx(acceleration, abs=0.05)


@given(st.floats(0.3, 2.0), st.floats(0, 6.28))
@settings(max_examples=30, deadline=None)
def test_a_slow_sine_gives_its_closed_form_velocity_and_acceleration_without_lag(frequency: float, phase: float) -> None:
    omega = 2 * np.pi * frequency
    s, v, a = derivatives(TIME, np.sin(omega * TIME + phase), cutoff_hz=10.0, rate_hz=RATE)
    inner = slice(40, -40)
    assert s[inner] == pytest.approx(np.sin(omega * TIME + phase)[inner], abs=0.01)
    assert v[inner] == pytest.approx(omega * np.cos(omega * TIME + phase)[inner], abs=0.01 * omega)
    assert a[inner] == pytest.approx(-(omega**2) * np.sin(omega * TIME + phase)[inner], abs=0.02 * omega**2)


@given(st.lists(st.floats(0.6, 1.4), min_size=200, max_size=200))
@settings(max_examples=15, deadline=None)
def test_uneven_frames_give_the_same_derivatives_as_even_ones(steps: list[float]) -> None:
    time = np.cumsum(steps) / RATE
    signal = np.sin(2 * np.pi * 0.8 * time)
    _, v, _ = derivatives(time, signal, cutoff_hz=8.0, rate_hz=RATE)
    assert v[40:-40] == pytest.approx(2 * np.pi * 0.8 * np.cos(2 * np.pi * 0.8 * time)[40:-40], abs=0.06)


@given(st.floats(-2, 2), st.floats(0.1, 4))
@settings(max_examples=20, deadline=None)
def test_filtering_is_linear(shift: float, stretch: float) -> None:
    signal = np.random.default_rng(2).normal(0, 1, 240).cumsum() / 20
    plain = derivatives(TIME, signal, cutoff_hz=6.0, rate_hz=RATE)
    changed = derivatives(TIME, shift + stretch * signal, cutoff_hz=6.0, rate_hz=RATE)
    assert changed[0] == pytest.approx(shift + stretch * plain[0], abs=1e-7)
    assert changed[1] == pytest.approx(stretch * plain[1], abs=1e-6)


def test_filtering_runs_the_same_backwards() -> None:
    signal = np.sin(TIME * 3) + 0.2 * np.sin(TIME * 11)
    forward = derivatives(TIME, signal, cutoff_hz=6.0, rate_hz=RATE)[0]
    backward = derivatives(TIME, signal[::-1].copy(), cutoff_hz=6.0, rate_hz=RATE)[0][::-1]
    assert forward[30:-30] == pytest.approx(backward[30:-30], abs=1e-3)


@pytest.mark.parametrize("sd", [0.0002, 0.001, 0.004])
def test_the_noise_is_sized_rightly_on_a_moving_bar(sd: float) -> None:
    moving = 0.6 * np.tanh((TIME - 2) * 3)
    noisy = moving + np.random.default_rng(5).normal(0, sd, 240)
    assert noise_size(noisy[:, None])[0] == pytest.approx(sd, rel=0.35)


def test_more_noise_never_asks_for_a_higher_cutoff() -> None:
    moving = 0.6 * np.tanh((TIME - 2) * 4)
    noise = np.random.default_rng(6).normal(0, 1, 240)
    cutoffs = [chosen_cutoff_hz(moving + sd * noise, RATE) for sd in (0.0002, 0.001, 0.005, 0.02)]
    assert cutoffs == sorted(cutoffs, reverse=True)
    assert 4.0 <= cutoffs[-1] < cutoffs[0] <= 14.0


def test_a_signal_that_cannot_be_filtered_is_refused_in_words() -> None:
    with pytest.raises(ValueError, match="At least 12 frames"):
        derivatives(TIME[:5], TIME[:5], cutoff_hz=6, rate_hz=RATE)
    with pytest.raises(ValueError, match="gaps"):
        derivatives(TIME, np.where(TIME > 1, np.nan, 1.0), cutoff_hz=6, rate_hz=RATE)
    with pytest.raises(ValueError, match="must increase"):
        derivatives(TIME[::-1], TIME, cutoff_hz=6, rate_hz=RATE)


def test_only_short_inner_gaps_are_filled() -> None:
    values = np.sin(TIME)
    values[:3] = values[100:110] = values[150:200] = np.nan
    filled, mask = fill_short_gaps(TIME, values, longest_s=0.3)
    assert mask[100:110].all()
    assert mask.sum() == 10
    assert np.isnan(filled[:3]).all()
    assert np.isnan(filled[150:200]).all()
    assert filled[100:110] == pytest.approx(np.sin(TIME[100:110]), abs=1e-3)


def test_scale_follows_from_the_major_axis_and_carries_its_uncertainty() -> None:
    count = 50
    radius = 80 + np.random.default_rng(0).normal(0, 0.1, count)
    track = replace(DiscTrack.empty(count), radius_px=radius, squeeze=np.full(count, 0.94), confidence=np.ones(count))
    scale = scale_from_disc(track)
    assert scale is not None
    assert scale.m_per_px == pytest.approx(0.45 / 160, rel=1e-3)
    assert 0.005 < scale.sd / scale.m_per_px < 0.01
    assert scale_from_disc(track, disc_diameter_m=0.32).m_per_px == pytest.approx(0.32 / 160, rel=1e-3)
    assert scale_from_disc(DiscTrack.empty(10)) is None


def test_a_filmed_free_fall_gives_g_within_two_percent() -> None:
    fps, radius = 60.0, 45.0
    m_per_px = 0.225 / radius
    time = np.arange(72) / fps
    fall = np.clip(time - 0.3, 0, None)
    heights = 50 + 0.5 * 9.81 * fall**2 / m_per_px
    inside = heights < 420
    tracker = DiscTracker()
    for index, y in enumerate(heights[inside]):
        tracker.feed(index, time[index], disc_picture(200.3, y, radius, size=(480, 400), seed=index))
    track = choose_lifted(tracker.finish())
    scale = scale_from_disc(track)
    assert scale is not None
    falling = time[inside] > 0.34
    fit = np.polyfit(time[inside][falling], track.y_px[falling] * scale.m_per_px, 2)
    assert 2 * fit[0] == pytest.approx(9.81, rel=0.02)
    _, _, acceleration = derivatives(time[inside], track.y_px * scale.m_per_px, cutoff_hz=10.0, rate_hz=fps)
    middle = (time[inside] > 0.42) & (time[inside] < time[inside][-1] - 0.08)
    assert np.median(acceleration[middle]) == pytest.approx(9.81, rel=0.02)


@pytest.mark.parametrize("drift_px", [-60.0, 0.0, 60.0])
@pytest.mark.parametrize("facing", ["left", "right"])
def test_facing_is_the_side_to_which_the_moving_trunk_leans_wherever_the_bar_drifts(facing: str, drift_px: float) -> None:
    frames, radius = 60, 40.0
    risen = np.clip(np.arange(frames) - 10, 0, None) * 4.0
    x = 640.0 + drift_px * risen / risen.max()
    track = replace(DiscTrack.empty(frames), x_px=x, y_px=600 - risen, radius_px=np.full(frames, radius))
    ahead = 1 if facing == "right" else -1
    raw = leaning(frames, ahead)
    assert facing_from_motion(raw, track) == (facing, True)
    raw.motion[:] = 0
    assert facing_from_motion(raw, track)[1] is False


def test_an_upright_trunk_leaves_the_facing_unsure() -> None:
    frames = 60
    risen = np.clip(np.arange(frames) - 10, 0, None) * 4.0
    track = replace(DiscTrack.empty(frames), x_px=np.full(frames, 640.0), y_px=600 - risen, radius_px=np.full(frames, 40.0))
    assert facing_from_motion(leaning(frames, 0), track)[1] is False


def leaning(frames: int, ahead: int) -> RawTracks:
    """A trunk two cells thick that moves from the hips, five rows above the resting bar, up to the shoulders, leaning `ahead`."""
    motion = np.zeros((frames, 27, 48), np.uint8)
    for step, row in enumerate(range(17, 9, -1)):
        column = 24 + round(ahead * (step * 0.8 - 4))
        motion[:, row, column - 1 : column + 1] = 30
    return RawTracks(np.arange(frames) / 60, 1280, 720, [], motion)


@pytest.mark.parametrize(("rate", "played", "slower"), [(60, 0, 1.0), (120, 30, 4.0), (240, 30, 8.0), (60, 30, 2.0), (30, 0, 1.0)])
@pytest.mark.parametrize("kind", ["snatch", "clean"])
def test_a_falling_bar_tells_how_much_a_file_is_slowed_down(kind: str, rate: float, played: float, slower: float) -> None:
    raw, truth = true_tracks(lift(kind), Camera(fps=rate), noise_px=0.3)
    if played:
        raw = replace(raw, frame_time_s=raw.frame_time_s * rate / played)
    track = choose_lifted(raw)
    scale = scale_from_disc(track)
    assert scale is not None
    (bar,) = bar_tracks(raw.frame_time_s, track, Calibration(scale, 0.0, 0.1, "coach", truth["facing"], "coach", True))
    assert slowed_by(bar) == slower


def test_a_bar_that_is_put_down_tells_nothing_of_the_clock() -> None:
    raw, truth = true_tracks(lift("clean_pull"), Camera(), noise_px=0.3)
    track = choose_lifted(raw)
    scale = scale_from_disc(track)
    assert scale is not None
    (bar,) = bar_tracks(raw.frame_time_s, track, Calibration(scale, 0.0, 0.1, "coach", truth["facing"], "coach", True))
    assert slowed_by(bar) in (None, 1.0)


def test_what_is_bridged_may_be_off_in_one_piece_and_the_more_the_longer_it_is() -> None:
    raw, truth = true_tracks(lift("snatch"), Camera(), noise_px=0.1)
    track = choose_lifted(raw)
    scale = scale_from_disc(track)
    assert scale is not None
    gone = {name: getattr(track, name).copy() for name in ("x_px", "y_px")}
    for values in gone.values():
        values[60:64] = values[80:92] = np.nan
    (bar,) = bar_tracks(raw.frame_time_s, replace(track, **gone), Calibration(scale, 0.0, 0.1, "coach", truth["facing"], "coach", True))
    off = bar.drawn_off(np.random.default_rng(1), 400)
    short, long = off[60:64], off[80:92]
    for gap in (short, long):
        # Every draw goes to one side, most in the middle, and comes back; where the disc was seen no frame knows of the next.
        assert (np.sign(gap) == np.sign(gap[:1])).all()
        assert np.abs(gap).argmax(axis=0) == pytest.approx((len(gap) - 1) / 2, abs=0.5)
    assert abs(np.corrcoef(off[20], off[21])[0, 1]) < 0.15
    assert long.std(axis=1).max() > 2 * short.std(axis=1).max() > 10 * off[20].std()


def test_a_bridge_that_swings_out_is_a_guess() -> None:
    raw, truth = true_tracks(lift("snatch"), Camera(), noise_px=0.1)
    track = choose_lifted(raw)
    scale = scale_from_disc(track)
    assert scale is not None
    doubts = []
    for jerked_px in (0.0, 12.0):
        x, y = track.x_px.copy(), track.y_px.copy()
        # Struck back for three frames, and out of sight: nothing says how far it went, or how it came back.
        x[77:80] -= jerked_px * np.arange(1, 4)
        x[80:] -= 3 * jerked_px
        x[80:92] = y[80:92] = np.nan
        here = replace(track, x_px=x, y_px=y)
        (bar,) = bar_tracks(raw.frame_time_s, here, Calibration(scale, 0.0, 0.1, "coach", truth["facing"], "coach", True))
        doubts.append(bar.drawn_off(np.random.default_rng(1), 200)[80:92].std(axis=1).max())
    assert doubts[1] > 1.5 * doubts[0]


def braked_fall(length_s: float, begins_s: float, power: float, rate: float = RATE) -> tuple[Floats, Floats, float]:
    """Times and heights of a bar that falls at 2 m/s, ever 1 m/s² faster, and is braked to rest; and when it rests."""
    clock = np.linspace(0.0, 1.0, 20_001)
    into = np.clip((clock - begins_s) / length_s, 0, 1)
    speed = np.where(clock < begins_s, 2.0 - (begins_s - clock), 2.0 * (1 - into**power))
    height = np.append(0.0, np.cumsum((speed[1:] + speed[:-1]) / 2 * np.diff(clock)))
    frames = np.arange(int(rate)) / rate
    return frames, np.interp(frames, clock, height[-1] - height), begins_s + length_s


@pytest.mark.parametrize("power", [1.0, 2.0])
@pytest.mark.parametrize("length_s", [0.025, 0.05, 0.08])
def test_a_brake_of_a_few_frames_is_told_between_frames_however_it_came_on(length_s: float, power: float) -> None:
    as_fast = 0.02 ** (1 / power)
    way = 200 * length_s * (power / (power + 1) - as_fast * (1 - as_fast**power / (power + 1)))
    for begins_s in 0.5 + np.arange(4) / 4 / RATE:
        time, height, rests_s = braked_fall(length_s, float(begins_s), power)
        noise = np.random.default_rng(7).normal(0, 1e-4, len(time))
        found = brake(time, height + noise, share=0.98, falls_at_s=rests_s - length_s, lowest_s=rests_s + 0.05, noise_m=1e-4)
        assert found is not None
        assert found.speed_m_s == pytest.approx(2.0, abs=0.05)
        assert 100 * found.way_m == pytest.approx(way, abs=1.2)


def test_a_way_down_that_is_braked_slowly_needs_no_fit() -> None:
    time, height, rests_s = braked_fall(0.3, 0.5, 1.0)
    assert brake(time, height, share=0.98, falls_at_s=0.5, lowest_s=rests_s, noise_m=1e-4) is None
    assert brake(time[:4], height[:4], share=0.98, falls_at_s=0.0, lowest_s=0.05, noise_m=1e-4) is None

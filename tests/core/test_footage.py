from __future__ import annotations

import itertools
import tracemalloc
from fractions import Fraction
from itertools import islice
from pathlib import Path

import av
import cv2
import numpy as np
import pytest
from bench.attack import hostile_files

from atleta.footage import (
    Clicks,
    FootageError,
    clicks_in,
    clicks_of,
    content_hash,
    jpeg_of_frame,
    probe,
    read_frames,
    unrounded,
    write_proxy,
)
from atleta.footage.sound import RATE_HZ

from .world import DEMO, write_clip

CLIP = DEMO / "ida-snatch-68.mp4"


def numbered(count: int, size: tuple[int, int] = (120, 160)) -> list[np.ndarray]:
    """Pictures whose brightness says which one they are."""
    return [np.full(size, 10 + 4 * index, np.uint8) for index in range(count)]


@pytest.fixture
def small(tmp_path: Path) -> Path:
    return write_clip(tmp_path / "small.mp4", numbered(40), fps=30)


def refused(path: Path) -> str:
    with pytest.raises(FootageError) as caught:
        probe(path)
    assert caught.value.message.endswith(".")
    return caught.value.code


def test_a_sound_clip_is_described_as_its_file_says() -> None:
    info = probe(CLIP)
    assert (info.width_px, info.height_px, info.codec, info.rotation_deg) == (1280, 720, "h264", 0)
    assert info.nominal_rate_hz == pytest.approx(60, rel=1e-3)
    assert info.duration_s == pytest.approx(info.packet_count / 60, rel=1e-3)


def test_text_renamed_to_mp4_is_refused(tmp_path: Path) -> None:
    fake = tmp_path / "fake.mp4"
    fake.write_text("This is not a film, it only says so.\n" * 50)
    assert refused(fake) == "not_a_video"


def test_an_empty_file_is_refused(tmp_path: Path) -> None:
    empty = tmp_path / "empty.mp4"
    empty.touch()
    assert refused(empty) == "empty_file"


@pytest.mark.parametrize("number", [145, 173, 177])
def test_a_file_whose_list_of_pictures_is_damaged_is_refused(tmp_path: Path, number: int) -> None:
    """Of the hostile files these have a table for which no computer has room."""
    broken = tmp_path / "broken.mp4"
    broken.write_bytes(next(islice(hostile_files(200), number, None)))
    with pytest.raises(FootageError, match="damaged") as refused:
        probe(broken)
    assert refused.value.code == "broken"


def test_a_missing_file_is_refused(tmp_path: Path) -> None:
    assert refused(tmp_path / "nowhere.mp4") == "no_file"


def test_a_picture_is_refused(tmp_path: Path) -> None:
    still = tmp_path / "still.mp4"
    still.write_bytes(jpeg_of_frame(CLIP, 0))
    assert refused(still) == "not_a_video"


def test_sound_without_picture_is_refused(tmp_path: Path) -> None:
    target = tmp_path / "sound.mp4"
    with av.open(str(target), "w") as out:
        stream = out.add_stream("aac", rate=48000)
        for index in range(20):
            frame = av.AudioFrame.from_ndarray(np.zeros((1, 1024), np.float32), format="fltp", layout="mono")
            frame.sample_rate, frame.pts = 48000, index * 1024
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    assert refused(target) == "no_video_stream"


@pytest.mark.parametrize("kept", [0.3, 0.7, 0.9])
def test_a_clip_that_breaks_off_is_refused_wherever_its_index_lies(tmp_path: Path, kept: float) -> None:
    whole = CLIP.read_bytes()
    index_last = tmp_path / "index-last.mp4"
    index_last.write_bytes(whole[: int(kept * len(whole))])
    assert refused(index_last) == "not_a_video"

    index_first = tmp_path / "index-first.mp4"
    with av.open(str(CLIP)) as source, av.open(str(index_first), "w", options={"movflags": "+faststart"}) as out:
        video = out.add_stream_from_template(source.streams.video[0])
        for packet in source.demux(video=0):
            if packet.dts is not None:
                packet.stream = video
                out.mux(packet)
    content = index_first.read_bytes()
    index_first.write_bytes(content[: int(kept * len(content))])
    assert refused(index_first) == "truncated"


def test_a_picture_too_small_to_measure_is_refused(tmp_path: Path) -> None:
    assert refused(write_clip(tmp_path / "tiny.mp4", numbered(5, (64, 64)))) == "too_small"


def test_frames_come_in_order_with_their_own_uneven_times(tmp_path: Path) -> None:
    times = np.cumsum([0.0, *np.random.default_rng(3).uniform(0.012, 0.05, 39)]).tolist()
    clip = write_clip(tmp_path / "uneven.mp4", numbered(40), times_s=times)
    frames = [(frame.time_s, float(frame.luma().mean())) for frame in read_frames(clip)]
    assert [t for t, _ in frames] == pytest.approx(times, abs=2e-5)
    brightness = np.array([b for _, b in frames])
    assert np.all(np.diff(brightness) > 2)


def _with_rotation(source: Path, target: Path, matrix: tuple[int, int, int, int]) -> Path:
    """Set the rotation part of the track header's display matrix, as phones do when held upright."""
    content = bytearray(source.read_bytes())
    start = content.index(b"tkhd") + 4 + 40
    for place, value in zip((0, 4, 12, 16), matrix, strict=True):
        content[start + place : start + place + 4] = (value << 16).to_bytes(4, "big", signed=True)
    target.write_bytes(content)
    return target


@pytest.mark.parametrize(("matrix", "bright_edge"), [((0, 1, -1, 0), "right"), ((0, -1, 1, 0), "left"), ((-1, 0, 0, -1), "bottom")])
def test_the_rotation_flag_is_honoured(tmp_path: Path, matrix: tuple[int, int, int, int], bright_edge: str) -> None:
    picture = np.full((120, 200), 40, np.uint8)
    picture[:24] = 220
    stored = write_clip(tmp_path / "stored.mp4", [picture] * 5)
    turned = _with_rotation(stored, tmp_path / "turned.mp4", matrix)
    luma = next(iter(read_frames(turned))).luma()
    info = probe(turned)
    assert (info.height_px, info.width_px) == luma.shape
    edge = {"right": luma[:, -12:], "left": luma[:, :12], "bottom": luma[-12:]}[bright_edge]
    assert edge.mean() > 180
    assert luma.mean() < 120


def test_pixels_that_are_wider_than_high_are_made_square(tmp_path: Path) -> None:
    picture = np.full((120, 150), 40, np.uint8)
    cv2.circle(picture, (75, 60), 40, 220, -1)
    squeezed = cv2.resize(picture, (112, 120), interpolation=cv2.INTER_AREA)
    clip = write_clip(tmp_path / "squeezed.mp4", [squeezed] * 3, pixel_shape=Fraction(4, 3))
    info = probe(clip)
    assert (info.width_px, info.height_px) == (150, 120)
    frame = next(iter(read_frames(clip)))
    bright = frame.luma() > 130
    assert (bright.any(axis=0).sum(), bright.any(axis=1).sum()) == (pytest.approx(80, abs=3), pytest.approx(80, abs=3))
    assert frame.bgr().shape == (120, 150, 3)
    assert [part.shape for part in frame.chroma()] == [(60, 75)] * 2


def test_of_a_frame_made_of_two_moments_the_first_is_read(tmp_path: Path) -> None:
    def bar_at(x: int) -> np.ndarray:
        picture = np.full((192, 320), 60, np.uint8)
        picture[:, x : x + 24] = 200
        return picture

    # Odd lines are taken first, as the file says; the bar goes on by 6 px before the even ones are.
    woven = [bar_at(30 + 12 * i) for i in range(20)]
    for i, picture in enumerate(woven):
        picture[::2] = bar_at(36 + 12 * i)[::2]
    frames = list(read_frames(write_clip(tmp_path / "halves.mp4", woven, fps=25, interlaced=True)))
    assert [round(frame.time_s * 25, 3) for frame in frames] == list(range(20))
    for i, frame in enumerate(frames):
        bright = np.clip(frame.luma().astype(float) - 70, 0, None)
        middle = (bright * np.arange(320)).sum(axis=1) / bright.sum(axis=1)
        assert middle[4:-4] == pytest.approx(30 + 12 * i + 11.5, abs=0.6), i


@pytest.mark.parametrize(("rate_hz", "tick_s"), [(60, 0.001), (59.94, 1 / 600), (240, 1 / 600), (29.97, 0.001)])
def test_times_that_a_file_rounded_are_put_back(rate_hz: float, tick_s: float) -> None:
    rng = np.random.default_rng(7)
    # Some frames are left out.
    true_s = np.flatnonzero(rng.random(400) > 0.05) / rate_hz
    true_s -= true_s[0]
    rounded = np.round(true_s / tick_s) * tick_s
    made = unrounded(rounded, tick_s)
    assert np.abs(np.diff(rounded) - np.diff(true_s)).max() > 0.3 * tick_s
    assert np.abs(np.diff(made) - np.diff(true_s)).max() < 0.25 * tick_s
    assert np.std(made - true_s) < 0.12 * tick_s


def test_times_that_are_uneven_of_their_own_stay_as_they_are() -> None:
    uneven = np.cumsum([0.0, *np.random.default_rng(3).uniform(0.012, 0.05, 199)])
    assert unrounded(np.round(uneven, 3), 0.001).tolist() == np.round(uneven, 3).tolist()
    fine = np.arange(60) / 60 + 1e-5 * np.random.default_rng(4).random(60)
    assert unrounded(fine, 1 / 90_000).tolist() == fine.tolist()
    # A phone that goes over to another rate.
    changed = np.concatenate([np.arange(60) / 60, 1 + np.arange(60) / 30])
    assert np.abs(unrounded(np.round(changed, 3), 0.001) - changed).max() < 6e-4


def test_the_luma_plane_is_the_grey_picture(small: Path) -> None:
    for frame in read_frames(small):
        expected = frame.source.to_ndarray(format="gray").astype(int)
        assert np.abs(frame.luma().astype(int) - expected).max() <= 20
        assert frame.luma().shape == (120, 160)


def test_reading_holds_no_more_memory_for_a_longer_clip(tmp_path: Path) -> None:
    def peak(count: int) -> int:
        clip = write_clip(tmp_path / f"{count}.mp4", numbered(count % 50 + 1, (240, 320)) * (count // (count % 50 + 1)))
        tracemalloc.start()
        for frame in read_frames(clip):
            frame.luma().sum()
        size = tracemalloc.get_traced_memory()[1]
        tracemalloc.stop()
        return size

    assert peak(360) < 1.5 * peak(60) + 200_000


def test_the_proxy_has_every_frame_once_as_a_key_frame_at_its_own_time(tmp_path: Path) -> None:
    times = np.cumsum([0.0, *np.random.default_rng(4).uniform(0.012, 0.05, 39)]).tolist()
    clip = write_clip(tmp_path / "clip.mp4", numbered(40), times_s=times)
    told: list[int] = []
    written = write_proxy(clip, tmp_path / "proxy.mp4", told.append)
    assert written == pytest.approx(times, abs=2e-5)
    assert told == list(range(1, 41))
    with av.open(str(tmp_path / "proxy.mp4")) as container:
        frames = list(container.decode(video=0))
        assert all(frame.key_frame for frame in frames)
        assert [float(frame.pts * frame.time_base) for frame in frames] == pytest.approx(times, abs=2e-5)
        brightness = np.array([frame.to_ndarray(format="gray").mean() for frame in frames])
    assert np.all(np.diff(brightness) > 2)
    assert [p.name for p in tmp_path.glob("*.part*")] == []


@pytest.mark.parametrize("first", [1, 17, 39, 40])
def test_reading_from_a_frame_on_is_reading_all_from_there(tmp_path: Path, first: int) -> None:
    times = list(np.cumsum([0.0] + [1 / 60 if n % 3 else 1 / 40 for n in range(1, 40)]))
    clip = write_clip(tmp_path / "vfr.mp4", numbered(40), times_s=times)
    write_proxy(clip, tmp_path / "proxy.mp4")
    for file in (clip, tmp_path / "proxy.mp4"):
        whole = [(one.index, one.time_s, one.luma().copy()) for one in read_frames(file)]
        later = [(one.index, one.time_s, one.luma().copy()) for one in read_frames(file, first)]
        assert [row[:2] for row in later] == [row[:2] for row in whole[first:]]
        assert all(np.array_equal(a[2], b[2]) for a, b in zip(later, whole[first:], strict=True))


def stamped(path: Path, ms: list[int]) -> Path:
    """A file whose pictures are stamped with these times, whatever they are."""
    with av.open(str(path), "w") as container:
        stream = container.add_stream("mpeg4", rate=1000)
        stream.width, stream.height, stream.pix_fmt, stream.time_base = 320, 240, "yuv420p", Fraction(1, 1000)
        for place in range(len(ms) + 1):
            frame = av.VideoFrame.from_ndarray(np.full((240, 320, 3), place, np.uint8), format="rgb24") if place < len(ms) else None
            if frame is not None:
                frame.pts, frame.time_base = 10 * place, Fraction(1, 1000)
            for packet in stream.encode(frame):
                packet.pts = packet.dts = ms[packet.pts // 10]
                container.mux(packet)
    return path


def test_of_pictures_stamped_with_one_time_the_first_has_its_place_on_the_clock(tmp_path: Path) -> None:
    twice = stamped(tmp_path / "twice.mkv", [10 * (place // 2) for place in range(60)])
    assert probe(twice).packet_count == 60
    assert [frame.time_s for frame in read_frames(twice)] == pytest.approx([0.01 * place for place in range(30)])


def test_a_file_whose_pictures_are_all_of_one_time_is_refused_in_words(tmp_path: Path) -> None:
    still = stamped(tmp_path / "still.mkv", [0] * 60)
    with pytest.raises(FootageError) as refused:
        probe(still)
    assert "when its pictures were taken" in refused.value.message


def test_other_containers_and_codecs_are_read(tmp_path: Path) -> None:
    for name, codec in (("clip.webm", "libvpx-vp9"), ("clip.mov", "libx264"), ("hevc.mp4", "libx265")):
        clip = write_clip(tmp_path / name, numbered(12), fps=30, codec=codec)
        assert probe(clip).packet_count == 12
        assert len(list(read_frames(clip))) == 12


def test_a_frame_that_is_not_there_is_refused(small: Path) -> None:
    with pytest.raises(FootageError, match="no frame 99"):
        jpeg_of_frame(small, 99)


def test_the_content_hash_is_of_the_bytes_alone(small: Path, tmp_path: Path) -> None:
    copy = tmp_path / "another name.mov"
    copy.write_bytes(small.read_bytes())
    assert content_hash(copy) == content_hash(small)


# -- clicks -----------------------------------------------------------------------------------------------------------------


def noise(seconds: float = 3.0) -> np.ndarray:
    return np.random.default_rng(3).normal(0, 0.004, round(seconds * RATE_HZ)).astype(np.float32)


def with_tone(sound: np.ndarray, at_s: float, size: float, *hz: float) -> np.ndarray:
    """The same with tones of these frequencies for 8 ms."""
    made, time = sound.copy(), np.arange(0, 0.008, 1 / RATE_HZ)
    first = round(at_s * RATE_HZ)
    made[first : first + len(time)] += size * np.hanning(len(time)) * sum(np.sin(2 * np.pi * one * time) for one in hz)
    return made


def heard(sound: np.ndarray, begins_s: float = 0.0, pieces: int = 1) -> Clicks:
    edges = np.linspace(0, len(sound), pieces + 1).astype(int)
    return clicks_in((begins_s + first / RATE_HZ, sound[first:stop]) for first, stop in itertools.pairwise(edges))


def test_a_click_stands_out_of_the_clips_own_noise_where_it_is() -> None:
    loud, when = heard(with_tone(noise(), 1.5, 0.1, 2500.0, 6000.0)).loudest(0.0, 3.0) or (0.0, 0.0)
    assert when == pytest.approx(1.504, abs=0.006)
    # Twice the size is 6 dB more; a tenth of a second away nothing is heard of it.
    louder, _ = heard(with_tone(noise(), 1.5, 0.2, 2500.0, 6000.0)).loudest(0.0, 3.0) or (0.0, 0.0)
    assert louder - loud == pytest.approx(6.0, abs=0.5)
    assert (heard(with_tone(noise(), 1.5, 0.1, 2500.0, 6000.0)).loudest(1.6, 3.0) or (99.0, 0.0))[0] < loud - 15


def test_a_thud_or_a_whistle_is_no_click() -> None:
    for tones in ((90.0, 150.0), (6000.0,)):
        told, _ = heard(with_tone(noise(), 1.5, 0.3, *tones)).loudest(0.0, 3.0) or (99.0, 0.0)
        assert told < 20, tones


@pytest.mark.parametrize(("begins_s", "pieces"), [(0.0, 7), (0.25, 1), (-0.25, 3)])
def test_however_sound_comes_in_and_wherever_it_begins_a_click_is_when_it_was(begins_s: float, pieces: int) -> None:
    _, when = heard(with_tone(noise(), 1.5, 0.1, 2500.0, 6000.0), begins_s, pieces).loudest(0.0, 4.0) or (0.0, 0.0)
    assert when == pytest.approx(1.504 + begins_s, abs=0.006)


def test_without_sound_nothing_clicks(small: Path) -> None:
    assert not clicks_of(small)
    assert clicks_of(small).loudest(0.0, 1.0) is None
    assert not clicks_in(iter(()))
    # Digital silence is no loud noise.
    assert np.abs(heard(np.zeros(RATE_HZ, np.float32)).db).max() == 0

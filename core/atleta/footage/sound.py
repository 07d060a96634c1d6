"""Sound: what a clip's microphone heard, and what a coach said over it, in the one form that every browser plays."""

from __future__ import annotations

import io
from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import av
import av.error
import numpy as np
from numpy.typing import NDArray
from scipy.signal import butter, sosfilt

from .errors import FootageError
from .probe import ONLY_CLIPS, open_video

# What browsers record.
ONLY_RECORDINGS = {"format_whitelist": "mov,matroska,webm,ogg,wav,mp3,aac", "protocol_whitelist": ""}
RATE_HZ = 48_000
BITS_PER_S = 64_000
# A click fills both of these bands at once (Hz); a voice or a thud does not.
BANDS_HZ = ((1_500, 4_000), (4_000, 9_000))
PER_S = 1_000
# Digital silence has no noise of its own to stand out of: this is as quiet as is told, against full scale.
QUIETEST = 1e-5


@dataclass(frozen=True)
class Clicks:
    """How far what is heard stands out of the clip's own noise, `(milliseconds,)` from its first frame on, dB; empty without sound."""

    db: NDArray[np.float64]

    def __bool__(self) -> bool:
        return len(self.db) > 0

    def loudest(self, start_s: float, stop_s: float) -> tuple[float, float] | None:
        """The loudest between two times, dB, and when (s); None where nothing is heard of them."""
        first, stop = max(int(start_s * PER_S), 0), min(int(stop_s * PER_S) + 1, len(self.db))
        if stop <= first:
            return None
        top = first + int(np.argmax(self.db[first:stop]))
        return float(self.db[top]), (top + 0.5) / PER_S


def clicks_of(path: Path) -> Clicks:
    """What clicks in a clip's sound; nothing where it has none.

    Raises:
        FootageError: the file cannot be opened, or its sound cannot be read.
    """
    begins_s = _first_frame_s(path)
    with av.open(str(path), options=ONLY_CLIPS) as held:
        if not held.streams.audio:
            return Clicks(np.empty(0))
        return clicks_in((float(block.time or 0.0) - begins_s, block.to_ndarray()[0]) for block in _blocks(held))


def clicks_in(blocks: Iterable[tuple[float, NDArray[Any]]]) -> Clicks:
    """What clicks in sound, block by block: when each begins (s) and its samples at `RATE_HZ`."""
    filters = [butter(4, band, "bandpass", fs=RATE_HZ, output="sos") for band in BANDS_HZ]
    states = [np.zeros((len(one), 2)) for one in filters]
    width, first = RATE_HZ // PER_S, None
    power: list[list[NDArray[np.float64]]] = [[] for _ in filters]
    rest = [np.empty(0) for _ in filters]
    for begins_s, samples in blocks:
        first = begins_s if first is None else first
        for k, sections in enumerate(filters):
            band, states[k] = sosfilt(sections, samples, zi=states[k])
            band = np.concatenate([rest[k], band**2])
            whole = len(band) // width * width
            power[k].append(band[:whole].reshape(-1, width).mean(axis=1))
            rest[k] = band[whole:]
    if first is None or not any(map(len, power[0])):
        return Clicks(np.empty(0))
    bands = [10 * np.log10(np.maximum(np.concatenate(one), QUIETEST**2)) for one in power]
    db = np.min([band - np.median(band) for band in bands], axis=0)
    # What was heard before the first frame goes, and what comes late leaves a silence.
    late = round(first * PER_S)
    return Clicks(np.concatenate([np.zeros(max(late, 0)), db[max(-late, 0) :]]))


def clip_sound(path: Path) -> bytes | None:
    """The sound of a clip as AAC in MP4, its time counted from the clip's first frame; None where the clip has none.

    Raises:
        FootageError: the file cannot be opened, or its sound cannot be read.
    """
    begins_s = _first_frame_s(path)
    with av.open(str(path), options=ONLY_CLIPS) as held:
        return _coded(held, begins_s)[0] if held.streams.audio else None


def as_voice(content: bytes, most_s: float) -> tuple[bytes, float]:
    """A recording from a browser as AAC in MP4, and how long it is (s).

    Raises:
        FootageError: it holds no sound, or more than `most_s` seconds of it.
    """
    try:
        with av.open(io.BytesIO(content), options=ONLY_RECORDINGS) as held:
            if not held.streams.audio:
                raise FootageError("no_sound", "This recording holds no sound. Check the microphone and record again.")
            coded, seconds = _coded(held, None, most_s)
    except av.error.FFmpegError as error:
        raise FootageError("no_sound", "This recording cannot be read. Record it again.") from error
    if seconds <= 0:
        raise FootageError("no_sound", "This recording holds no sound. Check the microphone and record again.")
    return coded, seconds


def loudness(path: Path, frame_time_s: Sequence[float]) -> list[float] | None:
    """The loudest of the sound within each frame's time, 0 to 1 of full scale; None where the clip has none.

    Raises:
        FootageError: the file cannot be opened, or its sound cannot be read.
    """
    begins_s = _first_frame_s(path)
    edges = np.append(np.asarray(frame_time_s, float), np.inf)
    peaks = np.zeros(len(frame_time_s))
    with av.open(str(path), options=ONLY_CLIPS) as held:
        if not held.streams.audio or not len(peaks):
            return None
        for block in _blocks(held):
            samples = np.abs(block.to_ndarray()[0])
            at = float(block.time or 0.0) - begins_s + np.arange(len(samples)) / RATE_HZ
            frame = np.searchsorted(edges, at, side="right") - 1
            inside = frame >= 0
            np.maximum.at(peaks, frame[inside], samples[inside])
    return [round(float(min(peak, 1.0)), 3) for peak in peaks]


def _first_frame_s(path: Path) -> float:
    container, stream = open_video(path)
    with container:
        frame = next(container.decode(stream), None)
        return float(frame.time or 0.0) if frame is not None else 0.0


def _blocks(held: Any) -> Any:
    """The first sound of a file in one channel at one rate, block by block."""
    turned = av.AudioResampler(format="fltp", layout="mono", rate=RATE_HZ)
    try:
        for frame in held.decode(audio=0):
            yield from turned.resample(frame)
        yield from turned.resample(None)
    except av.error.FFmpegError as error:
        raise FootageError("no_sound", "The sound of this file cannot be read.") from error


def _coded(held: Any, begins_s: float | None, most_s: float = np.inf) -> tuple[bytes, float]:
    """Sound as AAC in MP4 and its length (s); what lies before `begins_s` is left out."""
    made, written = io.BytesIO(), 0
    with av.open(made, "w", format="mp4") as out:
        stream: Any = out.add_stream("aac", rate=RATE_HZ)
        stream.layout, stream.bit_rate = "mono", BITS_PER_S
        for block in _blocks(held):
            samples = block.to_ndarray()[0]
            if begins_s is not None:
                late = round((float(block.time or 0.0) - begins_s) * RATE_HZ) - written
                # A microphone that starts late leaves a silence, one that starts early is cut.
                samples = samples[-late:] if late < 0 else np.concatenate([np.zeros(late if written == 0 else 0, np.float32), samples])
            if not len(samples):
                continue
            written += len(samples)
            if written > most_s * RATE_HZ:
                raise FootageError("too_long", f"A recording may be {most_s / 60:.0f} minutes long. Say it in two.")
            frame = av.AudioFrame.from_ndarray(samples[None].astype(np.float32), format="fltp", layout="mono")
            frame.sample_rate, frame.pts = RATE_HZ, written - len(samples)
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))
    return made.getvalue(), written / RATE_HZ

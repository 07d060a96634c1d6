"""One lift in many kinds of file: `python -m bench.made_over`.

Demo clips are written anew as people send them: by other codecs, in other containers, with pictures repeated or lost, captions, titles,
pixels that are not square. What is measured of each is held against the simulation's truth. Takes some eight minutes.
"""

from __future__ import annotations

import json
import os
import tempfile
from collections.abc import Callable, Sequence
from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass, field
from fractions import Fraction
from pathlib import Path

# One process a core: libraries that start threads of their own would only be in each other's way.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

import av
import cv2
import numpy as np
from bench.tables import table
from numpy.typing import NDArray

from atleta.analysis import Settings, analyse
from atleta.footage import read_frames

DEMO = Path(__file__).parents[1] / "demo" / "clips"
CLIPS = ("ida-snatch-75", "bram-clean-104")
LOST = 0.06
Picture = NDArray[np.uint8]
Film = Sequence[tuple[float, Picture]]


@dataclass(frozen=True)
class Kind:
    """A kind of file: its ending, how it is coded, how it counts time, and what is done to the film before."""

    label: str
    ending: str = "mp4"
    codec: str = "libx264"
    pixels: str = "yuv420p"
    options: dict[str, str] = field(default_factory=lambda: {"crf": "24", "preset": "veryfast"})
    clock: Fraction = Fraction(1, 90_000)
    pixel_shape: Fraction = Fraction(1)
    made: Callable[[Film], Film] = lambda film: film


def each(change: Callable[[Picture], Picture]) -> Callable[[Film], Film]:
    return lambda film: [(time, change(picture)) for time, picture in film]


def sized(across: float, up: float) -> Callable[[Film], Film]:
    def smaller(picture: Picture) -> Picture:
        width, height = (round(share * side / 2) * 2 for share, side in ((across, picture.shape[1]), (up, picture.shape[0])))
        return np.asarray(cv2.resize(picture, (width, height), interpolation=cv2.INTER_AREA), np.uint8)

    return each(smaller)


def rate_of(film: Film) -> float:
    return 1 / float(np.median(np.diff([time for time, _ in film])))


def at_a_higher_rate(own: int, shown: int) -> Callable[[Film], Film]:
    """So many pictures of so many are the film's own; the others repeat the one before."""

    def made(film: Film) -> Film:
        step = own / shown / rate_of(film)
        return [(k * step, film[k * own // shown][1]) for k in range(len(film) * shown // own)]

    return made


def with_lost(film: Film) -> Film:
    """Some pictures are lost, and the one before is shown in their place."""
    lost = np.random.default_rng(5).random(len(film)) < LOST
    lost[0] = False
    last_own = np.maximum.accumulate(np.where(lost, 0, np.arange(len(film))))
    return [(time, film[k][1]) for (time, _), k in zip(film, last_own, strict=True)]


def turned(picture: Picture, by_deg: float, times: float) -> Picture:
    """A picture turned about its middle and so many times as large, in a frame of its own size."""
    height, width = picture.shape[:2]
    matrix = cv2.getRotationMatrix2D(((width - 1) / 2, (height - 1) / 2), by_deg, times)
    return np.asarray(cv2.warpAffine(picture, matrix, (width, height), flags=cv2.INTER_CUBIC), np.uint8)


def zoomed(film: Film) -> Film:
    """Ever closer by a sixth in all, about the picture's middle."""
    return [(time, turned(picture, 0, 1 + time / film[-1][0] / 6)) for time, picture in film]


def askew(picture: Picture) -> Picture:
    """By a phone held 6° off level, and most of what the turn leaves empty cut off."""
    return turned(picture, 6, 1.12)


def captioned(picture: Picture) -> Picture:
    made = picture.copy()
    height, width = made.shape[:2]
    cv2.rectangle(made, (0, height - height // 12), (width, height), (20, 20, 20), -1)
    cv2.putText(made, "3 x 2", (width // 20, height // 8), cv2.FONT_HERSHEY_SIMPLEX, 2, (255, 255, 255), 4)
    return made


def without_floor(picture: Picture) -> Picture:
    """Filmed too high: the disc on the floor is cut off below its middle."""
    return picture[: round(0.9 * picture.shape[0] / 2) * 2]


def titled(film: Film) -> Film:
    """A still of words and a round badge for a second and a half before the film and one after it."""
    card = np.full_like(film[0][1], 30)
    height, width = card.shape[:2]
    cv2.putText(card, "HEAVY DAY", (width // 4, height // 3), cv2.FONT_HERSHEY_SIMPLEX, 3, (240, 200, 60), 8)
    cv2.circle(card, (width // 2, 3 * height // 4), height // 8, (200, 60, 60), -1)
    step = 1 / rate_of(film)
    pictures = [card] * round(1.5 / step) + [picture for _, picture in film] + [card] * round(1 / step)
    return [(k * step, picture) for k, picture in enumerate(pictures)]


KINDS = (
    Kind("written anew"),
    Kind("HEVC, ten bits", "mov", "libx265", "yuv420p10le", {"crf": "26", "preset": "ultrafast", "x265-params": "log-level=error"}),
    Kind("VP9, times in milliseconds", "webm", "libvpx-vp9", options={"deadline": "realtime", "cpu-used": "8", "crf": "34", "b": "0"},
         clock=Fraction(1, 1000)),
    Kind("H.264, times in milliseconds", "mkv", clock=Fraction(1, 1000)),
    Kind("motion JPEG", "mov", "mjpeg", "yuvj420p", {"q": "4"}),
    Kind("half as large, strongly compressed", options={"crf": "34", "preset": "veryfast"}, made=sized(0.5, 0.5)),
    Kind("pixels a third wider than high", pixel_shape=Fraction(4, 3), made=sized(0.75, 1.0)),
    Kind("every picture twice", made=at_a_higher_rate(1, 2)),
    Kind("five pictures made of four", made=at_a_higher_rate(4, 5)),
    Kind("six in a hundred pictures lost", made=with_lost),
    Kind("a caption over the floor", made=each(captioned)),
    Kind("the floor out of the picture", made=each(without_floor)),
    Kind("a title before and after", made=titled),
    Kind("zoomed in on meanwhile", made=zoomed),
    Kind("6° off level", made=each(askew)),
    Kind("out of focus", made=each(lambda picture: np.asarray(cv2.GaussianBlur(picture, (0, 0), 3), np.uint8))),
)  # fmt: skip


def write(film: Film, kind: Kind, path: Path) -> None:
    with av.open(str(path), "w") as out:
        stream = out.add_stream(kind.codec, rate=round(rate_of(film)))
        stream.height, stream.width = film[0][1].shape[:2]
        stream.pix_fmt = kind.pixels
        stream.options = kind.options
        stream.codec_context.time_base = kind.clock
        stream.codec_context.sample_aspect_ratio = kind.pixel_shape
        for time, picture in film:
            frame = av.VideoFrame.from_ndarray(picture, format="bgr24").reformat(format=kind.pixels)
            frame.pts, frame.time_base = round(time / kind.clock), kind.clock
            out.mux(stream.encode(frame))
        out.mux(stream.encode(None))


def row(case: tuple[str, int]) -> list[str]:
    name, number = case
    kind, source = KINDS[number], DEMO / f"{name}.mp4"
    truth = json.loads(source.with_suffix(".truth.json").read_text())
    (true,), about = truth["lifts"], truth["simulation"]
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"clip.{kind.ending}"
        write(kind.made([(frame.time_s, frame.bgr()) for frame in read_frames(source)]), kind, path)
        told = analyse(path, Settings(lift=true["kind"], load_kg=about["load_kg"], stature_m=about["stature_m"]))
    if not told["lifts"]:
        return [kind.label, name, *["no lift"] * 6]
    lift = told["lifts"][0]

    def both(measure: str) -> tuple[float, float]:
        value, is_true = (one["measures"][measure]["value"] for one in (lift, true))
        return (np.nan if value is None else value), is_true

    (height, true_height), (speed, true_speed), (drop, true_drop) = map(both, ("peak_height", "peak_velocity", "drop_to_meet"))
    found = len(lift["events"].keys() & true["events"].keys())
    faults, true_faults = ({row["fault"] for row in one["findings"] if row["level"] == "fault"} for one in (lift, true))
    return [
        kind.label, name, f"{100 * (height - true_height):+.1f}", f"{100 * (speed / true_speed - 1):+.1f}", f"{drop - true_drop:+.1f}",
        f"{found} of {len(true['events'])}", f"{len(faults & true_faults)} of {len(true_faults)}", str(len(faults - true_faults)),
    ]  # fmt: skip


def main() -> None:
    cases = [(name, number) for number in range(len(KINDS)) for name in CLIPS]
    with ProcessPoolExecutor(2) as pool:
        rows = list(pool.map(row, cases))
    head = ["file", "lift", "peak height off by, cm", "peak speed, %", "drop to the bar, cm", "events", "faults found", "false"]
    table(head, rows)


if __name__ == "__main__":
    main()

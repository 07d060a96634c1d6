"""What was measured, drawn into pictures to be kept: a sheet of the positions, and the lift as a clip."""

from __future__ import annotations

import io
import itertools
import os
from collections.abc import Sequence
from fractions import Fraction
from typing import Any, NamedTuple

import av
import cv2
import numpy as np
from numpy.typing import NDArray
from PIL import Image

from atleta.analysis.findings import spoken
from atleta.footage import read_frames
from atleta.measures import declarations
from clips.models import Clip

from .models import Mark, Note
from .services import lift_at, marks_of

Picture = NDArray[np.uint8]

LONG_SIDE_PX = 1280
CELL_PX, ACROSS = 320, 5
# Blue, green, red.
INK, PAPER, PATH, PLUMB, LIMB, LOOK = (39, 34, 29), (245, 249, 250), (107, 196, 255), (235, 235, 235), (203, 182, 134), (60, 138, 240)
LIMBS = (("shoulder", "elbow"), ("elbow", "wrist"), ("shoulder", "hip"), ("hip", "knee"), ("knee", "ankle"), ("heel", "toe"))
MOST_FIGURES = 3
NOTE_S, MARK_S = 2.5, 0.6
CLOCK = 90_000
# A4 across, less its margins.
PAPER_IN = (11.0, 7.6)
SPOKEN_HZ = 15
# What of the stage's layers is drawn into pictures to be kept.
ALL_DRAWN = frozenset({"path", "upright", "joints", "marks"})
# Blue, green, red, as on the stage.
INKS = {"white": PAPER, "amber": (0, 176, 255), "sky": (255, 196, 86)}


def sheet(clip: Clip, number: int) -> bytes:
    """The picture at every position of a lift with the figures measured there, as one PNG."""
    document = clip.analysis.document
    lift = document["lifts"][number]
    events = sorted({event["frame"]: name for name, event in lift["events"].items() if name != "pull_start"}.items())
    wanted, marks = dict(events), marks_of(clip)
    lifted = [x for x in document["disc"]["x_px"][lift["start_frame"] : lift["end_frame"] + 1] if x is not None]
    middle = float(np.median(lifted)) if lifted else document["clip"]["width"] / 2
    cells = []
    for frame in read_frames(clip.footage, min(wanted, default=0)):
        if frame.index in wanted:
            picture = _drawn(frame.bgr(), document, lift, frame.index, marks.get(frame.index, ()))
            cells.append(_cell(picture, wanted[frame.index], lift, middle * picture.shape[1] / document["clip"]["width"]))
        if events and frame.index >= events[-1][0]:
            break
    if not cells:
        cells = [np.full((CELL_PX, CELL_PX, 3), PAPER, np.uint8)]
    height = max(cell.shape[0] for cell in cells)
    rows = [cells[at : at + ACROSS] for at in range(0, len(cells), ACROSS)]
    page = np.full((height * len(rows) + 60, CELL_PX * min(ACROSS, len(cells)), 3), PAPER, np.uint8)
    heading = f"{clip.athlete.name}, {lift['kind'].replace('_', ' ')}"
    if clip.load:
        heading += f", {clip.load:g} {clip.load_unit}"
    _write(page, heading, (14, 40), 0.9, INK)
    for down, row in enumerate(rows):
        for across, cell in enumerate(row):
            top, left = 60 + down * height, across * CELL_PX
            page[top : top + cell.shape[0], left : left + CELL_PX] = cell
    return bytes(cv2.imencode(".png", page)[1])


def sheet_pdf(clip: Clip, number: int) -> bytes:
    """The same on one page of paper, A4 across."""
    page, made = Image.open(io.BytesIO(sheet(clip, number))).convert("RGB"), io.BytesIO()
    page.save(made, "PDF", resolution=max(page.width / PAPER_IN[0], page.height / PAPER_IN[1]), title=f"{clip.athlete.name}: positions")
    return made.getvalue()


def drawn_clip(clip: Clip, number: int) -> bytes:
    """A lift as an H.264 MP4 at its own times, with path, plumb line, joints and the coach's notes drawn in."""
    document = clip.analysis.document
    lift = document["lifts"][number]
    marks = marks_of(clip)
    notes = [(note.frame, note.words) for note in clip.notes.exclude(words="")]
    times = document["clip"]["frame_time_s"]
    target = clip.derived_dir / f".drawn-{clip.pk}-{os.getpid()}.part.mp4"
    start = times[lift["start_frame"]]
    try:
        with av.open(str(target), "w", options={"movflags": "+faststart"}) as out:
            stream: Any = None
            for frame in read_frames(clip.footage, lift["start_frame"]):
                if frame.index > lift["end_frame"]:
                    break
                now = times[frame.index]
                held = [one for at, those in marks.items() if 0 <= now - times[min(at, len(times) - 1)] < MARK_S for one in those]
                picture = _drawn(frame.bgr(), document, lift, frame.index, held)
                for at, words in notes:
                    if 0 <= now - times[min(at, len(times) - 1)] < NOTE_S:
                        _write(picture, words, (16, picture.shape[0] - 24), picture.shape[1] / 1400, PAPER, under=True)
                height, width = (side // 2 * 2 for side in picture.shape[:2])
                if stream is None:
                    stream = out.add_stream("libx264", rate=30)
                    stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p"
                    stream.codec_context.time_base = Fraction(1, CLOCK)
                    stream.options = {"crf": "21", "preset": "veryfast"}
                coded = av.VideoFrame.from_ndarray(np.ascontiguousarray(picture[:height, :width]), format="bgr24")
                coded.pts, coded.time_base = round((now - start) * CLOCK), stream.codec_context.time_base
                out.mux(stream.encode(coded))
            if stream is not None:
                out.mux(stream.encode(None))
        return target.read_bytes()
    finally:
        target.unlink(missing_ok=True)


def spoken_clip(clip: Clip, note: Note) -> bytes:
    """What stood on the stage while the coach spoke a note, as closely as it was looked at, with the voice, as an MP4. Of what was drawn,
    that which `drawn_clip` draws."""
    document, marks = clip.analysis.document, marks_of(clip)
    times, frames = [row[0] for row in note.shown], [int(row[1]) for row in note.shown]
    ticks = np.arange(max(round((note.seconds or 0.0) * SPOKEN_HZ), 1)) / SPOKEN_HZ
    stood = [frames[max(int(at) - 1, 0)] for at in np.searchsorted(times, ticks, side="right")]
    looks = _looks(note, ticks)
    # The stage shows few pictures over and over: each is drawn once and kept packed.
    wanted: dict[int, set[frozenset[str]]] = {}
    for index, look in zip(stood, looks, strict=True):
        wanted.setdefault(index, set()).add(look.drawn)
    drawn = {}
    for frame in read_frames(clip.footage, min(wanted)):
        if frame.index > max(wanted):
            break
        for layers in wanted.get(frame.index, ()):
            picture = _drawn(frame.bgr(), document, lift_at(document, frame.index), frame.index, marks.get(frame.index, ()), layers)
            drawn[frame.index, layers] = cv2.imencode(".jpg", picture, [cv2.IMWRITE_JPEG_QUALITY, 92])[1]
    target = clip.derived_dir / f".spoken-{note.pk}-{os.getpid()}.part.mp4"
    try:
        with av.open(str(target), "w", options={"movflags": "+faststart"}) as out, av.open(str(note.voice_file)) as said:
            heard = said.streams.audio[0]
            voice: Any = out.add_stream_from_template(heard)
            stream: Any = out.add_stream("libx264", rate=SPOKEN_HZ)
            for tick, (index, look) in enumerate(zip(stood, looks, strict=True)):
                packed = drawn.get((index, look.drawn), next(iter(drawn.values())))
                picture = _closer(np.asarray(cv2.imdecode(packed, cv2.IMREAD_COLOR), np.uint8), look)
                height, width = (side // 2 * 2 for side in picture.shape[:2])
                if tick == 0:
                    stream.width, stream.height, stream.pix_fmt = width, height, "yuv420p"
                    stream.options = {"crf": "23", "preset": "veryfast"}
                coded = av.VideoFrame.from_ndarray(np.ascontiguousarray(picture[:height, :width]), format="bgr24")
                coded.pts, coded.time_base = tick, Fraction(1, SPOKEN_HZ)
                out.mux(stream.encode(coded))
            out.mux(stream.encode(None))
            for packet in said.demux(heard):
                if packet.dts is not None:
                    packet.stream = voice
                    out.mux(packet)
        return target.read_bytes()
    finally:
        target.unlink(missing_ok=True)


class _Look(NamedTuple):
    """How the stage was looked at: how many times enlarged, what lay in the middle (shares of width and height), and what was drawn."""

    zoom: float
    x: float
    y: float
    drawn: frozenset[str]


def _looks(note: Note, at_s: NDArray[np.float64]) -> list[_Look]:
    """How a spoken note looked at the stage at some times; at the whole, with all that can be drawn, where that was not kept."""
    if not note.looked:
        return [_Look(1.0, 0.5, 0.5, ALL_DRAWN)] * len(at_s)
    looks = [_Look(row["zoom"], row["x"], row["y"], ALL_DRAWN.intersection(row["drawn"])) for row in note.looked]
    return [looks[max(int(after) - 1, 0)] for after in np.searchsorted([row["s"] for row in note.looked], at_s, side="right")]


def _closer(picture: Picture, look: _Look) -> Picture:
    """The part of a picture that was looked at, as large as the whole."""
    height, width = picture.shape[:2]
    across, down = round(width / look.zoom), round(height / look.zoom)
    left = int(np.clip(look.x * width - across / 2, 0, width - across))
    top = int(np.clip(look.y * height - down / 2, 0, height - down))
    part = picture[top : top + down, left : left + across]
    return picture if look.zoom == 1.0 else np.asarray(cv2.resize(part, (width, height), interpolation=cv2.INTER_CUBIC), np.uint8)


def _drawn(
    picture: Picture,
    document: dict[str, Any],
    lift: dict[str, Any] | None,
    frame: int,
    marks: Sequence[Mark],
    layers: frozenset[str] = ALL_DRAWN,
) -> Picture:
    """A frame with the bar's path up to it, the plumb line through the bar's first place, the joints and the coach's marks, as far as they
    are among the layers; between lifts neither path nor plumb line. No larger than 1280 px."""
    scale = min(1.0, LONG_SIDE_PX / max(picture.shape[:2]))
    if scale < 1.0:
        picture = np.asarray(cv2.resize(picture, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA), np.uint8)
    picture = np.ascontiguousarray(picture)
    # Pixels of the document are those of the original; the copy for stepping may be smaller.
    by = picture.shape[1] / document["clip"]["width"]
    thick = max(round(picture.shape[1] / 420), 1)
    disc = document["disc"]

    def at(held: dict[str, Any], index: int) -> tuple[int, int] | None:
        x, y = held["x_px"][index], held["y_px"][index]
        return None if x is None or y is None else (round(x * by), round(y * by))

    if lift and "upright" in layers:
        begins = lift["events"].get("lift_off", lift["events"].get("dip_start", {"frame": lift["start_frame"]}))["frame"]
        if (begin := at(disc, begins)) is not None:
            lean = np.tan(np.radians((document["scale"] or {}).get("plumb_deg") or 0.0))
            top, foot = (round(begin[0] + lean * begin[1]), 0), (round(begin[0] - lean * (picture.shape[0] - begin[1])), picture.shape[0])
            cv2.line(picture, top, foot, PLUMB, thick, cv2.LINE_AA)
    if lift and "path" in layers:
        way = [point for index in range(lift["start_frame"], frame + 1) if (point := at(disc, index)) is not None]
        for ink, wide in ((INK, 2 * thick + 1), (PATH, thick + 1)) if len(way) > 1 else ():
            cv2.polylines(picture, [np.array(way, np.int32)], False, ink, wide, cv2.LINE_AA)
    sides = ("left", "right") if document["clip"]["facing"] is None else (document["clip"]["facing"],)
    joints = document["joints"]
    for side, (a, b) in itertools.product(sides, LIMBS) if "joints" in layers else ():
        one, other = (at(joints[f"{side}_{name}"], frame) if f"{side}_{name}" in joints else None for name in (a, b))
        if one and other:
            cv2.line(picture, one, other, LIMB, thick + 1, cv2.LINE_AA)
    for mark in marks if "marks" in layers else ():
        _draw_mark(picture, mark, by, thick)
    return picture


def _draw_mark(picture: Picture, mark: Mark, by: float, thick: int) -> None:
    points = [(round(x * by), round(y * by)) for x, y in mark.points]
    for ink, wide in ((INK, thick + 4), (INKS[mark.ink], thick + 1)):
        if mark.shape == Mark.Shape.CIRCLE:
            cv2.circle(picture, points[0], round(np.hypot(*np.subtract(points[1], points[0]))), ink, wide, cv2.LINE_AA)
        elif mark.shape == Mark.Shape.ARROW:
            cv2.arrowedLine(picture, points[0], points[1], ink, wide, cv2.LINE_AA, tipLength=0.15)
        else:
            cv2.polylines(picture, [np.array(points, np.int32)], False, ink, wide, cv2.LINE_AA)
    if mark.shape == Mark.Shape.ANGLE:
        x, y = points[1]
        _write(picture, f"{angle_deg(mark.points):.0f} deg", (x + 4 * thick, y - 4 * thick), picture.shape[1] / 1400, PAPER, under=True)


def angle_deg(points: Sequence[Sequence[float]]) -> float:
    """Included angle at the second of three points, degrees."""
    one, other = (np.subtract(points[at], points[1]) for at in (0, 2))
    return float(np.degrees(np.arctan2(abs(one[0] * other[1] - one[1] * other[0]), float(np.dot(one, other)))))


def _cell(picture: Picture, name: str, lift: dict[str, Any], middle_px: float) -> Picture:
    """One position of the sheet: its picture, its name and what counts there."""
    shown = np.asarray(cv2.resize(_about(picture, middle_px), (CELL_PX, CELL_PX), interpolation=cv2.INTER_AREA))
    cell = np.full((shown.shape[0] + 40 + 24 * MOST_FIGURES, CELL_PX, 3), PAPER, np.uint8)
    cell[: shown.shape[0]] = shown
    _write(cell, name.replace("lift_off", "lift-off").replace("_", " ").capitalize(), (10, shown.shape[0] + 24), 0.6, INK)
    for row, (says, wrong) in enumerate(figures_at(lift, name)):
        _write(cell, says, (10, shown.shape[0] + 48 + 24 * row), 0.46, (20, 90, 190) if wrong else INK)
    return cell


def _about(picture: Picture, middle_px: float) -> Picture:
    """The largest square of a picture with the lifter's place in its middle, as far as its edges allow."""
    height, width = picture.shape[:2]
    side = min(height, width)
    left = int(np.clip(middle_px - side / 2, 0, width - side))
    top = max(height - side, 0) // 2
    return picture[top : top + side, left : left + side]


def figures_at(lift: dict[str, Any], event: str) -> list[tuple[str, bool]]:
    """The two or three figures that matter at a position, those that a finding rests on first, and whether they are beyond their limit."""
    labels = {one.id: one for one in declarations()}
    judged = {row["measure"]: finding["level"] for finding in lift["findings"] for row in finding["evidence"]}
    frame = lift["events"][event]["frame"]
    rows = []
    for name, measure in lift["measures"].items():
        if measure["value"] is None or (not name.endswith(f"@{event}") and measure.get("frame") != frame):
            continue
        level = judged.get(name)
        says = f"{labels[name].label if name in labels else name}: {spoken(measure['value'], measure['unit'])}"
        rows.append(((level not in ("fault", "watch"), level is None), says, level in ("fault", "watch")))
    return [(says, wrong) for _, says, wrong in sorted(rows, key=lambda row: row[0])[:MOST_FIGURES]]


def _write(picture: Picture, words: str, at: tuple[int, int], size: float, ink: tuple[int, int, int], *, under: bool = False) -> None:
    if under:
        cv2.putText(picture, words, at, cv2.FONT_HERSHEY_SIMPLEX, size, INK, 4, cv2.LINE_AA)
    cv2.putText(picture, words, at, cv2.FONT_HERSHEY_SIMPLEX, size, ink, 1, cv2.LINE_AA)

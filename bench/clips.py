"""Which clips the benchmark looks at, and a long one."""

from __future__ import annotations

import json
from pathlib import Path

import av

FRONTAL_DEG = 45.0


def from_the_side(folder: Path) -> list[Path]:
    """The clips of a folder that have their truth beside them and were filmed from the side; those from the front are `front.py`'s."""
    told = {clip: json.loads(clip.with_suffix(".truth.json").read_text()) for clip in sorted(folder.glob("*.mp4"))}
    return [clip for clip, truth in told.items() if abs(truth["clip"]["view"]["yaw_deg"]) < FRONTAL_DEG]


def looped(clip: Path, target: Path, times: int) -> Path:
    """The same clip played over and over in one file, packets copied as they are."""
    with av.open(str(target), "w") as out:
        stream = None
        offset = 0
        for _ in range(times):
            with av.open(str(clip)) as source:
                video = source.streams.video[0]
                stream = stream or out.add_stream_from_template(video)
                last = 0
                for packet in source.demux(video):
                    if packet.dts is None:
                        continue
                    last = max(last, packet.pts + packet.duration)
                    packet.pts, packet.dts = packet.pts + offset, packet.dts + offset
                    packet.stream = stream
                    out.mux(packet)
                offset += last
    return target

"""Serve a file by byte ranges: without them a browser's video element cannot seek."""

from __future__ import annotations

import re
from collections.abc import Iterator
from pathlib import Path

from django.http import FileResponse, HttpRequest, HttpResponse, HttpResponseBase, StreamingHttpResponse

CHUNK = 256 * 1024
_RANGE = re.compile(r"^bytes=(\d*)-(\d*)$")


def ranged_file(request: HttpRequest, path: Path, content_type: str) -> HttpResponseBase:
    """The file, or the one range of it that was asked for (206); a range outside the file gives 416."""
    size = path.stat().st_size
    asked = _RANGE.match(request.headers.get("Range", ""))
    if not asked or not any(asked.groups()):
        whole = FileResponse(path.open("rb"), content_type=content_type)
        whole["Accept-Ranges"] = "bytes"
        return whole
    first, last = asked.groups()
    start = int(first) if first else max(size - int(last), 0)
    stop = min(int(last), size - 1) if first and last else size - 1
    if start > stop:
        return HttpResponse(status=416, headers={"Content-Range": f"bytes */{size}"})
    headers = {"Accept-Ranges": "bytes", "Content-Range": f"bytes {start}-{stop}/{size}", "Content-Length": str(stop - start + 1)}
    return StreamingHttpResponse(_read(path, start, stop), status=206, content_type=content_type, headers=headers)


def _read(path: Path, start: int, stop: int) -> Iterator[bytes]:
    with path.open("rb") as handle:
        handle.seek(start)
        left = stop - start + 1
        while left > 0 and (chunk := handle.read(min(CHUNK, left))):
            left -= len(chunk)
            yield chunk

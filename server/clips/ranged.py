"""Serve a file by byte ranges: without them a browser's video element cannot seek."""

from __future__ import annotations

import os
import re
from pathlib import Path

from django.http import FileResponse, HttpRequest, HttpResponse, HttpResponseBase

_RANGE = re.compile(r"^bytes=([0-9]{0,18})-([0-9]{0,18})$")


def ranged_file(request: HttpRequest, path: Path, content_type: str) -> HttpResponseBase:
    """The file, or the one range of it that was asked for (206); a range outside the file gives 416. The server reads it as the client
    takes it, and no thread waits for that."""
    size = path.stat().st_size
    asked = _RANGE.match(request.headers.get("Range", ""))
    if not asked or not any(asked.groups()):
        return FileResponse(path.open("rb"), content_type=content_type, headers={"Accept-Ranges": "bytes"})
    first, last = asked.groups()
    start = int(first) if first else max(size - int(last), 0)
    stop = min(int(last), size - 1) if first and last else size - 1
    if start > stop:
        return HttpResponse(status=416, headers={"Content-Range": f"bytes */{size}"})
    headers = {"Accept-Ranges": "bytes", "Content-Range": f"bytes {start}-{stop}/{size}"}
    part = FileResponse(Part(path, start, stop), status=206, content_type=content_type, headers=headers)
    part["Content-Length"] = str(stop - start + 1)
    return part


class Part:
    """One range of a file, first and last byte counted, as a file that is read."""

    def __init__(self, path: Path, start: int, stop: int) -> None:
        self._file, self._start, self._length = path.open("rb"), start, stop - start + 1
        self._file.seek(start)

    def read(self, size: int = -1) -> bytes:
        left = max(self._length - self.tell(), 0)
        return self._file.read(left if size < 0 else min(size, left))

    def tell(self) -> int:
        return self._file.tell() - self._start

    def seek(self, offset: int, whence: int = os.SEEK_SET) -> int:
        base = {os.SEEK_SET: 0, os.SEEK_CUR: self.tell(), os.SEEK_END: self._length}[whence]
        return self._file.seek(self._start + base + offset) - self._start

    def close(self) -> None:
        self._file.close()

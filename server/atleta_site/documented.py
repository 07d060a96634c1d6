"""Addresses of files in the API's document: what answers with a film, a picture or a table and is no view of the REST framework."""

from __future__ import annotations

import mimetypes
import re
from collections.abc import Iterator
from typing import Any

from django.urls import URLPattern, URLResolver, get_resolver
from django.urls.converters import IntConverter, UUIDConverter

TYPES = {".vtt": "text/vtt", ".ics": "text/calendar", ".trc": "text/plain", ".c3d": "application/octet-stream", ".m4a": "audio/mp4"}


def add_files(result: dict[str, Any], generator: Any, request: Any, public: bool) -> dict[str, Any]:
    """A hook of drf-spectacular."""
    for address, pattern in _addresses(get_resolver().url_patterns, "/"):
        path = re.sub(r"<(?:\w+:)?(\w+)>", r"{\1}", address).replace("{pk}", "{id}")
        view: Any = pattern.callback
        if not path.startswith("/api/") or hasattr(view, "cls") or hasattr(view, "view_class") or path in result["paths"]:
            continue
        suffix = path[path.rfind(".") :]
        kind = TYPES.get(suffix) or mimetypes.types_map.get(suffix, "application/octet-stream")
        names = {("id" if name == "pk" else name): converter for name, converter in pattern.pattern.converters.items()}
        result["paths"][path] = {
            "get": {
                "operationId": "file_" + re.sub(r"\W+", "_", path.removeprefix("/api/")).strip("_"),
                "description": " ".join((view.__doc__ or "").split()),
                "parameters": [
                    {"in": "path", "name": name, "required": True, "schema": _schema(converter)} for name, converter in names.items()
                ],
                "tags": [path.split("/")[2]],
                "responses": {
                    "200": {"description": "The file.", "content": {kind: {"schema": {"type": "string", "format": "binary"}}}},
                    "404": {"description": "There is nothing at this address."},
                },
            }
        }  # fmt: skip
    result["paths"] = dict(sorted(result["paths"].items()))
    return result


def _addresses(patterns: list[Any], before: str) -> Iterator[tuple[str, URLPattern]]:
    for one in patterns:
        if isinstance(one, URLResolver):
            yield from _addresses(one.url_patterns, before + str(one.pattern))
        else:
            yield before + str(one.pattern), one


def _schema(converter: Any) -> dict[str, str]:
    if isinstance(converter, UUIDConverter):
        return {"type": "string", "format": "uuid"}
    return {"type": "integer"} if isinstance(converter, IntConverter) else {"type": "string"}

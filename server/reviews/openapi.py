"""Put the analysis document's own JSON Schema into the API's, so that clients get its types from one place."""

from __future__ import annotations

from typing import Any

from atleta.document import document_schema

DOCUMENT_REF = {"$ref": "#/components/schemas/AnalysisDocument"}


def add_document_schema(result: dict[str, Any], generator: Any, request: Any, public: bool) -> dict[str, Any]:
    """A drf-spectacular post-processing hook."""
    schemas = result["components"]["schemas"]
    document = _pointed_at_components(document_schema())
    for name, definition in document.pop("$defs").items():
        schemas[f"Analysis{name.capitalize()}"] = definition
    schemas["AnalysisDocument"] = {key: value for key, value in document.items() if not key.startswith("$")}
    return result


def _pointed_at_components(part: Any) -> Any:
    if isinstance(part, dict):
        return {
            key: f"#/components/schemas/Analysis{value.rsplit('/', 1)[1].capitalize()}" if key == "$ref" else _pointed_at_components(value)
            for key, value in part.items()
        }
    return [_pointed_at_components(item) for item in part] if isinstance(part, list) else part

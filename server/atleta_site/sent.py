"""What is taken in as JSON: an object of a sane depth, with text that can be kept and numbers that are some."""

from __future__ import annotations

import json
import math
from typing import Any

from rest_framework.exceptions import ParseError
from rest_framework.parsers import JSONParser

DEEPEST = 20
NOT_AN_OBJECT = 'What was sent is not a JSON object. Send names with their values, as {"name": "value"}.'


class ObjectParser(JSONParser):
    """JSON, where what is no object, goes deeper than anything here does, or cannot be kept is refused in words."""

    def parse(self, stream: Any, media_type: str | None = None, parser_context: Any = None) -> Any:
        try:
            held = json.loads(stream.read().decode("utf-8") or "{}", parse_constant=_no_number)
        except RecursionError:
            raise ParseError("What was sent is nested too deeply.") from None
        except (UnicodeDecodeError, ValueError) as error:
            raise ParseError(f"What was sent is no JSON: {error}") from None
        if not isinstance(held, dict):
            raise ParseError(NOT_AN_OBJECT)
        _check(held, 0)
        return held


def _no_number(name: str) -> float:
    raise ParseError(f"{name} is no number.")


def _check(held: Any, depth: int) -> None:
    if depth > DEEPEST:
        raise ParseError("What was sent is nested too deeply.")
    if isinstance(held, str):
        if "\x00" in held or any("\ud800" <= letter <= "\udfff" for letter in held):
            raise ParseError("A text has characters in it that cannot be kept. Type it again.")
    elif (isinstance(held, float) and not math.isfinite(held)) or (isinstance(held, int) and abs(held) >= 2**63):
        raise ParseError("A number is too large.")
    elif isinstance(held, dict):
        for name, value in held.items():
            _check(name, depth + 1)
            _check(value, depth + 1)
    elif isinstance(held, list):
        for value in held:
            _check(value, depth + 1)

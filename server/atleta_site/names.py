"""Ids for what coaches name themselves."""

from __future__ import annotations

from collections.abc import Collection
from itertools import count

from django.utils.text import slugify


def own_id(name: str, taken: Collection[str], unnamed: str) -> str:
    """An id that begins with `own_` and is not taken, from a name; from `unnamed` where nothing is left of the name."""
    base = f"own_{slugify(name).replace('-', '_')[:40] or unnamed}"
    return next(id for n in count(1) if (id := base if n == 1 else f"{base}_{n}") not in taken)

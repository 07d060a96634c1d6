"""What a coach says for everyone and for single athletes, as changes keep it: `{"everyone": value, "athletes": {"12": value}}`."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from people.models import Athlete


def gathered(rows: Mapping[int | None, Any]) -> dict[str, Any]:
    """Values by athlete, None for everyone, in that shape."""
    return {"everyone": rows.get(None), "athletes": {str(key): value for key, value in rows.items() if key is not None}}


def spread(coach_id: int, said: Mapping[str, Any]) -> dict[int | None, Any]:
    """The same back by athlete: those who are still there, of whom something is said."""
    here = {None, *Athlete.objects.filter(coach=coach_id).values_list("pk", flat=True)}
    rows = {None: said["everyone"], **{int(key): value for key, value in said["athletes"].items()}}
    return {key: value for key, value in rows.items() if value is not None and key in here}

"""Fields that every serialiser shares."""

from __future__ import annotations

from datetime import date

from rest_framework import serializers

FIRST_YEAR, LAST_YEAR = 1950, 2100


class DayField(serializers.DateField):
    """A day that somebody may have lived or may plan for."""

    default_error_messages = {"far": f"This day is not between {FIRST_YEAR} and {LAST_YEAR}. Check the year."}

    def to_internal_value(self, value: object) -> date:
        day: date = super().to_internal_value(value)
        if not FIRST_YEAR <= day.year <= LAST_YEAR:
            self.fail("far")
        return day

"""What a coach judges by eye, as numbers. Adding one is one function in `bar.py` with its declaration."""

from . import bar as _bar  # noqa: F401  (registers the bar's measures)
from .registry import Declaration, LiftData, Value, declarations, measure_lift

__all__ = ["Declaration", "LiftData", "Value", "declarations", "measure_lift"]

"""What is wrong, from what number, and which finding explains which. Rules are data; see `faults.toml`."""

from .catalogue import Catalogue, Condition, Fault, Threshold, load_catalogue
from .causes import explain
from .engine import Finding, judge

__all__ = ["Catalogue", "Condition", "Fault", "Finding", "Threshold", "explain", "judge", "load_catalogue"]

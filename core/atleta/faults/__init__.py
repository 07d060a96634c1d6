"""What is wrong, from what number, and which finding explains which. Rules are data; see `faults.toml`."""

from .catalogue import Catalogue, Condition, Fault, Threshold, load_catalogue
from .causes import explain, longest_chain
from .engine import Evidence, Finding, Measured, judge
from .schools import School, load_schools, taught

__all__ = [
    "Catalogue",
    "Condition",
    "Evidence",
    "Fault",
    "Finding",
    "Measured",
    "School",
    "Threshold",
    "explain",
    "judge",
    "load_catalogue",
    "load_schools",
    "longest_chain",
    "taught",
]

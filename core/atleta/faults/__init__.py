"""What is wrong, from what number, and which finding explains which. Rules are data; see `faults.toml`."""

from .catalogue import Catalogue, Condition, Fault, Threshold, load_catalogue
from .causes import Causes, Present, edges, explain
from .engine import Evidence, Finding, Measured, judge
from .own import OwnFault, Wording, own_fault
from .schools import School, load_schools, taught

__all__ = [
    "Catalogue",
    "Causes",
    "Condition",
    "Evidence",
    "Fault",
    "Finding",
    "Measured",
    "OwnFault",
    "Present",
    "School",
    "Threshold",
    "Wording",
    "edges",
    "explain",
    "judge",
    "load_catalogue",
    "load_schools",
    "own_fault",
    "taught",
]

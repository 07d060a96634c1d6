"""What is worked out once in a process, worked out before anybody waits for it."""

from __future__ import annotations

from ..coaching import load_ladders
from ..faults import load_catalogue
from ..motion.body.sparsity import apart


def make_ready() -> None:
    """Make the first analysis as quick as the next: what residuals depend on, the faults, exercises and ladders."""
    load_catalogue()
    load_ladders()
    for by_hand in (False, True):
        apart(by_hand)

"""What is worked out once in a process, worked out before anybody waits for it."""

from __future__ import annotations

from ..faults import load_catalogue
from ..motion.body.sparsity import apart


def make_ready() -> None:
    """Make the first analysis as quick as the next: what residuals depend on, and the catalogue of faults."""
    load_catalogue()
    for by_hand in (False, True):
        apart(by_hand)

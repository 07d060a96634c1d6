"""What is worked out once in a process, worked out before anybody waits for it."""

from __future__ import annotations

from ..faults import load_catalogue
from ..motion.body.sparsity import apart
from ..motion.filters import quiet_cutoff_hz

# Of phones, in frames a second.
USUAL_RATES = (25.0, 30.0, 50.0, 60.0)


def make_ready() -> None:
    """Make the first analysis as quick as the next: what residuals depend on, the catalogue of faults, what filters leave of noise."""
    load_catalogue()
    for by_hand in (False, True):
        apart(by_hand)
    for rate_hz in USUAL_RATES:
        for order in (1, 2):
            quiet_cutoff_hz(1e-4, rate_hz, order=order, most=1.0)

"""The instants a coach steps to: when the bar leaves the floor, is fastest, highest, met, lowest, and stood up with."""

from .body import BodyHeights, heights_from_stature
from .families import COMPLEXES, EVENTS, FAMILY_OF_KIND, LIFT_KINDS, OVERHEAD, RECEIVED, done_otherwise, sequence_of
from .lifts import Lift, find_lifts
from .outcome import Outcome, outcome_of
from .recognise import Recognised, recognise

__all__ = [
    "COMPLEXES",
    "EVENTS",
    "FAMILY_OF_KIND",
    "LIFT_KINDS",
    "OVERHEAD",
    "RECEIVED",
    "BodyHeights",
    "Lift",
    "Outcome",
    "Recognised",
    "done_otherwise",
    "find_lifts",
    "heights_from_stature",
    "outcome_of",
    "recognise",
    "sequence_of",
]

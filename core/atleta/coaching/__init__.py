"""From finding to work and back: the exercise library, what answers a fault, what goes on the bar, the block, whether it helped."""

from .choosing import Candidate, best_lift, candidates, drill_lift, exercise_in, filmed_as, three
from .following import Change, Filmed, Followed, changed, follow_up, next_percent
from .gates import CONTACT_SITES, PAIN_STOPS_AT, Gates, barred, low_readiness
from .library import Exercise, Ladder, Pass, as_data, exercise_of, ladder_of, load_ladders, load_library
from .loading import Loading, Rack, load_bar
from .planning import Broken, Item, Slot, broken, plan_block, week_of
from .ratios import Ratio, ratios_of

__all__ = [
    "CONTACT_SITES",
    "PAIN_STOPS_AT",
    "Broken",
    "Candidate",
    "Change",
    "Exercise",
    "Filmed",
    "Followed",
    "Gates",
    "Item",
    "Ladder",
    "Loading",
    "Pass",
    "Rack",
    "Ratio",
    "Slot",
    "as_data",
    "barred",
    "best_lift",
    "broken",
    "candidates",
    "changed",
    "drill_lift",
    "exercise_in",
    "exercise_of",
    "filmed_as",
    "follow_up",
    "ladder_of",
    "load_bar",
    "load_ladders",
    "load_library",
    "low_readiness",
    "next_percent",
    "plan_block",
    "ratios_of",
    "three",
    "week_of",
]

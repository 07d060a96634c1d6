"""From finding to work and back: the exercise library, what answers a fault, what goes on the bar, the block, whether it helped."""

from .choosing import Candidate, best_lift, candidates, drill_lift, filmed_as
from .following import Change, Followed, changed, follow_up, next_percent
from .library import Exercise, Ladder, Pass, as_data, exercise_of, load_ladders, load_library
from .loading import Loading, Rack, load_bar
from .planning import Broken, Item, Slot, broken, plan_block, week_of
from .ratios import Ratio, ratios_of

__all__ = [
    "Broken",
    "Candidate",
    "Change",
    "Exercise",
    "Followed",
    "Item",
    "Ladder",
    "Loading",
    "Pass",
    "Rack",
    "Ratio",
    "Slot",
    "as_data",
    "best_lift",
    "broken",
    "candidates",
    "changed",
    "drill_lift",
    "exercise_of",
    "filmed_as",
    "follow_up",
    "load_bar",
    "load_ladders",
    "load_library",
    "next_percent",
    "plan_block",
    "ratios_of",
    "week_of",
]

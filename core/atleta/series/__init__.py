"""Several lifts of one athlete together: what breaks as it gets heavy, how speed falls with load, what is usual for this lifter."""

from .compare import LEAST_REPETITIONS, Difference, first_against_last, made_against_missed, over_repetitions
from .confirmed import Confirmed, confirmed_over
from .heavier import Leaving, leaves_first
from .lifts import Lifts, Number
from .profile import Profile, load_speed_profile
from .usual import LEAST_LIFTS, Band, usual_band

__all__ = [
    "LEAST_LIFTS",
    "LEAST_REPETITIONS",
    "Band",
    "Confirmed",
    "Difference",
    "Leaving",
    "Lifts",
    "Number",
    "Profile",
    "confirmed_over",
    "first_against_last",
    "leaves_first",
    "load_speed_profile",
    "made_against_missed",
    "over_repetitions",
    "usual_band",
]

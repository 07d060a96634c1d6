"""From finding to work: the exercise library, which exercise answers a fault, and what goes on the bar."""

from .choosing import Candidate, candidates, drill_lift
from .library import Exercise, load_library
from .loading import Loading, Rack, load_bar

__all__ = ["Candidate", "Exercise", "Loading", "Rack", "candidates", "drill_lift", "load_bar", "load_library"]

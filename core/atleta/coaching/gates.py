"""What an athlete's state forbids: every way on which an exercise can reach an athlete passes through here."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from .library import Exercise

PAIN_STOPS_AT = 4
# Where the bar meets the body: a bruise there forbids work in which it does.
CONTACT_SITES = ("hip", "pubic bone", "thigh")
# Of readiness 1 to 5, at most so much is low; and so much lighter is technical work then, in percent of the load.
LOW_READINESS, LIGHTER_PERCENT = 2, 10.0
STOP = "Pain of 4 out of 10 or more was reported: no drill. Stop, and see a licensed clinician."
REST_CONTACT = "Bruise where the bar meets the body: nothing in which it touches thigh or hip until that has healed."
# What loads a site: positions of the lift it passes through, and muscles it works.
LOADED_BY: Mapping[str, tuple[frozenset[str], frozenset[str]]] = {
    "neck": (frozenset({"overhead"}), frozenset()),
    "shoulder": (frozenset({"overhead", "turnover", "split"}), frozenset({"shoulders"})),
    "elbow": (frozenset({"overhead", "turnover", "split"}), frozenset({"arms", "forearms"})),
    "wrist": (frozenset({"overhead", "catch", "split"}), frozenset({"wrists", "forearms"})),
    "hand": (frozenset({"floor", "knee", "thigh", "contact"}), frozenset({"forearms", "grip"})),
    "upper back": (frozenset({"overhead"}), frozenset({"upper back"})),
    "low back": (frozenset(), frozenset()),
    "hip": (frozenset({"floor", "catch", "split"}), frozenset({"hips"})),
    "knee": (frozenset({"floor", "catch", "dip", "drive", "split"}), frozenset({"legs", "quads"})),
    "ankle": (frozenset({"catch", "dip", "drive", "split"}), frozenset({"calves"})),
    "foot": (frozenset({"catch", "dip", "drive", "split"}), frozenset({"calves"})),
    "chest": (frozenset({"overhead"}), frozenset({"chest"})),
}


@dataclass(frozen=True)
class Gates:
    """An athlete's state as it bears on work: the worst pain that is open (of 10), whether a bruise is where the bar meets the body, sites
    that are sore (pain of 1 to 3), and why readiness is low (empty when it is not)."""

    pain: int = 0
    contact_bruise: bool = False
    sore: frozenset[str] = frozenset()
    low_readiness: str = ""

    @property
    def stop(self) -> bool:
        """Nothing is done, whatever the coach's reason."""
        return self.pain >= PAIN_STOPS_AT


OPEN = Gates()


def barred(exercise: Exercise, gates: Gates) -> str:
    """Why an athlete must not do an exercise now; empty when nothing forbids it."""
    if gates.stop:
        return STOP
    if gates.contact_bruise and exercise.contact != "none":
        return REST_CONTACT
    sore = next((site for site in sorted(gates.sore) if loads(exercise, site)), "")
    return f"The {sore} is sore, and this loads it: leave it until that has passed." if sore else ""


def loads(exercise: Exercise, site: str) -> bool:
    """Whether an exercise loads a site of the body; gentle mobility without a load does not."""
    if exercise.kind == "mobility":
        return False
    if site == "low back":
        return exercise.low_back
    positions, muscles = LOADED_BY.get(site, (frozenset(), frozenset()))
    return exercise.basis != "none" and bool(positions & set(exercise.positions) or muscles & set(exercise.muscles))


def heavy(exercise: Exercise) -> bool:
    """Work for a day of full readiness: pulls and squats under a load."""
    return exercise.basis != "none" and (exercise.kind == "pull_variation" or "squat" in exercise.id)


def low_readiness(days: list[int]) -> str:
    """Why readiness is low, from that of the last days on which it was entered, oldest first; empty when it is not."""
    if days and days[-1] <= LOW_READINESS:
        return f"readiness is {days[-1]} of 5"
    if len(days) >= 3 and days[-1] < days[-2] < days[-3]:
        return "readiness has fallen twice in a row"
    return ""

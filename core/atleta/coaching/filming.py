"""What to film next and how: it follows from what the last film could not show and from what the work needs."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence

HOW = {
    "side": "from the side: phone level at hip height, five metres away, with the whole lifter, the feet and the plates in the picture",
    "front": "from the front: phone level at hip height, five metres away, with both plates, both hands and both feet in the picture",
    "45": "from 45° in front: phone level at chest height, four metres away, with elbows, bar and feet in the picture",
}
# What a reason why a check was not possible asks of the next film: words in it, and what to do. The first that fits counts.
ASKS: tuple[tuple[tuple[str, ...], str], ...] = (
    (("feet", "foot"), "Feet must be in the picture: step back two metres"),
    (("joints were not seen", "not seen well enough"), "Light on the lifter, nobody and nothing between the phone and the lift"),
    (("is not in the clip", "not seen leaving", "not seen to lock", "not seen taking"), "Film it whole, from set-up to the bar put down"),
    (("off the side",), "Stand square to the lifter"),
    (("cannot be told apart from the noise",), "Come closer, and keep the phone still"),
)  # fmt: skip
# So many checks that only another view shows are worth a film of their own.
WORTH_A_VIEW = 2


def film_next(what: str, seen_from: str, not_possible: Mapping[str, int], work: Sequence[str]) -> str:
    """What to film next, from where, how far away and how high, and what must be in the picture.

    Args:
        what: what is to be filmed, in words.
        seen_from: from where the last film was taken.
        not_possible: reasons why checks were not possible, with how many checks each stands for.
        work: from where the work that was set is to be filmed, one for each exercise.
    """
    wanted = Counter(work)
    only_from = {view: sum(count for reason, count in not_possible.items() if f"from the {view}" in reason) for view in ("side", "front")}
    for view, checks in only_from.items():
        if view != seen_from and checks >= WORTH_A_VIEW and not work:
            wanted[view] += checks
    view = max(wanted, key=lambda one: wanted[one]) if wanted else seen_from
    asked = next(
        (then for words, then in ASKS for reason in not_possible if any(word in reason for word in words)),
        "",
    )  # fmt: skip
    return f"Film {what} {HOW.get(view, HOW['side'])}." + (f" {asked}." if asked else "")

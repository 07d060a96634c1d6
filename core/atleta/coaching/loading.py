"""What goes on the bar: the heaviest load that the discs on hand allow and that does not exceed what was asked."""

from __future__ import annotations

from dataclasses import dataclass, field
from decimal import ROUND_HALF_UP, Decimal

POUND_KG = 0.45359237
_GRAM = Decimal("0.001")


@dataclass(frozen=True)
class Rack:
    """A bar and the discs beside it, all in one unit. `pairs` says how many pairs there are of each disc weight."""

    unit: str = "kg"
    bar: float = 20.0
    collars: float = 0.0
    """Both collars together."""
    pairs: dict[float, int] = field(default_factory=lambda: {25.0: 2, 20.0: 2, 15.0: 2, 10.0: 2, 5.0: 2, 2.5: 2, 1.5: 1, 1.0: 1, 0.5: 1})

    def __post_init__(self) -> None:
        if self.unit not in ("kg", "lb"):
            raise ValueError("A rack's unit is kg or lb.")
        if self.bar <= 0 or self.collars < 0 or any(weight <= 0 or count < 0 for weight, count in self.pairs.items()):
            raise ValueError("Bar and discs weigh more than nothing, and there cannot be fewer than no pairs.")


@dataclass(frozen=True)
class Loading:
    """A loaded bar: the total and the discs of one side, heaviest first, in the rack's unit."""

    unit: str
    total: float
    per_side: tuple[float, ...]
    bar: float
    collars: float

    @property
    def total_kg(self) -> float:
        return self.total if self.unit == "kg" else self.total * POUND_KG


def load_bar(target: float, rack: Rack) -> Loading:
    """The heaviest loadable weight not above `target` (in the rack's unit), with the fewest discs that make it, the largest
    of those.

    The bar alone is the least there is: a target below it gives the empty bar without collars, and the caller sees the difference.
    """
    empty = _exact(rack.bar)
    collars = _exact(rack.collars)
    room = (_exact(target) - empty - collars) / 2
    if room < 0:
        return Loading(rack.unit, float(empty), (), rack.bar, 0.0)
    # Fewest discs for every weight of one side that can be made, the weights kept exact in thousandths.
    fewest: dict[Decimal, tuple[float, ...]] = {Decimal(0): ()}
    for weight in sorted(rack.pairs, reverse=True):
        exact = _exact(weight)
        for made, discs in list(fewest.items()):
            for count in range(1, rack.pairs[weight] + 1):
                total = made + count * exact
                if total > room:
                    break
                combined = discs + (weight,) * count
                if total not in fewest or (len(combined), fewest[total]) < (len(fewest[total]), combined):
                    fewest[total] = combined
    side = max(fewest)
    return Loading(rack.unit, float(empty + collars + 2 * side), tuple(sorted(fewest[side], reverse=True)), rack.bar, rack.collars)


def _exact(weight: float) -> Decimal:
    return Decimal(repr(weight)).quantize(_GRAM, ROUND_HALF_UP)

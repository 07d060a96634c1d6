"""Whole chains of causes, from perfect tracks: `python -m bench.chains`, part of `make bench`.

Thirty lifts, each with two or three faults put in that a coach would tell as one chain, or as separate issues. A chain is right when its
first cause is the one to fix first, what follows from it follows in that order, what has nothing to do with it is a separate issue, and
nothing stands in it that is not truly there.
"""

from __future__ import annotations

from concurrent.futures import ProcessPoolExecutor
from dataclasses import dataclass

import numpy as np
from bench.rules import HIGH, goes_overhead, usual
from bench.tables import table

from atleta.analysis import Settings, build_document
from atleta.footage import ClipInfo
from atleta.simulation import Build, Camera, Wanted, asked_set, play, truths, verdicts
from atleta.simulation.perfect import PerfectBody, perfect_tracks

# Kind, the chain put in, and what is put in beside it as a separate issue.
LIFTS: tuple[tuple[str, tuple[str, ...], tuple[str, ...]], ...] = (
    ("snatch", ("bar_forward_off_floor", "bar_left_in_front"), ()),
    ("clean", ("bar_forward_off_floor", "bar_left_in_front", "bar_looped"), ()),
    ("snatch", ("bar_not_brought_back", "bar_left_in_front"), ()),
    ("snatch", ("hips_rise_first", "shoulders_too_far_over_at_knee", "bar_left_in_front"), ()),
    ("clean", ("hips_rise_first", "bar_left_in_front"), ()),
    ("snatch", ("hips_high_at_start", "shins_vertical_early"), ()),
    ("clean", ("hips_low_at_start", "hips_rise_first"), ()),
    ("snatch", ("bar_too_far_at_start", "bar_forward_off_floor"), ()),
    ("clean", ("bar_rolled_in_setup", "bar_forward_off_floor", "bar_left_in_front"), ()),
    ("snatch", ("yanked_from_floor", "speed_lost_in_transition"), ()),
    ("clean", ("yanked_from_floor", "hips_rise_first"), ()),
    ("snatch", ("opened_early", "bar_left_in_front", "banged_away"), ()),
    ("clean", ("pulled_into_hip", "banged_away", "bar_looped"), ()),
    ("snatch", ("hips_thrown_forward", "banged_away"), ()),
    ("snatch", ("banged_away", "bar_looped"), ()),
    ("clean", ("overpulled", "bar_crashed", "double_bounce"), ()),
    ("clean", ("bar_crashed", "elbows_low_in_rack"), ()),
    ("snatch", ("arms_bent_early", "extension_cut_short"), ()),
    ("clean", ("leaned_back", "jumped_back"), ()),
    ("snatch", ("jumped_forward", "caught_forward"), ()),
    ("snatch", ("torso_tipped_in_catch", "caught_forward"), ()),
    ("clean", ("hips_rise_first",), ("elbows_low_in_rack",)),
    ("snatch", ("arms_bent_early",), ("caught_behind",)),
    ("split_jerk", ("dip_too_deep", "dip_forward", "bar_driven_forward"), ()),
    ("split_jerk", ("dip_rushed", "dip_forward"), ()),
    ("split_jerk", ("dip_forward", "bar_driven_forward", "leaning_away"), ()),
    ("split_jerk", ("drive_cut_short", "pressed_out"), ()),
    ("split_jerk", ("split_too_short", "leaning_away"), ()),
    ("split_jerk", ("dip_forward",), ("back_leg_locked",)),
    ("back_squat", ("dropped_descent", "hips_shoot_out_of_hole"), ()),
)
FIRST_SEED, STRENGTH = 61_000, 0.95


@dataclass(frozen=True)
class Told:
    """One lift: what was put in and is truly there, and what was told of it."""

    kind: str
    chain: tuple[str, ...]
    beside: tuple[str, ...]
    truly: dict[str, str]
    story: tuple[str, ...]
    roots: tuple[str, ...]

    @property
    def there(self) -> bool:
        """Whether everything put in is truly a fault."""
        return all(self.truly.get(fault) == "fault" for fault in (*self.chain, *self.beside))

    @property
    def first_right(self) -> bool:
        return bool(self.roots) and self.roots[0] == self.chain[0]

    @property
    def right(self) -> bool:
        """Whether the whole chain is."""
        places = [self.story.index(fault) if fault in self.story else -1 for fault in self.chain]
        in_order = -1 not in places and places == sorted(places)
        invented = [fault for fault in self.story if self.truly.get(fault) not in ("fault", "watch")]
        return self.first_right and in_order and not invented and all(fault in self.roots[1:] for fault in self.beside)


def told(case: tuple[int, tuple[str, tuple[str, ...], tuple[str, ...]]]) -> Told:
    """One lift of the set: what is truly so of it, and what is told of it from perfect tracks."""
    number, (kind, chain, beside) = case
    seed = FIRST_SEED + number
    build = Build(float(np.random.default_rng(seed).uniform(1.55, 1.92)))
    done = play(asked_set(Wanted(kind, build, 80.0, 80.0, None, dict.fromkeys((*chain, *beside), STRENGTH), "", seed)))
    camera = HIGH if goes_overhead(kind) else Camera()
    raw, truth = perfect_tracks(done, camera, seed=seed)
    said = Settings(lift=kind, load_kg=80.0, stature_m=build.stature_m, facing=truth["clip"]["facing"], plumb_deg=0.0,
                    usual_speed=usual(kind, build))  # fmt: skip
    info = ClipInfo(camera.width_px, camera.height_px, 0, 5.0, len(raw.frame_time_s), 60.0, "h264")
    lifts = build_document(raw, info, "0" * 64, said, PerfectBody(done, camera, seed, 0.0))["lifts"]
    story = lifts[0]["story"] if lifts else None
    roots = [row["fault"] for row in lifts[0]["findings"] if row["root"]] if lifts else []
    return Told(kind, chain, beside, verdicts(truths(done)[0], build.stature_m), tuple(story["faults"] if story else ()), tuple(roots))


def main() -> None:
    with ProcessPoolExecutor(2) as pool:
        got = list(pool.map(told, enumerate(LIFTS)))
    rows = [
        [one.kind, " → ".join(one.chain) + "".join(f" | {fault}" for fault in one.beside), " → ".join(one.story) or "nothing",
         ", ".join(one.roots[1:]), "yes" if one.right else "first" if one.first_right else "no", "" if one.there else "not all there"]
        for one in sorted(got, key=lambda one: (one.right, one.first_right))
    ]  # fmt: skip
    table(["lift", "put in", "told", "separate", "right", "truly"], rows)
    right, first = sum(one.right for one in got), sum(one.first_right for one in got)
    print(f"\nwhole chain right in {right} of {len(got)} ({right / len(got):.0%}); first cause right in {first} ({first / len(got):.0%})")


if __name__ == "__main__":
    main()

"""Film the demo clips anew: `python demo/film.py [name …]`. A developer's tool; the clips are kept with the project.

Each clip is a simulated lift with its truth beside it (`clips/NAME.truth.json`). The specs below say what was asked of the
lifter; what the analysis makes of it is never read back into them.
"""

from __future__ import annotations

import sys
from concurrent.futures import ProcessPoolExecutor
from pathlib import Path

from atleta.simulation import Build, Camera, JerkSpec, Shoot, clean_spec, film, jerk_path, pull_path, snatch_spec
from atleta.simulation.paint import Look

CLIPS = Path(__file__).parent / "clips"
SHORT = {"rest_before_s": 0.9, "rest_after_s": 0.5}


def shoots() -> dict[str, Shoot]:
    """Every demo clip by name."""
    ida, tobin, bram, orla = Build(1.60, girth=0.9), Build(1.93, leg_share=1.03), Build(1.74, girth=1.15), Build(1.55, girth=0.85)
    wide = Camera(cover_m=2.75, aim_height_m=1.2)
    dark = Look(
        wall=(84, 74, 66),
        floor=(60, 60, 62),
        platform=(70, 88, 104),
        light=0.8,
        shirt=(60, 60, 150),
        disc=(52, 40, 34),
        disc_inner=(150, 96, 40),
    )
    green = Look(wall=(168, 176, 170), platform=(108, 122, 126), shirt=(70, 110, 66), disc_inner=(70, 140, 60))
    pale = Look(
        wall=(196, 196, 190),
        shirt=(160, 150, 60),
        shorts=(90, 50, 60),
        disc_inner=(40, 170, 200),
        spare_discs=((-1.2, 0.225, -0.95), (-1.7, 0.225, -1.0), (1.45, 0.16, -1.2)),
    )
    return {
        "ida-snatch-68": Shoot(pull_path(snatch_spec(ida, **SHORT), ida), ida, wide, green, 68, 1),
        "ida-snatch-76": Shoot(
            pull_path(snatch_spec(ida, forward_off_floor_m=0.034, back_at_knee_m=-0.012, back_at_contact_m=0.02, loop_forward_m=0.11,
                                  loop_back_m=0.08, **SHORT), ida), ida, wide, green, 76, 2),
        "tobin-clean-85": Shoot(
            pull_path(clean_spec(tobin, early_ratio=1.24, middle_push_m_s2=1.0, forward_off_floor_m=0.03, back_at_knee_m=0.0,
                                 **SHORT), tobin),
            tobin, Camera(fps=30, cover_m=2.9, aim_height_m=1.2, yaw_deg=5, facing="left", noise=1.7), dark, 85, 3),
        "bram-clean-104": Shoot(
            pull_path(clean_spec(bram, drop_m=0.17, ride_m=0.10, loop_forward_m=0.09, loop_back_m=0.065, **SHORT), bram), bram,
            Camera(cover_m=2.6, aim_height_m=1.1, yaw_deg=-4, aim_x_m=0.1), pale, 104, 4),
        "orla-snatch-45": Shoot(
            pull_path(snatch_spec(orla, early_ratio=1.03, middle_push_m_s2=1.4, **SHORT), orla), orla,
            Camera(width_px=720, height_px=1280, cover_m=2.9, aim_height_m=1.15, distance_m=4.2), pale, 45, 5),
        "ida-jerk-92": Shoot(
            jerk_path(JerkSpec(rack_height_m=1.344, drive_speed_m_s=1.85,
                               lockout_gain_m=0.31, rest_before_s=0.9, rest_after_s=0.8)),
            ida, wide, green, 92, 6),
    }  # fmt: skip


def _one(name: str) -> str:
    film(shoots()[name], CLIPS / f"{name}.mp4", crf=18)
    return f"{name}: {(CLIPS / f'{name}.mp4').stat().st_size / 1e6:.2f} MB"


if __name__ == "__main__":
    CLIPS.mkdir(exist_ok=True)
    with ProcessPoolExecutor(2) as pool:
        for line in pool.map(_one, sys.argv[1:] or shoots()):
            print(line)

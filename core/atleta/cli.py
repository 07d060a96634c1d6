"""`atleta`: analyse a clip, or simulate one, from the command line, with no server."""

from __future__ import annotations

import argparse
import csv
import json
import sys
from pathlib import Path

import numpy as np

from .analysis import Settings, analyse
from .document import Document, document_schema
from .footage import FootageError
from .simulation import Build, Sensor, Shoot, asked_camera, asked_path, film, record, write_csv
from .simulation.asked import LIFTS

POUND_KG = 0.45359237


def main(argv: list[str] | None = None) -> int:
    """Run the command line; returns the exit status: 0 done, 1 the clip cannot be used, 2 the call was wrong."""
    parser = argparse.ArgumentParser(prog="atleta", description="Measure weightlifting clips.")
    commands = parser.add_subparsers(dest="command", required=True)
    one = commands.add_parser("analyse", help="analyse one clip and write the analysis document")
    one.add_argument("clip", type=Path)
    one.add_argument("--lift", default="other", help="snatch, clean, jerk, clean_and_jerk, power_snatch …")
    one.add_argument("--load", type=float, help="load on the bar with the bar, in --unit")
    one.add_argument("--unit", choices=("kg", "lb"), default="kg")
    one.add_argument("--stature", type=float, help="the athlete's stature in metres")
    one.add_argument("--made", action=argparse.BooleanOptionalAction, default=None, help="whether the lift was made")
    one.add_argument("--facing", choices=("left", "right"), help="which way the athlete faces (found from the clip when left out)")
    one.add_argument("--plumb", type=float, help="turn of the picture against gravity, degrees clockwise")
    one.add_argument("--disc", type=float, default=0.45, help="diameter of the near disc in metres (0.45)")
    one.add_argument("--capture-rate", type=float, help="frames per second at which a slow-motion file was really taken")
    one.add_argument("--out", type=Path, help="where the JSON goes (standard output when left out)")
    one.add_argument("--csv", type=Path, help="also write the bar track as CSV")
    commands.add_parser("schema", help="print the JSON Schema of the analysis document")
    made = commands.add_parser("simulate", help="film a simulated lift, with its exact truth and a bar sensor's record beside it")
    made.add_argument("--lift", default="snatch", help=f"one of {', '.join(LIFTS)}")
    made.add_argument("--load", type=float, default=80.0, help="load on the bar in kg")
    made.add_argument("--stature", type=float, default=1.72, help="the lifter's stature in metres")
    made.add_argument("--fault", action="append", default=[], metavar="ID:STRENGTH", help="put a fault in, strength 0 to 1; repeatable")
    made.add_argument("--camera", default="", help="yaw=8,fps=60,width=1280,height_px=720,facing=left …")
    made.add_argument("--seed", type=int, default=1, help="the same seed gives the same lift")
    made.add_argument("--out", type=Path, default=Path("."), help="the folder for the three files")
    args = parser.parse_args(argv)
    if args.command == "schema":
        print(json.dumps(document_schema(), indent=2))
        return 0
    try:
        return _simulate(args) if args.command == "simulate" else _analyse(args)
    except FootageError as error:
        print(f"atleta: {error.message}", file=sys.stderr)
        return 1
    except ValueError as error:
        print(f"atleta: {error}", file=sys.stderr)
        return 2


def _simulate(args: argparse.Namespace) -> int:
    faults = {}
    for word in args.fault:
        fault, _, strength = word.partition(":")
        faults[fault] = float(strength or 1.0)
    if not 1.3 <= args.stature <= 2.2:
        raise ValueError(f"A stature of {args.stature:g} m cannot be simulated; give 1.3 to 2.2 m.")
    build = Build(args.stature)
    path = asked_path(args.lift, build, faults, args.seed)
    args.out.mkdir(parents=True, exist_ok=True)
    clip = args.out / f"{args.lift}-{args.load:g}-{args.seed}.mp4"
    film(Shoot(path, build, asked_camera(args.camera), load_kg=args.load, seed=args.seed), clip)
    sensor = Sensor(clock_offset_s=2.5, drop_outs=2)
    write_csv(record(path, sensor, np.random.default_rng(args.seed)), clip.with_suffix(".sensor.csv"))
    print(clip)
    return 0


def _analyse(args: argparse.Namespace) -> int:
    settings = Settings(
        lift=args.lift,
        load_kg=args.load * (POUND_KG if args.unit == "lb" else 1.0) if args.load is not None else None,
        stature_m=args.stature,
        made=args.made,
        facing=args.facing,
        plumb_deg=args.plumb,
        disc_diameter_m=args.disc,
        capture_rate_hz=args.capture_rate,
    )
    document = analyse(args.clip, settings)
    text = json.dumps(document, ensure_ascii=False, separators=(",", ":"))
    if args.out:
        args.out.write_text(text + "\n", "utf-8")
    else:
        print(text)
    if args.csv:
        write_bar_csv(document, args.csv)
    for warning in document["warnings"]:
        print(f"note: {warning['message']}", file=sys.stderr)
    return 0


def write_bar_csv(document: Document, target: Path) -> None:
    """The bar track as CSV: one row a frame of each lift, metres, seconds, and the disc's pixels."""
    columns = ("time_s", "x_m", "y_m", "vx_m_s", "vy_m_s", "ay_m_s2")
    disc = document["disc"]
    with target.open("w", newline="", encoding="utf-8") as handle:
        writer = csv.writer(handle)
        writer.writerow(["lift", "frame", *columns, "disc_x_px", "disc_y_px", "confidence"])
        for number, lift in enumerate(document["lifts"], start=1):
            bar = lift["bar"]
            for row, values in enumerate(zip(*(bar[name] for name in columns), strict=True)):
                frame = bar["first_frame"] + row
                writer.writerow([number, frame, *values, disc["x_px"][frame], disc["y_px"][frame], disc["confidence"][frame]])


if __name__ == "__main__":
    raise SystemExit(main())

"""`atleta`: analyse a clip, simulate one, or list the library, from the command line, with no server."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path

import numpy as np

from .analysis import Settings, analyse, fault_as_data
from .coaching import as_data, load_ladders, load_library
from .document import bar_csv, document_schema
from .faults import edges, load_catalogue
from .footage import FootageError
from .simulation import LIFTS, Build, Sensor, Shoot, Wanted, asked_camera, asked_set, film, play, read_recipe, record, write_csv
from .simulation.sets import SHORTHAND

POUND_KG = 0.45359237
CODECS = {"h264": ("libx264", ".mp4"), "hevc": ("libx265", ".mp4"), "vp9": ("libvpx-vp9", ".webm")}


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
    shelf = commands.add_parser("library", help="list the exercises and the teaching ladders")
    shelf.add_argument("--json", action="store_true", help="everything, as JSON")
    wrong = commands.add_parser("faults", help="list the faults and which leads to which")
    wrong.add_argument("--json", action="store_true", help="everything, as JSON")
    made = commands.add_parser("simulate", help="film simulated lifts, with their exact truth and a bar sensor's record beside them")
    made.add_argument("--lift", default="snatch", help=f"one of {', '.join([*LIFTS, *SHORTHAND])}, or several joined with +")
    made.add_argument("--load", type=float, default=80.0, help="load on the bar in kg, with the bar")
    made.add_argument("--best", type=float, help="the lifter's best in this lift in kg: a bar well below it flies higher")
    made.add_argument("--stature", type=float, default=1.72, help="the lifter's stature in metres")
    made.add_argument("--sex", choices=("female", "male"), default="male")
    made.add_argument("--legs", type=float, default=1.0, help="length of the legs against the mean: 0.95 to 1.05")
    made.add_argument("--girth", type=float, default=1.0, help="breadth of the body against the mean: 0.85 to 1.25")
    made.add_argument("--fault", action="append", default=[], metavar="ID:STRENGTH", help="put a fault in, strength 0 to 1; repeatable")
    made.add_argument("--miss", choices=("forward", "behind", "short"), default="", help="how the last lift is missed")
    made.add_argument("--tired", type=float, default=0.0, help="tiredness of the session, 0 to 1")
    made.add_argument(
        "--camera", default="", help="yaw=8,fps=60,width=1280,height_px=720,facing=left,shake_px=3,turned_deg=90,file_fps=30 …"
    )
    made.add_argument("--seed", type=int, default=1, help="the same seed gives the same lift")
    made.add_argument("--codec", choices=tuple(CODECS), default="h264")
    made.add_argument("--recipe", type=Path, help="film every clip of a recipe instead (or the ones named after it)")
    made.add_argument("--only", action="append", default=[], metavar="NAME", help="with --recipe: film just this clip; repeatable")
    made.add_argument("--out", type=Path, default=Path("."), help="the folder for the files")
    args = parser.parse_args(argv)
    if args.command == "schema":
        print(json.dumps(document_schema(), indent=2))
        return 0
    if args.command == "library":
        return _library(args.json)
    if args.command == "faults":
        return _faults(args.json)
    try:
        return _simulate(args) if args.command == "simulate" else _analyse(args)
    except FootageError as error:
        print(f"atleta: {error.message}", file=sys.stderr)
        return 1
    except RuntimeError as error:
        print(f"atleta: {error}", file=sys.stderr)
        return 1
    except ValueError as error:
        print(f"atleta: {error}", file=sys.stderr)
        return 2


def _library(as_json: bool) -> int:
    library, ladders = load_library().values(), load_ladders().values()
    if as_json:
        print(json.dumps({"exercises": [as_data(one) for one in library], "ladders": [as_data(one) for one in ladders]}, indent=2,
                         ensure_ascii=False))  # fmt: skip
        return 0
    for exercise in library:
        print(f"{exercise.id:28} {exercise.kind:16} {', '.join(exercise.lifts):20} {exercise.name}")
    for ladder in ladders:
        print(f"{ladder.id:28} {'ladder':16} {ladder.lift:20} {ladder.name}, {len(ladder.steps)} steps")
    return 0


def _faults(as_json: bool) -> int:
    catalogue = load_catalogue()
    if as_json:
        faults = [fault_as_data(fault) for fault in catalogue.faults.values()]
        links = [{"from": cause, "to": effect} for cause, effect in edges(catalogue)]
        print(json.dumps({"faults": faults, "links": links}, indent=2, ensure_ascii=False))
        return 0
    for fault in catalogue.faults.values():
        print(f"{fault.id:32} {fault.phase:16} {'film' if fault.measured else 'eye':5} {fault.name}")
    return 0


def _simulate(args: argparse.Namespace) -> int:
    if args.recipe:
        return _simulate_recipe(args)
    faults = {}
    for word in args.fault:
        fault, _, strength = word.partition(":")
        faults[fault] = float(strength or 1.0)
    for name, low, high, unit in (("stature", 1.3, 2.2, " m"), ("legs", 0.95, 1.05, ""), ("girth", 0.85, 1.25, "")):
        if not low <= getattr(args, name) <= high:
            raise ValueError(f"A {name} of {getattr(args, name):g}{unit} cannot be simulated; give {low:g} to {high:g}{unit}.")
    build = Build(args.stature, args.legs, args.girth, sex=float(args.sex == "male"))
    wanted = Wanted(args.lift, build, args.load, None, args.best, faults, args.miss, args.seed, None, args.tired)
    asked = {"lifts": args.lift, "faults": faults, "miss": args.miss, "seed": args.seed, "tired": args.tired}
    shoot = Shoot(play(asked_set(wanted)), asked_camera(args.camera), seed=args.seed, asked=asked)
    name = f"{args.lift.replace('+', '-')}-{args.load:g}-{args.seed}"
    _film(shoot, args.out, name, *CODECS[args.codec])
    return 0


def _simulate_recipe(args: argparse.Namespace) -> int:
    clips = [clip for clip in read_recipe(args.recipe) if not args.only or clip.name in args.only]
    if not clips:
        raise ValueError(f"The recipe has no clip named {' or '.join(args.only)}.")
    for clip in clips:
        _film(clip.shoot(), args.out, clip.name, clip.codec, ".webm" if "vpx" in clip.codec else ".mp4", crf=clip.crf)
    return 0


def _film(shoot: Shoot, folder: Path, name: str, codec: str, suffix: str, crf: int = 21) -> None:
    shoot.discs  # noqa: B018 - a load that no bar has is refused before anything is drawn
    folder.mkdir(parents=True, exist_ok=True)
    clip = folder / f"{name}{suffix}"
    film(shoot, clip, codec=codec, crf=crf)
    sensor = Sensor(clock_offset_s=2.5, drop_outs=2)
    begin, _ = shoot.span_s()
    write_csv(record(shoot.done.path, sensor, np.random.default_rng(shoot.seed), begin_s=begin), clip.with_suffix(".sensor.csv"))
    print(clip)


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
        args.csv.write_text(bar_csv(document), "utf-8")
    for warning in document["warnings"]:
        print(f"note: {warning['message']}", file=sys.stderr)
    return 0


if __name__ == "__main__":
    raise SystemExit(main())

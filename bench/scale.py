"""How long a coach of 50 athletes with 5,000 clips waits for anything that is asked for, what a note costs while eight corrections run, and
how forty coaches at once are served."""

from __future__ import annotations

import argparse
import http.client
import json
import os
import random
import socket
import sqlite3
import subprocess
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import closing, contextmanager
from operator import itemgetter
from pathlib import Path
from typing import Any

from bench.tables import table
from demo.site import MANAGE

CLIPS, ATHLETES, MOST_OF_ONE = 5000, 50, 1200
# Each address is asked for so often, of so many clips.
ASKED, OF_CLIPS = 40, 20
NOTES, CORRECTIONS, COACHES, LOOKED_S, WRITES = 150, 8, 40, 20.0, 400
FILL = f"""
import json, random, uuid
import numpy as np
from datetime import timedelta
from importlib import import_module
from django.conf import settings
from django.contrib.auth import BACKEND_SESSION_KEY, HASH_SESSION_KEY, SESSION_KEY, get_user_model
from django.db import transaction
from django.utils import timezone
from clips.models import Clip
from jobs.errands import run_errand
from jobs.models import AnalysisJob, Errand
from jobs.pipeline import run
from log.services import link_of
from people.models import Athlete, Best
from reviews.models import Analysis, LiftNumbers
from reviews.packed import ROW
random.seed(1)
for job in AnalysisJob.objects.exclude(state="done"):
    run(job.pk)
for errand in Errand.objects.filter(kind="play_story"):
    run_errand(errand)
coach = get_user_model().objects.get()
first = Clip.objects.select_related("analysis", "athlete").order_by("added_at")[:6]
pattern = [clip for clip in first if clip.analysis.document["lifts"]]
own = pattern[0].athlete
missing = range(1, {ATHLETES} - Athlete.objects.count() + 1)
athletes = [own] + [Athlete.objects.create(coach=coach, name=f"Lifter {{n:02}}", stature_m=1.7) for n in missing]
for athlete in athletes[1:]:
    for best in own.bests.all():
        Best.objects.create(athlete=athlete, lift=best.lift, kilos=best.kilos, on=best.on)
began = timezone.now() - timedelta(days=730)
numbers = {{clip.pk: list(LiftNumbers.objects.filter(clip=clip)) for clip in pattern}}
for first in range(Clip.objects.count(), {CLIPS}, 200):
    clips, lifts, jobs, analyses = [], [], [], []
    for place in range(first, min(first + 200, {CLIPS})):
        like = random.choice(pattern)
        clip = Clip.objects.get(pk=like.pk)
        clip.pk = uuid.uuid4()
        clip.athlete = athletes[0] if place < {MOST_OF_ONE} else athletes[1 + place % (len(athletes) - 1)]
        clip.load = round(random.uniform(40, 110))
        day = began + timedelta(days=730 * random.random())
        clip.filmed_on = day.date()
        clips.append(clip)
        jobs.append(AnalysisJob(clip=clip, state="done", stage="ready", queued_at=day, finished_at=day))
        analyses.append(Analysis(clip=clip, document=like.analysis.document, judged_by=like.analysis.judged_by))
        for row in numbers[like.pk]:
            told = np.frombuffer(row.numbers, ROW).copy()
            told["value"] *= random.gauss(1, 0.05)
            lifts.append(LiftNumbers(clip=clip, place=row.place, kind=row.kind, made=random.random() < 0.9, numbers=told.tobytes()))
    with transaction.atomic():
        Clip.objects.bulk_create(clips)
        AnalysisJob.objects.bulk_create(jobs)
        Analysis.objects.bulk_create(analyses)
        LiftNumbers.objects.bulk_create(lifts)
session = import_module(settings.SESSION_ENGINE).SessionStore()
session[SESSION_KEY], session[BACKEND_SESSION_KEY] = str(coach.pk), settings.AUTHENTICATION_BACKENDS[0]
session[HASH_SESSION_KEY] = coach.get_session_auth_hash()
session.save()
chosen = Clip.objects.filter(athlete=own).order_by("pk").values_list("pk", flat=True)[:{OF_CLIPS}]
print(json.dumps({{
    "cookie": f"sessionid={{session.session_key}}", "clips": [str(pk) for pk in chosen], "athlete": own.pk,
    "token": link_of(own).token, "block": own.blocks.first().pk if own.blocks.exists() else None,
}}))
"""
GETS = (
    "/api/athletes", "/api/athletes/{athlete}", "/api/athletes/{athlete}/log", "/api/athletes/{athlete}/plan",
    "/api/athletes/{athlete}/series", "/api/blocks/{block}", "/api/catalogue", "/api/clips", "/api/clips/queue", "/api/clips/{clip}",
    "/api/clips/{clip}/assignments", "/api/clips/{clip}/bench", "/api/clips/{clip}/beside", "/api/clips/{clip}/follows",
    "/api/clips/{clip}/loudness", "/api/clips/{clip}/marks", "/api/clips/{clip}/next", "/api/clips/{clip}/notes",
    "/api/clips/{clip}/offers", "/api/clips/{clip}/offers/{exercise}/dose?percent={percent}", "/api/clips/{clip}/review",
    "/api/clips/progress", "/api/ladders/{ladder}/class", "/api/library", "/api/looks", "/api/morning", "/api/rack", "/api/schools",
    "/api/session", "/api/trail", "/api/training/{token}",
)  # fmt: skip


class Line:
    """One browser's connection."""

    def __init__(self, port: int, cookie: str) -> None:
        self._line, self._cookie = http.client.HTTPConnection("127.0.0.1", port, timeout=300), cookie
        self._key = ""

    def ask(self, path: str, method: str = "GET", body: Any = None) -> tuple[float, int, bytes]:
        """How long it took (ms), with status and answer."""
        head = {"Cookie": f"{self._cookie}; csrftoken={self._key}", "X-CSRFToken": self._key, "Content-Type": "application/json"}
        began = time.perf_counter()
        self._line.request(method, path, None if body is None else json.dumps(body).encode(), head)
        answer = self._line.getresponse()
        told = answer.read()
        took = 1000 * (time.perf_counter() - began)
        for cookie in answer.headers.get_all("Set-Cookie") or ():
            if cookie.startswith("csrftoken="):
                self._key = cookie.partition("=")[2].partition(";")[0]
        return took, answer.status, told

    def close(self) -> None:
        self._line.close()


def share(times: list[float], of: float) -> float:
    return sorted(times)[min(int(of * len(times)), len(times) - 1)]


@contextmanager
def filled(var: Path) -> Iterator[tuple[int, dict[str, Any]]]:
    """The application on a database of that size: its port, and what there is in it."""
    around = {**os.environ, "ATLETA_VAR": str(var)}
    for words in (["migrate", "--verbosity", "0"], ["load_demo", "--first", "6"]):
        subprocess.run([*MANAGE, *words], env=around, check=True, stdout=subprocess.DEVNULL)
    told = subprocess.run([*MANAGE, "shell", "-v", "0", "-c", FILL], env=around, check=True, stdout=subprocess.PIPE, text=True)
    with closing(socket.socket()) as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    running = subprocess.Popen([*MANAGE, "serve", "--port", str(port)], env=around, stderr=subprocess.DEVNULL)
    try:
        deadline = time.monotonic() + 60
        while time.monotonic() < deadline:
            try:
                Line(port, "").ask("/api/session")
                break
            except OSError:
                time.sleep(0.3)
        yield port, json.loads(told.stdout.splitlines()[-1])
    finally:
        running.terminate()
        running.wait(30)


def gets(port: int, there: dict[str, Any]) -> list[list[str]]:
    """Every address that is read from, asked for one after another: milliseconds, slowest first."""
    line, rows = Line(port, there["cookie"]), []
    offers = next(found for clip in there["clips"] if (found := json.loads(line.ask(f"/api/clips/{clip}/offers")[2])["offers"]))
    library = json.loads(line.ask("/api/library")[2])
    names = there | {"exercise": offers[0]["exercise"], "percent": offers[0]["percent"], "ladder": library["ladders"][0]["id"]}
    for address in GETS:
        times, sizes = [], []
        for place in range(ASKED):
            path = address.format(**names, clip=there["clips"][place % len(there["clips"])])
            if "None" in path or "//" in path:
                break
            took, status, told = line.ask(path)
            if status != 200:
                raise RuntimeError(f"{path} answered {status}: {told[:200]!r}")
            times.append(took)
            sizes.append(len(told))
        if times:
            rows.append((share(times, 0.95), address, share(times, 0.5), max(sizes)))
    line.close()
    rows.sort(reverse=True)
    return [[f"GET {address}", f"{middle:.0f}", f"{late:.0f}", f"{size / 1000:.0f}"] for late, address, middle, size in rows]


def notes_beside_corrections(port: int, there: dict[str, Any]) -> list[list[str]]:
    """Notes one after another, alone and while eight corrections of an athlete with that many lifts run at any time."""
    line, over = Line(port, there["cookie"]), threading.Event()
    line.ask("/api/session")
    corrected: list[float] = []

    def correct(clip: str) -> None:
        own = Line(port, there["cookie"])
        own.ask("/api/session")
        told = json.loads(own.ask(f"/api/clips/{clip}/bench")[2])["document"]["lifts"][0]
        # A position well inside the lift, so that the frame after it is one of the lift, too.
        name, at = sorted(((name, event["frame"]) for name, event in told["events"].items()), key=itemgetter(1))[len(told["events"]) // 2]
        place = 0
        while not over.is_set():
            took, status, answer = own.ask(f"/api/clips/{clip}/events/0/{name}", "PUT", {"frame": at + place % 2})
            if status != 200:
                raise RuntimeError(f"A correction was answered {status}: {answer[:200]!r}")
            corrected.append(took)
            place += 1
        own.close()

    def noted() -> list[float]:
        times = []
        for place in range(NOTES):
            took, status, answer = line.ask(f"/api/clips/{there['clips'][-1]}/notes", "POST", {"frame": place % 50, "words": "Wait."})
            if status != 201:
                raise RuntimeError(f"A note was answered {status}: {answer[:200]!r}")
            times.append(took)
            for row in json.loads(answer) if place % 50 == 49 else ():
                line.ask(f"/api/clips/{there['clips'][-1]}/notes/{row['id']}", "DELETE")
        return times

    alone = noted()
    busy = [threading.Thread(target=correct, args=(clip,)) for clip in there["clips"][:CORRECTIONS]]
    for one in busy:
        one.start()
    time.sleep(2.0)
    beside = noted()
    over.set()
    for one in busy:
        one.join()
    line.close()

    def row(name: str, times: list[float]) -> list[str]:
        return [name, str(len(times)), *(f"{share(times, of):.0f}" for of in (0.5, 0.95, 0.99)), f"{max(times):.0f}"]

    return [row(f"A note beside {CORRECTIONS} corrections", beside), row("A note alone", alone), row("One of those corrections", corrected)]


def coaches_at_once(port: int, there: dict[str, Any]) -> list[list[str]]:
    """Forty coaches who look on: each asks for clips, how far analyses are, and a bench, with a second between."""
    times: dict[str, list[float]] = {"/api/clips": [], "/api/clips/progress": [], "a bench": []}
    until = time.monotonic() + LOOKED_S

    def look(place: int) -> None:
        line, chance = Line(port, there["cookie"]), random.Random(place)
        time.sleep(chance.random())
        while time.monotonic() < until:
            name = chance.choice(list(times))
            path = f"/api/clips/{chance.choice(there['clips'])}/bench" if name == "a bench" else name
            times[name].append(line.ask(path)[0])
            time.sleep(1.0)
        line.close()

    looking = [threading.Thread(target=look, args=(place,)) for place in range(COACHES)]
    for one in looking:
        one.start()
    for one in looking:
        one.join()
    return [[name, str(len(took)), f"{share(took, 0.5):.0f}", f"{share(took, 0.95):.0f}"] for name, took in times.items()]


def synced(_: int, __: dict[str, Any]) -> list[list[str]]:
    """What it costs a write that it is on the disk before it is acknowledged."""
    rows = []
    for mode in ("FULL", "NORMAL"):
        with tempfile.TemporaryDirectory() as at, closing(sqlite3.connect(Path(at) / "kept", isolation_level=None)) as kept:
            kept.executescript(f"pragma journal_mode=wal; pragma synchronous={mode}; create table note(words)")
            times = []
            for _ in range(WRITES):
                began = time.perf_counter()
                kept.execute("insert into note values (?)", ("x" * 200,))
                times.append(1000 * (time.perf_counter() - began))
        rows.append([f"synchronous={mode}", f"{share(times, 0.5):.2f}", f"{share(times, 0.99):.2f}"])
    return rows


def main() -> None:
    asked = argparse.ArgumentParser(description=__doc__)
    asked.add_argument("--var", type=Path, help="keep the database here, and go on from what is there")
    parts: dict[str, tuple[str, list[str], Callable[[int, dict[str, Any]], list[list[str]]]]] = {
        "gets": (
            f"{CLIPS} clips of {ATHLETES} athletes, asked for of one with {MOST_OF_ONE}", ["Asked for", "Median, ms", "p95, ms", "kB"], gets
        ),
        "notes": ("Writing", ["What", "Times", "Median, ms", "p95, ms", "p99, ms", "Longest, ms"], notes_beside_corrections),
        "synced": ("A row written", ["How", "Median, ms", "p99, ms"], synced),
        "coaches": (f"{COACHES} coaches at once", ["Asked for", "Times", "Median, ms", "p95, ms"], coaches_at_once),
    }  # fmt: skip
    asked.add_argument("--only", choices=parts, action="append")
    chosen = asked.parse_args()
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as var, filled(chosen.var or Path(var)) as (port, there):
        for name, (title, head, measured) in parts.items():
            if not chosen.only or name in chosen.only:
                print(f"{title}:\n")
                table(head, measured(port, there))


if __name__ == "__main__":
    main()

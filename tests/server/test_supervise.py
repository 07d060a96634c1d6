"""Processes that are kept going: small ones, killed, stopped and left behind."""

from __future__ import annotations

import os
import signal
import sys
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from jobs import supervise
from jobs.supervise import Kept

PULSING = """
import os, sys, time
open(sys.argv[1], "a").write(f"{os.getpid()}\\n")
while True:
    os.write(int(sys.argv[2]), b".")
    time.sleep(0.05)
"""
LEAVES_A_CHILD = """
import os, subprocess, sys, time
child = subprocess.Popen([sys.executable, "-c", "import time; time.sleep(600)"])
open(sys.argv[1], "a").write(f"{child.pid}\\n")
time.sleep(600 if len(sys.argv) > 2 else 0)
"""


@pytest.fixture
def quick(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(supervise, "STILL_S", 0.5)
    monkeypatch.setattr(supervise, "BEGINNING_S", 5.0)
    monkeypatch.setattr(supervise, "SOONEST_S", 0.05)


@pytest.fixture
def keep(tmp_path: Path, quick: None) -> Iterator[Callable[..., Kept]]:
    made: list[Kept] = []

    def kept(script: str, *words: str, told: list[str], pulse: bool = False) -> Kept:
        made.append(Kept("worker", [sys.executable, "-c", script, str(tmp_path / "pids"), *words], told.append, pulse=pulse))
        return made[-1]

    yield kept
    for one in made:
        one.end()


def pids(tmp_path: Path) -> list[int]:
    file = tmp_path / "pids"
    return [int(line) for line in file.read_text().split()] if file.exists() else []


def looked_at(kept: Kept, until: Callable[[], bool], within_s: float = 20.0) -> None:
    deadline = time.monotonic() + within_s
    while not until():
        assert time.monotonic() < deadline
        kept.look()
        time.sleep(0.02)


def gone(pid: int, within_s: float = 10.0) -> bool:
    """Whether a process ends; one that was killed is there for a moment longer on a busy machine."""
    deadline = time.monotonic() + within_s
    while time.monotonic() < deadline:
        try:
            if Path(f"/proc/{pid}/stat").read_text().rpartition(")")[2].split()[0] == "Z":
                return True
        except (FileNotFoundError, ProcessLookupError):
            return True
        time.sleep(0.05)
    return False


def test_a_process_that_stands_still_is_ended_and_another_started(tmp_path: Path, keep: Callable[..., Kept]) -> None:
    told: list[str] = []
    kept = keep(PULSING, told=told, pulse=True)
    looked_at(kept, lambda: len(pids(tmp_path)) == 1)
    (first,) = pids(tmp_path)
    time.sleep(0.2)
    kept.look()
    os.kill(first, signal.SIGSTOP)
    looked_at(kept, lambda: len(pids(tmp_path)) == 2)
    assert gone(first)
    assert "stands still" in told[0]


def test_it_is_started_again_however_often_it_is_killed_and_each_time_said(tmp_path: Path, keep: Callable[..., Kept]) -> None:
    told: list[str] = []
    kept = keep(PULSING, told=told, pulse=True)
    for times in range(1, 6):
        looked_at(kept, lambda: len(pids(tmp_path)) == times)  # noqa: B023
        os.kill(pids(tmp_path)[-1], signal.SIGKILL)
        time.sleep(0.1)
    looked_at(kept, lambda: len(pids(tmp_path)) == 6)
    assert len(told) == 5
    assert kept._wait == pytest.approx(0.05 * 2**5)


def test_what_it_started_goes_with_it(tmp_path: Path, keep: Callable[..., Kept]) -> None:
    told: list[str] = []
    kept = keep(LEAVES_A_CHILD, told=told)
    looked_at(kept, lambda: len(told) == 1)
    assert gone(pids(tmp_path)[0])
    stays = keep(LEAVES_A_CHILD, "stays", told=told)
    looked_at(stays, lambda: len(pids(tmp_path)) >= 2)
    stays.end()
    assert gone(pids(tmp_path)[-1])

"""Computing beside the web server, in processes of its own."""

from __future__ import annotations

import os
import signal
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from jobs.apart import Apart


@pytest.fixture
def apart() -> Iterator[Apart]:
    made = Apart()
    made.begin()
    yield made
    made.end()


def until(true: Callable[[], bool], within_s: float = 20.0) -> None:
    deadline = time.monotonic() + within_s
    while not true():
        assert time.monotonic() < deadline
        time.sleep(0.05)


def test_work_is_done_elsewhere_and_what_it_raises_is_heard_here(apart: Apart) -> None:
    assert apart.do(os.getpid) != os.getpid()
    assert apart.do(divmod, 7, 2) == (3, 1)
    with pytest.raises(ZeroDivisionError):
        apart.do(divmod, 7, 0)


def test_what_a_process_died_of_is_done_once_more_and_others_are_started(apart: Apart) -> None:
    first = apart.do(os.getpid)
    os.kill(first, signal.SIGKILL)
    time.sleep(0.2)
    assert apart.do(divmod, 7, 2) == (3, 1)
    assert apart.do(os.getpid) not in (first, os.getpid())


def test_before_they_are_begun_work_is_done_here() -> None:
    assert Apart().do(os.getpid) == os.getpid()


def test_what_is_under_way_is_not_begun_twice_and_what_it_raised_is_heard_by_who_asks_again(apart: Apart, tmp_path: Path) -> None:
    left = tmp_path / "left"
    for _ in range(3):
        apart.once("one", left.touch)
    until(left.exists)
    apart.once("two", os.remove, tmp_path / "nothing")

    def heard() -> bool:
        try:
            apart.once("two", os.remove, tmp_path / "nothing")
        except FileNotFoundError:
            return True
        return False

    until(heard)
    Apart().once("here", (tmp_path / "here").touch)
    assert (tmp_path / "here").exists()

"""Computing in processes of their own beside the web server: whoever asks for something small does not wait for whoever corrects."""

from __future__ import annotations

import logging
import os
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from multiprocessing import get_context
from typing import Any, TypeVar

from atleta.analysis import make_ready

from .supervise import orphaned

log = logging.getLogger("atleta.jobs")
T = TypeVar("T")
# They give way to whoever answers.
NICE = 10


class Apart:
    """Work given to other processes, as many as there are cores; done here while they are not begun."""

    def __init__(self) -> None:
        self._pool: ProcessPoolExecutor | None = None
        self._lock = threading.Lock()
        self._begun: dict[str, Future[None]] = {}

    def begin(self) -> None:
        """Start the processes, so that whoever asks first need not wait for that."""
        cores = os.cpu_count() or 1
        self._pool = ProcessPoolExecutor(cores, get_context("spawn"), _settle_in, (os.getpid(),))
        for _ in range(cores):
            self._pool.submit(make_ready)

    def end(self) -> None:
        if self._pool is not None:
            self._pool.shutdown(cancel_futures=True)
            self._pool = None

    def do(self, work: Callable[..., T], *told: Any) -> T:
        """What the work makes of what it is told; both go from process to process. When one of them dies it is done once more."""
        for _ in range(2):
            pool = self._pool
            if pool is None:
                break
            try:
                return pool.submit(work, *told).result()
            except BrokenProcessPool:
                log.warning("a process that computes has died; they are started anew")
                self._renew(pool)
        return work(*told)

    def once(self, name: str, work: Callable[..., None], *told: Any) -> None:
        """Begin work that leaves something behind, unless it is under way under this name; done here while no processes are begun. What it
        raised is raised when it is asked for again."""
        pool = self._pool
        if pool is None:
            work(*told)
            return
        try:
            with self._lock:
                begun = self._begun.pop(name, None)
                self._begun = {other: future for other, future in self._begun.items() if not future.done()}
                if begun is None or not begun.done():
                    self._begun[name] = begun or pool.submit(work, *told)
            if begun is not None and begun.done():
                begun.result()
        except BrokenProcessPool:
            self._renew(pool)

    def _renew(self, broken: ProcessPoolExecutor) -> None:
        with self._lock:
            # Of all who noticed, one starts them anew.
            if self._pool is broken:
                broken.shutdown(wait=False)
                self.begin()


APART = Apart()


def _settle_in(server: int) -> None:
    os.nice(NICE)
    threading.Thread(target=_watch, args=[server], daemon=True).start()


def _watch(server: int) -> None:
    while not orphaned(server):
        time.sleep(1)
    os._exit(0)

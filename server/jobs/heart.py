"""The heartbeat of work under way, from a thread of its own: computing may take as long as it takes between two of its reports."""

from __future__ import annotations

import threading
from collections.abc import Callable
from types import TracebackType
from typing import Any

from django.db import OperationalError, connection

from .models import Leased
from .services import LeaseLost, beat

BEAT_EVERY_S = 1.0
# How long work whose lease is lost may take to notice, before its process is ended.
GRACE_S = 10.0


class Heart:
    """Beats for one piece of work while it is entered, and keeps how far that is.

    `far` is told how far by the work itself, and raises LeaseLost once the work was given to another. Where `end` is given, it is called
    when the work does not come back within GRACE_S after that: it hangs.
    """

    def __init__(self, work: Leased, lease: str, end: Callable[[], None] | None = None) -> None:
        self._work, self._lease, self._end = work, lease, end
        self._how_far: dict[str, Any] = {}
        self._over = threading.Event()
        self._lost = False
        self._thread = threading.Thread(target=self._beat, name="heart", daemon=True)

    def __enter__(self) -> Heart:
        self._thread.start()
        return self

    def __exit__(self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None) -> None:
        self._over.set()
        self._thread.join()

    def stage(self, stage: str) -> Callable[[float], None]:
        """A new stage is begun, which is written at once; what it returns is told the share of it that is done.

        Raises:
            LeaseLost: the work was given to another worker.
        """
        self._how_far = {"stage": stage, "progress": 0.0}
        beat(self._work, self._lease, **self._how_far)

        def far(share: float) -> None:
            self._how_far = {"stage": stage, "progress": min(share, 1.0)}
            self.check()

        return far

    def check(self) -> None:
        """Raises LeaseLost once the work was given to another worker."""
        if self._lost:
            raise LeaseLost(f"{type(self._work).__name__} {self._work.pk}")

    def _beat(self) -> None:
        try:
            while not self._over.wait(BEAT_EVERY_S):
                try:
                    beat(self._work, self._lease, **self._how_far)
                except OperationalError:
                    # Somebody holds the database; the next beat comes soon enough.
                    continue
                except LeaseLost:
                    self._lost = True
                    if self._end and not self._over.wait(GRACE_S):
                        self._end()
                    return
        finally:
            connection.close()

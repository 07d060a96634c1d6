"""Processes that are kept going: started again when they end or stand still, with everything that they started."""

from __future__ import annotations

import os
import signal
import subprocess
import time
from collections.abc import Callable, Sequence
from contextlib import suppress

# Without a pulse for so long a process stands still; it has longer to begin with, since much has to be loaded.
STILL_S, BEGINNING_S = 15.0, 60.0
# Between two starts of what ends at once, at first and at most; what has lived long enough starts at once again.
SOONEST_S, LATEST_S, LIVED_S = 1.0, 10.0, 5.0
ENDS_WITHIN_S = 10.0


class Kept:
    """A process with a group of its own, which `look` starts, and starts again.

    Args:
        command: what is run; with `pulse` the number of a pipe's end is added, into which it writes a byte now and then.
        told: is told in words what became of the process.
    """

    def __init__(self, name: str, command: Sequence[str], told: Callable[[str], None], *, pulse: bool = False) -> None:
        self.name, self._command, self._told, self._pulse = name, list(command), told, pulse
        self._process: subprocess.Popen[bytes] | None = None
        self._started = self._not_before = self._heard = 0.0
        self._wait = SOONEST_S
        self._pipe: int | None = None

    def look(self) -> None:
        """Start the process if it does not run, end it if it stands still. To be called every second or so."""
        now = time.monotonic()
        if self._process is None:
            if now >= self._not_before:
                self._start(now)
            return
        if self._process.poll() is None:
            if self._stands_still(now):
                self._told(f"the {self.name} stands still; ending it and starting another")
                self._kill()
            return
        # Those that it started hold ports and files.
        self._kill()
        self._wait = SOONEST_S if now - self._started >= LIVED_S else min(2 * self._wait, LATEST_S)
        self._told(f"the {self.name} ended with status {self._process.returncode}; starting it again in {self._wait:.0f} s")
        self._process, self._not_before = None, now + self._wait
        self._close()

    def end(self) -> None:
        """End the process, at first kindly, with everything that it started."""
        if self._process is not None:
            with suppress(ProcessLookupError):
                os.killpg(self._process.pid, signal.SIGTERM)
            with suppress(subprocess.TimeoutExpired):
                self._process.wait(ENDS_WITHIN_S)
            self._kill()
        self._close()

    def _start(self, now: float) -> None:
        command, passed = self._command, ()
        if self._pulse:
            self._pipe, writes = os.pipe()
            os.set_blocking(self._pipe, False)
            command, passed = [*command, str(writes)], (writes,)
        self._process = subprocess.Popen(command, start_new_session=True, pass_fds=passed)
        for end in passed:
            os.close(end)
        self._started = now
        self._heard = now + BEGINNING_S

    def _stands_still(self, now: float) -> bool:
        if self._pipe is None:
            return False
        with suppress(BlockingIOError):
            if os.read(self._pipe, 65536):
                self._heard = now
        return now - self._heard > STILL_S

    def _kill(self) -> None:
        assert self._process is not None
        with suppress(ProcessLookupError, PermissionError):
            os.killpg(self._process.pid, signal.SIGKILL)
        self._process.wait(ENDS_WITHIN_S)

    def _close(self) -> None:
        if self._pipe is not None:
            os.close(self._pipe)
            self._pipe = None


def orphaned(parent: int) -> bool:
    """Whether the process that started this one is gone."""
    return os.getppid() != parent

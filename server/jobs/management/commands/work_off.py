"""Do what waits, one piece after another: `manage.py work_off`. It is started and watched by `manage.py work`."""

from __future__ import annotations

import os
import resource
import signal
import threading
import time
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand, CommandParser
from django.db import OperationalError, close_old_connections

from jobs.errands import run_errand
from jobs.models import AnalysisJob, Errand
from jobs.pipeline import run
from jobs.services import next_waiting

LOOK_EVERY_S, PULSE_EVERY_S = 0.5, 1.0
HUNG = 70


class Command(BaseCommand):
    help = "Do what waits, until it is ended."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("pulse", type=int, nargs="?", help="a pipe's end, to show that this process does not stand still")

    def handle(self, *args: Any, **options: Any) -> None:
        signal.signal(signal.SIGTERM, lambda *_: os._exit(0))
        most = settings.WORKER_MEMORY_MB * 2**20
        resource.setrlimit(resource.RLIMIT_DATA, (most, most))
        if options["pulse"] is not None:
            threading.Thread(target=self._pulse, args=[options["pulse"]], daemon=True).start()
        while True:
            close_old_connections()
            try:
                waiting = next_waiting()
                if isinstance(waiting, AnalysisJob):
                    run(waiting.pk, self._end)
                elif isinstance(waiting, Errand):
                    run_errand(waiting, self._end)
            except OperationalError as error:
                self.stderr.write(f"the worker looks again in a moment: {error}")
                waiting = None
            if waiting is None:
                time.sleep(LOOK_EVERY_S)

    @staticmethod
    def _pulse(pipe: int) -> None:
        try:
            while True:
                os.write(pipe, b".")
                time.sleep(PULSE_EVERY_S)
        except OSError:
            # Nobody listens: whoever started this is gone.
            os._exit(0)

    @staticmethod
    def _end() -> None:
        os._exit(HUNG)

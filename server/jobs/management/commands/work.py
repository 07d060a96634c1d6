"""Keep workers going and take back the work of those that died: `manage.py work`."""

from __future__ import annotations

import os
import signal
import sys
import time
from typing import Any

from django.conf import settings
from django.core.management.base import BaseCommand
from django.db import OperationalError

from clips.services import tidy
from jobs.services import renew, sweep
from jobs.supervise import Kept, orphaned
from reviews.services import film_missing

SWEEP_EVERY_S = 5


class Command(BaseCommand):
    help = "Run the workers, start them again when they die or stand still, and take back what they were at."

    def handle(self, *args: Any, **options: Any) -> None:
        command = [sys.executable, sys.argv[0], "work_off"]
        workers = [Kept("worker", command, self.stderr.write, pulse=True) for _ in range(settings.WORKERS)]
        parent = os.getppid()

        def stop(*_: object) -> None:
            for worker in workers:
                worker.end()
            sys.exit(0)

        signal.signal(signal.SIGTERM, stop)
        signal.signal(signal.SIGINT, stop)
        if stale := renew():
            self.stdout.write(f"looking again at {stale} clips that an earlier version has measured")
        film_missing()
        tidy()
        last_sweep = 0.0
        while not orphaned(parent):
            for worker in workers:
                worker.look()
            if time.monotonic() - last_sweep >= SWEEP_EVERY_S:
                last_sweep = time.monotonic()
                try:
                    sweep()
                except OperationalError as error:
                    self.stderr.write(f"sweep put off: {error}")
            time.sleep(0.5)
        stop()

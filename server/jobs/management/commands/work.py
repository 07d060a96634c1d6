"""Run the analysis worker and keep it running: `manage.py work`."""

from __future__ import annotations

import signal
import subprocess
import sys
import time
from typing import Any

from django.core.management.base import BaseCommand
from django.db import OperationalError

from jobs.services import renew, sweep

SWEEP_EVERY_S = 5


class Command(BaseCommand):
    help = "Run the analysis worker, start it again when it dies, and take back the jobs of workers that died."

    def handle(self, *args: Any, **options: Any) -> None:
        worker: subprocess.Popen[bytes] | None = None

        def stop(*_: object) -> None:
            if worker and worker.poll() is None:
                worker.terminate()
            sys.exit(0)

        signal.signal(signal.SIGTERM, stop)
        signal.signal(signal.SIGINT, stop)
        if stale := renew():
            self.stdout.write(f"looking again at {stale} clips that an earlier version has measured")
        last_sweep = 0.0
        while True:
            if worker is None or worker.poll() is not None:
                if worker is not None:
                    self.stderr.write(f"the worker ended with status {worker.returncode}; starting another")
                    time.sleep(1)
                worker = subprocess.Popen(
                    [sys.executable, sys.argv[0], "db_worker", "--no-startup-delay", "--interval", "0.5", "--no-reload"]
                )
            if time.monotonic() - last_sweep >= SWEEP_EVERY_S:
                last_sweep = time.monotonic()
                try:
                    sweep()
                except OperationalError as error:
                    self.stderr.write(f"sweep put off: {error}")
            time.sleep(0.5)

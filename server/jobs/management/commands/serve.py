"""Run the web server: `manage.py serve`."""

from __future__ import annotations

import gc
import os
import signal
import threading
import time
from typing import Any

from django.core.management.base import BaseCommand, CommandParser

from atleta_site.door import serve
from atleta_site.wsgi import application
from jobs.apart import APART
from jobs.supervise import orphaned


class Command(BaseCommand):
    help = "Run the web server until it is ended."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--port", type=int, default=8000)

    def handle(self, *args: Any, **options: Any) -> None:
        # What was asked for is answered or not; nothing acknowledged waits in memory.
        signal.signal(signal.SIGTERM, lambda *_: os._exit(0))
        threading.Thread(target=self._watch, args=[os.getppid()], daemon=True).start()
        APART.begin()
        # What is loaded by now stays; looking through all of it again and again would hold up whoever asks, by a tenth of a second.
        gc.collect()
        gc.freeze()
        serve(application, options["port"])

    @staticmethod
    def _watch(parent: int) -> None:
        while not orphaned(parent):
            time.sleep(1)
        os._exit(0)

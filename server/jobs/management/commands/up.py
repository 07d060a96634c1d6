"""Start everything: the web server and the workers, each started again when it dies: `manage.py up`."""

from __future__ import annotations

import signal
import socket
import sys
import time
from pathlib import Path
from typing import Any

from django.core.management import CommandError, call_command
from django.core.management.base import BaseCommand, CommandParser

from clips.demo import demo_world
from jobs.supervise import Kept
from people.accounts import first_code

MANAGE = [sys.executable, str(Path(__file__).resolve().parents[3] / "manage.py")]
# What was ended a moment ago may still hold the port.
FREE_WITHIN_S = 5.0


class Command(BaseCommand):
    help = "Run the web server and the workers until Ctrl-C."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--port", type=int, default=8000)
        parser.add_argument("--demo", action="store_true", help="say how to sign in as the demo coach")

    def handle(self, *args: Any, **options: Any) -> None:
        port = options["port"]
        if not _free(port):
            raise CommandError(f"Port {port} is taken by another program. Try another one: make demo PORT={port + 1}")
        # A new place has no tables yet, and an update may have changed them.
        call_command("migrate", verbosity=0)
        kept = [
            Kept("web server", [*MANAGE, "serve", "--port", str(port)], self.stderr.write),
            Kept("worker's keeper", [*MANAGE, "work"], self.stderr.write),
        ]

        def stop(*_: object) -> None:
            for process in kept:
                process.end()
            sys.exit(0)

        signal.signal(signal.SIGTERM, stop)
        signal.signal(signal.SIGINT, stop)
        self.stdout.write(f"\n  Atleta is at http://localhost:{port}")
        if options["demo"]:
            coach = demo_world()["coach"]
            self.stdout.write(f"  Sign in as {coach['sign_in']} with the password {coach['password']}")
        elif code := first_code():
            self.stdout.write(f"  Nobody coaches here yet. Make the first account at http://localhost:{port}/begin/{code}")
        self.stdout.write("  Ctrl-C stops it; nothing entered is lost.\n")
        self.stdout.flush()
        while True:
            for process in kept:
                process.look()
            time.sleep(0.5)


def _free(port: int) -> bool:
    deadline = time.monotonic() + FREE_WITHIN_S
    while True:
        with socket.socket() as probe:
            probe.setsockopt(socket.SOL_SOCKET, socket.SO_REUSEADDR, 1)
            try:
                probe.bind(("127.0.0.1", port))
            except OSError:
                if time.monotonic() > deadline:
                    return False
                time.sleep(0.3)
            else:
                return True

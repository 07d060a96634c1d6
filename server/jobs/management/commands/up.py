"""Start everything: the web server and the analysis worker, each started again when it dies: `manage.py up`."""

from __future__ import annotations

import signal
import subprocess
import sys
import time
from pathlib import Path
from typing import Any

from django.core.management import call_command
from django.core.management.base import BaseCommand, CommandParser

from clips.demo import demo_world

SERVER_DIR = Path(__file__).resolve().parents[3]
# Longer than a page waits between two requests: a connection that is closed while a browser takes it up again fails in its face.
KEEP_ALIVE_S = "75"


class Command(BaseCommand):
    help = "Run the web server and the analysis worker until Ctrl-C."

    def add_arguments(self, parser: CommandParser) -> None:
        parser.add_argument("--port", type=int, default=8000)
        parser.add_argument("--demo", action="store_true", help="say how to sign in as the demo coach")

    def handle(self, *args: Any, **options: Any) -> None:
        # A new place has no tables yet, and an update may have changed them.
        call_command("migrate", verbosity=0)
        port = options["port"]
        commands = {
            "web server": [
                sys.executable, "-m", "gunicorn", "atleta_site.wsgi", "--bind", f"127.0.0.1:{port}", "--workers", "1", "--threads", "8",
                "--timeout", "300", "--keep-alive", KEEP_ALIVE_S, "--chdir", str(SERVER_DIR), "--log-level", "warning",
            ],
            "worker": [sys.executable, str(SERVER_DIR / "manage.py"), "work"],
        }  # fmt: skip
        running: dict[str, subprocess.Popen[bytes]] = {}

        def stop(*_: object) -> None:
            for process in running.values():
                process.terminate()
            for process in running.values():
                process.wait(10)
            sys.exit(0)

        signal.signal(signal.SIGTERM, stop)
        signal.signal(signal.SIGINT, stop)
        self.stdout.write(f"\n  Atleta is at http://localhost:{port}")
        if options["demo"]:
            coach = demo_world()["coach"]
            self.stdout.write(f"  Sign in as {coach['sign_in']} with the password {coach['password']}")
        self.stdout.write("  Ctrl-C stops it; nothing entered is lost.\n")
        self.stdout.flush()
        quick_deaths = 0
        while True:
            for name, command in commands.items():
                process = running.get(name)
                if process is not None and process.poll() is None:
                    continue
                if process is not None:
                    quick_deaths += 1
                    if quick_deaths > 10:
                        self.stderr.write(f"the {name} keeps dying; giving up. Is port {port} taken? Try: make demo PORT={port + 1}")
                        stop()
                    self.stderr.write(f"the {name} ended with status {process.returncode}; starting it again")
                    time.sleep(1)
                running[name] = subprocess.Popen(command)
            time.sleep(0.5)

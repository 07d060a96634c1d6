"""The whole application with the demo world, on a database of its own: for the browser tests, the pictures and the benchmark."""

from __future__ import annotations

import os
import signal
import socket
import subprocess
import sys
import tempfile
import time
import tomllib
import urllib.request
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

from playwright.sync_api import Page

MANAGE = [sys.executable, str(Path(__file__).parents[1] / "server" / "manage.py")]
CHROMIUM = {
    "executable_path": "/usr/bin/chromium",
    "args": [
        "--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking", "--disable-component-update",
        "--disable-sync", "--autoplay-policy=no-user-gesture-required",
        # A microphone that beeps, allowed without asking.
        "--use-fake-device-for-media-stream", "--use-fake-ui-for-media-stream",
    ],
}  # fmt: skip


@contextmanager
def demo_site(first: int = 6, prepared: Callable[[dict[str, str]], None] | None = None) -> Iterator[str]:
    """Web server and worker, started as `make demo` starts them; gives the address and takes everything away afterwards.

    Only the first few clips of the demo world are brought in, so that nobody waits for the others to be worked on. `prepared` is
    called with the environment once they are in, before anything runs.
    """
    with socket.socket() as probe:
        probe.bind(("127.0.0.1", 0))
        port = probe.getsockname()[1]
    with tempfile.TemporaryDirectory(ignore_cleanup_errors=True) as var:
        environment = {**os.environ, "ATLETA_VAR": var}
        for words in (["migrate", "--verbosity", "0"], ["load_demo", "--first", str(first)]):
            subprocess.run([*MANAGE, *words], env=environment, check=True, stdout=subprocess.DEVNULL)
        if prepared:
            prepared(environment)
        with (Path(var) / "log").open("wb") as log:
            running = subprocess.Popen([*MANAGE, "up", "--port", str(port)], env=environment, stdout=log, stderr=log)
        try:
            _wait_for(f"http://localhost:{port}/api/session", running)
            yield f"http://localhost:{port}"
        finally:
            running.send_signal(signal.SIGTERM)
            running.wait(20)


def sign_in(page: Page, site: str) -> None:
    """Sign in as the demo coach; ends on the queue."""
    coach = tomllib.loads((Path(__file__).parent / "world.toml").read_text("utf-8"))["coach"]
    page.goto(site)
    page.get_by_label("Name").fill(coach["sign_in"])
    page.get_by_label("Password").fill(coach["password"])
    page.get_by_role("button", name="Sign in").click()
    page.get_by_role("heading", name="Queue").wait_for()


def _wait_for(address: str, running: subprocess.Popen[bytes]) -> None:
    deadline = time.monotonic() + 60
    while time.monotonic() < deadline and running.poll() is None:
        try:
            with urllib.request.urlopen(address, timeout=5):
                return
        except OSError:
            time.sleep(0.3)
    raise RuntimeError("The application did not start.")

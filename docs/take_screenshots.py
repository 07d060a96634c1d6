"""Take the pictures of the README anew from the demo world: `make shots`. The application runs on a database of its own."""

from __future__ import annotations

import os
import signal
import subprocess
import sys
import tempfile
import time
import urllib.request
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

ROOT = Path(__file__).parents[1]
TARGET = ROOT / "docs" / "screenshots"
PORT = 8911
SITE = f"http://localhost:{PORT}"
CHROMIUM = ["--no-sandbox", "--disable-gpu", "--no-first-run", "--disable-background-networking", "--disable-component-update"]


def take(page: Page, name: str) -> None:
    page.mouse.move(2, 2)
    page.wait_for_timeout(500)
    page.screenshot(path=TARGET / f"{name}.png")
    print(name)


def still(page: Page, event: str) -> None:
    """Stop the first pass and go to an event."""
    page.get_by_role("button", name="Stop").click()
    page.locator(f"[data-event={event}]").click()


def main() -> None:
    TARGET.mkdir(exist_ok=True)
    with tempfile.TemporaryDirectory() as var:
        environment = {**os.environ, "ATLETA_VAR": var}
        manage = [sys.executable, str(ROOT / "server" / "manage.py")]
        for words in (["migrate", "--verbosity", "0"], ["load_demo"]):
            subprocess.run([*manage, *words], env=environment, check=True)
        running = subprocess.Popen([*manage, "up", "--demo", "--port", str(PORT)], env=environment, stderr=subprocess.DEVNULL)
        try:
            _wait()
            with sync_playwright() as driver:
                browser = driver.chromium.launch(executable_path="/usr/bin/chromium", args=CHROMIUM)
                page = browser.new_page(viewport={"width": 1280, "height": 800}, color_scheme="light")
                page.goto(SITE)
                take(page, "sign-in")
                page.get_by_label("Name").fill("maren")
                page.get_by_label("Password").fill("saltmarsh-lane")
                page.get_by_role("button", name="Sign in").click()
                page.locator(".working").first.wait_for()
                page.get_by_label("Waiting for you").locator("li").first.wait_for(timeout=120_000)
                take(page, "queue")

                handed = page.get_by_label("Handed over").locator("a").first.get_attribute("href")
                page.goto(f"{SITE}{handed}")
                still(page, "knee")
                take(page, "bench")
                page.get_by_role("tab", name="Figures").click()
                page.get_by_role("button", name="Dim room").click()
                take(page, "bench-figures-dim")
                page.get_by_role("button", name="Bright room").click()
                page.goto(f"{SITE}{handed}/hand-over")
                page.locator("figure image").wait_for()
                take(page, "hand-over")
                link = page.locator("[data-test=link]").input_value()
                page.goto(f"{SITE}/athletes")
                page.get_by_text("Ida Fenn").wait_for()
                take(page, "athletes")

                phone = browser.new_page(viewport={"width": 390, "height": 844}, device_scale_factor=2, color_scheme="light")
                phone.goto(link)
                phone.locator("figure image").wait_for()
                take(phone, "athlete-phone")
                browser.close()
        finally:
            running.send_signal(signal.SIGTERM)
            running.wait(20)


def _wait() -> None:
    for _ in range(200):
        try:
            with urllib.request.urlopen(f"{SITE}/api/session", timeout=5):
                return
        except OSError:
            time.sleep(0.3)
    raise SystemExit("the application did not start")


if __name__ == "__main__":
    main()

"""The whole application as `make demo` starts it, on a database of its own, driven in the system's Chromium."""

from __future__ import annotations

import os
import time
from collections.abc import Iterator
from pathlib import Path

import cv2
import numpy as np
import pytest
from demo.site import CHROMIUM, demo_site, sign_in
from playwright.sync_api import Browser, Page, Playwright, expect

from atleta.footage import read_frames

from ..core.world import DEMO, write_clip

# The browser driver keeps an event loop on this thread, which Django takes for asynchronous code in tests that follow in the process.
os.environ["DJANGO_ALLOW_ASYNC_UNSAFE"] = "true"
BITS, SQUARE_PX = 10, 24
# What follows from a change is worked out anew; a busy machine takes its time over it.
expect.set_options(timeout=20_000)


@pytest.fixture(scope="session")
def browser_type_launch_args(browser_type_launch_args: dict) -> dict:
    return {**browser_type_launch_args, **CHROMIUM}


@pytest.fixture(scope="session", autouse=True)
def known_by(playwright: Playwright) -> None:
    """What the pages mark for tests."""
    playwright.selectors.set_test_id_attribute("data-test")


@pytest.fixture(scope="session")
def site() -> Iterator[str]:
    with demo_site(first=1) as address:
        yield address


@pytest.fixture(scope="session")
def burnt(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """A lift with each frame's number burnt in as a row of dark and light squares, lowest bit first, after one dark and one light."""
    pictures = []
    for frame in read_frames(DEMO / "ida-snatch-76.mp4"):
        picture = np.ascontiguousarray(frame.bgr())
        bits = [0, 1] + [frame.index >> bit & 1 for bit in range(BITS)]
        for place, bit in enumerate(bits):
            corner = (place * SQUARE_PX, 0)
            cv2.rectangle(picture, corner, (corner[0] + SQUARE_PX - 1, SQUARE_PX - 1), (255, 255, 255) if bit else (0, 0, 0), -1)
        pictures.append(picture)
    return write_clip(tmp_path_factory.mktemp("clips") / "burnt.mp4", pictures)


LIGHT = f"""() => {{
  const canvas = document.querySelector('canvas'), ctx = canvas.getContext('2d'), side = {SQUARE_PX} * canvas.width / 1280
  return Array.from({{ length: {BITS + 2} }}, (_, n) => ctx.getImageData((n + 0.5) * side, side / 2, 1, 1).data[1])
}}"""


def burnt_number(page: Page) -> int:
    """The frame number that stands in the drawn picture's own pixels."""
    return number_of(page.evaluate(LIGHT))


def number_of(light: list[int]) -> int:
    assert light[0] < 60 < 190 < light[1], f"the code is not in the picture: {light}"
    return sum((value > 128) << bit for bit, value in enumerate(light[2:]))


@pytest.fixture(scope="session")
def signed_in_state(site: str, browser: Browser) -> dict:
    """The cookies of a signed-in coach, so that not every test signs in."""
    page = browser.new_page()
    sign_in(page, site)
    state = page.context.storage_state()
    page.context.close()
    return dict(state)


@pytest.fixture
def page(browser: Browser, signed_in_state: dict) -> Iterator[Page]:
    """A page of the coach's own, who is signed in."""
    context = browser.new_context(storage_state=signed_in_state, viewport={"width": 1280, "height": 800})  # type: ignore[arg-type]
    yield context.new_page()
    context.close()


@pytest.fixture(scope="session")
def burnt_clip(site: str, signed_in_state: dict, burnt: Path, playwright: Playwright) -> str:
    """The burnt clip sent in and ready for stepping: its id."""
    api = playwright.request.new_context(base_url=site, storage_state=signed_in_state)  # type: ignore[arg-type]
    athlete = next(one["id"] for one in api.get("/api/athletes").json() if one["name"] == "Ida Fenn")
    token = next(cookie["value"] for cookie in api.storage_state()["cookies"] if cookie["name"] == "csrftoken")
    sent = api.post(
        "/api/clips",
        headers={"X-CSRFToken": token, "Referer": site},
        multipart={
            "file": {"name": "burnt.mp4", "mimeType": "video/mp4", "buffer": burnt.read_bytes()}, "athlete": str(athlete),
            "lift": "snatch", "load": "76", "made": "true",
        },
    )  # fmt: skip
    assert sent.status == 201, sent.text()
    deadline = time.monotonic() + 600
    while api.get(f"/api/clips/{sent.json()['id']}").json()["job"]["state"] != "done":
        assert time.monotonic() < deadline
        time.sleep(1)
    return str(sent.json()["id"])

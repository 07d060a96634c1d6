"""Take the pictures of the README anew from the demo world: `make shots`."""

from __future__ import annotations

import re
from pathlib import Path

from demo.site import CHROMIUM, demo_site, sign_in
from playwright.sync_api import Page, sync_playwright

TARGET = Path(__file__).parent / "screenshots"


def take(page: Page, name: str) -> None:
    page.mouse.move(2, 2)
    page.wait_for_timeout(500)
    page.screenshot(path=TARGET / f"{name}.png")
    print(name)


def main() -> None:
    TARGET.mkdir(exist_ok=True)
    with demo_site() as site, sync_playwright() as driver:
        browser = driver.chromium.launch(**CHROMIUM)
        page = browser.new_page(viewport={"width": 1280, "height": 800}, color_scheme="light")
        page.goto(site)
        page.get_by_label("Name").wait_for()
        take(page, "sign-in")
        sign_in(page, site)
        page.get_by_label("Waiting for you").locator("li").first.wait_for(timeout=120_000)
        take(page, "queue")

        handed = page.get_by_label("Handed over").locator("a").first.get_attribute("href")
        page.goto(f"{site}{handed}")
        page.get_by_role("button", name="Stop").click()
        page.locator("[data-event=peak_speed]").click()
        take(page, "bench")
        page.get_by_role("tab", name="By hand").click()
        page.locator("[data-event=bottom]").click()
        take(page, "bench-by-hand")
        page.get_by_role("tab", name="Figures").click()
        page.get_by_role("button", name="Dim room").click()
        take(page, "bench-figures-dim")
        page.get_by_role("button", name="Bright room").click()
        page.goto(f"{site}{handed}/hand-over")
        page.locator("figure image").wait_for()
        page.locator("details.offer summary").first.click()
        take(page, "hand-over")
        link = page.locator("[data-test=link]").input_value()
        page.goto(f"{site}/athletes")
        page.get_by_text("Ida Fenn").wait_for()
        take(page, "athletes")
        page.get_by_role("row", name="Ida Fenn").get_by_role("link", name="Lifts together").click()
        page.get_by_role("img", name=re.compile("against load")).wait_for()
        take(page, "lifts-together")
        page.goto(f"{site}/schools")
        page.get_by_label("Contact", exact=True).wait_for()
        take(page, "schools")
        clips = [clip for clip in page.request.get(f"{site}/api/clips").json() if clip["measured"] and clip["lift"] == "snatch"]
        light, heavy = sorted((one for one in clips if one["athlete_name"] == "Ida Fenn"), key=lambda one: float(one["load"]))[:2]
        page.goto(f"{site}/clips/{light['id']}/beside/{heavy['id']}")
        page.get_by_text("Opening the footage").first.wait_for(state="hidden", timeout=60_000)
        page.wait_for_timeout(2500)
        take(page, "side-by-side")

        phone = browser.new_page(viewport={"width": 390, "height": 844}, device_scale_factor=2, color_scheme="light")
        phone.goto(link)
        phone.locator("figure image").wait_for()
        take(phone, "athlete-phone")
        browser.close()


if __name__ == "__main__":
    main()

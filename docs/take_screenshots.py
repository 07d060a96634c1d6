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
    with demo_site(first=10) as site, sync_playwright() as driver:
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
        page.locator("[data-test=show]").first.click()
        take(page, "bench")
        page.get_by_role("tab", name="By hand").click()
        page.locator("[data-event=bottom]").click()
        take(page, "bench-by-hand")
        page.get_by_role("tab", name="Figures").click()
        page.get_by_role("button", name="Dim room").click()
        take(page, "bench-figures-dim")
        page.get_by_role("button", name="Bright room").click()
        while not (front := [one for one in page.request.get(f"{site}/api/clips?lift=front_squat").json()["results"] if one["measured"]]):
            page.wait_for_timeout(2000)
        page.goto(f"{site}/clips/{front[0]['id']}")
        page.get_by_role("button", name="Stop").click()
        page.locator("[data-test=show]").first.click()
        take(page, "bench-front")
        page.goto(f"{site}{handed}/hand-over")
        page.locator("figure image").first.wait_for()
        page.locator("details.offer summary").first.click()
        take(page, "hand-over")
        link = page.locator("[data-test=link]").input_value()
        page.goto(f"{site}/athletes")
        page.get_by_text("Ida Fenn").wait_for()
        take(page, "athletes")
        page.get_by_role("row", name="Ida Fenn").get_by_role("link", name="Lifts together").click()
        page.get_by_role("group", name=re.compile("against load")).wait_for()
        take(page, "lifts-together")
        page.goto(f"{site}/schools")
        page.get_by_label("Contact", exact=True).wait_for()
        take(page, "schools")
        clips = [clip for clip in page.request.get(f"{site}/api/clips").json()["results"] if clip["measured"] and clip["lift"] == "snatch"]
        light, heavy = sorted((one for one in clips if one["athlete_name"] == "Ida Fenn"), key=lambda one: float(one["load"]))[:2]
        page.goto(f"{site}/clips/{light['id']}/beside/{heavy['id']},reference")
        page.get_by_text("as fitted here").wait_for(timeout=60_000)
        page.get_by_text("Opening the footage").first.wait_for(state="hidden", timeout=60_000)
        page.wait_for_timeout(2500)
        take(page, "side-by-side")

        page.goto(f"{site}/library")
        page.locator("[data-exercise]").nth(10).click()
        take(page, "library")
        page.goto(f"{site}/ladders/overhead_squat_group/class")
        for name in ("Ida Fenn", "Nell Varrow", "Orla Quill"):
            page.get_by_label("Put on this ladder").select_option(label=name)
            page.get_by_role("button", name="Put on").click()
            page.get_by_label(f"{name}, step 1 passed").wait_for()
        page.get_by_label("Ida Fenn, step 1 passed").check()
        take(page, "class")
        # Nell's block is played once the worker has measured her lift and the film of the work.
        nell = next(one["id"] for one in page.request.get(f"{site}/api/athletes").json() if one["name"].startswith("Nell"))
        plan = f"{site}/api/athletes/{nell}/plan"
        while not (blocks := page.request.get(plan).json()["blocks"]) or not blocks[0]["follow_ups"]:
            page.wait_for_timeout(2000)
        page.goto(f"{site}/athletes/{nell}/plan")
        page.locator("[data-slot]:not(.done)").first.click()
        take(page, "plan")
        page.goto(f"{site}/athletes/{nell}/log")
        page.get_by_role("heading", name="Done").wait_for()
        take(page, "log")
        page.goto(f"{site}/morning")
        page.get_by_text("Due today").wait_for()
        take(page, "morning")
        work = page.request.get(plan).json()["link"]

        phone = browser.new_page(viewport={"width": 390, "height": 844}, device_scale_factor=2, color_scheme="light")
        phone.goto(link)
        phone.locator("figure image").first.wait_for()
        take(phone, "athlete-phone")
        phone.goto(f"{site}/w/{work}")
        phone.get_by_role("heading", name="Today", exact=True).wait_for()
        take(phone, "work-phone")
        browser.close()


if __name__ == "__main__":
    main()

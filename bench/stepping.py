"""How fast the bench steps in Chromium while an arrow key is held, and how long a coach waits for what they ask for: a position, a lift,
the queue, figures that follow a dragged disc."""

from __future__ import annotations

import statistics
import subprocess
import time
from collections.abc import Callable

from demo.site import CHROMIUM, MANAGE, demo_site, sign_in
from playwright.sync_api import Page, sync_playwright

HELD_MS = 4000
# Keyboards repeat about thirty times a second at most; this is asked a little faster than that.
REPEAT_MS = 25
DRAGS, JUMPS, OPENS = 9, 12, 5
IN_QUEUE = 500
# What a clip may be said to show, and rates near enough to the true one that a lift is still found.
OTHER_LIFTS, OTHER_RATES = ("snatch", "clean", "clean_pull", "snatch_pull", "power_clean"), (66, 56, 63)
COUNTED = 20_000_000
FILL = f"""
import uuid
from django.utils import timezone
from clips.models import Clip
from jobs.models import AnalysisJob
from reviews.models import Analysis
sources = list(Clip.objects.select_related("analysis"))
for number in range({IN_QUEUE} - len(sources)):
    clip = Clip.objects.get(pk=sources[number % len(sources)].pk)
    clip.pk = uuid.uuid4()
    clip.save(force_insert=True)
    told = sources[number % len(sources)].analysis
    Analysis.objects.create(clip=clip, document=told.document, judged_by=told.judged_by)
    AnalysisJob.objects.create(clip=clip, state="done", stage="ready", queued_at=timezone.now(), finished_at=timezone.now())
"""
TWO_LIFTS = """
from pathlib import Path
from django.conf import settings
from clips.demo import demo_world
from clips.services import receive_clip
from jobs.pipeline import run
from people.models import Athlete
row = next(row for row in demo_world()["clip"] if row["lift"] == "clean_and_jerk")
athlete = Athlete.objects.get(name=next(one["name"] for one in demo_world()["athlete"] if one["key"] == row["athlete"]))
source = Path(settings.DEMO_DIR) / "clips" / f"{row['file']}.mp4"
clip = receive_clip(source, source.name, athlete, lift=row["lift"], load=row["load"], made=row["made"], filmed_on=None)
run(clip.job.pk)
print(f"/clips/{clip.pk}")
"""
WAIT = """
import time
from jobs.services import next_waiting, under_way
while next_waiting() or under_way():
    time.sleep(0.5)
"""
HOLD = """async ([key, every, length]) => {
  const label = document.querySelector('[data-test=frame]'), number = () => Number(label.textContent.match(/\\d+/)[0])
  let drawn = 0
  const watcher = new MutationObserver(() => drawn++)
  watcher.observe(label, { characterData: true, childList: true, subtree: true })
  const first = number(), begun = performance.now()
  const timer = setInterval(() => window.dispatchEvent(new KeyboardEvent('keydown', { key })), every)
  await new Promise((done) => setTimeout(done, length))
  clearInterval(timer)
  watcher.disconnect()
  const took = (performance.now() - begun) / 1000
  return [Math.abs(number() - first) / took, drawn / took]
}"""


def held(page: Page, key: str) -> tuple[float, float]:
    """Frames gone through and frames drawn, a second, while a key is held."""
    start = 20 if key == "ArrowRight" else int(page.get_by_label("Frame", exact=True).get_attribute("max") or 0) - 20
    page.get_by_label("Frame", exact=True).evaluate("(s, to) => { s.value = to; s.dispatchEvent(new Event('input')) }", start)
    page.wait_for_timeout(1000)
    passed, drawn = page.evaluate(HOLD, [key, REPEAT_MS, HELD_MS])
    return passed, drawn


def anew_ms(page: Page, act: Callable[[], None]) -> float:
    """From the end of what a coach does until the figures stand anew."""
    page.locator("table", has=page.locator("[data-measure=peak_height]")).first.evaluate(
        """(figures) => { window.took = new Promise((done) => {
             const begun = () => performance.now() - window.begun
             new MutationObserver((_, me) => { me.disconnect(); done(begun()) })
               .observe(figures, { characterData: true, childList: true, subtree: true })
           })
           for (const last of ["pointerup", "click", "change"])
             window.addEventListener(last, () => { window.begun = performance.now() }, true) }"""
    )
    act()
    return float(page.evaluate("window.took"))


def drag(page: Page) -> None:
    box = page.locator(".disc .handle").bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 6, steps=3)
    page.mouse.up()


def corrected_ms(page: Page) -> dict[str, list[float]]:
    """Discs dragged in the lift on show, and what turns or grows the whole of it."""

    def again(do: Callable[..., None], *how: int) -> float:
        page.wait_for_timeout(500)
        return anew_ms(page, lambda: do(*how))

    by_hand = page.locator(".by-hand")
    lift = by_hand.get_by_label("This is a")
    page.get_by_role("tab", name="By hand").click()
    said = lift.input_value()
    others = [kind for kind in OTHER_LIFTS if kind != said]
    # Worked out beforehand by the worker.
    took = {"another lift set": [again(lambda other=other: lift.select_option(other)) for other in others]}
    again(lambda: lift.select_option(said))
    page.get_by_role("tab", name="Figures").click()
    page.locator("[data-event=apex]").first.click()
    page.wait_for_timeout(500)
    took["a disc dragged"] = [anew_ms(page, lambda: drag(page)) for _ in range(DRAGS)]
    page.get_by_role("tab", name="By hand").click()

    def across(mm: int) -> None:
        by_hand.get_by_label("Disc across").fill(str(mm))
        by_hand.locator("p", has=page.get_by_label("Disc across")).get_by_role("button", name="Set").click()

    def upright(aside_px: int) -> None:
        by_hand.get_by_role("button", name="Set by two points").click()
        box = page.locator(".stage").first.bounding_box()
        assert box
        x, y = box["x"] + box["width"] / 3, box["y"] + box["height"] / 4
        page.mouse.click(x, y)
        page.mouse.click(x + aside_px, y + box["height"] / 2)
        by_hand.get_by_role("button", name="Use it").click()

    took["the disc's size set"] = [again(across, mm) for mm in (440, 452, 446, 455)]
    took["upright set"] = [again(upright, px) for px in (4, -6, 8, -3)]
    # Worked out beforehand by the worker, as the disc was then.
    turn = by_hand.get_by_role("button", name="Turn round")
    took["turned the wrong way round"] = [again(turn.click)]
    again(across, 448)
    took["turned back, with another size of the disc"] = [again(turn.click)]
    moved, back = "another lift set, with another size of the disc", "the right one again, with another size of the disc"
    took[moved], took[back] = [], []
    for other in others:
        took[moved].append(again(lambda other=other: lift.select_option(other)))
        again(across, 450)
        took[back].append(again(lambda: lift.select_option(said)))
        again(across, 448)

    def taken_at(hz: int) -> None:
        by_hand.get_by_label("Taken at").fill(str(hz))
        by_hand.locator("p", has=page.get_by_label("Taken at")).get_by_role("button", name="Set").click()

    took["another capture rate set"] = [again(taken_at, hz) for hz in OTHER_RATES]
    return took


def with_two_lifts(environment: dict[str, str]) -> str:
    """Where a clip of a clean and a jerk stands, brought in and worked on now."""
    return next(line for line in shell(TWO_LIFTS, environment).splitlines() if line.startswith("/clips/"))


def shell(script: str, environment: dict[str, str]) -> str:
    """What a script in the application prints."""
    return subprocess.run([*MANAGE, "shell", "-c", script], env=environment, check=True, capture_output=True, text=True).stdout


def jump_ms(page: Page, key: str) -> float:
    """From a key that goes to the next position until its frame stands there."""
    return float(
        page.evaluate(
            """(key) => new Promise((done) => {
                 const label = document.querySelector('[data-test=frame]'), begun = performance.now()
                 new MutationObserver((_, me) => { me.disconnect(); done(performance.now() - begun) })
                   .observe(label, { characterData: true, childList: true, subtree: true })
                 window.dispatchEvent(new KeyboardEvent('keydown', { key }))
               })""",
            key,
        )
    )


def open_ms(page: Page, address: str, stands: str) -> float:
    """From asking for a page until this stands on it."""
    page.goto("about:blank")
    begun = page.evaluate("performance.timeOrigin + performance.now()")
    page.goto(address, wait_until="commit")
    page.locator(stands).first.wait_for(timeout=60_000)
    return float(page.evaluate("performance.timeOrigin + performance.now()")) - float(begun)


def machine_s() -> float:
    """How long this machine takes to count, by which two runs of this table can be compared."""
    begun, count = time.perf_counter(), 0
    for number in range(COUNTED):
        count += number
    return time.perf_counter() - begun


def told(name: str, times: list[float]) -> None:
    print(f"{name:66s} median {statistics.median(times):5.0f} ms, longest {max(times):5.0f} ms")


def main() -> None:
    print("Stepping in Chromium with an arrow key held (asked 40 times a second), 720p\n")
    environment: dict[str, str] = {}
    speeds = [machine_s()]
    with demo_site(prepared=environment.update) as site, sync_playwright() as driver:
        browser = driver.chromium.launch(**CHROMIUM)
        for way in ("video element", "decoded frames"):
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            if way == "video element":
                page.add_init_script("delete window.VideoDecoder")
            sign_in(page, site)
            # What is measured is the browser, not the worker beside it.
            shell(WAIT, environment)
            page.reload()
            handed = page.get_by_label("Handed over").locator("a").first.get_attribute("href")
            page.goto(f"{site}{handed}")
            page.get_by_role("button", name="Stop").click()
            for key, name in (("ArrowRight", "on"), ("ArrowLeft", "back")):
                passed, drawn = held(page, key)
                print(f"{way:15s} {name:5s} {passed:5.1f} frames/s gone through, {drawn:5.1f} drawn/s")
            if way == "decoded frames":
                corrected = corrected_ms(page)
                page.get_by_role("tab", name="Findings").click()
                jumps = [jump_ms(page, key) for key in ["ArrowUp", "ArrowDown"] * (JUMPS // 2)]
                two_lifts = with_two_lifts(environment)
                shell(WAIT, environment)
                page.goto(site + two_lifts)
                page.get_by_role("button", name="Stop").click()
                in_two = corrected_ms(page)
                lifts = [open_ms(page, f"{site}{handed}", "[data-test=frame]") for _ in range(OPENS)]
                shell(FILL, environment)
                queues = [open_ms(page, site, "main a[href^='/clips/']") for _ in range(OPENS)]
        browser.close()
    speeds.append(machine_s())
    print(f"\nThe machine adds {COUNTED:,} numbers up in {min(speeds):.1f} to {max(speeds):.1f} s.\n")
    told("to the next position, until its frame stands", jumps)
    told("a lift opened, until its frame and findings stand", lifts)
    told(f"the queue of {IN_QUEUE} opened, until its rows stand", queues)
    print("\nUntil every figure stands anew:")
    for name in corrected:
        told(name, corrected[name])
        told(f"{name}, in a clip of two lifts", in_two[name])


if __name__ == "__main__":
    main()

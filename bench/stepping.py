"""How fast the bench steps in Chromium while an arrow key is held, and how soon a dragged disc has changed every figure."""

from __future__ import annotations

import statistics

from demo.site import CHROMIUM, demo_site, sign_in
from playwright.sync_api import Page, sync_playwright

HELD_MS = 4000
# Keyboards repeat about thirty times a second at most; this is asked a little faster than that.
REPEAT_MS = 25
DRAGS = 9
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


def drag_ms(page: Page) -> float:
    """From letting go of a dragged disc until the figures stand anew."""
    box = page.locator(".disc .handle").bounding_box()
    assert box
    x, y = box["x"] + box["width"] / 2, box["y"] + box["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x, y - 6, steps=3)
    figure = page.locator("[data-measure=peak_height]").first
    page.evaluate(
        """(figure) => { window.took = new Promise((done) => {
             const begun = performance.now()
             new MutationObserver((_, me) => { me.disconnect(); done(performance.now() - begun) })
               .observe(figure, { characterData: true, childList: true, subtree: true })
           }) }""",
        figure.element_handle(),
    )
    page.mouse.up()
    return float(page.evaluate("window.took"))


def main() -> None:
    print("Stepping in Chromium with an arrow key held (asked 40 times a second), 720p\n")
    with demo_site() as site, sync_playwright() as driver:
        browser = driver.chromium.launch(**CHROMIUM)
        for way in ("decoded frames", "video element"):
            page = browser.new_page(viewport={"width": 1280, "height": 800})
            if way == "video element":
                page.add_init_script("delete window.VideoDecoder")
            sign_in(page, site)
            # The worker is idle once no clip is in the queue: what is measured is the browser, not its neighbour.
            page.get_by_label("Being worked on").wait_for(state="detached", timeout=300_000)
            page.wait_for_function("!document.querySelector('.working')", timeout=300_000)
            handed = page.get_by_label("Handed over").locator("a").first.get_attribute("href")
            page.goto(f"{site}{handed}")
            page.get_by_role("button", name="Stop").click()
            for key, name in (("ArrowRight", "on"), ("ArrowLeft", "back")):
                passed, drawn = held(page, key)
                print(f"{way:15s} {name:5s} {passed:5.1f} frames/s gone through, {drawn:5.1f} drawn/s")
            if way == "decoded frames":
                page.get_by_role("tab", name="Figures").click()
                page.locator("[data-event=apex]").click()
                page.wait_for_timeout(500)
                times = [drag_ms(page) for _ in range(DRAGS)]
        browser.close()
    print(f"\nA dragged disc until every figure stands anew: median {statistics.median(times):.0f} ms, longest {max(times):.0f} ms")


if __name__ == "__main__":
    main()

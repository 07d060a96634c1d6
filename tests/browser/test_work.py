"""From work set to a block, to a phone without a network, to a film of the work and the end of the block, in the real interface."""

from __future__ import annotations

import re
import time
from datetime import date, timedelta
from pathlib import Path

import pytest
from playwright.sync_api import APIRequestContext, Browser, Page, Playwright, expect

from .wire import Wire

pytestmark = pytest.mark.browser
DEMO = Path(__file__).parents[2] / "demo" / "clips"
WAIT_S = 600


class Desk:
    """The coach's side over the wire, for what is not the matter of the test."""

    def __init__(self, api: APIRequestContext, site: str) -> None:
        self.api = api
        token = next(cookie["value"] for cookie in api.storage_state()["cookies"] if cookie["name"] == "csrftoken")
        self.headers = {"X-CSRFToken": token, "Referer": site}

    def post(self, address: str, **more: object) -> dict:
        answer = self.api.post(address, headers=self.headers, **more)  # type: ignore[arg-type]
        assert answer.ok, answer.text()
        return dict(answer.json())

    def put(self, address: str, **more: object) -> dict:
        answer = self.api.put(address, headers=self.headers, **more)  # type: ignore[arg-type]
        assert answer.ok, answer.text()
        return dict(answer.json())

    def measured(self, clip: str) -> None:
        deadline = time.monotonic() + WAIT_S
        while not self.api.get(f"/api/clips/{clip}").json()["measured"]:
            assert time.monotonic() < deadline
            time.sleep(1)


@pytest.fixture(scope="session")
def desk(site: str, signed_in_state: dict, playwright: Playwright) -> Desk:
    return Desk(playwright.request.new_context(base_url=site, storage_state=signed_in_state), site)  # type: ignore[arg-type]


def sent(desk: Desk, name: str, on: date) -> tuple[int, str]:
    """A new athlete with one measured snatch out of the demo's clips: athlete and clip."""
    best = {"lift": "snatch", "kilos": 80, "on": on.isoformat()}
    athlete = desk.post("/api/athletes", data={"name": f"Pia Marsh {time.time():.2f}", "stature_m": 1.6, "bests": [best]})["id"]
    file = {"name": name, "mimeType": "video/mp4", "buffer": (DEMO / name).read_bytes()}
    load = name.removesuffix(".mp4").rpartition("-")[2]
    told = {"athlete": str(athlete), "lift": "snatch", "load": load, "made": "true", "filmed_on": on.isoformat()}
    clip = desk.post("/api/clips", multipart={"file": file, **told})["id"]
    desk.measured(clip)
    return athlete, clip


@pytest.fixture
def reviewed(desk: Desk) -> tuple[int, str]:
    """A snatch filmed six weeks ago with work set on it: athlete and clip."""
    athlete, clip = sent(desk, "ida-snatch-76.mp4", date.today() - timedelta(days=42))
    work = {"exercise": "halting_pull_mid_thigh", "sets": 4, "reps": 3, "percent": 70, "per_week": 1, "weeks": 4, "note": ""}
    desk.post(f"/api/clips/{clip}/assignments", data=work)
    return athlete, clip


def test_a_block_from_the_calendar_over_a_lost_network_to_its_end(
    browser: Browser, site: str, signed_in_state: dict, desk: Desk, reviewed: tuple[int, str]
) -> None:
    athlete, clip = reviewed
    coach = browser.new_context(storage_state=signed_in_state, viewport={"width": 1280, "height": 800})  # type: ignore[arg-type]
    page = coach.new_page()
    page.goto(f"{site}/clips/{clip}/hand-over")
    page.get_by_role("link", name="Put it on the calendar").click()
    _plan(page)
    page.get_by_role("button", name="Make the link").click()
    link = page.get_by_test_id("work-link").input_value()

    phone = browser.new_context(viewport={"width": 390, "height": 844}, device_scale_factor=2, has_touch=True)
    work = phone.new_page()
    wire = Wire(int(site.rsplit(":", 1)[1]))
    work.goto(link.replace(site, f"http://localhost:{wire.port}"))
    expect(work.get_by_test_id("state")).to_contain_text("Everything is with your coach")
    assert work.evaluate("document.documentElement.scrollWidth") <= 390
    _log_without_a_network(work, wire, desk, athlete)
    _pain_in_two_taps(work, desk, athlete)

    # A film of the work goes into its task, the test of the lift into the test.
    work.locator("article", has_text="Halting").locator("input[type=file]").set_input_files(DEMO / "nell-halting-pull-60.mp4")
    expect(work.get_by_text("Your coach has the clip.")).to_be_visible(timeout=60_000)
    test = work.locator("article", has_text="Test on film")
    test.get_by_label("Load of set 1").fill("75")
    test.locator("input[type=file]").set_input_files(DEMO / "ida-snatch-75.mp4")
    expect(work.get_by_text("Your coach has the clip.")).to_be_visible(timeout=60_000)
    phone.close()
    wire.cut()
    films = [one for one in desk.api.get("/api/clips").json()["results"] if one["athlete"] == athlete]
    assert {(one["lift"], one["load"]) for one in films} == {("snatch", 76), ("snatch", 75), ("snatch_pull", 48)}
    for one in films:
        desk.measured(one["id"])

    page.reload()
    expect(page.get_by_text("Held for")).to_be_visible()
    result = page.get_by_test_id("result")
    expect(result).to_contain_text("Changed")
    told = desk.api.get(f"/api/athletes/{athlete}/plan").json()["blocks"][0]["result"]
    expect(result).to_contain_text(f"{told['before']:.1f}")
    expect(result).to_contain_text(f"{told['after']:.1f}")
    page.get_by_role("button", name="End the block").click()
    expect(page.get_by_role("button", name="Plan the block")).to_be_visible()
    expect(page.get_by_test_id("result")).to_contain_text("Changed")
    coach.close()


def _plan(page: Page) -> None:
    """A block of four weeks that began four weeks ago, on today's day of the week; then one day is moved by key, and back."""
    page.get_by_label("Not before").fill((date.today() - timedelta(days=28)).isoformat())
    for day in page.locator("fieldset input[type=checkbox]").all():
        day.uncheck()
    page.locator(f"fieldset input[value='{date.today().weekday()}']").check()
    page.get_by_role("button", name="Plan the block").click()
    expect(page.get_by_text("The plan keeps every rule")).to_be_visible()
    slots = page.locator("[data-slot]")
    expect(slots).to_have_count(5)
    # 70 % of 80 kg.
    expect(slots.first).to_contain_text("4 × 3 · 56 kg")
    slots.nth(1).click()
    expect(page.get_by_test_id("chosen")).to_contain_text("Each side")
    page.keyboard.press("ArrowRight")
    expect(page.get_by_test_id("broken")).to_contain_text("is no training day")
    page.keyboard.press("ArrowLeft")
    expect(page.get_by_text("The plan keeps every rule")).to_be_visible()
    # And by dragging it to the next day.
    moved = (date.today() - timedelta(days=20)).isoformat()
    slots.nth(1).drag_to(page.locator(f"td[data-on='{moved}']"))
    expect(page.get_by_test_id("broken")).to_contain_text("is no training day")
    page.locator(f"td[data-on='{moved}'] [data-slot]").focus()
    page.keyboard.press("ArrowLeft")
    expect(page.get_by_text("The plan keeps every rule")).to_be_visible()


def _log_without_a_network(work: Page, wire: Wire, desk: Desk, athlete: int) -> None:
    """Two sets are ticked without a network and survive a closed page; they are the coach's when it is back."""
    last = work.locator("summary", has_text="Halting")
    last.click()
    # What the browser keeps of the page it keeps from the first visit on.
    work.evaluate("navigator.serviceWorker.ready.then(() => true)")
    work.wait_for_timeout(500)
    wire.cut()
    card = work.locator("article", has_text="Halting")
    card.get_by_role("button", name="Set 1 done").click()
    card.get_by_label("Repetitions missed in set 2").fill("1")
    card.get_by_role("button", name="Set 2 done").click()
    expect(work.get_by_test_id("state")).to_contain_text("One entry is kept here")
    work.reload()
    expect(work.get_by_test_id("state")).to_contain_text("One entry is kept here")
    assert desk.api.get(f"/api/athletes/{athlete}/log").json()["done"] == []
    wire.mend()
    work.get_by_role("button", name="Send now").click()
    expect(work.get_by_test_id("state")).to_contain_text("Everything is with your coach")
    # The last week is light: 70 - 10 % of 80 kg.
    (entry,) = desk.api.get(f"/api/athletes/{athlete}/log").json()["done"]
    assert [(row["load"], row["reps"], row["missed"]) for row in entry["sets"]] == [(48, 3, 0), (48, 3, 1)]
    work.reload()


def _pain_in_two_taps(work: Page, desk: Desk, athlete: int) -> None:
    """Mild pain in two taps; then it is over."""
    work.get_by_test_id("report").locator("summary").click()
    work.locator("[data-site='knee']").first.click()
    work.locator("[data-degree='2']").click()
    over = work.get_by_role("button", name="It is over")
    expect(over).to_be_visible()
    assert desk.api.get(f"/api/athletes/{athlete}/log").json()["reports"][0]["site"] == "knee"
    over.click()
    expect(over).to_have_count(0)


def test_the_hold_timer_counts_real_seconds(browser: Browser, site: str, desk: Desk, reviewed: tuple[int, str]) -> None:
    athlete, clip = reviewed
    desk.post(f"/api/clips/{clip}/block", data={"begins": date.today().isoformat(), "weeks": 4, "days": [date.today().weekday()]})
    token = desk.post(f"/api/athletes/{athlete}/link")["token"]
    phone = browser.new_context(viewport={"width": 390, "height": 844}, has_touch=True)
    page = phone.new_page()
    page.goto(f"{site}/w/{token}")
    timer = page.get_by_test_id("hold")
    # What the page's own clock says at each tap: a busy machine takes its time between a tap and the driver's next question.
    page.evaluate("() => { window.taps = []; addEventListener('click', () => taps.push(performance.now()), true) }")
    timer.click()
    page.wait_for_timeout(1500)
    timer.click()
    expect(timer).to_contain_text("s short")
    began, ended = page.evaluate("taps")
    shown = float(re.search(r"([\d.]+) s", timer.inner_text()).group(1))  # type: ignore[union-attr]
    assert ended - began > 1400
    assert abs(shown - (ended - began) / 1000) < 0.1
    phone.close()


def test_the_shelf_is_searched_and_an_exercise_changed(page: Page, site: str) -> None:
    page.goto(f"{site}/library")
    page.get_by_label("What it answers").select_option(label="Bar loops")
    page.get_by_label("Lift", exact=True).select_option("snatch")
    page.get_by_label("Words").fill("muscle")
    page.locator("[data-exercise]").first.click()
    card = page.get_by_test_id("exercise")
    expect(card).to_contain_text("Muscle")
    card.get_by_role("button", name="Change").click()
    page.get_by_label("Cue").fill("Turn it over close.")
    page.get_by_role("button", name="Keep it").click()
    expect(card).to_contain_text("Turn it over close.")
    card.get_by_role("button", name="As it came").click()
    expect(card).not_to_contain_text("Turn it over close.")
    page.get_by_role("button", name="Ladders").click()
    page.locator("[data-ladder=overhead_squat_group]").get_by_role("link", name="Your athletes on it").click()
    page.get_by_label("Put on this ladder").select_option(label="Ida Fenn")
    page.get_by_role("button", name="Put on").click()
    page.get_by_label("Ida Fenn, step 1 passed").check()
    expect(page.get_by_role("row", name=re.compile("Ida Fenn"))).to_contain_text("2. ")
    page.get_by_label("Ida Fenn, step 1 passed").uncheck()


def test_a_review_is_one_page_on_paper(browser: Browser, site: str, signed_in_state: dict, desk: Desk, reviewed: tuple[int, str]) -> None:
    _, clip = reviewed
    for exercise in ("pull_pause_knee", "muscle_lift"):
        work = {"exercise": exercise, "sets": 4, "reps": 3, "percent": 50, "per_week": 1, "weeks": 4, "note": "Slowly, and film it. " * 8}
        desk.post(f"/api/clips/{clip}/assignments", data=work)
    context = browser.new_context(storage_state=signed_in_state, viewport={"width": 1280, "height": 800}, color_scheme="dark")  # type: ignore[arg-type]
    page = context.new_page()
    page.goto(f"{site}/clips/{clip}/hand-over")
    page.get_by_label("Your words").fill("Patience off the floor, and keep the bar where the thigh can find it. " * 6)
    page.get_by_role("button", name="Hand over", exact=True).click()
    link = page.get_by_test_id("link").input_value()
    for address in (page.url, link):
        page.goto(address)
        expect(page.get_by_role("button", name="Print, or keep as PDF")).to_be_visible()
        for paper in ("A4", "Letter"):
            kept = page.pdf(format=paper, prefer_css_page_size=True)
            # A page's object names its kind, and so does that of the tree they hang on.
            assert len(re.findall(rb"/Type\s*/Page\b", kept)) == 1
            assert kept.startswith(b"%PDF")
            assert len(kept) > 20_000
        # What was laid out for paper is back as it was.
        assert page.locator(".paper").count() == 0
        assert page.evaluate("document.documentElement.dataset.bsTheme") == "dark"
    context.close()


def test_a_clean_lift_is_reviewed_and_handed_over_in_a_few_strokes(page: Page, site: str, desk: Desk) -> None:
    _, clip = sent(desk, "ida-snatch-68.mp4", date.today())
    deadline = time.monotonic() + WAIT_S
    while desk.api.get(f"/api/clips/{clip}").json()["job"]["state"] != "done":
        assert time.monotonic() < deadline
        time.sleep(1)
    page.goto(site)
    strokes = 0
    began = time.monotonic()

    def press(key: str) -> None:
        nonlocal strokes
        strokes += 1
        page.keyboard.press(key)

    # Out of the queue; once at full speed; then position by position; the good points stand; over to the athlete.
    page.locator(f"a[href='/clips/{clip}']").first.click()
    strokes += 1
    page.get_by_role("button", name="Stop").wait_for(timeout=60_000)
    page.get_by_role("button", name="Play", exact=True).wait_for(timeout=60_000)
    for _ in range(5):
        press("ArrowUp")
    press("p")
    expect(page.locator("[data-position=knee]")).to_be_visible()
    press("t")
    page.keyboard.type("Yours.")
    strokes += len("Yours.")
    press("Enter")
    page.get_by_role("link", name="Hand over").click()
    page.get_by_role("button", name="Hand over", exact=True).click()
    strokes += 2
    expect(page.get_by_test_id("link")).to_be_visible()
    assert time.monotonic() - began < 60
    # Of these, six are the letters of the note.
    assert strokes - len("Yours.") <= 15, strokes


# Nobody needs to go further than this from one thing to the next that is meant.
TABS = 120


def tab_to(page: Page, what: str) -> None:
    """Go on by the Tab key until the thing with the focus is called so."""
    for _ in range(TABS):
        page.keyboard.press("Tab")
        called = page.evaluate("(document.activeElement.getAttribute('aria-label') || document.activeElement.textContent).trim()")
        if re.fullmatch(what, " ".join(called.split())):
            return
    raise AssertionError(f"{what} cannot be reached by the Tab key")


def test_a_lift_is_reviewed_and_handed_over_without_a_pointer(page: Page, site: str, desk: Desk) -> None:
    athlete, clip = sent(desk, "ida-snatch-76.mp4", date.today())
    page.goto(site)
    page.locator(f"a[href='/clips/{clip}']").first.wait_for()
    name = next(one["name"] for one in desk.api.get("/api/athletes").json() if one["id"] == athlete)
    tab_to(page, f".*{re.escape(name)}.*")
    page.keyboard.press("Enter")
    page.get_by_role("button", name="Stop").wait_for(timeout=60_000)
    page.keyboard.press("Space")
    page.get_by_role("button", name="Play", exact=True).wait_for()
    lift = desk.api.get(f"/api/clips/{clip}/bench").json()["document"]["lifts"][0]
    # A position that lies one frame further, and back where it was.
    tab_to(page, "Lift-off")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("frame")).to_have_text(f"Frame {lift['events']['lift_off']['frame']}")
    page.keyboard.press("ArrowRight")
    tab_to(page, "Lift-off is here")
    page.keyboard.press("Enter")
    expect(page.get_by_role("button", name="Take back where lift-off is")).to_be_visible()
    page.keyboard.press("z")
    expect(page.get_by_role("button", name="Take back where lift-off is")).to_have_count(0)
    # The first cause is confirmed, a fault added, a note written.
    tab_to(page, "Findings")
    tab_to(page, r"Show at frame \d+")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("frame")).to_have_text(f"Frame {lift['measures']['bar_forward_before_knee']['frame']}")
    tab_to(page, "Confirm")
    page.keyboard.press("Enter")
    expect(page.locator("[data-fault=bar_forward_off_floor]")).to_contain_text("confirmed by you")
    page.keyboard.press("f")
    page.keyboard.type("Rushed set-up")
    page.keyboard.press("Enter")
    expect(page.locator("[data-fault=rushed_setup]")).to_contain_text("added by you")
    page.keyboard.press("t")
    page.keyboard.type("Patient off the floor.")
    page.keyboard.press("Enter")
    expect(page.get_by_text("Patient off the floor.")).to_be_visible()
    page.keyboard.press("h")
    page.get_by_role("button", name="Hand over", exact=True).wait_for()
    tab_to(page, "Hand over")
    page.keyboard.press("Enter")
    expect(page.get_by_test_id("link")).to_be_visible()


def test_a_coach_confirms_rejects_undoes_writes_a_fault_and_the_athlete_reads_it(
    browser: Browser, page: Page, site: str, desk: Desk
) -> None:
    _, clip = sent(desk, "ida-snatch-76.mp4", date.today())
    page.goto(f"{site}/clips/{clip}")
    page.get_by_role("button", name="Stop").wait_for(timeout=60_000)
    page.keyboard.press("Space")
    cause, effect = (page.locator(f"[data-fault={fault}]") for fault in ("bar_forward_off_floor", "bar_looped"))
    expect(cause).to_contain_text("fix this first")
    story = page.get_by_test_id("story").inner_text()

    # An effect confirmed without its cause asks once about it.
    effect.get_by_role("button", name="Confirm", exact=True).click()
    page.get_by_test_id("cause").get_by_role("button", name="Confirm both").click()
    for row in (cause, effect):
        expect(row).to_contain_text("confirmed by you")
    # Verdicts are undone as everything else is.
    for row in (cause, effect):
        page.keyboard.press("z")
        expect(row).not_to_contain_text("confirmed by you")
    # A root that is rejected has the chain read again, and undoing brings it back.
    cause.get_by_role("button", name="Reject").click()
    expect(effect).to_contain_text("fix this first")
    page.keyboard.press("z")
    expect(page.get_by_test_id("story")).to_have_text(story)
    cause.get_by_role("button", name="Confirm", exact=True).click()
    expect(cause).to_contain_text("confirmed by you")

    # What is not in the list is written, and refused with what to change while it is not whole; nothing typed is lost.
    page.keyboard.press("f")
    page.keyboard.type("Chin down")
    page.get_by_test_id("write-own").click()
    own = page.get_by_test_id("own-fault")
    own.get_by_label("Sentence for you").fill("Chin drops to the chest")
    own.get_by_label("Sentence for the athlete").fill("Look 20 % higher.")
    own.get_by_label("Cue").fill("Eyes ahead.")
    own.get_by_label("Why it matters").fill("The back follows the head.")
    own.get_by_label("Praise when it is right").fill("You looked ahead.")
    own.get_by_label("Part of the lift").select_option(label="Set-up")
    own.get_by_label("Faults that follow from it").fill("Bar swings forward off the floor")
    own.get_by_role("button", name="Save the fault").click()
    expect(own.get_by_role("alert")).to_contain_text("Say it without")
    expect(own.get_by_label("Name")).to_have_value("Chin down")
    own.get_by_label("Sentence for the athlete").fill("Look straight ahead before you lift.")
    own.get_by_role("button", name="Save the fault").click()
    mine = page.locator("[data-fault^=own_chin_down]")
    expect(mine).to_contain_text("added by you")
    expect(mine).to_contain_text("fix this first")
    expect(page.get_by_test_id("story")).to_contain_text("Chin down →")

    # The athlete's sentence is changed in this review, and read on the phone.
    page.get_by_role("link", name="Hand over").click()
    words = page.locator("[data-athlete=bar_forward_off_floor]")
    words.fill("The bar runs away from you. Keep it home.")
    words.blur()
    expect(page.get_by_role("region", name="The review on a phone")).to_contain_text("Keep it home.")
    page.get_by_role("button", name="Hand over", exact=True).click()
    link = page.get_by_test_id("link").input_value()
    phone = browser.new_context(viewport={"width": 390, "height": 844}, device_scale_factor=2, has_touch=True)
    reading = phone.new_page()
    reading.goto(link)
    expect(reading.get_by_text("Look straight ahead before you lift.")).to_be_visible()
    expect(reading.get_by_text("The bar runs away from you. Keep it home.")).to_be_visible()
    assert not re.search(r"±|%|\bms\b", reading.locator("article").inner_text())
    phone.close()
    # What was written is in the library from now on, and put away where it stands on a clip.
    page.goto(f"{site}/library")
    page.get_by_role("button", name="Faults").click()
    page.locator("[data-fault^=own_chin_down]").first.click()
    page.get_by_role("button", name="Delete").click()
    expect(page.locator("[data-fault^=own_chin_down]").first).to_contain_text("put away")

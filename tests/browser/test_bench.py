"""From the queue to the athlete's phone in the real interface, and the promise on which the bench stands: what is drawn, what is
numbered and what is analysed are one frame."""

from __future__ import annotations

import random
import re
from http import HTTPStatus
from pathlib import Path

import pytest
from demo.site import sign_in
from playwright.sync_api import Browser, Page, expect

from .conftest import LIGHT, burnt_number, number_of

pytestmark = pytest.mark.browser
WAIT_MS = 600_000


def frame(page: Page) -> int:
    return int(re.sub(r"\D", "", page.get_by_test_id("frame").inner_text()))


def at_frame(page: Page, number: int) -> None:
    expect(page.get_by_test_id("frame")).to_have_text(f"Frame {number}")


def document(page: Page, site: str, clip: str) -> dict:
    return dict(page.request.get(f"{site}/api/clips/{clip}/bench").json()["document"])


def open_bench(page: Page, address: str) -> None:
    """Open a clip and let the first pass at full speed run until it is stopped."""
    page.goto(address)
    stop = page.get_by_role("button", name="Stop")
    stop.wait_for(timeout=WAIT_MS)
    stop.click()
    page.get_by_role("button", name="Play", exact=True).wait_for()


WAYS = ["decoded frames", "video element"]


def stepping(browser: Browser, signed_in: dict, address: str, way: str) -> Page:
    """A bench that gets its frames in this way."""
    page = browser.new_context(storage_state=signed_in, viewport={"width": 1280, "height": 800}).new_page()  # type: ignore[arg-type]
    if way == "video element":
        page.add_init_script("delete window.VideoDecoder")
    open_bench(page, address)
    return page


@pytest.mark.parametrize("way", WAYS)
def test_number_picture_and_analysis_are_one_frame_after_fifty_random_steps(
    browser: Browser, site: str, signed_in_state: dict, burnt_clip: str, way: str
) -> None:
    page = stepping(browser, signed_in_state, f"{site}/clips/{burnt_clip}", way)
    analysis = document(page, site, burnt_clip)
    last = analysis["clip"]["frame_count"] - 1
    rng = random.Random(7)
    presses = {"ArrowRight": 1, "ArrowLeft": -1, "Shift+ArrowRight": 10, "Shift+ArrowLeft": -10}
    buttons = {"One frame on": 1, "One frame back": -1, "Ten frames on": 10, "Ten frames back": -10}
    assert burnt_number(page) == frame(page)
    for _ in range(50):
        here = frame(page)
        match rng.randrange(3):
            case 0:
                key, by = rng.choice(list(presses.items()))
                page.keyboard.press(key)
                wanted = here + by
            case 1:
                label, by = rng.choice(list(buttons.items()))
                page.get_by_label(label).click()
                wanted = here + by
            case _:
                wanted = rng.randrange(last + 1)
                page.get_by_label("Frame", exact=True).evaluate(
                    "(slider, to) => { slider.value = to; slider.dispatchEvent(new Event('input')) }", wanted
                )
                page.locator("body").click(position={"x": 5, "y": 5})
        wanted = min(max(wanted, 0), last)
        at_frame(page, wanted)
        assert burnt_number(page) == wanted
        assert page.locator("svg[data-frame]").get_attribute("data-frame") == str(wanted)
        drawn, x, y = page.locator(".disc circle.bar"), *(analysis["disc"][name][wanted] for name in ("x_px", "y_px"))
        if x is None:
            assert drawn.count() == 0
        else:
            assert float(drawn.get_attribute("cx") or "nan") == pytest.approx(x, abs=0.01)
            assert float(drawn.get_attribute("cy") or "nan") == pytest.approx(y, abs=0.01)
    page.context.close()


# Every time the number changes, so often, it is written down with the number of the overlay and the light of the picture's own code.
WATCHED = f"""(times) => new Promise((done) => {{
  const label = document.querySelector('[data-test=frame]'), light = {LIGHT}, seen = []
  new MutationObserver((_, me) => {{
    seen.push([Number(label.textContent.match(/\\d+/)[0]), Number(document.querySelector('svg[data-frame]').dataset.frame), light()])
    if (seen.length === times) {{ me.disconnect(); done(seen) }}
  }}).observe(label, {{ characterData: true, childList: true, subtree: true }})
}})"""


def played(page: Page) -> list[tuple[int, int, int]]:
    """Number, overlay and picture at eight changes of the number, from frame 60 on."""
    page.get_by_label("Frame", exact=True).evaluate("(s) => { s.value = 60; s.dispatchEvent(new Event('input')) }")
    at_frame(page, 60)
    page.get_by_role("button", name="Play", exact=True).click()
    seen = page.evaluate(WATCHED, 8)
    page.get_by_role("button", name="Stop").click()
    page.get_by_role("button", name="Play", exact=True).wait_for()
    return [(number, overlay, number_of(light)) for number, overlay, light in seen]


@pytest.mark.parametrize("way", WAYS)
def test_number_picture_and_overlay_are_one_frame_while_the_clip_plays_at_every_speed(
    browser: Browser, site: str, signed_in_state: dict, burnt_clip: str, way: str
) -> None:
    page = stepping(browser, signed_in_state, f"{site}/clips/{burnt_clip}", way)
    speeds = page.get_by_label("Playing speed")
    offered = [float(option.get_attribute("value") or "nan") for option in speeds.locator("option").all()]
    assert (min(offered), max(offered)) == (1 / 16, 1.0)
    for speed in offered:
        speeds.select_option(value=f"{speed:g}")
        told = played(page)
        assert all(number == overlay == shown for number, overlay, shown in told), (speed, told)
        assert [number for number, _, _ in told] == sorted(number for number, _, _ in told)
        # It stops where it says.
        assert frame(page) == burnt_number(page)
    page.context.close()


def test_held_arrow_keys_never_part_number_and_picture(browser: Browser, site: str, signed_in_state: dict, burnt_clip: str) -> None:
    context = browser.new_context(storage_state=signed_in_state)  # type: ignore[arg-type]
    page = context.new_page()
    open_bench(page, f"{site}/clips/{burnt_clip}")
    page.get_by_label("Frame", exact=True).evaluate("(s) => { s.value = 60; s.dispatchEvent(new Event('input')) }")
    at_frame(page, 60)
    for key, end in (("ArrowRight", 100), ("ArrowLeft", 60)):
        for _ in range(40):
            page.keyboard.down(key)
        page.keyboard.up(key)
        at_frame(page, end)
        assert burnt_number(page) == end
    context.close()


def test_two_lifts_go_side_by_side_from_position_to_position_and_lie_together_on_a_chart(page: Page, site: str, burnt_clip: str) -> None:
    open_bench(page, f"{site}/clips/{burnt_clip}")
    clips = page.request.get(f"{site}/api/clips").json()["results"]
    other = next(clip for clip in clips if clip["id"] != burnt_clip and clip["measured"])
    page.get_by_role("link", name="Side by side").click()
    page.get_by_label("The lift beside it").select_option(value=other["id"])
    one, two = document(page, site, burnt_clip)["lifts"][0], document(page, site, other["id"])["lifts"][0]
    frames = page.get_by_test_id("frame")
    for event in ("apex", "peak_speed"):
        page.get_by_label("Align on").select_option(value=event)
        page.get_by_role("button", name=event.replace("_", " ").capitalize(), exact=True).click()
        expect(frames.nth(0)).to_have_text(f"Frame {one['events'][event]['frame']}", timeout=WAIT_MS)
        expect(frames.nth(1)).to_have_text(f"Frame {two['events'][event]['frame']}")
    page.get_by_role("heading", name="What differs").click()
    page.keyboard.press("ArrowRight")
    expect(frames.nth(0)).to_have_text(f"Frame {one['events']['peak_speed']['frame'] + 1}")
    page.get_by_label("also what is not shown to differ").check()
    expect(page.get_by_test_id("differences")).to_contain_text("Peak velocity")
    # A third beside them stands at the same position; left out again, two are left.
    page.goto(f"{site}/clips/{burnt_clip}/beside/{other['id']},{other['id']}")
    expect(frames).to_have_count(3, timeout=WAIT_MS)
    page.get_by_label("Align on").select_option(value="apex")
    page.get_by_role("button", name="Apex", exact=True).click()
    for place, lift in enumerate((one, two, two)):
        expect(frames.nth(place)).to_have_text(f"Frame {lift['events']['apex']['frame']}", timeout=WAIT_MS)
    page.get_by_label("Which lift against the first").select_option(value="2")
    expect(page.get_by_test_id("differences")).to_contain_text("Third less first")
    page.get_by_role("button", name="Leave out the third lift").click()
    expect(frames).to_have_count(2, timeout=WAIT_MS)
    # The technical model stands first among what may be laid beside it: a made-up lifter, at the same position.
    picks = page.get_by_label("Lay beside it what it is compared with most")
    assert picks.locator("option").nth(1).inner_text() == "model: a made-up lifter of this build"
    # It is made on being asked for, and until then told to be on its way.
    with page.expect_response(lambda answer: "/reference/" in answer.url and answer.status == HTTPStatus.OK, timeout=WAIT_MS) as made:
        picks.select_option(label="model: a made-up lifter of this build")
    expect(page.get_by_text("stature and limbs as fitted here")).to_be_visible(timeout=WAIT_MS)
    model = made.value.json()["document"]["lifts"][0]
    page.get_by_role("button", name="Apex", exact=True).click()
    expect(frames.nth(1)).to_have_text(f"Frame {model['events']['apex']['frame']}", timeout=WAIT_MS)

    page.goto(f"{site}/athletes/{other['athlete']}/lifts")
    expect(page.get_by_role("group", name=re.compile("against load"))).to_be_visible()
    expect(page.get_by_text("made lifts at 60 % or more")).to_be_visible()


def test_who_faces_the_other_way_is_shown_as_in_a_mirror_with_words_that_read(page: Page, site: str, burnt_clip: str) -> None:
    clips = page.request.get(f"{site}/api/clips").json()["results"]
    other = next(clip["id"] for clip in clips if clip["id"] != burnt_clip and clip["measured"])
    address, bench = f"{site}/api/clips/{other}/bench", page.request.get(f"{site}/api/clips/{other}/bench").json()
    facing = document(page, site, burnt_clip)["clip"]["facing"]
    bench["document"]["clip"]["facing"] = "left" if facing == "right" else "right"
    page.route(address, lambda route: route.fulfill(json=bench))
    page.goto(f"{site}/clips/{burnt_clip}/beside/{other}")
    page.get_by_label("Align on").select_option(value="apex")
    page.get_by_role("button", name="Apex", exact=True).click()
    told = bench["document"]
    apex = told["lifts"][0]["events"]["apex"]["frame"]
    expect(page.get_by_test_id("frame").nth(1)).to_have_text(f"Frame {apex}", timeout=WAIT_MS)
    stage, disc = page.locator(".stage").nth(1), page.locator(".stage").nth(1).locator(".disc .bar")

    def middle() -> tuple[float, float]:
        box = disc.bounding_box()
        assert box
        return box["x"] + box["width"] / 2, box["y"] + box["height"] / 2

    whole = stage.bounding_box()
    assert whole
    x, y = middle()
    share = told["disc"]["x_px"][apex] / told["clip"]["width"]
    assert (x - whole["x"]) / whole["width"] == pytest.approx(1 - share, abs=0.004)
    assert stage.locator("svg").evaluate("(picture) => picture.getScreenCTM().a") < 0
    for words in stage.locator("text").all():
        assert words.evaluate("(one) => one.getScreenCTM().a") > 0
    # A closer look keeps what is under the pointer where it is.
    page.mouse.move(x, y)
    page.mouse.wheel(0, -300)
    expect(stage).not_to_have_attribute("data-zoom", "1")
    assert middle() == pytest.approx((x, y), abs=2)


def test_from_a_dropped_clip_to_the_athletes_phone(browser: Browser, site: str, burnt: Path) -> None:
    context = browser.new_context(viewport={"width": 1280, "height": 800})
    page = context.new_page()
    sign_in(page, site)
    expect(page.locator("section li")).not_to_have_count(0)

    # A clip comes in: whose, which lift, what load, how it went.
    page.locator("input[type=file]").set_input_files(burnt)
    panel = page.get_by_label("Clips to send")
    panel.get_by_label("Athlete").select_option(label="Ida Fenn")
    panel.get_by_label("Lift").select_option(label="Snatch")
    panel.get_by_role("textbox", name="Load").fill("167.5")
    panel.get_by_label("Unit of the load").select_option("lb")
    # Whether it was made is asked, not assumed.
    panel.get_by_role("button", name="Send").click()
    expect(panel).to_contain_text("Say whether it was made or missed.")
    panel.get_by_label("Made or missed").select_option("made")
    panel.get_by_role("button", name="Send").click()
    mine = page.locator("section li", has_text="167.5 lb").first
    mine.wait_for(timeout=WAIT_MS)
    expect(mine.get_by_text("measured")).to_be_visible(timeout=WAIT_MS)
    mine.get_by_role("link").click()

    # First once at full speed; then frame by frame.
    page.get_by_role("button", name="Stop").wait_for(timeout=WAIT_MS)
    page.get_by_role("button", name="Stop").click()
    clip = page.url.rsplit("/", 1)[1]
    lift = document(page, site, clip)["lifts"][0]
    assert page.locator(".path path").count() > 100
    assert len({path.get_attribute("stroke") for path in page.locator(".path path").all()}) > 10
    expect(page.locator(".plumb text", has_text="cm")).to_be_visible()
    expect(page.locator(".plumb line")).to_have_count(8)
    for name in ("lift_off", "peak_speed", "apex", "meet", "bottom"):
        page.locator(f"[data-event={name}]").click()
        at_frame(page, lift["events"][name]["frame"])
    before = frame(page)
    page.get_by_test_id("traces").click(position={"x": 200, "y": 40})
    expect(page.get_by_test_id("frame")).not_to_have_text(f"Frame {before}")

    # What was found, with its number and its frame; the coach decides.
    forward = page.locator("[data-fault=bar_forward_off_floor]")
    expect(forward).to_contain_text("fix this first")
    shown = lift["measures"]["bar_forward_before_knee"]
    expect(forward).to_contain_text(f"{shown['value']:.1f} cm")
    forward.get_by_test_id("show").click()
    at_frame(page, shown["frame"])
    forward.get_by_role("button", name="Confirm").click()
    expect(forward).to_contain_text("confirmed by you")
    page.locator("[data-fault=bar_looped]").get_by_role("button", name="Reject").click()
    expect(page.locator("[data-fault=bar_looped]")).to_contain_text("rejected by you")
    page.keyboard.press("f")
    page.keyboard.type("Rushed set-up")
    page.keyboard.press("Enter")
    expect(page.locator("[data-fault=rushed_setup]")).to_contain_text("added by you")

    # Where coaches disagree an answer of their own judges the open lift at once, and can be taken back.
    page.get_by_role("tab", name="Schools").click()
    page.get_by_label("Speed off the floor").select_option(label="As fast as possible")
    expect(page.get_by_test_id("changed")).to_contain_text("Yanked from the floor")
    expect(page.get_by_test_id("changed")).to_contain_text("not judged")
    page.get_by_role("button", name="Take back", exact=True).and_(page.locator("[data-leave]")).click()
    expect(page.get_by_test_id("changed")).to_contain_text("Yanked from the floor: not judged →")
    expect(page.get_by_text("Set by you")).to_have_count(0)

    # A wrong disc is dragged right: the track and every figure follow.
    page.get_by_role("tab", name="Figures").click()
    figure = page.locator("[data-measure=peak_height]").first
    expect(figure).to_contain_text(re.compile(r"\d\s±\s[\d.]+\scm"))
    height = figure.inner_text()
    page.locator("[data-event=apex]").click()
    at_frame(page, lift["events"]["apex"]["frame"])
    handle = page.locator(".disc .handle")
    box = handle.bounding_box()
    assert box
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0], middle[1] - 8, steps=4)
    page.mouse.up()
    expect(page.get_by_text("set by you", exact=True)).to_be_visible()
    expect(figure).not_to_have_text(height)
    page.get_by_role("button", name="Take back the disc here").click()
    expect(figure).to_have_text(re.compile(re.escape(height.split("±")[0].split()[-1])))

    # A position is moved to the frame on show, and put back.
    meet = lift["events"]["meet"]["frame"]
    page.locator("[data-event=meet]").click()
    at_frame(page, meet)
    page.get_by_role("button", name="One frame on").click()
    page.get_by_role("button", name="Meet is here").click()
    expect(page.get_by_role("button", name="Take back where meet is")).to_be_visible()
    page.get_by_role("button", name="Take back where meet is").click()
    expect(page.get_by_role("button", name="Meet is here")).to_be_visible()

    # A joint is dragged, the change is written down, and undone by a key.
    ankle = page.locator("[data-joint=right_ankle]")
    box = ankle.bounding_box()
    assert box
    middle = (box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
    page.mouse.move(*middle)
    page.mouse.down()
    page.mouse.move(middle[0] + 9, middle[1], steps=4)
    page.mouse.up()
    expect(page.get_by_role("button", name="Take back the right ankle here")).to_be_visible()
    page.get_by_role("tab", name="By hand").click()
    expect(page.locator(".changes li").first).to_contain_text("right ankle")
    page.keyboard.press("z")
    expect(page.get_by_role("button", name="Take back the right ankle here")).to_have_count(0)
    expect(page.locator(".changes li").first).to_contain_text("undone")

    # Another lift is another set of positions and figures, and goes the same way back.
    page.get_by_label("This is a").select_option("snatch_pull")
    expect(page.locator("div.bar")).to_contain_text("Snatch pull")
    expect(page.locator("[data-event=meet]")).to_have_count(0)
    expect(page.locator(".changes li").first).to_contain_text("which lift it is")
    page.locator(".by-hand").get_by_role("button", name="Undo").click()
    expect(page.locator("div.bar")).not_to_contain_text("Snatch pull")
    expect(page.locator("[data-event=meet]")).to_be_visible()

    # Work, with kilos from her best of 80 kg; then out to her phone.
    page.get_by_role("link", name="Hand over").click()
    offer = page.locator("[data-exercise=halting_pull_knee]")
    offer.locator("summary").click()
    offer.get_by_label("% of best").fill("71")
    offer.get_by_role("button", name="Set this work").click()
    expect(page.get_by_test_id("assigned")).to_contain_text("4 × 3 at 56 kg")
    page.get_by_role("button", name="Hand over", exact=True).click()
    link = page.get_by_test_id("link").input_value()
    context.close()

    phone = browser.new_context(viewport={"width": 390, "height": 844}, device_scale_factor=2, has_touch=True)
    reading = phone.new_page()
    reading.goto(link)
    expect(reading.get_by_role("heading", name="What was good")).to_be_visible()
    expect(reading.get_by_text("Bar swings forward off the floor")).to_be_visible()
    pictures = reading.locator("figure image")
    # Each point that goes out has the frame it was seen in.
    expect(pictures).to_have_count(2)
    for place in (0, 1):
        address = pictures.nth(place).get_attribute("href")
        assert address.endswith(f"pictures/{place}.jpg")
        assert reading.request.get(f"{site}{address}").status == 200
    expect(reading.get_by_text("Each side: 15 kg + 2.5 kg + 0.5 kg")).to_be_visible()
    assert reading.evaluate("document.documentElement.scrollWidth") <= 390
    phone.close()


def test_a_pen_another_lift_and_traces_of_the_body(browser: Browser, site: str, signed_in_state: dict, burnt_clip: str) -> None:
    context = browser.new_context(storage_state=signed_in_state, viewport={"width": 1280, "height": 800})  # type: ignore[arg-type]
    page = context.new_page()
    open_bench(page, f"{site}/clips/{burnt_clip}")
    told = document(page, site, burnt_clip)
    frame = told["lifts"][0]["events"]["contact"]["frame"]
    page.locator("[data-event=contact]").click()
    at_frame(page, frame)
    page.get_by_label("Draw").select_option("angle")
    box = page.locator("svg[data-frame]").bounding_box()
    assert box
    for x, y in ((0.5, 0.25), (0.5, 0.5), (0.75, 0.5)):
        page.mouse.click(box["x"] + x * box["width"], box["y"] + y * box["height"])
    # A corner between up and across, in a picture that is shown in its own shape.
    expect(page.locator(".marks text")).to_have_text("90°", timeout=WAIT_MS)
    page.get_by_label("Draw").select_option("")
    page.keyboard.press("ArrowRight")
    at_frame(page, frame + 1)
    expect(page.locator("[data-mark]")).to_have_count(0)
    page.keyboard.press("a")
    expect(page.locator("[data-angle=trunk]")).to_contain_text("±")
    page.locator("details.layers summary").click()
    page.locator("details.layers").get_by_label("Hip").uncheck()
    page.locator("details.layers").get_by_label("Shin").check()
    page.locator("details.layers summary").click()
    page.keyboard.press("r")
    relation = told["lifts"][0]["relations"]["shoulder_over_bar"]["cm"][frame + 1 - told["lifts"][0]["bar"]["first_frame"]]
    expect(page.locator("[data-distance=shoulder_over_bar] text")).to_contain_text(f"shoulder {abs(relation):.0f} cm")
    page.get_by_label("Trace 2").select_option("trunk")
    choice = page.get_by_label("Lay another lift over this one")
    value = choice.locator("option:not([value=''])").first.get_attribute("value")
    choice.select_option(value=value)
    expect(page.get_by_test_id("ghost")).to_be_visible(timeout=WAIT_MS)
    # A choice of the list would take the key for itself.
    choice.blur()
    for shown in (0, 1):
        page.keyboard.press("g")
        expect(page.get_by_test_id("ghost")).to_have_count(shown, timeout=WAIT_MS)
    # Another day, another machine: what was drawn and what the coach likes to see are there.
    page.close()
    page = context.new_page()
    open_bench(page, f"{site}/clips/{burnt_clip}")
    page.locator("[data-event=contact]").click()
    expect(page.locator("[data-mark=angle]")).to_be_visible(timeout=WAIT_MS)
    expect(page.get_by_label("Trace 2")).to_have_value("trunk")
    page.get_by_role("button", name="Take back mark").click()
    expect(page.locator("[data-mark]")).to_have_count(0)
    expect(page.locator("[data-angle=shin]")).to_have_count(1)
    expect(page.locator("[data-angle=hip]")).to_have_count(0)
    for key, drawn in (("a", "[data-angle]"), ("r", "[data-distance]")):
        page.keyboard.press(key)
        expect(page.locator(drawn)).to_have_count(0)
    # Also what was chosen just before the page is left.
    page.goto(f"{site}/clips")
    page.wait_for_function(
        """async () => {
            const { drawn } = await (await fetch('/api/looks')).json()
            return !drawn.includes('angles') && !drawn.includes('relations')
        }""",
        timeout=WAIT_MS,
    )
    context.close()


def test_a_loop_goes_from_position_to_position_and_at_the_clips_end_over_what_comes_before(page: Page, site: str, burnt_clip: str) -> None:
    open_bench(page, f"{site}/clips/{burnt_clip}")
    told = document(page, site, burnt_clip)
    last = told["clip"]["frame_count"] - 1
    frames = sorted({0, last, *(event["frame"] for event in told["lifts"][0]["events"].values())})
    contact = told["lifts"][0]["events"]["contact"]["frame"]

    def looped() -> set[int]:
        page.keyboard.press("l")
        seen = set()
        for _ in range(30):
            page.wait_for_timeout(40)
            seen.add(int(page.get_by_test_id("frame").inner_text().removeprefix("Frame ")))
        page.keyboard.press("l")
        expect(page.get_by_role("button", name="Play", exact=True)).to_be_visible()
        return seen

    page.locator("[data-event=contact]").click()
    at_frame(page, contact)
    after = frames[frames.index(contact) + 1]
    assert looped() <= set(range(contact, after + 1))
    page.get_by_label("Frame", exact=True).fill(str(last))
    at_frame(page, last)
    seen = looped()
    assert len(seen) > 1
    assert seen <= set(range(frames[-2], last + 1))


def test_what_is_said_while_stepping_is_heard_and_seen_again(page: Page, site: str, burnt_clip: str) -> None:
    open_bench(page, f"{site}/clips/{burnt_clip}")
    page.locator("[data-event=knee]").click()
    begun = document(page, site, burnt_clip)["lifts"][0]["events"]["knee"]["frame"]
    at_frame(page, begun)
    page.keyboard.press("v")
    expect(page.get_by_text("Recording.")).to_be_visible()
    for step in (1, 2, 3):
        page.wait_for_timeout(300)
        page.keyboard.press("ArrowRight")
        at_frame(page, begun + step)
    page.wait_for_timeout(300)
    page.keyboard.press("+")
    page.keyboard.press("r")
    page.wait_for_timeout(500)
    page.keyboard.press("v")
    hear = page.locator("[data-hear]")
    expect(hear).to_be_visible()
    (note,) = page.request.get(f"{site}/api/clips/{burnt_clip}/notes").json()
    assert [shown for _, shown in note["shown"]] == [begun, begun + 1, begun + 2, begun + 3]
    assert note["seconds"] > 1.0
    # Heard from elsewhere, it brings the stage through the same frames, and the picture with its number, as closely as it was looked at
    # and with what was drawn then; after it the stage is as the coach left it.
    page.locator("[data-event=lift_off]").click()
    page.keyboard.press("0")
    page.keyboard.press("r")
    closer, distance = page.locator(".stage[data-zoom='1.4']"), page.locator("[data-distance=shoulder_over_bar]")
    expect(closer).to_have_count(0)
    expect(distance).to_have_count(0)
    hear.click()
    at_frame(page, begun + 3)
    expect(closer).to_be_visible()
    expect(distance).to_be_visible()
    expect(hear).to_contain_text("Hear")
    expect(closer).to_have_count(0)
    expect(distance).to_have_count(0)
    assert burnt_number(page) == begun + 3
    # The worker makes it meanwhile.
    with page.expect_download(timeout=90_000) as kept:
        page.get_by_role("button", name="as a clip").click()
    assert kept.value.suggested_filename.endswith(f"-spoken-{begun}.mp4")
    page.get_by_role("button", name="Take back").click()
    expect(hear).to_have_count(0)


def test_positions_are_dragged_on_the_strip_and_a_finding_is_drawn(page: Page, site: str, burnt_clip: str) -> None:
    open_bench(page, f"{site}/clips/{burnt_clip}")
    lift = document(page, site, burnt_clip)["lifts"][0]
    page.get_by_test_id("show").first.click()
    expect(page.locator("[data-callout]").first).to_contain_text("cm")
    page.keyboard.press("i")
    expect(page.locator("[data-callout]")).to_have_count(0)
    knee = lift["events"]["knee"]["frame"]
    page.keyboard.press("p")
    picture = page.locator("[data-position=knee] img")
    box = picture.bounding_box()
    assert box
    page.mouse.move(box["x"] + 60, box["y"] + 40)
    page.mouse.down()
    page.mouse.move(box["x"] + 60 + 14, box["y"] + 40, steps=4)
    at_frame(page, knee + 2)
    page.mouse.up()
    # The knee is now where it was let go, by the coach's word; undone, it is back.
    expect(page.locator("[data-event=knee].set")).to_be_visible(timeout=WAIT_MS)
    assert document(page, site, burnt_clip)["lifts"][0]["events"]["knee"]["frame"] == knee + 2
    page.keyboard.press("z")
    expect(page.locator("[data-event=knee].set")).to_have_count(0, timeout=WAIT_MS)
    # Balance and sound are traces like the others; both were kept for this coach.
    page.keyboard.press("p")
    page.get_by_label("Trace 3").select_option("sound")
    page.get_by_label("Trace 2").select_option("balance")
    expect(page.get_by_text("no sound in this clip")).to_be_visible()
    page.get_by_label("Trace 2").select_option("aside")
    page.get_by_label("Trace 3").select_option("speed")

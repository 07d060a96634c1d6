"""Every main view against the rules that a machine can check of WCAG 2.2 A and AA: nothing serious is left."""

from __future__ import annotations

from pathlib import Path

import pytest
from playwright.sync_api import Browser, Page

from .test_work import Desk, desk, reviewed  # noqa: F401  (fixtures)

pytestmark = pytest.mark.browser
AXE = Path(__file__).parents[2] / "web" / "node_modules" / "axe-core" / "axe.min.js"
RULES = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
# Where each view is, and what is there once it has opened.
VIEWS = {
    "/": "h1", "/morning": "section", "/athletes": "form", "/library": "[data-exercise]", "/ladders/overhead_squat_group/class": "tbody tr",
    "/account": "li", "/begin/some-code": "form",
    "/schools": "select", "/athletes/{athlete}/plan": "aside", "/athletes/{athlete}/log": "aside", "/athletes/{athlete}/lifts": "main",
    "/clips/{clip}": "[data-test=frame]", "/clips/{clip}/hand-over": "aside", "/clips/{clip}/beside/none": "main",
}  # fmt: skip


def serious(page: Page) -> list[str]:
    """What is found of serious or critical weight: rule, and the first places."""
    # The page lets no script in but its own.
    page.evaluate(AXE.read_text())
    found = page.evaluate("(rules) => axe.run(document, { runOnly: rules }).then((told) => told.violations)", RULES)
    return [
        f"{one['id']}: {one['help']} at {[node['html'][:120] for node in one['nodes'][:3]]}"
        for one in found
        if one["impact"] in ("serious", "critical")
    ]


@pytest.mark.parametrize("light", ["light", "dark"])
def test_nothing_serious_is_left_on_any_view(
    browser: Browser,
    site: str,
    signed_in_state: dict,
    desk: Desk,  # noqa: F811
    reviewed: tuple[int, str],  # noqa: F811
    light: str,
) -> None:
    athlete, clip = reviewed
    token = desk.post(f"/api/athletes/{athlete}/link")["token"]
    desk.put(f"/api/ladders/overhead_squat_group/athletes/{athlete}")
    context = browser.new_context(storage_state=signed_in_state, color_scheme=light, reduced_motion="reduce")  # type: ignore[arg-type]
    page = context.new_page()
    told: dict[str, list[str]] = {}
    for path, there in {**VIEWS, f"/w/{token}": "h1"}.items():
        address = path.format(athlete=athlete, clip=clip)
        page.goto(f"{site}{address}")
        page.locator(there).first.wait_for()
        page.wait_for_load_state("networkidle")
        if left := serious(page):
            told[path if "/w/" not in path else "/w/"] = left
    bare = browser.new_page(color_scheme=light)  # type: ignore[arg-type]
    bare.goto(site)
    bare.get_by_label("Name").wait_for()
    if left := serious(bare):
        told["sign-in"] = left
    bare.close()
    context.close()
    assert not told, "\n".join(f"{path}\n  " + "\n  ".join(rows) for path, rows in told.items())

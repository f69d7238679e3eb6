"""Access: no page has a serious finding of the accessibility rules, at three widths and in both themes; read
aloud, everything has a name and every number a value."""

from pathlib import Path

import pytest
from playwright.sync_api import expect

RULES = Path(__file__).parents[2] / "node_modules/axe-core/axe.min.js"
SIZES = ((1280, 800), (820, 1100), (390, 844))
LOOK = """async (only) => {
  const found = await axe.run(document, { resultTypes: ["violations"], runOnly: only });
  return found.violations.filter((v) => ["serious", "critical"].includes(v.impact))
    .map((v) => `${v.id}: ${v.nodes.map((n) => n.target.join(" ")).slice(0, 3).join(", ")}`);
}"""
ALL = ["wcag2a", "wcag2aa", "wcag21a", "wcag21aa", "wcag22aa"]
OF_THEME = ["color-contrast"]  # all that a theme can change
PAGES = (
    "/", "/plan/", "/clips/", "/clips/?view=corrected", "/clips/card/", "/bench/4/", "/bench/4/history/",
    "/match/", "/hand-over/", "/logbook/", "/library/", "/library/cameras/1/", "/library/profiles/",
    "/library/profiles/log-mild/", "/library/profiles/new/", "/library/looks/", "/library/lab/",
    "/library/devices/", "/keep/", "/plan/1/checks/", "/offline/", "/practice/", "/practice/face/",
    "/practice/name-colour/", "/practice/eyes/tint/", "/practice/camera/",
)  # fmt: skip

NAMED = {"button", "link", "textbox", "searchbox", "spinbutton", "combobox", "checkbox", "radio", "slider",
         "progressbar", "switch", "DisclosureTriangle", "radiogroup", "image", "dialog"}  # fmt: skip
VALUED = {"slider", "progressbar", "spinbutton"}


def tree(page):
    """Role, name and value of all that a screen reader meets."""
    session = page.context.new_cdp_session(page)
    session.send("Accessibility.enable")
    nodes = session.send("Accessibility.getFullAXTree")["nodes"]
    session.detach()
    for node in nodes:
        if not node.get("ignored"):
            yield (
                node["role"]["value"], node.get("name", {}).get("value", "").strip(),
                node.get("value", {}).get("value"),
            )  # fmt: skip


@pytest.mark.parametrize("path", PAGES)
def test_given_any_page_when_looked_over_and_read_aloud_then_nothing_serious_is_found(page, address, path):
    page.goto(f"{address}{path}")
    if path == "/bench/4/":
        expect(page.locator("[data-bench][data-shown]")).to_be_visible()
        for part in ("style", "finish"):
            page.locator(f"#shared-{part} > summary").click()
    aloud = list(tree(page))
    page.evaluate(RULES.read_text(encoding="utf-8"))

    found = {f"without a name: {one}" for one in aloud if one[0] in NAMED and not one[1]}
    found |= {f"without a value: {one}" for one in aloud if one[0] in VALUED and one[2] is None}
    for width, height in SIZES:
        page.set_viewport_size({"width": width, "height": height})
        for theme, rules in (("light", ALL), ("dark", OF_THEME)):
            page.emulate_media(color_scheme=theme)
            page.wait_for_timeout(60)
            found |= {f"{width} {theme} {one}" for one in page.evaluate(LOOK, rules)}
        assert page.evaluate("document.documentElement.scrollWidth <= innerWidth"), width
    assert found == set()

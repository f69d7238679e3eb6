"""Hands that are quicker than the pages: two tabs, double clicks, the way back."""

from __future__ import annotations

import random
import re
import tempfile
from collections import Counter
from pathlib import Path

from playwright.sync_api import Error, Page, Response

from bench.attack.forms import demo, pages_of
from bench.attack.seen import is_quiet, until

__all__ = ["hands"]

BUTTONS = "main button:visible:enabled, main [role=button]:visible, main summary:visible"
LONGEST_MS = 1500


def hands(folder: Path, dice: random.Random, count: int) -> None:
    """Press a button of a page twice, and in another tab where it is the same page still; then go back."""
    wrong, pressed = Counter[str](), 0
    with tempfile.TemporaryDirectory() as place, demo(Path(place)) as (address, first):
        pages = list(pages_of(first, address))
        second = first.context.new_page()
        for tab in (first, second):
            tab.on("pageerror", lambda error: wrong.update([f"script: {str(error)[:120]}"]))
            tab.on("response", lambda answer: wrong.update(_failure(answer)))
            tab.on("dialog", lambda dialog: dialog.accept())
            tab.set_default_timeout(LONGEST_MS)
        for _ in range(count):
            path = dice.choice(pages)
            pressed += _press(first, second, address + path, dice, wrong)
        ended = until(lambda: is_quiet(Path(place)), 600)
    print(f"  {pressed} buttons pressed twice and in two tabs, and gone back, on {len(pages)} pages: "
          f"wrong {dict(wrong)}, all ended: {ended}", flush=True)  # fmt: skip


def _failure(answer: Response) -> list[str]:
    return [f"{answer.status} {re.sub('[0-9]+', 'N', answer.url.split('/', 3)[3])}"] * (answer.status >= 500)


def _press(first: Page, second: Page, url: str, dice: random.Random, wrong: Counter[str]) -> bool:
    try:
        for tab in (first, second):
            tab.goto(url, timeout=20_000)
        if not (buttons := first.locator(BUTTONS).count()):
            return False
        at = dice.randrange(buttons)
        first.locator(BUTTONS).nth(at).dblclick(timeout=LONGEST_MS)
        if at < second.locator(BUTTONS).count():
            second.locator(BUTTONS).nth(at).click(timeout=LONGEST_MS)
        first.go_back(timeout=20_000)
        if first.url.startswith("http") and not first.locator("h1").count():
            wrong[f"no heading after the way back to {first.url}"] += 1
    except Error as error:  # a button that is covered, or gone with what the first press did
        return "Timeout" not in str(error) and "detached" not in str(error)
    return True

"""Every form of every page: mutated files, absurd values, the same twice at once."""

from __future__ import annotations

import random
import re
import tempfile
import urllib.parse
from collections import Counter
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path

from playwright.sync_api import Page, sync_playwright

from bench.attack.files import sound_files
from bench.attack.seen import answer, is_quiet, rows, states_of_jobs, until
from bench.uploads import CHROMIUM
from tests.odd import WORDS, mutated
from tests.serving import Visitor, served

__all__ = ["Form", "all_forms", "demo", "forms", "pages_of", "send_as_it_is"]

MOST_PAGES, ALIKE = 150, 2  # pages that differ in their numbers alone
WORDS_A_FIELD = 6
# Morphe is not to start anew, and what others need goes last.
NEVER, LAST = (
    ("/keep/restore",),
    ("remove", "forget", "start-over", "leave", "/off/", "away", "demo", "begin"),
)
FORMS = """() => [...document.querySelectorAll("form, [hx-post]")].map((one) => {
  const form = one.closest("form"), method = (form?.method ?? "post").toLowerCase();
  const where = one.getAttribute("hx-post") ?? one.getAttribute("action") ?? location.pathname;
  const fields = [...(form ? form.elements : one.querySelectorAll("[name]"))].filter((field) => field.name);
  const said = fields.filter((field) => field.type !== "file" && field.name !== "csrfmiddlewaretoken");
  const files = fields.filter((field) => field.type === "file").map((field) => [field.name, field.accept]);
  const values = Object.fromEntries(said.map((field) => [field.name, field.value]));
  const more = JSON.parse(one.getAttribute("hx-vals") ?? "{}");
  return { where: new URL(where, location).pathname, method, files, values: { ...values, ...more } };
}).filter((found) => found.method === "post")"""
LINKS = "() => [...document.querySelectorAll('a[href]')].map((a) => a.href)"


@dataclass(frozen=True, slots=True)
class Form:
    """Where a form goes, what it says if nothing is changed, and which files it takes."""

    where: str
    values: dict[str, str]
    files: tuple[tuple[str, str], ...]


@contextmanager
def demo(home: Path) -> Iterator[tuple[str, Page]]:
    """A Morphe with the demo, read whole, its address and a browser's page."""
    with served(home) as address, sync_playwright() as run:
        until(lambda: bool(rows(home, "SELECT id FROM clips_clip")) and is_quiet(home), 300)
        browser = run.chromium.launch(executable_path=CHROMIUM, args=["--no-sandbox"])
        yield address, browser.new_context().new_page()
        browser.close()


def pages_of(page: Page, address: str) -> Iterator[str]:
    """Pages by following links, each opened as it is told; few of those that differ in their numbers."""
    line, seen = ["/"], Counter[str]()
    while line and seen.total() < MOST_PAGES:
        path = line.pop(0)
        alike = re.sub(r"\d+", "1", path)
        if seen[alike] >= ALIKE or re.search(r"\.\w{2,5}$", path.split("?")[0]):
            continue
        seen[alike] += 1
        answered = page.goto(address + path)
        if answered is None or "html" not in answered.headers.get("content-type", ""):
            continue
        yield path
        here = (urllib.parse.urlsplit(href) for href in page.evaluate(LINKS) if href.startswith(address))
        line += [found.path + (f"?{found.query}" if found.query else "") for found in here]


def all_forms(page: Page, address: str) -> list[Form]:
    """Each form once, those that take something away at the end."""
    found: dict[tuple[object, ...], Form] = {}
    for _ in pages_of(page, address):
        for one in page.evaluate(FORMS):
            form = Form(one["where"], one["values"], tuple((name, accept) for name, accept in one["files"]))
            key = (re.sub(r"\d+", "1", form.where), *sorted(form.values), form.files)
            if not form.where.startswith(NEVER):
                found.setdefault(key, form)
    return sorted(found.values(), key=lambda form: any(word in form.where for word in LAST))


def forms(folder: Path, dice: random.Random, count: int) -> None:
    """Send each form what nobody would, and tell what was no answer."""
    sounds, wrong, sent = sound_files(folder), Counter[str](), Counter[str]()
    with tempfile.TemporaryDirectory() as place, demo(Path(place)) as (address, page):
        visitor, found = Visitor(address), all_forms(page, address)
        for form in found:
            for sort, status in _sent(visitor, form, sounds, folder, dice, count):
                sent[sort] += 1
                if status[0] not in "234":
                    wrong[f"{status} {re.sub(r'[0-9]+', 'N', form.where)}"] += 1
        ended = until(lambda: is_quiet(Path(place)), 600)
        print(f"  {len(found)} forms: {dict(sent)}; no answer or a failure: {dict(wrong)}; "
              f"work {states_of_jobs(Path(place))}, all ended: {ended}", flush=True)  # fmt: skip


def _endings(accept: str, sounds: dict[str, bytes]) -> list[str]:
    return [ending for ending in sounds if ending in accept] or [".mp4", ".jpg"]


def _sent(
    visitor: Visitor, form: Form, sounds: dict[str, bytes], folder: Path, dice: random.Random, count: int
) -> Iterator[tuple[str, str]]:
    for field, accept in form.files:
        endings = _endings(accept, sounds)
        for number in range(count if ".mp4" not in endings else count // 10):  # clips have their own attack
            file = folder / f"mutated{endings[number % len(endings)]}"
            file.write_bytes(mutated(sounds[file.suffix], dice))

            def send(file: Path = file, field: str = field) -> bytes:
                return visitor.send(form.where, file, file.name, field, **form.values)

            yield "mutated files", answer(send)
    for field in form.values:
        for word in dice.sample(WORDS, WORDS_A_FIELD):
            odd = {**form.values, field: word.encode("utf-8", "replace").decode()}
            yield "odd values", answer(lambda v=odd: visitor.post(form.where, **v))
    with ThreadPoolExecutor() as both:
        twice = [both.submit(answer, lambda: visitor.post(form.where, **form.values)) for _ in range(2)]
    yield from (("twice at once", one.result()) for one in twice)


def send_as_it_is(visitor: Visitor, form: Form, sounds: dict[str, bytes], folder: Path) -> str:
    """Send a form as a person would who changes nothing, with a sound file where it takes one."""
    if not form.files:
        return answer(lambda: visitor.post(form.where, **form.values))
    field, accept = form.files[0]
    file = folder / f"sound{_endings(accept, sounds)[0]}"
    file.write_bytes(sounds[file.suffix] + bytes(random.randrange(9)) * (file.suffix == ".mp4"))
    return answer(lambda: visitor.send(form.where, file, file.name, field, **form.values))

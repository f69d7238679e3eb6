"""What holds on every page: one heading, labels, no inline code, forms with a token, constant queries."""

import re
from html.parser import HTMLParser

import pytest
from django.db import connection
from django.test import Client
from django.test.utils import CaptureQueriesContext

from morphe.web.clips.models import Clip
from morphe.web.clips.services.wall.grouping import group_anew


class Seen(HTMLParser):
    """What is looked at in a page."""

    VOID = ("input", "img", "meta", "link", "br", "hr")

    def __init__(self) -> None:
        super().__init__()
        self.headings = 0
        self.ids: list[str] = []
        self.labels: set[str] = set()
        self.unlabelled: list[str] = []
        self.inline: list[str] = []
        self.bare_forms = 0
        self.nameless: list[str] = []
        self._open: list[tuple[str, dict]] = []
        self._posting: list[bool] = []
        self._text = ""

    def handle_starttag(self, tag, attrs):
        found = dict(attrs)
        if tag == "h1":
            self.headings += 1
        if "id" in found:
            self.ids.append(found["id"])
        if tag == "label" and "for" in found:
            self.labels.add(found["for"])
        if "style" in found or tag == "style" or any(key.startswith("on") for key in found):
            self.inline.append(f"{tag} {found}")
        if tag == "script" and "src" not in found and found.get("type") != "application/json":
            self.inline.append(f"{tag} {found}")
        if tag == "form":
            self._posting.append(found.get("method", "get").lower() == "post")
        if tag == "input" and found.get("name") == "csrfmiddlewaretoken" and self._posting:
            self._posting[-1] = False
        if tag in ("input", "select", "textarea") and found.get("type") not in ("hidden", "submit"):
            wrapped = any(name == "label" for name, _ in self._open)
            named = "aria-label" in found or "aria-labelledby" in found
            if not wrapped and not named:
                self.unlabelled.append(found.get("id", "?"))
        if tag not in self.VOID:
            self._open.append((tag, found))
            if tag in ("button", "a"):
                self._text = found.get("aria-label", "") or found.get("title", "")

    def handle_data(self, data):
        self._text += data.strip()

    def handle_endtag(self, tag):
        if tag == "form" and self._posting:
            self.bare_forms += self._posting.pop()
        if tag in ("button", "a") and not self._text:
            self.nameless.append(str(self._open[-1][1]))
        while self._open and self._open.pop()[0] != tag:
            pass


PAGES = (
    "/", "/plan/", "/plan/print/", "/clips/", "/clips/card/", "/bench/{clip}/", "/hand-over/", "/logbook/",
    "/library/", "/library/cameras/new/", "/library/cameras/new/?like=fern", "/library/profiles/",
    "/keep/", "/library/looks/", "/library/devices/", "/match/",
    "/library/profiles/new/", "/library/profiles/log-wide/", "/library/profiles/hlg/",
    "/library/profiles/srgb/", "/library/lab/", "/library/lab/{series}/",
    "/practice/", "/practice/leans/", "/practice/eyes/warmth/", "/practice/camera/",
)  # fmt: skip


def seen(address, clip) -> tuple[Seen, str]:
    series = 1 if "{series}" not in address else _last_series()
    page = Client().get(address.format(clip=clip.pk, series=series))
    assert page.status_code == 200, address
    found = Seen()
    found.feed(page.content.decode())
    return found, page.content.decode()


def _last_series() -> int:
    from morphe.web.library.models import LabSeries

    return LabSeries.objects.latest("pk").pk


@pytest.mark.parametrize("address", PAGES)
def test_given_any_page_when_read_then_it_is_whole_labelled_and_without_inline_code(everything, address):
    found, page = seen(address, everything)

    assert found.headings == 1 or address == "/plan/print/"
    assert [i for i in found.unlabelled if i not in found.labels] == []
    assert found.inline == []
    assert found.nameless == []
    assert len(found.ids) == len(set(found.ids))
    assert "<title>" in page and 'lang="en"' in page


@pytest.mark.parametrize("address", PAGES)
def test_given_any_page_when_it_posts_then_its_forms_carry_a_token(everything, address):
    found, _ = seen(address, everything)

    assert found.bare_forms == 0


@pytest.mark.parametrize("address", PAGES)
def test_given_any_page_when_answered_then_the_policy_allows_this_application_alone(everything, address):
    answer = Client().get(address.format(clip=everything.pk, series=_last_series()))

    policy = answer["Content-Security-Policy"]
    assert "default-src 'self'" in policy and "unsafe" not in policy
    assert not re.findall(r'(?:src|href)="(?:https?:)?//', answer.content.decode())


def test_given_200_clips_when_listed_then_the_number_of_queries_is_that_of_ten(everything, outing):
    def queries(count):
        for number in range(Clip.objects.count(), count):
            Clip.objects.create(
                outing=outing, title=f"c{number}.mp4", sha256=str(number), size_bytes=1, state="ready",
                info=everything.info, profile=everything.profile, light=everything.light,
                headroom=everything.headroom,
            )  # fmt: skip
        group_anew(outing)
        with CaptureQueriesContext(connection) as found:
            assert Client().get("/clips/").status_code == 200
        return len(found)

    assert queries(10) == queries(200)


@pytest.mark.parametrize(
    "address",
    ["/bench/99999/", "/library/lab/99999/", "/clips/99999/group/", "/nowhere/", "/library/cameras/99999/"],
)
def test_given_an_address_that_is_not_there_when_asked_for_then_a_page_says_so_without_a_traceback(
    everything, address
):
    answer = Client().get(address)

    assert answer.status_code in (404, 405)
    assert b"Traceback" not in answer.content


@pytest.mark.parametrize(
    "address",
    [
        "/clips/upload/",
        "/clips/space/",
        "/clips/group-anew/",
        "/library/lab/begin/",
        "/plan/cameras/",
        "/outings/",
    ],
)
def test_given_a_request_without_a_token_when_it_would_change_something_then_it_is_refused(
    everything, address
):
    assert Client(enforce_csrf_checks=True).post(address, {}).status_code == 403


@pytest.mark.parametrize("address", [p for p in PAGES if p != "/plan/print/"])
def test_given_any_page_when_asked_what_it_is_then_a_sentence_says_so(everything, address):
    _, page = seen(address, everything)

    said = re.search(r'<p class="what"><strong>([^<]+)\.</strong> ([^<]+)</p>', page)
    assert said is not None and 5 < len(said[2].split()) < 25

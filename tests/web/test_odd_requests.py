"""Odd requests to every address: each gets its status, and never a failure of the server."""

from __future__ import annotations

import json
import random
import re
from pathlib import Path

import pytest
from django.db import transaction
from django.test import Client
from django.urls import URLPattern, URLResolver, get_resolver

import morphe.web
from morphe.core.standins.kits import KITS
from morphe.web.library.services.lab import begin_series
from morphe.web.outings.models import Camera
from morphe.web.plan.services.current import add_camera, plan_of
from tests.odd import WORDS

DEEP = "[" * 20_000 + "]" * 20_000
BODIES = (
    "", "[]", "null", "{", '{"grade": null}', '{"grade": {"schema": 4}}', '{"grade": {"layers": 5}}', DEEP,
    '{"grade": NaN}', '{"x": 1e999}', '{"name": "\\ud800", "size": 5}', '{"grade": {}, "frame": 1e30}',
    '{"grade": {"schema": 4, "source": [], "layers": []}, "frame": -1, "x": NaN, "y": "²"}',
    '{"grade": {"schema": 4, "source": [], "layers": []}, "frame": 99, "x": 0.5, "y": 0.5, "measure": 5}',
)  # fmt: skip
NUMBERS = ("1", "0", "99999999999999999999", "2147483648")
REQUESTS = 600
SOURCES = Path(morphe.web.__file__).parent


def addresses(patterns=None, before=""):
    """All addresses, as patterns with named places."""
    for entry in get_resolver().url_patterns if patterns is None else patterns:
        where = before + str(entry.pattern)
        if isinstance(entry, URLResolver):
            yield from addresses(entry.url_patterns, where)
        elif isinstance(entry, URLPattern):
            yield where.replace("^", "").replace("$", "").replace("\\.", ".")


def fields() -> list[str]:
    """Names that forms and views know."""
    found = set()
    for path in [*SOURCES.rglob("*.html"), *SOURCES.rglob("*.py")]:
        told = r'name="([a-z_\-]+)"|(?:POST|GET)\.get(?:list)?\("(\w+)"|asked\["(\w+)"\]'
        found |= set(re.findall(told, path.read_text()))
    return sorted({name for pair in found for name in pair if name})


def filled(pattern: str, chance: random.Random, own: int) -> str:
    """An address with odd things in its places."""

    def put(match: re.Match[str]) -> str:
        place = match[0]
        if "int:" in place or r"\d+" in place:
            kept = not pattern.endswith("remove/")  # what a clip is made of must be there for the others
            return chance.choice([str(own)] * 4 * kept + list(NUMBERS[1:]))
        if options := re.search(r"\(\?P<\w+>((?:[\w\-|]|\(\?:[^)]*\))+)\)", place):
            return chance.choice(re.sub(r"\w+-\(\?:([^)]*)\)", r"\1", options[1]).split("|"))
        return chance.choice(["x", "own-²", "own-99999999999999999999", "log", "as-filmed", "a" * 90])

    return "/" + re.sub(r"<\w+:\w+>|\(\?P<\w+>(?:[^()]|\([^)]*\))*\)", put, pattern)


def ask(client: Client, where: str, names: list[str], chance: random.Random):
    headers = {"HX-Request": "true"} if chance.random() < 0.5 else {}
    some = {name: chance.choice(WORDS) for name in chance.sample(names, 8)}
    some = {key: value.encode("utf-8", "replace").decode() for key, value in some.items()}
    with transaction.atomic():  # so that one request does not spoil the next
        kind = chance.randrange(3)
        if kind == 0:
            answer = client.get(where, some, headers=headers)
        elif kind == 1:
            answer = client.post(where, some, headers=headers)
        else:
            answer = client.post(where, chance.choice(BODIES), "application/json", headers=headers)
        list(getattr(answer, "streaming_content", ()))
        transaction.set_rollback(True)
    return answer, kind, some


@pytest.mark.django_db
def test_given_odd_requests_when_sent_to_every_address_then_none_fails(clip, settings, tmp_path):
    settings.IMPORT_ROOTS = [tmp_path]
    kit = KITS.get("cuttle")
    camera = Camera.objects.create(name=kit.name, kit=json.loads(json.dumps(kit.as_json())))
    add_camera(plan_of(clip.outing), camera)
    begin_series("Series")
    client = Client(raise_request_exception=False)
    seed = random.SystemRandom().randrange(10**9)
    chance, names, failed = random.Random(seed), fields(), []
    patterns = list(addresses())
    for number in range(REQUESTS):
        where = filled(patterns[number % len(patterns)], chance, clip.pk)
        answer, kind, some = ask(client, where, names, chance)
        if answer.status_code >= 500:
            error = answer.exc_info[1] if getattr(answer, "exc_info", None) else ""
            failed.append(f"{kind} {where} {json.dumps(some)[:300]}: {error!r}"[:700])
    assert not failed, f"seed {seed}:\n" + "\n".join(failed)

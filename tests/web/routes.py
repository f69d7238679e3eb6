"""Every route of the tree, with an address at which it answers."""

from __future__ import annotations

from collections.abc import Iterator
from itertools import product

from django.urls import NoReverseMatch, URLPattern, URLResolver, get_resolver, reverse

__all__ = ["every_route"]

# What the parts of addresses that are no numbers may be, whichever fits.
WORDS = {
    "token": ["0" * 32], "act": ["accept", "undo", "name", "split", "join"], "answer": ["wet"],
    "sense": ["warmth"], "way": ["with", "even"], "what": ["clip", "stop", "picture"], "kind": ["warm"],
    "ending": ["json", "csv"],
    "key": ["std-709", "contrast"],
}  # fmt: skip


def every_route(numbers: dict[str, int] | None = None) -> Iterator[tuple[str, str]]:
    """The name and an address of each; `numbers` are those in addresses, by what they are called."""
    for found in _patterns(get_resolver().url_patterns):
        for address in _addresses(found, numbers or {}):
            yield found.name, address


def _patterns(tree: list) -> Iterator[URLPattern]:
    for found in tree:
        if isinstance(found, URLResolver):
            yield from _patterns(found.url_patterns)
        else:
            yield found


def _addresses(found: URLPattern, numbers: dict[str, int]) -> list[str]:
    names = list(found.pattern.regex.groupindex)
    for values in product(*(WORDS.get(name, [numbers.get(name, 1)]) for name in names)):
        try:
            address = reverse(found.name, kwargs=dict(zip(names, values, strict=True)))
        except NoReverseMatch:
            continue
        inner = address.removeprefix("/")
        if any(found.pattern.match(inner[at:]) for at in range(len(inner) + 1)):
            return [address]
    raise AssertionError(f"No address is known for the route {found.name}.")

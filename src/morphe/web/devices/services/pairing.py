"""Pairing: links made and spent, devices known by what they show, tokens changed, devices sent away."""

from __future__ import annotations

import hashlib
import secrets
from dataclasses import dataclass
from datetime import timedelta

from django.core.cache import cache
from django.db import transaction
from django.utils import timezone

from morphe.core.errors import MorpheError
from morphe.web.devices.models import Device, PairLink

__all__ = [
    "COOKIE",
    "COOKIE_AGE_S",
    "Known",
    "NotPaired",
    "TooOften",
    "check_rate",
    "failed",
    "link_is_good",
    "make_link",
    "pair",
    "recognise",
    "send_away",
]

COOKIE, COOKIE_AGE_S = "morphe-device", 180 * 86400
LINK_LIFE = timedelta(minutes=10)
TOKEN_LIFE, TOKEN_OVERLAP = timedelta(days=1), timedelta(minutes=5)
USED_EVERY = timedelta(minutes=1)  # a device's last use is written no more often
MOST_FAILED, SLOW_S = 8, 600  # wrong links or tokens of one address, and for how long it is then refused


class NotPaired(MorpheError):
    """The link is used up, too old, or was never made."""


class TooOften(MorpheError):
    """An address has shown too much that is wrong."""


@dataclass(frozen=True, slots=True, kw_only=True)
class Known:
    """A device that was recognised; `fresh` is what it has to show from now on, if that has changed."""

    device: Device
    fresh: str = ""


def _hash(token: str) -> str:
    """Tokens have 256 bits of chance: one round is enough, and a database that leaks opens nothing."""
    return hashlib.sha256(token.encode("utf-8", "replace")).hexdigest()


def make_link(*, may_work: bool) -> str:
    """A new link's token; older links that nobody used are void."""
    token = secrets.token_urlsafe(32)
    PairLink.objects.all().delete()
    PairLink.objects.create(token=_hash(token), may_work=may_work)
    return token


def link_is_good(token: str) -> bool:
    """Whether a link still pairs."""
    return PairLink.objects.filter(token=_hash(token), made__gte=timezone.now() - LINK_LIFE).exists()


def pair(token: str, name: str) -> tuple[Device, str]:
    """Spend a link: the device, and what it has to show.

    Raises
    ------
    NotPaired
        If the link is used up, too old, or no link at all.
    """
    with transaction.atomic():
        link = PairLink.objects.filter(token=_hash(token), made__gte=timezone.now() - LINK_LIFE).first()
        if link is None or not PairLink.objects.filter(pk=link.pk).delete()[0]:
            raise NotPaired("This link is used up or too old; make a new one in Library, Devices.")
        shown = secrets.token_urlsafe(32)
        device = Device.objects.create(
            name=" ".join(name.split())[:60] or "A device", may_work=link.may_work, token=_hash(shown),
            token_since=timezone.now(),
        )  # fmt: skip
    return device, shown


def recognise(shown: str) -> Known | None:
    """The device that shows a token; None if there is none. A token is changed once a day."""
    if not shown:
        return None
    hashed, now = _hash(shown), timezone.now()
    device = Device.objects.filter(token=hashed).first()
    if device is None:
        device = Device.objects.filter(token_before=hashed, token_since__gte=now - TOKEN_OVERLAP).first()
        return Known(device=device) if device else None
    if device.last_used is None or now - device.last_used > USED_EVERY:
        Device.objects.filter(pk=device.pk).update(last_used=now)
    if now - device.token_since < TOKEN_LIFE:
        return Known(device=device)
    fresh = secrets.token_urlsafe(32)
    changed = Device.objects.filter(pk=device.pk, token=hashed).update(
        token=_hash(fresh), token_before=hashed, token_since=now
    )
    return Known(device=device, fresh=fresh if changed else "")


def send_away(device: Device) -> None:
    """Take a device's right to anything: what it shows is worth nothing from now on."""
    device.delete()


def failed(address: str) -> None:
    """Remember that an address showed something wrong."""
    key = f"wrong:{address}"
    cache.add(key, 0, SLOW_S)
    try:
        cache.incr(key)
    except ValueError:  # it ran out this very moment
        cache.set(key, 1, SLOW_S)


def check_rate(address: str) -> None:
    """Refuse an address that has been wrong too often, for some minutes."""
    if (cache.get(f"wrong:{address}") or 0) >= MOST_FAILED:
        raise TooOften("Too many tries; wait ten minutes, then use a new link.")

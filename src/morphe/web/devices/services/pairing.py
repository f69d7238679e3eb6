"""Pairing: links made and spent, devices known by what they show, tokens changed, devices sent away."""

from __future__ import annotations

import hashlib
import secrets
from base64 import urlsafe_b64encode
from dataclasses import dataclass
from datetime import timedelta

from django.core.cache import cache
from django.db import transaction
from django.utils import timezone
from django.utils.crypto import salted_hmac

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
    """The device that shows a token; None if there is none.

    A token holds until a fresh one was shown: after a day that is offered with every answer, each time the
    same one, for answers are lost.
    """
    if not shown:
        return None
    hashed, now = _hash(shown), timezone.now()
    device = Device.objects.filter(token=hashed).first() or _with_fresh(hashed) or _just_before(hashed)
    if device is None:
        return None
    if device.last_used is None or now - device.last_used > USED_EVERY:
        Device.objects.filter(pk=device.pk).update(last_used=now)
    if device.token != hashed or now - device.token_since < TOKEN_LIFE:
        return Known(device=device)
    fresh = _following(shown)
    if device.token_next != _hash(fresh):
        Device.objects.filter(pk=device.pk, token=hashed).update(token_next=_hash(fresh))
    return Known(device=device, fresh=fresh)


def _following(token: str) -> str:
    """The token after one, which this Morphe alone can tell."""
    told = salted_hmac("morphe.device", token, algorithm="sha256").digest()
    return urlsafe_b64encode(told).decode().rstrip("=")


def _with_fresh(hashed: str) -> Device | None:
    """The device that shows what it was offered: that is its token from now on."""
    device = Device.objects.exclude(token_next="").filter(token_next=hashed).first()
    if device is None:
        return None
    Device.objects.filter(pk=device.pk, token_next=hashed).update(
        token=hashed, token_before=device.token, token_next="", token_since=timezone.now()
    )
    return Device.objects.filter(pk=device.pk).first()


def _just_before(hashed: str) -> Device | None:
    """The device whose requests were still on their way when it first showed a fresh token."""
    since = timezone.now() - TOKEN_OVERLAP
    return Device.objects.filter(token_before=hashed, token_since__gte=since).first()


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

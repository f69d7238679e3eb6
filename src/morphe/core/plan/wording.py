"""Numbers as a photographer says them."""

from __future__ import annotations

import math

__all__ = ["clock", "kelvin", "minutes", "offset", "shutter", "stops"]

THIRDS = {1: "a third of a stop", 2: "two thirds of a stop"}


def stops(value: float) -> str:
    """A number of stops, without its sign: thirds in words, the rest to one decimal."""
    size = abs(value)
    thirds = round(size * 3)
    if abs(size * 3 - thirds) < 0.05 and thirds in THIRDS:
        return THIRDS[thirds]
    if thirds % 3 == 1 and abs(size * 3 - thirds) < 0.05:
        return f"{thirds // 3}⅓ stops"
    if thirds % 3 == 2 and abs(size * 3 - thirds) < 0.05:
        return f"{thirds // 3}⅔ stops"
    shown = f"{size:.1f}".removesuffix(".0")
    return f"{shown} stop{'' if shown == '1' else 's'}"


def offset(value: float) -> str:
    """A signed number of stops, rounded to thirds, as a camera shows it: "−⅔ stop"."""
    thirds = round(abs(value) * 3)
    if thirds == 0:
        return "0"
    whole, part = divmod(thirds, 3)
    shown = (str(whole) if whole else "") + {0: "", 1: "⅓", 2: "⅔"}[part]
    return f"{'+' if value > 0 else '−'}{shown} stop{'s' if thirds > 3 else ''}"


def shutter(seconds: float) -> str:
    """A shutter time as it stands on the camera."""
    if seconds >= 0.9:
        return f"{seconds:g} s"
    denominator = 1 / seconds
    return f"1/{denominator:.0f}" if denominator >= 10 else f"1/{denominator:.1f}"


def kelvin(value: float) -> str:
    """A colour temperature."""
    return f"{value:.0f} K"


def minutes(value: float) -> str:
    """A length of time for planning."""
    if value < 1:
        return f"{max(1, round(value * 60))} s"
    if value < 120:
        return f"{value:.0f} min"
    hours = value / 60
    return f"{hours:.1f} h" if hours < 10 else f"{math.floor(hours)} h"


def clock(hour: float) -> str:
    """Hours since midnight as 24-hour time."""
    total = round(hour * 60) % (24 * 60)
    return f"{total // 60:02d}:{total % 60:02d}"

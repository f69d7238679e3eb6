"""Timecode (SMPTE ST 12-1): so many frames later, with and without dropped numbers."""

from __future__ import annotations

import re
from fractions import Fraction

__all__ = ["counting_rate", "later"]

FORM = re.compile(r"(\d\d):(\d\d):(\d\d)([:;.])(\d\d)")
DAY_HOURS = 24
# Frames a second that a track of timecode can count.
RATES = (
    *(Fraction(whole) for whole in (24, 25, 30, 48, 50, 60, 100, 120)),
    *(Fraction(whole * 1000, 1001) for whole in (24, 30, 48, 60, 120)),
)


def counting_rate(fps: Fraction) -> Fraction:
    """The rate nearest to a clip's in which a track can count."""
    return min(RATES, key=lambda rate: abs(rate / fps - 1))


def later(timecode: str, frames: int, fps: float) -> str:
    """The timecode so many frames later; one that cannot be read is given back as it is.

    With drop-frame (";" before the frames) two numbers of thirty, or four of sixty, are left out at the start
    of every minute but each tenth.
    """
    found = FORM.fullmatch(timecode)
    if found is None:
        return timecode
    hours, minutes, seconds, _, last = found.groups()
    rate, mark = round(fps), found[4]
    dropped = round(rate / 15) if mark == ";" else 0
    past_minutes = int(hours) * 60 + int(minutes)
    count = (past_minutes * 60 + int(seconds)) * rate + int(last) + frames
    count -= dropped * (past_minutes - past_minutes // 10)
    ten = 600 * rate - 9 * dropped  # frames in ten minutes
    count %= DAY_HOURS * 6 * ten
    tens, rest = divmod(count, ten)
    one = 60 * rate - dropped
    minute = 0 if rest < 60 * rate else 1 + (rest - 60 * rate) // one
    count += dropped * (9 * tens + minute)
    whole, frame = divmod(count, rate)
    return f"{whole // 3600:02}:{whole // 60 % 60:02}:{whole % 60:02}{mark}{frame:02}"

"""How numbers are said to people: one sign, one unit, one rounding for all rungs."""

from __future__ import annotations

from morphe.core.measure.zone import Zone

__all__ = ["cast_words", "number", "percent", "sentence", "stops", "tint_words", "want"]

A_LITTLE, MUCH = (
    3.0,
    9.0,
)  # thousandths of Duv: about half and one and a half of what is clearly visible (.006)


def number(value: float, digits: int = 0) -> str:
    """A number without a minus before a zero."""
    said = f"{value:.{digits}f}"
    return said.lstrip("-") if float(said) == 0 else said.replace("-", "−")


def percent(value: float, digits: int = 0) -> str:
    return f"{number(value, digits)} %"


def stops(value: float) -> str:
    """A distance in stops, without its sign."""
    return f"{abs(value):.1f} stop{'' if abs(value) == 1 else 's'}"


def want(zone: Zone) -> str:
    """The zone as a sentence ends: "want 0–5"."""
    low, high = (number(v, 1).removesuffix(".0") for v in (zone.low, zone.high))
    return f"want {low}–{high}"


def tint_words(tint: float) -> str:
    """A cast across the daylight line, in thousandths of Duv, as people say it; empty where it hardly
    shows."""
    if abs(tint) < 1:
        return ""
    size = "a little " if abs(tint) < A_LITTLE else "much " if abs(tint) > MUCH else ""
    return f"{size}{'green' if tint > 0 else 'magenta'}"


def cast_words(warmth: float, tint: float) -> str:
    """A cast as people say it: "24 mired warm and a little green"."""
    sides = []
    if abs(warmth) >= 1:
        sides.append(f"{abs(warmth):.0f} mired {'warm' if warmth > 0 else 'cool'}")
    if green := tint_words(tint):
        sides.append(green)
    return " and ".join(sides) or "neutral"


def sentence(words: str) -> str:
    """Words with a capital and a full stop."""
    return f"{words[0].upper()}{words[1:]}." if words else ""

"""What to mind, by kind of shot. It names who decides; it never gives leave, times or depths."""

from __future__ import annotations

from dataclasses import dataclass

__all__ = ["Caution", "cautions_for"]


@dataclass(frozen=True, slots=True, kw_only=True)
class Caution:
    """One thing to mind before the camera is switched on."""

    key: str
    sentence: str


_CONSENT = Caution(
    key="consent", sentence="People who are filmed agree to it; for children, their guardians do."
)
_WAY = Caution(
    key="way", sentence="Set the camera before you move. Eyes on traffic and footing, not on the screen."
)
_WATER = (
    Caution(
        key="training",
        sentence="Only within your training and fitness, with a buddy. Your instructor, dive centre or local "
        "authority decides; Morphe gives no depths and no times.",
    ),
    Caution(
        key="conditions", sentence="Mind cold, currents, boats and lines that entangle; filming distracts."
    ),
    Caution(key="reserve", sentence="Touch nothing, keep lamps off resting animals, follow the local rules."),
)

_BY_SHOT: dict[str, tuple[Caution, ...]] = {
    "flight": (
        Caution(
            key="aviation",
            sentence="Registration, licence and where you may fly: the local aviation authority decides. "
            "Check today, for this place.",
        ),
        Caution(key="below", sentence="Not over people; keep away from animals, nests, roads and other "
                                      "aircraft."),
        Caution(key="aircraft", sentence="Keep it in sight. Mind distance, battery, wind and weather; "
                                         "land early."),
        _CONSENT,
    ),
    "ride": (_WAY, Caution(key="mount", sentence="A mount must not weaken helmet, brakes or view; check "
                                                 "the local rules."), _CONSENT),
    "walk": (_WAY, _CONSENT),
    "talk": (_CONSENT, Caution(key="stand", sentence="Weigh the tripod down; keep cables and legs out of "
                                                     "the way.")),
    "snorkel": _WATER,
    "dive": _WATER,
    "night": (
        _WAY,
        Caution(key="alone", sentence="Tell somebody where you are; keep lamps out of drivers' eyes."),
        _CONSENT,
    ),
}  # fmt: skip


def cautions_for(shot: str) -> tuple[Caution, ...]:
    """The cautions of a kind of shot, most serious first."""
    return _BY_SHOT[shot]

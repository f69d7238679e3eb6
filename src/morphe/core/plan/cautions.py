"""What to mind, by camera and kind of shot. It names who decides; it never gives leave, times or depths."""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.plan.kit import KitKind

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
_RIDE = Caution(
    key="ride", sentence="Whoever rides or drives never handles the camera; set it before you set off."
)
_FLIGHT = (
    Caution(
        key="aviation",
        sentence="Registration, licence, airspace and where you may fly: the local aviation authority "
        "decides. Check today, for this place.",
    ),
    Caution(
        key="below",
        sentence="Not over people; keep away from animals, nests, roads and other aircraft.",
    ),
    Caution(
        key="aircraft",
        sentence="One person flies and keeps it in sight, another watches the picture. Mind distance, "
        "battery, wind and weather; land early.",
    ),
)
_DARK = Caution(
    key="dark",
    sentence="By night other rules hold for flying: ask the authority, and light the landing place.",
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
    "flight": (*_FLIGHT, _CONSENT),
    "ride": (_RIDE, Caution(key="mount", sentence="A mount must not weaken helmet, brakes or view; check "
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


def cautions_for(shot: str, kind: KitKind) -> tuple[Caution, ...]:
    """The cautions of a kind of shot with a camera of a kind, most serious first: what flies, flies."""
    flying = _FLIGHT if kind is KitKind.DRONE else ()
    dark = (_DARK,) if kind is KitKind.DRONE and shot == "night" else ()
    return tuple(dict.fromkeys((*flying, *dark, *_BY_SHOT[shot])))

"""Room on the card, the way to the computer, and whether the computer keeps up.

1 Mb/s is 10⁶ bit/s, a card's GB 10⁹ bytes.
"""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.plan.kit import Card, Codec, Recording
from morphe.core.plan.questions import Device

__all__ = [
    "Fit",
    "Room",
    "editing_fit",
    "gb_for",
    "gib",
    "minutes_on",
    "needed_write_mb_s",
    "room",
    "transfer_minutes",
]

FORMATTED = 0.97  # of a card's size is left after formatting
KEPT_FREE = 0.9  # a tenth stays free
SPARE_TAKES = 1.15  # more is filmed than was meant


def gb_for(mbit_s: float, seconds: float) -> float:
    """Size in GB: Mb/s · s / 8000."""
    return mbit_s * seconds / 8000


def minutes_on(gb: float, mbit_s: float) -> float:
    """Minutes that fit into a number of GB."""
    return gb * 8000 / mbit_s / 60


def gib(gb: float) -> float:
    """GB (10⁹ bytes) as GiB (2³⁰ bytes)."""
    return gb * 1e9 / 2**30


def transfer_minutes(gb: float, mb_s: float) -> float:
    """Minutes to move a number of GB at a speed in MB/s."""
    return gb * 1000 / (mb_s * 60)


def needed_write_mb_s(mbit_s: float) -> float:
    """Sustained writing speed in MB/s that a card needs for a bitrate."""
    return 1.3 * mbit_s / 8


@dataclass(frozen=True, slots=True, kw_only=True)
class Room:
    """How a day's footage fits: sizes in GB, lengths in minutes."""

    usable_gb: float
    fits_minutes: float
    wanted_minutes: float
    needed_gb: float
    with_backup_gb: float
    transfer_minutes: float
    card: Card | None

    @property
    def is_enough(self) -> bool:
        return self.needed_gb <= self.usable_gb


def room(recording: Recording, card: Card | None, *, wanted_minutes: float, left_gb: float | None) -> Room:
    """See how many minutes fit on what is left, or on a fresh card; a tenth is kept free."""
    fresh = (card.gb if card else 64.0) * FORMATTED
    usable = (fresh if left_gb is None else min(left_gb, fresh) if card else left_gb) * KEPT_FREE
    needed = gb_for(recording.mbit_s, wanted_minutes * 60) * SPARE_TAKES
    return Room(
        usable_gb=usable,
        fits_minutes=minutes_on(usable, recording.mbit_s),
        wanted_minutes=wanted_minutes,
        needed_gb=needed,
        with_backup_gb=2 * needed,
        transfer_minutes=transfer_minutes(needed, card.read_mb_s if card else 90.0),
        card=card,
    )


# Megapixels a second that play smoothly, by device: compressed with hardware help, and intra or odd formats
# without. Rules of thumb; one test clip says more.
SMOOTH = {Device.LAPTOP: (520.0, 160.0), Device.TABLET: (420.0, 100.0), Device.PHONE: (260.0, 60.0)}


@dataclass(frozen=True, slots=True, kw_only=True)
class Fit:
    """How a device copes with a recording; `load` 1 is its limit."""

    load: float
    word: str
    sentence: str


def editing_fit(recording: Recording, device: Device) -> Fit:
    """Judge whether a device plays a recording smoothly."""
    helped = recording.codec is not Codec.INTRA and recording.chroma == "4:2:0"
    helped = helped and not (recording.codec is Codec.H264 and recording.bit_depth == 10)
    budget = SMOOTH[device][0 if helped else 1]
    load = recording.width * recording.height * recording.fps / 1e6 / budget
    name = f"a usual {device}"
    if load <= 1:
        return Fit(
            load=load, word="smooth", sentence=f"Should play smoothly on {name}; try one clip before the day."
        )
    if load <= 2.2:
        return Fit(
            load=load,
            word="with proxies",
            sentence=f"Needs proxies on {name}: it asks for {load:.1f} times what plays smoothly.",
        )
    return Fit(
        load=load,
        word="too heavy",
        sentence=f"Too heavy for {name}: {load:.1f} times what plays smoothly. Choose a smaller picture "
        "or a lighter codec.",
    )

"""The demo's card, with its folders and three clips in other light, and its series for the profile lab."""

from __future__ import annotations

import sys
from dataclasses import dataclass
from pathlib import Path

from morphe.core.standins.cameras import Exposure
from morphe.core.standins.drift import wandering_clip
from morphe.core.standins.lab import write_series

__all__ = ["CARD_CLIPS", "LAB_EXPOSURE", "CardClip", "make"]

WIDTH, SECONDS = 960, 4.0


@dataclass(frozen=True, slots=True, kw_only=True)
class CardClip:
    """One clip of the card: where it lies, when it was filmed, what the camera did."""

    path: str
    filmed: str  # UTC, on the day of the demo
    scene: str
    exposure: Exposure
    stops: float = 0.0
    mired: float = 0.0


CARD_CLIPS = (
    CardClip(
        path="DCIM/100SAND/SP0007.mp4", filmed="17:02", scene="sluice-approach", stops=0.7, mired=40.0,
        exposure=Exposure(profile="log-wide", bit_depth=10, codec="libx265", bits_per_pixel=0.12),
    ),
    CardClip(
        path="DCIM/100SAND/SP0008.mp4", filmed="17:20", scene="sluice-round",
        exposure=Exposure(exposure_stops=-0.7, warm_mired=55, bits_per_pixel=0.12),
    ),
    CardClip(
        path="DCIM/101SAND/SP0009.mp4", filmed="17:26", scene="sluice-approach",
        exposure=Exposure(exposure_stops=-0.6, warm_mired=50, bits_per_pixel=0.12),
    ),
)  # fmt: skip
LAB_EXPOSURE = Exposure(profile="log-wide", noise=0.0015, bits_per_pixel=0.5)


def make(folder: Path) -> None:
    """Record the card and the series below `folder`."""
    for number, clip in enumerate(CARD_CLIPS):
        path = folder / "card" / clip.path
        path.parent.mkdir(parents=True, exist_ok=True)
        wandering_clip(
            path, clip.exposure, stops=clip.stops, mired=clip.mired, seconds=SECONDS, width=WIDTH,
            scene=clip.scene, seed=20 + number, title="Sandpiper at Wrenfleet",
        )  # fmt: skip
    write_series(folder / "lab", LAB_EXPOSURE)


if __name__ == "__main__":
    make(Path(sys.argv[1]))

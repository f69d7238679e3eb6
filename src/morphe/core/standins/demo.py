"""The demo outing: a volunteer day at the made-up Wrenfleet estuary, filmed by three made-up cameras.

`python -m morphe.core.standins.demo FOLDER` makes the clips that are not there (about half an hour for all
on two cores).
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from datetime import date
from fractions import Fraction
from pathlib import Path
from typing import Any

import cv2
import numpy as np

from morphe.core.signal.arrays import Encoded, Linear
from morphe.core.standins.cameras import Exposure, film, record
from morphe.core.standins.dives import DESCENT, DIVES, render_dive
from morphe.core.standins.jetty import DURATION_S, render_jetty
from morphe.core.standins.marsh import render_marsh

__all__ = ["DEMO_CLIPS", "DEMO_DAY", "DemoClip", "render_scene"]

FPS = Fraction(25)
WIDTH, HEIGHT = 1280, 720


@dataclass(frozen=True, slots=True, kw_only=True)
class DemoClip:
    """One clip of the demo outing: which camera filmed which scene with which settings."""

    name: str
    camera: str
    filmed: str  # time of the file on the card, UTC, on DEMO_DAY
    scene: str
    exposure: Exposure
    seed: int


SCENES: dict[str, Callable[[float, int, int], Linear]] = {
    "sluice-round": lambda t, w, h: render_marsh(t, width=w, height=h, flight=0),
    "sluice-approach": lambda t, w, h: render_marsh(t, width=w, height=h, flight=1),
    "jetty-tan": lambda t, w, h: render_jetty(t, width=w, height=h, skin="tan"),
    "jetty-deep": lambda t, w, h: render_jetty(t, width=w, height=h, skin="deep"),
    **{scene: render_dive(scene) for scene in (*DIVES, DESCENT)},
}


def render_scene(scene: str, time_s: float, *, width: int, height: int) -> Linear:
    """Render one of the demo's scenes as scene-linear BT.709 (height, width, 3)."""
    return SCENES[scene](time_s, width, height)


DEMO_DAY = date(2026, 9, 12)
HEVC10: dict[str, Any] = {"codec": "libx265", "bit_depth": 10}
DEMO_CLIPS = (
    DemoClip(name="sandpiper-sluice-round.mp4", camera="Sandpiper", filmed="09:12", scene="sluice-round",
             seed=1, exposure=Exposure(profile="log-wide", exposure_stops=-0.3, warm_mired=-8, **HEVC10)),
    DemoClip(name="sandpiper-sluice-flat.mp4", camera="Sandpiper", filmed="09:31",
             scene="sluice-approach", seed=2,
             exposure=Exposure(profile="flat-a", exposure_stops=-0.5, warm_mired=-22, green_duv=0.002)),
    DemoClip(name="sandpiper-sluice-quick.mp4", camera="Sandpiper", filmed="09:44",
             scene="sluice-approach", seed=3,
             exposure=Exposure(profile="std-709", exposure_stops=-1.3)),
    DemoClip(name="fern-jetty-talk.mp4", camera="Fern", filmed="10:40", scene="jetty-tan",
             seed=4,
             exposure=Exposure(profile="std-709", exposure_stops=-0.2, warm_mired=34, green_duv=0.003)),
    DemoClip(name="fern-jetty-hlg.mp4", camera="Fern", filmed="10:52", scene="jetty-deep",
             seed=5, exposure=Exposure(profile="hlg", **HEVC10)),
    DemoClip(name="cuttle-jetty-log.mp4", camera="Cuttle", filmed="11:05", scene="jetty-tan",
             seed=6, exposure=Exposure(profile="log-lifted", exposure_stops=0.2, noise=0.002)),
    DemoClip(name="cuttle-meadow-2m-filter.mp4", camera="Cuttle", filmed="12:02",
             scene="seagrass-2-filter", seed=9, exposure=Exposure(profile="std-709")),
    DemoClip(name="cuttle-meadow-5m.mp4", camera="Cuttle", filmed="12:10", scene="seagrass-5",
             seed=7, exposure=Exposure(profile="log-mild", **HEVC10)),
    DemoClip(name="cuttle-meadow-9m-lamp.mp4", camera="Cuttle", filmed="12:16", scene="seagrass-9",
             seed=10, exposure=Exposure(profile="log-mild", noise=0.002)),
    DemoClip(name="cuttle-descent.mp4", camera="Cuttle", filmed="12:21", scene=DESCENT,
             seed=8, exposure=Exposure(profile="std-709", noise=0.0016)),
)  # fmt: skip


def _linear_frames(scene: str, store: Path) -> Iterator[Linear]:
    """Render a scene's frames, a quarter larger and averaged down; frames already rendered are read back."""
    for index in range(int(DURATION_S * FPS)):
        kept = store / f"{scene}-{index:03d}.npy"
        if not kept.exists():
            over = 1.25 if scene.startswith("sluice") else 1.0
            large = render_scene(
                scene, index / float(FPS), width=int(WIDTH * over), height=int(HEIGHT * over)
            )
            small = cv2.resize(large, (WIDTH, HEIGHT), interpolation=cv2.INTER_AREA)
            np.save(kept, small.astype(np.float16))
        yield np.load(kept).astype(np.float32)


def make(folder: Path, store: Path) -> None:
    """Render and encode every demo clip into `folder`, keeping rendered frames in `store`."""
    folder.mkdir(parents=True, exist_ok=True)
    store.mkdir(parents=True, exist_ok=True)
    for clip in (c for c in DEMO_CLIPS if not (folder / c.name).exists()):
        generator = np.random.default_rng(clip.seed)

        def filmed(clip: DemoClip = clip, generator: np.random.Generator = generator) -> Iterator[Encoded]:
            for linear in _linear_frames(clip.scene, store):
                yield film(linear, clip.exposure, generator)

        record(filmed(), folder / clip.name, clip.exposure, fps=FPS, title=f"{clip.camera} at Wrenfleet")
        print(f"{clip.name}: {(folder / clip.name).stat().st_size / 1e6:.2f} MB", file=sys.stderr)


if __name__ == "__main__":
    target = Path(sys.argv[1])
    make(target, Path(sys.argv[2]) if len(sys.argv) > 2 else target / ".frames")

"""Looks at their proposed strength on forty judging frames: what they lose, where skin goes, how they bend.

`python -m bench looks`. The frames are photographs that nothing was set by, filmed in ordinary video of 8
bits. What lay within a code of an end counts as lost before.
"""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np

from bench.colour import PHOTOGRAPHS
from bench.match import _light
from morphe.core.advise.whole.strain import LIMIT, strain_of
from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frames_at
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer
from morphe.core.measure.file_strength import FileStrength, strength_of_planes
from morphe.core.measure.skin import skin_of_pixels
from morphe.core.pipeline.reference import evaluate
from morphe.core.reading.reference import skin_masks
from morphe.core.signal.arrays import Encoded, Mask
from morphe.core.standins.cameras import Exposure, film, record
from morphe.core.style.looks import LOOKS
from morphe.core.style.strength import borne_strength, style_layer

FRAMES = 40
LUMA = np.array([0.2126, 0.7152, 0.0722], np.float32)


def _judging_frames(folder: Path) -> list[tuple[Encoded, FileStrength]]:
    rng, found = np.random.default_rng(31), []
    paths = sorted((PHOTOGRAPHS / "fresh").glob("*.png"))[:FRAMES]
    for at, path in enumerate(paths):
        light = _light(path, 1.0)
        clip = record((film(light, Exposure(), rng) for _ in range(2)), folder / f"{at}.mp4", Exposure())
        planes = [p for _, p in frames_at(probe(clip), [0.0])]
        found.append((planes[0].encoded(), strength_of_planes(planes)))
    return found


def _strained(file: FileStrength, layer: Layer) -> float:
    return strain_of(file, Grade().with_layer(layer), with_cure=False).worst / LIMIT


def _outcome(picture: Encoded, file: FileStrength, masks: list[Mask], key: str) -> tuple[float, ...]:
    """Strength; percent newly lost; degrees of skin beyond where it may lie; strain beyond its limit."""
    steps = LOOKS.get(key).steps
    borne = borne_strength((picture,), steps, masks, strain=lambda layer: _strained(file, layer))
    layer = style_layer(steps, borne.strength)
    out = evaluate(Grade().with_layer(layer), picture)
    peak, was = out.max(axis=-1), picture.max(axis=-1)
    lost = 100 * float(((peak >= 0.998) & (was < 0.998 - 1 / 219)).mean()) + 100 * float(
        (((out @ LUMA) <= 0.002) & ((picture @ LUMA) > 0.002 + 1 / 219)).mean()
    )
    off = 0.0
    if masks[0].any():
        before, after = (abs(skin_of_pixels(p[masks[0]]).off_deg) for p in (picture, out))
        off = max(after - max(before, 6.0), 0.0)
    return borne.strength, lost, off, _strained(file, layer) - max(1.0, _strained(file, style_layer((), 1.0)))


def run(_cache: Path) -> None:
    """Print, for every look, the strengths that are proposed and the worst of what they do."""
    with tempfile.TemporaryDirectory() as folder:
        frames = [(p, f, list(skin_masks((p,)))) for p, f in _judging_frames(Path(folder))]
    people = sum(bool(masks[0].any()) for _, _, masks in frames)
    print(f"Looks at their proposed strength on {len(frames)} judging frames, {people} with skin")
    for look in LOOKS.values():
        found = np.array([_outcome(*frame, look.key) for frame in frames])
        low, middle, high = np.percentile(found[:, 0], (0, 50, 100))
        print(
            f"  {look.label}: {100 * middle:.0f} % ({100 * low:.0f} to {100 * high:.0f}); newly lost at most "
            f"{found[:, 1].max():.2f} %, skin beyond its six degrees by {found[:, 2].max():.1f}, "
            f"strain beyond its limit by {max(found[:, 3].max(), 0):.2f}",
            flush=True,
        )

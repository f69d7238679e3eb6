"""Sound files of every sort that a form takes."""

from __future__ import annotations

import io
import zipfile
from pathlib import Path

import cv2
import numpy as np

from morphe.core.grade.grade import Grade
from morphe.core.grade.recipe import to_text
from morphe.core.grade.steps import Exposure, Saturation
from morphe.core.interchange.clf import clf_text
from morphe.core.interchange.stop_csv import stop_csv
from morphe.core.signal.profiles import PROFILES
from morphe.core.standins.cameras import Exposure as Filmed
from morphe.core.standins.cameras import film, record
from morphe.core.standins.demo import render_scene

__all__ = ["clip_file", "sound_files"]


def clip_file(folder: Path, name: str, frames: int = 12, width: int = 192) -> Path:
    """A clip that a camera has filmed."""
    generator = np.random.default_rng(1)
    linear = render_scene("sluice-round", 0.5, width=width, height=width * 9 // 16)
    shots = [film(linear, Filmed(), generator) for _ in range(min(frames, 12))]
    return record((shots[i % len(shots)] for i in range(frames)), folder / name, Filmed())


def sound_files(folder: Path) -> dict[str, bytes]:
    """One file of each ending that a form asks for."""
    table = "\n".join(
        f"{r / 3:.4f} {g / 3:.4f} {b / 3:.4f}" for b in range(4) for g in range(4) for r in range(4)
    )
    profile, recipe = PROFILES.get("log-wide"), to_text(Grade.of(Exposure(stops=1), Saturation(amount=5)))
    picture = np.random.default_rng(2).integers(0, 255, (90, 160, 3), np.uint8)
    archive = io.BytesIO()
    with zipfile.ZipFile(archive, "w") as packed:
        packed.writestr("one.json", recipe)
    slopes = "<SOPNode><Slope>1 1 1</Slope><Offset>0 0 0</Offset><Power>1 1 1</Power></SOPNode>"
    correction = f'<ColorCorrection id="a">{slopes}</ColorCorrection>'
    return {
        ".cube": f'TITLE "a"\nLUT_3D_SIZE 4\n{table}\n'.encode(), ".json": recipe.encode(),
        ".clf": clf_text(profile, curve=None).encode(), ".zip": archive.getvalue(),
        ".csv": stop_csv(profile).encode(), ".txt": b"1 0.2 0.3 0.4\n2 0.5 0.5 0.5\n" * 12,
        ".cdl": f'<ColorDecisionList xmlns="urn:ASC:CDL:v1.01"><ColorDecision>{correction}'
                "</ColorDecision></ColorDecisionList>".encode(),
        **{e: cv2.imencode(e, picture)[1].tobytes() for e in (".jpg", ".png")},
        **{e: clip_file(folder, f"sound{e}").read_bytes() for e in (".mp4", ".mkv", ".mov")},
    }  # fmt: skip

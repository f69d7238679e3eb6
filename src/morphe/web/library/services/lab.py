"""The profile lab: takes brought in, the card's region and the target's corners, the fit, and its profile."""

from __future__ import annotations

import io
import re
from pathlib import Path
from typing import Any

import cv2
import numpy as np
from django.conf import settings
from django.core.files.base import ContentFile

from morphe.core.errors import ColourError, MediaError
from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frames_at
from morphe.core.interchange.reference import read_reference
from morphe.core.measure.card import read_card
from morphe.core.measure.target import MADE_UP, Reference, fit_target, read_patches
from morphe.core.screen.pictures import jpeg
from morphe.core.signal.arrays import Encoded
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.fit_curve import fit_curve
from morphe.core.signal.own_profile import OwnProfile
from morphe.core.signal.point_curve import PointCurve
from morphe.core.signal.profiles import Kind
from morphe.core.standins.lab import CARD_REGION, CARD_STEPS, TARGET_CORNERS
from morphe.core.stored import read_array
from morphe.web.library.models import KeptProfile, LabSeries, LabTake
from morphe.web.library.services.profiles import keep_own

__all__ = [
    "begin_series",
    "demo_series",
    "fit_series",
    "read_take",
    "reference_of",
    "save_profile",
    "set_places",
    "step_in",
    "take_reference",
]

FRAMES, WIDTH = 8, 480
STILLS = {".png", ".jpg", ".jpeg", ".tif", ".tiff"}
MOST_TAKES, MAX_TAKE_BYTES = 40, 500 * 10**6
USUAL_REGION = (0.4, 0.4, 0.6, 0.6)
USUAL_CORNERS = ((0.2, 0.2), (0.8, 0.2), (0.8, 0.8), (0.2, 0.8))
STEP = re.compile(r"(plus|minus|[+\-\u2212])[_ -]?(\d+(?:[.,]\d+)?)", re.IGNORECASE)


def begin_series(name: str) -> LabSeries:
    """Begin a series with nothing in it."""
    name = " ".join(name.split())[:60]
    if not name:
        raise ColourError("Give the series a name, such as the camera and its setting.")
    return LabSeries.objects.create(
        name=name, region=list(USUAL_REGION), corners=[list(c) for c in USUAL_CORNERS]
    )


def step_in(name: str) -> float | None:
    """The step that a file name tells, such as card-minus-2.mp4 or grey+1.5.png."""
    found = STEP.findall(Path(name).stem)
    if not found:
        return None
    sign, digits = found[-1]
    value = float(digits.replace(",", "."))
    return -value if sign.lower() in ("minus", "-", "\u2212") else value


def read_take(series: LabSeries, path: Path, title: str) -> LabTake:
    """The first frames of a clip, or a still, as a take of a series that is not saved yet.

    Raises
    ------
    MediaError
        If it cannot be decoded, or the series is full.
    """
    if series.takes.count() >= MOST_TAKES:
        raise MediaError(f"A series has at most {MOST_TAKES} takes.")
    is_still = Path(title).suffix.lower() in STILLS
    frames = _still(path, title) if is_still else _clip_frames(path)
    buffer = io.BytesIO()
    np.save(buffer, np.stack(frames).astype(np.float16))
    take = LabTake(
        series=series, title=title[:200], stops=None if "target" in title.lower() else step_in(title)
    )
    take.frames.save(f"{series.pk}-take.npy", ContentFile(buffer.getvalue()), save=False)
    take.thumbnail.save(f"{series.pk}-take.jpg", ContentFile(jpeg(frames[0])), save=False)
    return take


def _clip_frames(path: Path) -> list[Encoded]:
    info = probe(path)
    times = np.linspace(0, max(info.duration_s - 2 / float(info.fps), 0), FRAMES)
    return [planes.encoded(width=WIDTH) for _, planes in frames_at(info, [float(t) for t in times])]


def _still(path: Path, title: str) -> list[Encoded]:
    picture = cv2.imread(str(path), cv2.IMREAD_ANYDEPTH | cv2.IMREAD_COLOR)
    if picture is None:
        raise MediaError(f"{title} cannot be read as a picture; save it as PNG.")
    scale = 65535.0 if picture.dtype == np.uint16 else 255.0
    encoded = cv2.cvtColor(picture, cv2.COLOR_BGR2RGB).astype(np.float32) / scale
    if encoded.shape[1] > WIDTH:
        size = (WIDTH, max(8, round(encoded.shape[0] * WIDTH / encoded.shape[1])))
        encoded = cv2.resize(encoded, size, interpolation=cv2.INTER_AREA).astype(np.float32, copy=False)
    return [encoded]


def set_places(series: LabSeries, region: list[float], corners: list[list[float]]) -> None:
    """Keep where the card and the target lie; what was fitted before no longer holds."""
    if (
        len(region) != 4
        or not all(0 <= v <= 1 for v in region)
        or region[0] >= region[2]
        or region[1] >= region[3]
    ):
        raise ColourError("The region lies outside the picture; draw it again.")
    if len(corners) != 4 or not all(len(c) == 2 and all(0 <= v <= 1 for v in c) for c in corners):
        raise ColourError("A corner lies outside the picture; place it again.")
    series.region, series.corners, series.fit, series.colour = region, corners, {}, {}
    series.save(update_fields=["region", "corners", "fit", "colour"])


def reference_of(series: LabSeries) -> Reference:
    """What the target's patches should be."""
    if not series.reference:
        return MADE_UP
    return Reference(
        names=tuple(series.reference["names"]), lab=tuple(tuple(v) for v in series.reference["lab"])
    )


def take_reference(series: LabSeries, text: str, name: str) -> None:
    """Keep the reference values of the person's own target."""
    found = read_reference(text, name)
    series.reference = {"names": list(found.names), "lab": [list(v) for v in found.lab]}
    series.save(update_fields=["reference"])


def _frames(take: LabTake) -> list[Encoded]:
    return list(read_array(take.frames.path).astype(np.float32))


def fit_series(series: LabSeries) -> None:
    """Fit the curve to the card's takes, and colours to the target if there is one."""
    region = (series.region[0], series.region[1], series.region[2], series.region[3])
    takes = [t for t in series.takes.all() if t.stops is not None]
    fit = fit_curve([read_card(_frames(t), region, float(t.stops or 0)) for t in takes])
    is_log = isinstance(fit.curve, CameraLog)
    series.fit = {
        "log": list(fit.curve.numbers) if isinstance(fit.curve, CameraLog) else None,
        "points": None if is_log else [list(p) for p in fit.curve.points],  # type: ignore[union-attr]
        "rms": fit.rms_stops, "worst": fit.worst_stops, "clip": fit.clip_stops,
        "usable": list(fit.usable_stops),
        "used": [
            {"stops": r.stops, "level": r.level, "error": e}
            for r, e in zip(fit.used, fit.errors_stops, strict=True)
        ],
        "sentences": list(fit.sentences),
    }  # fmt: skip
    target = series.takes.filter(stops=None).first()
    series.colour = _colour(series, target, fit.curve) if target else {}
    series.save(update_fields=["fit", "colour"])


def _colour(series: LabSeries, target: LabTake, curve: CameraLog | PointCurve) -> dict[str, Any]:
    linear = np.mean([curve.decode(f) for f in _frames(target)], axis=0)
    reference = reference_of(series)
    found = fit_target(read_patches(linear, [(c[0], c[1]) for c in series.corners]), reference)
    return {
        "whole": list(found.whole), "matrix": list(found.matrix), "sentence": found.sentence,
        "patches": [
            {"name": n, "before": round(b, 2), "after": round(a, 2)}
            for n, b, a in zip(reference.names, found.before, found.after, strict=True)
        ],
    }  # fmt: skip


def save_profile(series: LabSeries, name: str, *, with_colour: bool) -> KeptProfile:
    """Keep what was found as a profile; the matrix alone, since balance belongs to each clip."""
    if not series.fit:
        raise ColourError("Nothing has been fitted yet.")
    fit = series.fit
    curve = CameraLog.of(fit["log"]) if fit["log"] else PointCurve.of(fit["points"])
    kind = Kind.LOG if fit["log"] else Kind.FLAT if fit["clip"] > 2.6 else Kind.STANDARD
    own = OwnProfile(
        name=name, kind=kind, curve=curve, clip_stops=max(fit["clip"], 0.5),
        usable_stops=tuple(fit["usable"]), fit_error_stops=fit["rms"], source="measured",
        matrix=tuple(series.colour["matrix"]) if with_colour and series.colour else None,
    )  # fmt: skip
    return keep_own(own, f"Measured in the lab, within {fit['rms']:.3f} stop")


def demo_series() -> LabSeries:
    """The series that ships with the demo: an unknown camera filming its card and its target."""
    folder = Path(settings.PACKAGE) / "demo" / "lab"
    series = begin_series("Unknown camera, log menu")
    for step in CARD_STEPS:
        name = f"card-{'minus' if step < 0 else 'plus'}-{abs(step)}.mp4"
        read_take(series, folder / name, name).save()
    read_take(series, folder / "target.mp4", "target.mp4").save()
    set_places(series, list(CARD_REGION), [list(c) for c in TARGET_CORNERS])
    return series

"""A clip matched to a reference: another clip as it looks, or a still from a file."""

from __future__ import annotations

from dataclasses import dataclass, replace
from pathlib import Path

import cv2
import numpy as np

from morphe.core.advise.counted import Counted
from morphe.core.advise.evidence import Evidence, reduced
from morphe.core.advise.findings import Findings
from morphe.core.advise.rung import Advice
from morphe.core.advise.seen import Seen, seen_through
from morphe.core.errors import MediaError
from morphe.core.grade.grade import Grade
from morphe.core.grade.source import Source
from morphe.core.match.distance import distance
from morphe.core.match.match import Match, match
from morphe.core.measure.picture_area import area_of
from morphe.core.measure.readings import luma_of
from morphe.core.measure.skin import find_skin
from morphe.core.reading.clip import read_clip
from morphe.core.signal.arrays import Encoded, Mask
from morphe.core.signal.profiles import HDR, Kind

__all__ = [
    "Matched",
    "check_reference",
    "look_at_reference",
    "match_clip",
    "match_pictures",
    "read_still",
    "skin_masks",
]

STILLS = (".png", ".jpg", ".jpeg", ".tif", ".tiff", ".webp")
ENCODED_KINDS = (Kind.LOG, *HDR)  # what nobody looks at as it is
SURE = 0.6  # that a clip is of such a kind, before it is decoded as a reference
DARKEST, PLAINEST = 0.04, 0.012  # luma that the brightest 1 % reach; spread of luma and colour
LEAST_PIXELS = 64  # across


@dataclass(frozen=True, slots=True, kw_only=True)
class Matched:
    """The whole grade, what the match did, and the distance of the clip as filmed."""

    grade: Grade
    match: Match
    as_filmed: float

    def as_json(self) -> dict[str, object]:
        """By the contract; the first stage is the working space."""
        said = self.match.as_json()
        space = {
            "stage": "space", "label": "Into one working space", "before": round(self.as_filmed, 2),
            "after": round(self.match.before, 2), "does": self.grade.convert.summary or "nothing to do",
        }  # fmt: skip
        stages = said["stages"]
        assert isinstance(stages, list)
        return {
            **said,
            "distance": {"before": round(self.as_filmed, 2), "after": round(self.match.after, 2)},
            "stages": [space, *stages],
        }


def match_clip(clip: Path, reference: Path) -> tuple[Findings, Matched]:
    """Match a clip to a reference.

    Raises
    ------
    MorpheError
        If one of them cannot be read, or the reference cannot serve as one.
    """
    wanted = look_at_reference(reference)
    report = read_clip(clip, over_time=True)
    return report.findings, match_pictures(report.findings.evidence, report.advice, wanted, reference.name)


def match_pictures(evidence: Evidence, advice: Advice, reference: tuple[Encoded, ...], name: str) -> Matched:
    """Match a clip's judging frames, through its own conversion or as they are, whichever comes nearer."""
    seen = Seen(pictures=evidence.frames, times_s=evidence.times_s)
    as_filmed = distance(seen.pictures, reference)
    found: list[tuple[Grade, Match]] = []
    own = advice.grade.source
    sources = (own, Source(even_out=own.even_out, edges=own.edges))
    for source in dict.fromkeys(sources):
        pictures = seen_through(seen, Grade(source=source).uncovered).pictures
        masks = skin_masks(pictures)
        found.append((Grade(source=source), match(pictures, reference, masks)))
    grade, best = min(found, key=lambda one: one[1].after)
    if best.after >= as_filmed:  # nothing that can be done brings it nearer
        return Matched(
            grade=Grade(), match=replace(best, before=as_filmed, after=as_filmed), as_filmed=as_filmed
        )
    return Matched(
        grade=grade.with_layer(best.layer(f"Match to {name}"[:60])), match=best, as_filmed=as_filmed
    )


def skin_masks(pictures: tuple[Encoded, ...]) -> list[Mask]:
    """Which pixels (H, W) of pictures are skin."""
    masks = []
    for picture in pictures:
        (height, width), found = picture.shape[:2], find_skin(picture)
        mask = found[1].astype(np.uint8) if found else np.zeros((height, width), np.uint8)
        masks.append(cv2.resize(mask, (width, height), interpolation=cv2.INTER_NEAREST) > 0)
    return masks


def look_at_reference(path: Path) -> tuple[Encoded, ...]:
    """The pictures of a reference as a person sees them: a clip in log or HDR is decoded, a look is left."""
    if path.suffix.lower() in STILLS:
        still = reduced(read_still(path))
        pictures: tuple[Encoded, ...] = (Counted(area=area_of([still])).picture(still),)
    else:
        report = read_clip(path)
        frames, verdict = report.findings.evidence.frames, report.advice.profile
        is_encoded = verdict.kind in ENCODED_KINDS and verdict.confidence >= SURE
        source = Source(convert=verdict.convert) if is_encoded else Source()
        pictures = seen_through(Seen(pictures=frames), Grade(source=source)).pictures
    check_reference(pictures, path.name)
    return pictures


def check_reference(pictures: tuple[Encoded, ...], name: str) -> None:
    """Refuse what shows too little to be matched to."""
    pixels = np.concatenate([p.reshape(-1, 3) for p in pictures])
    if np.percentile(luma_of(pixels), 99) < DARKEST:
        raise MediaError(f"{name} is black; choose a reference that shows something.")
    if pixels.std(axis=0).max() < PLAINEST:
        raise MediaError(
            f"{name} shows a single colour; choose a reference with dark, middle and bright tones."
        )


def read_still(path: Path, name: str = "") -> Encoded:
    """A still of 8 or 16 bits (H, W, 3) as BT.709 is encoded; transparent parts are left black."""
    name = name or path.name
    try:
        data = np.fromfile(path, np.uint8)
    except OSError as error:
        raise MediaError(f"There is no readable picture at {path}; check the path.") from error
    picture = cv2.imdecode(data, cv2.IMREAD_COLOR | cv2.IMREAD_ANYDEPTH) if len(data) else None
    if picture is None:
        raise MediaError(f"{name} is not a picture that can be read; use a PNG, JPEG or TIFF.")
    if min(picture.shape[:2]) < LEAST_PIXELS:
        raise MediaError(f"{name} is only {min(picture.shape[:2])} pixels high or wide; use a larger still.")
    most = {np.dtype(np.uint8): 255.0, np.dtype(np.uint16): 65535.0}.get(picture.dtype, 1.0)
    return np.ascontiguousarray(picture[..., ::-1].astype(np.float32) / np.float32(most))

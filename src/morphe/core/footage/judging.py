"""Judging frames: the few moments of a clip by which it is corrected and checked."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import cv2
import numpy as np

from morphe.core.errors import NoPicture
from morphe.core.footage.info import SignalInfo
from morphe.core.footage.planes import MEASURE_WIDTH, Planes
from morphe.core.footage.reader import frames_at, key_frames_at
from morphe.core.signal.arrays import Encoded, Float
from morphe.core.signal.ycbcr import LUMA_WEIGHTS, Matrix, range_scale

__all__ = ["JudgingFrame", "chosen_of", "glance", "judging_frames", "moments_of"]

CANDIDATES = 9
USUAL_FRAMES, MOST_FRAMES = 3, 5
SAME_LIGHT = 1.0  # of the scaled features: frames nearer than this stand for each other
FADE_LUMA = 0.03  # a frame this dark on average is a fade or a covered lens
FEATURE_WIDTH = 160
GRAIN, GRAIN_LUMA = (320, 200), 0.25  # pixels of the part shown at full size; the luma where noise shows


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class JudgingFrame:
    """One moment: its role, its time, the picture at measuring size; when just decoded, planes at full
    size."""

    role: str  # "first", "middle" or "other light"
    time_s: float
    encoded: Encoded
    planes: Planes | None = None
    kept_grain: Encoded | None = None  # of a frame that was decoded elsewhere

    @property
    def grain(self) -> Encoded | None:
        """A part (200, 320, 3) of the frame at full size, where noise shows: in its middle darks."""
        return self.kept_grain if self.planes is None else _part_of(self.planes)


def _part_of(planes: Planes) -> Encoded:
    """The part whose mean lies nearest to where noise shows most, by whole blocks of chroma."""
    width, height = planes.size
    wide, tall = min(GRAIN[0], width // 2 * 2), min(GRAIN[1], height // 2 * 2)
    scale = range_scale(planes.range, planes.bit_depth)
    wanted = scale.luma_offset + GRAIN_LUMA * scale.luma_scale
    places = [
        (int(x * (width - wide) / 4) * 2, int(y * (height - tall) / 4) * 2)
        for x in (0, 1, 2) for y in (0, 1, 2)
    ]  # fmt: skip

    def away(place: tuple[int, int]) -> float:
        x, y = place
        return abs(float(planes.luma[y : y + tall, x : x + wide].mean()) - wanted)

    left, top = min(places, key=away)
    return planes.within(left, top, left + wide, top + tall).encoded()


def _candidate_times(info: SignalInfo) -> list[float]:
    """Evenly spread times that spare the first and last .3 s where the shot is long enough."""
    shot = info.worked_on
    length = shot.end_s - shot.begin_s
    count = CANDIDATES if length > 1.0 else max(1, min(3, round(length * float(info.fps))))
    return shot.spread(count, 0.3, 1.0 / float(info.fps))


def _features(encoded: Encoded) -> Float:
    """Light of a frame: log mean and ends of luma, balance of the channels, sharpness."""
    scale = FEATURE_WIDTH / encoded.shape[1]
    small = cv2.resize(encoded, None, fx=scale, fy=scale, interpolation=cv2.INTER_AREA)
    luma = small @ np.array(LUMA_WEIGHTS[Matrix.BT709], np.float32)
    light = np.log2(np.maximum(small, 0.02)).reshape(-1, 3).mean(axis=0)
    low, high = np.percentile(luma, [5, 95])
    sharpness = cv2.Laplacian(luma, cv2.CV_32F).var()
    return np.array(
        [np.log2(max(float(luma.mean()), 0.01)), low, high, light[0] - light[1], light[2] - light[1],
         luma.mean(), sharpness]
    )  # fmt: skip


def _choose(features: Float) -> list[tuple[str, int]]:
    """Pick (role, index): the first good one, the middle, and those whose light no chosen one stands for."""
    brightness, sharpness = features[:, 5], features[:, 6]
    good = (brightness > FADE_LUMA) & (sharpness > 0.15 * np.median(sharpness))
    if not good.any():
        good[:] = True
    indices = np.flatnonzero(good)
    middle = int(indices[np.argmin(np.abs(indices - (len(features) - 1) / 2))])
    first = int(indices[0])
    chosen = [("first", first)]
    if middle != first:
        chosen.append(("middle", middle))
    light = features[:, :5] / np.array([0.5, 0.15, 0.15, 0.15, 0.15])
    while len(chosen) < MOST_FRAMES:
        apart = np.min([np.linalg.norm(light - light[i], axis=1) for _, i in chosen], axis=0)
        apart[~good] = -1
        other = int(np.argmax(apart))
        least = 0.0 if len(chosen) < USUAL_FRAMES else SAME_LIGHT
        if apart[other] <= least:
            break
        chosen.append(("other light", other))
    return sorted(chosen, key=lambda item: item[1])


def glance(info: SignalInfo) -> tuple[Encoded, ...]:
    """Pictures of a clip that are quickly had, at measuring size: of up to three of its key frames.

    Where the only one is a fade or a covered lens, the judging frames are decoded instead.
    """
    times = _candidate_times(info)
    wanted = [times[at * (len(times) - 1) // 2] for at in range(3)]
    pictures = [planes.encoded(width=MEASURE_WIDTH) for _, planes in _key_frames(info, wanted)]
    bright = [p for p in pictures if float(p.mean()) > FADE_LUMA]
    return tuple(bright) or tuple(f.encoded for f in judging_frames(info))


def judging_frames(info: SignalInfo) -> tuple[JudgingFrame, ...]:
    """Choose one to three judging frames of a clip, up to five where its light varies, in order of time."""
    return chosen_of(moments_of(info))


def moments_of(info: SignalInfo) -> tuple[JudgingFrame, ...]:
    """Moments spread over what is worked on of a clip, from which judging frames are chosen.

    Only key frames are decoded where the clip has enough of them, so that a long clip is quick.

    Raises
    ------
    NoPicture
        If no frame can be decoded.
    """
    times = _candidate_times(info)
    found: list[tuple[float, Planes]] = []
    if info.worked_on.end_s - info.worked_on.begin_s > 8.0:
        found = _key_frames(info, times)
    if len(found) < 5:
        found = list(frames_at(info, times))
    if not found:
        raise NoPicture(f"{info.path.name} has no frame that can be decoded; copy it again from the card.")
    return tuple(
        JudgingFrame(role="", time_s=time_s, encoded=planes.encoded(width=MEASURE_WIDTH), planes=planes)
        for time_s, planes in found
    )


def chosen_of(moments: Sequence[JudgingFrame]) -> tuple[JudgingFrame, ...]:
    """The judging frames among moments, each with its role."""
    chosen = _choose(np.stack([_features(moment.encoded) for moment in moments]))
    return tuple(replace(moments[i], role=role) for role, i in chosen)


def _key_frames(info: SignalInfo, times: list[float]) -> list[tuple[float, Planes]]:
    """Key frames near some times, those that lie in the shot and not in a fade."""
    found = list(key_frames_at(info, times))
    if info.shot is None or not found:
        return found
    serves = info.shot.serves(np.array([time for time, _ in found]))
    return [one for one, is_served in zip(found, serves, strict=True) if is_served]

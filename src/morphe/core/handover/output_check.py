"""A delivered file looked over: decoded again from its first frame to its last."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

import av
import cv2
import numpy as np

from morphe.core.footage.info import SignalInfo
from morphe.core.footage.probe import open_clip, probe
from morphe.core.handover.delivery import Order
from morphe.core.handover.measured import BANDING_SHOWS, BLOCKS_SHOW, measured_in
from morphe.core.handover.sound import Heard
from morphe.core.handover.verdict import State, Verdict, Way
from morphe.core.measure.file_strength import FileStrength
from morphe.core.measure.flashes import CELLS, Flashes, FlashMeter
from morphe.core.pulse import alive
from morphe.core.signal.transfer import decode_srgb

__all__ = ["Checked", "check_output_file"]

SMALL = (4 * CELLS[0], 4 * CELLS[1])
LIGHT = decode_srgb(np.arange(256) / 255).astype(np.float32)  # of 8-bit codes
OUTSIDE_LOW, OUTSIDE_HIGH, MOST_OUTSIDE = -0.01, 1.03, 0.01  # EBU R 103: of nominal levels, of pixels
EVERY = 10  # frames between two whose levels are looked at
SOUND_APART_S = 0.15  # by which sound may be longer or shorter than the picture


@dataclass(frozen=True, slots=True, kw_only=True)
class Checked:
    """What was found: verdicts in the order of their weight, and banding, blocks and noise as numbers."""

    verdicts: tuple[Verdict, ...]
    measured: dict[str, Any]

    @property
    def is_good(self) -> bool:
        return all(v.state is State.GOOD for v in self.verdicts)


@dataclass(slots=True, kw_only=True)
class _Seen:
    """One decoding of the whole file."""

    times: list[float] = field(default_factory=list)
    outside: float = 0.0  # the largest share of pixels outside legal levels, of the frames looked at
    flashes: Flashes = field(default_factory=lambda: Flashes(most=0))
    error: str = ""


def check_output_file(
    out: Path, order: Order, frames: int, before: FileStrength | None, times_s: Sequence[float]
) -> Checked:
    """Decode a file that was written and hold it against what was ordered.

    Parameters
    ----------
    frames  : how many were painted for it
    before  : what the source itself showed of banding and blocks; None where there are several
    times_s : moments of the file at which these are measured
    """
    info, seen = probe(out), _seen(out)
    measured = measured_in(out, before, times_s) if before else {}
    verdicts = [
        _whole(seen, frames), _tags(info, order), _sound(out, info, order), _flashing(seen.flashes),
        _levels(seen), *_strained(measured),
    ]  # fmt: skip
    return Checked(verdicts=tuple(verdicts), measured=measured)


def _seen(out: Path) -> _Seen:
    seen, meter = _Seen(), FlashMeter()
    with open_clip(out) as source:
        video = source.streams.video[0]
        video.thread_type = "AUTO"
        try:
            for number, frame in enumerate(alive(source.decode(video))):
                time_s = float(frame.pts * frame.time_base)
                seen.times.append(time_s)
                small = frame.reformat(*SMALL, format="rgb24", interpolation="AREA").to_ndarray()
                meter.push(cv2.resize(LIGHT[small], CELLS, interpolation=cv2.INTER_AREA), time_s)
                if number % EVERY == 0:
                    seen.outside = max(seen.outside, _outside(frame))
        except av.error.FFmpegError as error:
            seen.error = str(error.strerror)
    seen.flashes = meter.result()
    return seen


def _outside(frame: Any) -> float:
    """Share of pixels whose luma lies outside legal levels."""
    plane, ten = frame.planes[0], "10" in frame.format.name
    rows = np.frombuffer(plane, np.uint16 if ten else np.uint8).reshape(plane.height, -1)[
        ::2, : frame.width : 2
    ]
    signal = (rows.astype(np.float32) / (4 if ten else 1) - 16) / 219
    return float(((signal < OUTSIDE_LOW) | (signal > OUTSIDE_HIGH)).mean())


def _whole(seen: _Seen, frames: int) -> Verdict:
    label = "Frames"
    if seen.error or len(seen.times) != frames:
        return Verdict(
            key="frames", label=label, state=State.BAD, way=Way.AGAIN,
            sentence=f"{len(seen.times)} of {frames} frames can be decoded: hand it over again.",
        )  # fmt: skip
    if any(b <= a for a, b in zip(seen.times, seen.times[1:], strict=False)):
        return Verdict(
            key="frames", label=label, state=State.BAD, way=Way.AGAIN,
            sentence="Times go backwards in it: hand it over again.",
        )  # fmt: skip
    return Verdict(
        key="frames", label=label, state=State.GOOD,
        sentence=f"All {frames} frames were decoded again, and their times rise.",
    )  # fmt: skip


def _tags(info: SignalInfo, order: Order) -> Verdict:
    hdr = order.delivery.preset.hdr
    wanted = ("bt2020", "bt2020", hdr) if hdr else ("bt709", "bt709", "bt709")
    found = (str(info.matrix), str(info.primaries), info.transfer)
    name = f"{hdr.upper()}, BT.2100" if hdr else "BT.709, narrow range"
    if found == wanted and str(info.range) == "narrow" and info.rotation == 0:
        return Verdict(key="tags", label="Tags", state=State.GOOD, sentence=f"It says what it is: {name}.")
    return Verdict(
        key="tags", label="Tags", state=State.BAD, way=Way.AGAIN,
        sentence=f"It should say {name}, and says {', '.join(found)}: hand it over again.",
    )  # fmt: skip


def _sound(out: Path, info: SignalInfo, order: Order) -> Verdict:
    label, had = "Sound", order.info.audio is not None
    if order.delivery.sound is Heard.LEFT_OUT or not had:
        said = "It was filmed without sound." if not had else "Left out, as you said."
        return Verdict(key="sound", label=label, state=State.GOOD, sentence=said)
    if info.audio is None:
        return Verdict(
            key="sound", label=label, state=State.BAD, way=Way.AGAIN,
            sentence="The clip has sound and the file has none: hand it over again.",
        )  # fmt: skip
    length, loudest = _heard(out)
    apart = length - info.duration_s
    if apart < -SOUND_APART_S - 0.02 * info.duration_s:
        return Verdict(
            key="sound", label=label, state=State.CAUTION, way=Way.AGAIN,
            sentence=f"It ends {-apart:.1f} s before the picture does.",
        )  # fmt: skip
    silent = "It is there, and silent." if loudest < 1e-4 else "It is there, from first to last."
    return Verdict(key="sound", label=label, state=State.GOOD, sentence=silent)


def _heard(out: Path) -> tuple[float, float]:
    """Seconds of sound that can be decoded, and its highest sample."""
    seconds, loudest = 0.0, 0.0
    with open_clip(out) as source:
        for frame in alive(source.decode(source.streams.audio[0])):
            seconds += frame.samples / frame.sample_rate
            samples = frame.to_ndarray()
            scale = np.iinfo(samples.dtype).max if samples.dtype.kind == "i" else 1.0
            loudest = max(loudest, float(np.abs(samples).max(initial=0)) / scale)
    return seconds, loudest


def _flashing(found: Flashes) -> Verdict:
    label = "Flashes"
    if found.state == "good":
        return Verdict(
            key="flashes", label=label, state=State.GOOD, sentence="No more than three within a second."
        )
    kind = "Red flashes" if found.is_red else "Flashes"
    return Verdict(
        key="flashes", label=label, state=State(found.state), way=Way.PARTS,
        sentence=f"{kind} at {found.at_s:.1f} s: {found.most / 2:g} within a second, which can harm "
        "some people. Leave that part out, or lower contrast there. A guide, no certificate.",
    )  # fmt: skip


def _levels(seen: _Seen) -> Verdict:
    if seen.outside > MOST_OUTSIDE:
        return Verdict(
            key="levels", label="Levels", state=State.CAUTION, way=Way.BENCH,
            sentence=f"{100 * seen.outside:.1f} % of a frame is outside legal levels (EBU R 103 allows 1 %).",
        )  # fmt: skip
    return Verdict(key="levels", label="Levels", state=State.GOOD, sentence="Legal (EBU R 103).")


def _strained(measured: dict[str, Any]) -> list[Verdict]:
    if not measured:
        return []
    said = []
    for key, label, shows in (("banding", "Banding", BANDING_SHOWS), ("blocks", "Blocks", BLOCKS_SHOW)):
        before, after = measured[key]
        worse = after > shows and after > before
        said.append(
            Verdict(
                key=key,
                label=label,
                state=State.CAUTION if worse else State.GOOD,
                way=Way.BENCH if worse else Way.NONE,
                sentence=f"{before:g} in the clip, {after:g} in the file"
                + (": may show in smooth parts; bend it less, or leave some noise." if worse else "."),
            )
        )
    return said

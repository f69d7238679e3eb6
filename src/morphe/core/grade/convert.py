"""The first of all: from the camera's encoding to scene-linear light, by curve, by table or by hand."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, fields
from functools import lru_cache
from typing import ClassVar

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.grade.light import Light
from morphe.core.grade.param import Param
from morphe.core.grade.step import ColourStep, InHdr
from morphe.core.grade.table import SHELF
from morphe.core.signal.arrays import Encoded, Float, Linear
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.families import FlatGamma, Landing, curve_of
from morphe.core.signal.hdr import hlg_to_display, nits_to_sdr_display, pq_to_display
from morphe.core.signal.own_profile import OwnProfile
from morphe.core.signal.point_curve import PointCurve
from morphe.core.signal.primaries import LUMINANCE_709, Primaries, compress_gamut, rgb_to_rgb
from morphe.core.signal.profiles import HDR, PROFILES, Kind
from morphe.core.signal.transfer import decode_bt709, encode_bt1886
from morphe.core.signal.ycbcr import LUMA_WEIGHTS, Matrix, rgb_to_ycbcr_matrix, ycbcr_to_rgb_matrix

__all__ = ["FAMILY_OF", "SCENE", "Convert", "convert_of", "fitted", "narrowed"]

# What `profile` may say beside the key of a built-in profile.
FITTED, FITTED_FLAT, OWN, HAND, TABLE = "fitted", "fitted-flat", "own", "hand", "table"
FAMILY_OF = {FITTED: Kind.LOG, FITTED_FLAT: Kind.FLAT}  # profiles that are judged from the clip itself
MOST_HAND_POINTS = 16
UNBOUNDED = 1e6  # light may stay as bright as it is; a later step rolls it in

DISPLAY, SCENE = "display", "scene"
READ_BY = tuple(str(m) for m in LUMA_WEIGHTS)


LARGEST = 100  # of a matrix
FARTHEST_POINT = 4.0  # of a curve by hand: codes and levels are near 0..1


@dataclass(frozen=True, slots=True, kw_only=True)
class Convert(ColourStep):
    """Turn the camera's profile into scene-linear light.

    `profile` is a key of the built-in profiles, or
    - "fitted": a log curve judged from the clip itself, its numbers in `curve`; "fitted-flat": a flat gamma;
    - "own": the person's profile `name`, a log curve in `curve` or measured `points` of (code, stops);
    - "hand": a curve drawn by hand through `points` of (code, BT.709 code);
    - "table": the person's LUT `name`, on the shelf under the digest `table`.

    `primaries` overrides the profile's own; `matrix` is a 3x3, row by row, on the light that results;
    `chroma` widens colours that a fitted curve left muted; `bend` makes a fitted curve wider (positive) or
    milder between the same black and white. `rendering` tells whether HLG arrives as a
    display shows it, anchored at reference white (BT.2390 and BT.2408), or as light of the scene. `wide`
    keeps the light in BT.2020 primaries until it is encoded. `read_by` names the matrix by which the codes
    were read into R'G'B', where tags were missing or wrong: the profile's own would have been right.
    """

    key: ClassVar[str] = "convert"
    label: ClassVar[str] = "Profile"
    in_hdr: ClassVar[InHdr] = InHdr.AS_IS
    works_in: ClassVar[Light] = Light.ENCODED
    params: ClassVar[dict[str, Param]] = {
        "chroma": Param(
            low=0.5,
            high=2.5,
            neutral=1,
            label="Colour",
            up="fuller",
            down="paler",
            nudge=0.02,
            may_move=False,
        ),
        "bend": Param(
            low=-1.5, high=1.5, label="Curve", up="wider", down="milder", nudge=0.05, may_move=False
        ),
    }

    profile: str = "std-709"
    name: str = ""
    curve: tuple[float, ...] | None = None
    points: tuple[tuple[float, float], ...] | None = None
    table: str = ""
    primaries: str = ""
    matrix: tuple[float, ...] | None = None
    chroma: float = 1.0
    bend: float = 0.0
    rendering: str = DISPLAY
    wide: bool = False
    read_by: str = ""

    def __post_init__(self) -> None:
        ColourStep.__post_init__(self)
        self._light_of()
        if self.primaries and self.primaries not in [str(p) for p in Primaries]:
            raise ColourError(f"There are no primaries {self.primaries!r}.")
        if self.matrix is not None and (len(self.matrix) != 9 or not np.isfinite(self.matrix).all()):
            raise ColourError("A colour matrix has nine numbers.")
        if self.matrix is not None and np.abs(self.matrix).max() > LARGEST:
            raise ColourError(f"The numbers of a colour matrix lie between −{LARGEST} and {LARGEST}.")
        if self.read_by and self.read_by not in READ_BY:
            raise ColourError(f"There is no matrix {self.read_by!r}; known are {', '.join(READ_BY)}.")
        if self.rendering not in (DISPLAY, SCENE):
            raise ColourError(f"HDR is rendered as {DISPLAY} or {SCENE}, not as {self.rendering!r}.")

    @property
    def summary(self) -> str:
        return ", ".join([self._curve, *self._said_numbers]) if self.at_work else ""

    @property
    def _curve(self) -> str:
        """The curve that it takes off, as people call it."""
        if self.profile in FAMILY_OF:
            return f"{FAMILY_OF[self.profile].word}, judged"
        return PROFILES.get(self.profile).label if self.profile in PROFILES else self.name or "by hand"

    @property
    def is_neutral(self) -> bool:
        return all(getattr(self, f.name) == f.default for f in fields(self) if f.name != "on")

    @property
    def gives(self) -> Light:
        return Light.WIDE if self.wide and not self._is_rendered else Light.LINEAR

    @property
    def _is_rendered(self) -> bool:
        """Whether the light arrives as a display shows it, already in BT.709."""
        kind = PROFILES.get(self.profile).kind if self.profile in PROFILES else None
        return kind is Kind.PQ or (kind is Kind.HLG and self.rendering == DISPLAY)

    @property
    def judged_curve(self) -> FlatGamma | CameraLog | None:
        """The curve that was judged from the clip, as it was bent since; None for every other profile."""
        if self.profile not in FAMILY_OF:
            return None
        return _bent(self.profile, self.curve or (), self.bend)

    @property
    def gamut(self) -> Primaries:
        """Primaries of the light that the curve gives."""
        if self.primaries:
            return Primaries(self.primaries)
        return PROFILES.get(self.profile).primaries if self.profile in PROFILES else Primaries.BT709

    def _light_of(self) -> Callable[[Float], Float]:
        """The function from code fraction to light; refuses what describes none."""
        if self.profile in FAMILY_OF:
            return _bent(self.profile, self.curve or (), self.bend).decode
        if self.profile == OWN and self.curve is not None:
            return CameraLog.of(self.curve).decode
        if self.profile == OWN:
            return _measured(self.points or ()).decode
        if self.profile == HAND:
            return _drawn(self.points or ())
        if self.profile == TABLE:
            SHELF.check(self.table, self.name)
            return lambda encoded: decode_bt709(SHELF.get(self.table, self.name).apply(encoded))
        return PROFILES.get(self.profile).decode

    def apply(self, picture: Encoded) -> Linear:
        """Camera-encoded to scene-linear BT.709, or BT.2020 if it is to stay wide."""
        picture = self.read_rightly(picture)
        if self._is_rendered:
            nits = (hlg_to_display if self.profile == "hlg" else pq_to_display)(picture)
            linear = decode_bt709(encode_bt1886(nits_to_sdr_display(nits))).astype(np.float32)
        else:
            # A code far outside the range, through a steep curve, would be more light than numbers hold.
            linear = self._in_gamut(np.clip(self._light_of()(picture), -UNBOUNDED, UNBOUNDED))
        return self.coloured(linear)

    def read_rightly(self, picture: Encoded) -> Encoded:
        """R'G'B' (..., 3) as the right matrix would have read it."""
        if not self.read_by:
            return picture
        right = Matrix.BT2020 if self.profile in HDR else Matrix.BT709
        return np.asarray(picture @ _read_anew(self.read_by, right).T, np.float32)

    def coloured(self, linear: Linear) -> Linear:
        """Light (..., 3) with what is done about its colours."""
        if self.matrix is not None:
            linear = linear @ np.array(self.matrix, np.float32).reshape(3, 3).T
        if self.chroma != 1.0:
            luminance = (linear @ LUMINANCE_709.astype(np.float32))[..., None]
            linear = luminance + np.float32(self.chroma) * (linear - luminance)
        return linear.astype(np.float32)

    def _in_gamut(self, linear: Linear) -> Linear:
        source = Primaries.BT709 if self.gamut is Primaries.UNSPECIFIED else self.gamut
        target = Primaries.BT2020 if self.gives is Light.WIDE else Primaries.BT709
        if source is target:
            return linear
        moved = linear @ rgb_to_rgb(source, target).T.astype(np.float32)
        return moved if target is Primaries.BT2020 else _inside_gamut(moved)


def fitted(kind: Kind, landing: Landing, colour: float = 1.0) -> Convert:
    """The conversion of a flat or a log curve through three landmarks, with its gain of colour."""
    numbers = tuple(round(n, 5) for n in curve_of(kind, landing).numbers)
    profile = next(key for key, family in FAMILY_OF.items() if family is kind)
    return Convert(
        profile=profile, curve=numbers,
        chroma=round(Convert.within("chroma", colour), 3),
    )  # fmt: skip


def convert_of(own: OwnProfile) -> Convert:
    """The step that converts from one of the person's own profiles."""
    numbers = own.curve.numbers if isinstance(own.curve, CameraLog) else None
    return Convert(
        profile=OWN, name=own.name, curve=numbers, points=None if numbers else own.curve.points,  # type: ignore[union-attr]
        primaries="" if own.primaries is Primaries.BT709 else str(own.primaries), matrix=own.matrix,
    )  # fmt: skip


def narrowed(wide: Linear) -> Linear:
    """BT.2020 to BT.709 light; only what the wider primaries left negative is compressed."""
    return _inside_gamut(wide @ rgb_to_rgb(Primaries.BT2020, Primaries.BT709).T.astype(np.float32))


def _inside_gamut(linear: Linear) -> Linear:
    return compress_gamut(linear, threshold=0.85, peak=UNBOUNDED)


@lru_cache(maxsize=4)
def _read_anew(read_by: str, right: Matrix) -> Float:
    """The 3x3 from R'G'B' read by one matrix to R'G'B' read by the right one."""
    return ycbcr_to_rgb_matrix(right) @ rgb_to_ycbcr_matrix(Matrix(read_by))


@lru_cache(maxsize=256)
def _bent(profile: str, numbers: tuple[float, ...], bend: float) -> FlatGamma | CameraLog:
    """The curve of a fitted profile, made wider or milder."""
    if profile == FITTED_FLAT:
        if len(numbers) != 3:
            raise ColourError("A fitted flat profile needs the three numbers of its curve.")
        curve: FlatGamma | CameraLog = FlatGamma.of(numbers)
    elif len(numbers) in (4, 5):
        curve = CameraLog.of(numbers)
    else:
        raise ColourError("A fitted profile needs the four numbers of its curve.")
    return curve if bend == 0 else curve_of(FAMILY_OF[profile], Landing.of(curve).wider(bend))


@lru_cache(maxsize=64)
def _measured(points: tuple[tuple[float, float], ...]) -> PointCurve:
    return PointCurve.of(points)


@lru_cache(maxsize=64)
def _drawn(points: tuple[tuple[float, float], ...]) -> Callable[[Float], Float]:
    """A curve from code to BT.709 code through points, straight beyond its ends, and from there to light."""
    if not 2 <= len(points) <= MOST_HAND_POINTS:
        raise ColourError(f"A curve drawn by hand has 2 to {MOST_HAND_POINTS} points.")
    table = np.array(points, float)
    if (
        not np.isfinite(table).all()
        or np.abs(table).max() > FARTHEST_POINT
        or (np.diff(table[:, 0]) < 0.01).any()
        or (np.diff(table[:, 1]) < 0).any()
    ):
        raise ColourError("The points of a curve must follow each other to the right and never fall.")
    from scipy.interpolate import PchipInterpolator  # heavy: late, as few curves are drawn

    curve = PchipInterpolator(table[:, 0], table[:, 1])
    slope = curve.derivative()
    (low, at_low), (high, at_high) = table[0], table[-1]
    before, after = max(float(slope(low)), 0.0), max(float(slope(high)), 0.0)

    def light(encoded: Float) -> Float:
        inner = curve(np.clip(encoded, low, high))
        code = np.where(encoded < low, at_low + (encoded - low) * before, inner)
        code = np.where(encoded > high, at_high + (encoded - high) * after, code)
        return decode_bt709(code.astype(np.float32))

    return light

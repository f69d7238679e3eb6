"""A target of 24 patches (six by four) placed by its corners: white balance, a 3x3 matrix, and what is left.

The matrix keeps neutrals neutral (its rows sum to 1) and is fitted on CIELAB distances.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import cv2
import numpy as np

from morphe.core.errors import ColourError
from morphe.core.signal.arrays import Float, Linear
from morphe.core.signal.perception import delta_e_2000, lab_to_linear, linear_to_lab
from morphe.core.signal.primaries import LUMINANCE_709

__all__ = ["COLUMNS", "MADE_UP", "ROWS", "Reference", "TargetFit", "fit_target", "read_patches"]

COLUMNS, ROWS = 6, 4
INNER = 0.5  # share of a patch's side that is read
NEUTRAL_CHROMA = 5.0  # Lab chroma below which a patch serves the balance


@dataclass(frozen=True, slots=True, kw_only=True)
class Reference:
    """What 24 patches should be: names and CIELAB under D65, row by row."""

    names: tuple[str, ...]
    lab: tuple[tuple[float, float, float], ...]

    def __post_init__(self) -> None:
        if len(self.names) != COLUMNS * ROWS or len(self.lab) != COLUMNS * ROWS:
            raise ColourError(f"A target has {COLUMNS * ROWS} patches, {len(self.lab)} were given.")
        if not np.isfinite(np.array(self.lab, float)).all():
            raise ColourError("Every patch needs three numbers.")

    @property
    def linear(self) -> Linear:
        """(24, 3) linear BT.709."""
        return lab_to_linear(np.array(self.lab, float))

    @property
    def neutrals(self) -> list[int]:
        """Patches that serve the balance: grey, neither black nor white."""
        return [i for i, (lightness, a, b) in enumerate(self.lab)
                if np.hypot(a, b) < NEUTRAL_CHROMA and 25 < lightness < 92]  # fmt: skip


# A made-up target: six hues in three strengths, and a row of greys.
_HUES = ("red", "ochre", "moss", "teal", "slate", "plum")
_ANGLES = (28, 72, 130, 195, 262, 325)


def _hue(lightness: float, chroma: float, angle_deg: float) -> tuple[float, float, float]:
    angle = np.radians(angle_deg)
    return lightness, round(chroma * float(np.cos(angle)), 2), round(chroma * float(np.sin(angle)), 2)


MADE_UP = Reference(
    names=(*(f"deep {h}" for h in _HUES), *(f"mid {h}" for h in _HUES), *(f"pale {h}" for h in _HUES),
           "white", "grey 80", "grey 65", "grey 50", "grey 35", "black"),
    lab=(
        *(_hue(lightness, chroma, angle)
          for lightness, chroma in ((40.0, 24.0), (58.0, 25.0), (76.0, 15.0)) for angle in _ANGLES),
        *((lightness, 0.0, 0.0) for lightness in (95.0, 80.0, 65.0, 50.0, 35.0, 20.0)),
    ),
)  # fmt: skip


@dataclass(frozen=True, slots=True, kw_only=True)
class TargetFit:
    """Gains (3,) that make the greys grey, the matrix (3, 3) behind them, and CIEDE2000 for each patch."""

    gains: tuple[float, float, float]
    matrix: tuple[float, ...]
    before: tuple[float, ...]
    after: tuple[float, ...]

    @property
    def whole(self) -> tuple[float, ...]:
        """Gains and matrix as one 3x3, row by row."""
        product = np.array(self.matrix).reshape(3, 3) @ np.diag(self.gains)
        return tuple(float(v) for v in product.ravel())

    @property
    def sentence(self) -> str:
        """Before and after in words."""
        return (
            f"Mean distance {np.mean(self.before):.1f} with exposure alone, {np.mean(self.after):.1f} after "
            f"balance and matrix; the worst patch {max(self.after):.1f}."
        )


def read_patches(linear: Linear, corners: Sequence[tuple[float, float]]) -> Linear:
    """Read the 24 patches (24, 3) of a picture of linear light.

    Parameters
    ----------
    corners : of the target as shares 0..1, in the order top left, top right, bottom right, bottom left

    Raises
    ------
    ColourError
        If the corners span no target inside the picture.
    """
    height, width = linear.shape[:2]
    placed = (np.array(corners) * (width, height)).astype(np.float32)
    if placed.shape != (4, 2) or not cv2.isContourConvex(placed) or cv2.contourArea(placed) < 24 * 36:
        raise ColourError("The corners span no target; place them at its four corners, in turn.")
    if (placed < -1).any() or (placed[:, 0] > width + 1).any() or (placed[:, 1] > height + 1).any():
        raise ColourError("A corner lies outside the picture; place it again.")
    flat = np.array([(0, 0), (COLUMNS, 0), (COLUMNS, ROWS), (0, ROWS)], np.float32)
    back = cv2.getPerspectiveTransform(flat, placed)
    side = np.linspace(0.5 - INNER / 2, 0.5 + INNER / 2, 12)
    patches = []
    for row in range(ROWS):
        for column in range(COLUMNS):
            x, y = np.meshgrid(column + side, row + side)
            at = cv2.perspectiveTransform(
                np.stack([x, y], axis=-1).reshape(1, -1, 2).astype(np.float32), back
            )[0]
            i, j = np.clip(at[:, 0].astype(int), 0, width - 1), np.clip(at[:, 1].astype(int), 0, height - 1)
            patches.append(np.median(linear[j, i], axis=0))
    return np.array(patches)


def fit_target(patches: Linear, reference: Reference) -> TargetFit:
    """Fit balance and matrix to measured patches (24, 3) of linear light.

    Raises
    ------
    ColourError
        If there is no grey to balance on, or the patches are not those of the reference.
    """
    wanted = reference.linear
    greys = reference.neutrals
    if not greys:
        raise ColourError("The reference has no grey patch; its balance cannot be found.")
    if np.min(patches[greys]) <= 0:
        raise ColourError(
            "A grey patch is black in the picture; place the corners again or film it brighter."
        )
    ratio = np.median(wanted[greys] / patches[greys], axis=0)
    exposure = float(LUMINANCE_709 @ ratio)
    balanced = patches * ratio
    matrix = _matrix(balanced, reference)
    before = delta_e_2000(linear_to_lab(patches * exposure), np.array(reference.lab))
    after = delta_e_2000(linear_to_lab(balanced @ matrix.T), np.array(reference.lab))
    if np.median(after) > 15:
        raise ColourError(
            "These are not the patches of the reference; check the corners and which way up it lies."
        )
    gains = ratio / exposure  # exposure is set when filming, not by the profile
    return TargetFit(
        gains=(float(gains[0]), float(gains[1]), float(gains[2])),
        matrix=tuple(float(v) for v in matrix.ravel()),
        before=tuple(float(v) for v in before), after=tuple(float(v) for v in after),
    )  # fmt: skip


def _matrix(balanced: Linear, reference: Reference) -> Float:
    """Six free numbers: the two off the diagonal in each row; the diagonal makes the row sum to 1."""
    lab = np.array(reference.lab)

    def of(p: Float) -> Float:
        (a, b), (c, d), (e, f) = p.reshape(3, 2)
        return np.array([[1 - a - b, a, b], [c, 1 - c - d, d], [e, f, 1 - e - f]])

    def residuals(p: Float) -> Float:
        return (linear_to_lab(balanced @ of(p).T) - lab).ravel()

    from scipy.optimize import least_squares  # heavy: late, as only a chart needs it

    return of(least_squares(residuals, np.zeros(6), loss="soft_l1", f_scale=3.0).x)

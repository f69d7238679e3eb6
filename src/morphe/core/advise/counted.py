"""What of a clip's picture counts: neither bars nor writing, nor what a person has left out."""

from __future__ import annotations

from dataclasses import dataclass

from morphe.core.footage.planes import Planes
from morphe.core.grade.edges import Edges
from morphe.core.grade.region import Region
from morphe.core.measure.picture_area import WHOLE, PictureArea, filled
from morphe.core.measure.surround import Surround
from morphe.core.signal.arrays import Encoded, Mask

__all__ = ["ALL", "Counted", "edges_about"]

HALF = 0.5  # of a region's strength: there its edge is


@dataclass(frozen=True, slots=True, kw_only=True)
class Counted:
    """The picture within its frame, and regions that are left out of it by hand."""

    area: PictureArea = WHOLE
    left_out: tuple[Region, ...] = ()

    @property
    def is_all(self) -> bool:
        return self.area.is_whole and not self.left_out

    def mask(self, width: int, height: int, time_s: float = 0.0) -> Mask | None:
        """The pixels (height, width) that count at a moment; None where all do."""
        mask = self.area.mask(width, height)
        for region in self.left_out:
            out = region.at(time_s).mask(width, height) >= HALF
            less = ~out if mask is None else mask & ~out
            mask = less if less.any() else mask  # leaving everything out leaves nothing to go by
        return mask

    def picture(self, encoded: Encoded, time_s: float = 0.0) -> Encoded:
        """A picture (H, W, 3) that looks as if what counts went on over the rest."""
        height, width = encoded.shape[:2]
        return encoded if self.is_all else filled(
            encoded, self.mask(width, height, time_s), self.area.surround
        )  # fmt: skip

    def pixels(self, encoded: Encoded, time_s: float = 0.0) -> Encoded:
        """The pixels of a picture (H, W, 3) that count: (n, 3), or all of it as it is."""
        height, width = encoded.shape[:2]
        mask = None if self.is_all else self.mask(width, height, time_s)
        return encoded if mask is None else encoded[mask]

    def within_bars(self, planes: Planes) -> Planes:
        """The planes of a frame without its bars."""
        if not self.area.surround.kind:
            return planes
        return planes.within(*self.area.surround.window(*planes.size))


ALL = Counted()


def edges_about(surround: Surround) -> Edges:
    """The step that keeps black bars black; what else lies about a picture is graded with it."""
    if not surround.is_black:
        return Edges()
    return Edges(**{side: round(100 * getattr(surround, side), 3) for side in Edges.params})

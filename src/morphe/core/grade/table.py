"""The person's own conversion tables, kept by their digest, and how one is applied."""

from __future__ import annotations

import hashlib
from dataclasses import dataclass
from functools import lru_cache
from pathlib import Path

import numpy as np

from morphe.core.errors import ColourError
from morphe.core.signal.arrays import Encoded, Float

__all__ = ["SHELF", "ConversionTable", "TableShelf"]

DIGEST_LENGTH = 64


@dataclass(frozen=True, slots=True, kw_only=True, eq=False)
class ConversionTable:
    """A LUT from camera code to BT.709 code: curves (3, m), a cube (n, n, n, 3), or the cube behind them.

    `low` and `high` (3,) are the domain of what comes first; a cube behind curves spans 0..1.
    """

    low: Float
    high: Float
    curves: Float | None = None
    cube: Float | None = None

    @property
    def words(self) -> str:
        """Its size as a person says it."""
        parts = []
        if self.curves is not None:
            parts.append(f"curves of {self.curves.shape[1]} entries")
        if self.cube is not None:
            parts.append(f"cube of {self.cube.shape[0]} points a side")
        return " and ".join(parts)

    def apply(self, encoded: Encoded) -> Encoded:
        """Convert (..., 3); beyond the domain the edge is held."""
        reach = (np.asarray(encoded, np.float32) - self.low) / (self.high - self.low)
        share: Encoded = np.clip(reach, 0, 1).astype(np.float32)
        if self.curves is not None:
            at = np.linspace(0, 1, self.curves.shape[1])
            channels = [np.interp(share[..., c], at, self.curves[c]) for c in range(3)]
            share = np.stack(channels, axis=-1).astype(np.float32)
        if self.cube is None:
            return share
        from morphe.core.signal.tetrahedra import interpolate  # compiled: late, as most clips have no LUT

        return interpolate(self.cube, share, (0.0, 1.0))

    @property
    def digest(self) -> str:
        """SHA-256 over all numbers: equal tables have equal names."""
        sha = hashlib.sha256()
        for part in (self.low, self.high, self.curves, self.cube):
            sha.update(b"-" if part is None else np.ascontiguousarray(part, np.float32).tobytes())
        return sha.hexdigest()


class TableShelf:
    """Where tables lie: a folder of files named by their digest. Without a folder there is none."""

    def __init__(self) -> None:
        self.folder: Path | None = None

    def keep(self, table: ConversionTable) -> str:
        """Put a table on the shelf and give its digest."""
        if self.folder is None:
            raise ColourError("There is no place to keep a LUT.")
        self.folder.mkdir(parents=True, exist_ok=True)
        path = self.folder / f"{table.digest}.npz"
        if not path.exists():
            parts = {"low": table.low, "high": table.high, "curves": table.curves, "cube": table.cube}
            unfinished = path.with_suffix(".part.npz")
            np.savez_compressed(unfinished, **{k: v for k, v in parts.items() if v is not None})  # type: ignore[arg-type]
            unfinished.replace(path)
        return table.digest

    def check(self, digest: str, name: str) -> None:
        """Refuse a table that is not here."""
        safe = len(digest) == DIGEST_LENGTH and all(c in "0123456789abcdef" for c in digest)
        if not safe or self.folder is None or not (self.folder / f"{digest}.npz").is_file():
            raise ColourError(f"The LUT “{name[:60]}” is not here; bring it in under Library first.")

    def get(self, digest: str, name: str = "") -> ConversionTable:
        """Take a table from the shelf."""
        self.check(digest, name)
        return _load(str(self.folder), digest)


@lru_cache(maxsize=8)
def _load(folder: str, digest: str) -> ConversionTable:
    with np.load(Path(folder) / f"{digest}.npz") as kept:
        return ConversionTable(
            low=kept["low"], high=kept["high"],
            curves=kept.get("curves"), cube=kept.get("cube"),
        )  # fmt: skip


SHELF = TableShelf()

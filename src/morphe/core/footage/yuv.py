"""Pictures quantised to planar 4:2:0 codes, as cameras and proxies write them."""

from __future__ import annotations

import numpy as np

from morphe.core.signal.arrays import Codes, Encoded
from morphe.core.signal.ycbcr import Matrix, Range, range_scale, rgb_to_ycbcr

__all__ = ["frame_codes"]


def frame_codes(
    picture: Encoded, *, bit_depth: int, matrix: Matrix, is_signal: bool = False
) -> tuple[Codes, Codes, Codes]:
    """Quantise a picture (H, W, 3), H and W even, to narrow-range 4:2:0 planes (luma, cb, cr).

    Parameters
    ----------
    is_signal : whether the picture is Y'CbCr already and not R'G'B'
    """
    scale = range_scale(Range.NARROW, bit_depth)
    signal = picture if is_signal else rgb_to_ycbcr(picture, matrix)
    dtype = np.uint8 if bit_depth == 8 else np.uint16
    luma = np.clip(np.rint(signal[..., 0] * scale.luma_scale + scale.luma_offset), 0, scale.max_code)
    chroma = signal[..., 1:]
    # Co-sited with even columns: a 1-2-1 filter across, a mean of two rows down.
    left = np.concatenate([chroma[:, :1], chroma[:, :-1]], axis=1)
    right = np.concatenate([chroma[:, 1:], chroma[:, -1:]], axis=1)
    across = (0.25 * left + 0.5 * chroma + 0.25 * right)[:, 0::2]
    down = 0.5 * (across[0::2] + across[1::2])
    codes = np.clip(np.rint(down * scale.chroma_scale + scale.chroma_offset), 0, scale.max_code)
    return luma.astype(dtype), codes[..., 0].astype(dtype), codes[..., 1].astype(dtype)

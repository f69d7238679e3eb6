"""Rows of a picture shared out between threads; the kernels that fill them release the lock."""

from __future__ import annotations

import os
from collections.abc import Callable
from concurrent.futures import Future, ThreadPoolExecutor
from typing import TypeVar

__all__ = ["THREADS", "beside", "over_rows"]

T = TypeVar("T")
THREADS = max(1, min(8, os.cpu_count() or 1))
_pool = ThreadPoolExecutor(THREADS, thread_name_prefix="rows")


def beside(work: Callable[[], T]) -> Future[T]:
    """Do `work` in one of the threads while the caller goes on; it may not call `over_rows` itself."""
    return _pool.submit(work)


def over_rows(rows: int, work: Callable[[int, int], None], *, step: int = 1, bands: int = THREADS) -> None:
    """Call `work(first, end)` over bands of rows, each starting at a multiple of `step`, in parallel."""
    each = -(-rows // (bands * step)) * step
    parts = [(at, min(at + each, rows)) for at in range(0, rows, each)]
    if len(parts) == 1:
        work(*parts[0])
        return
    for future in [_pool.submit(work, *part) for part in parts]:
        future.result()

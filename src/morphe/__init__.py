"""Morphe: plan, correct, grade and deliver footage."""

import os

# Colours are multiplied by matrices of 3 × 3: a second thread only waits for memory, at the other work's expense.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

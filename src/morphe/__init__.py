"""Morphe: plan, correct, grade and deliver footage."""

import os

# Matrices are 3 × 3: a second thread would only wait for memory, at the expense of other work.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

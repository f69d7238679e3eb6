"""Which device a request came from, for what is kept on the way."""

from __future__ import annotations

from contextvars import ContextVar

__all__ = ["DEVICE"]

# The name of a paired device; empty for the computer itself, and in the worker.
DEVICE: ContextVar[str] = ContextVar("device", default="")

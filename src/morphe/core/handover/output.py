"""Files that appear under their name only when whole, and never over the source."""

from __future__ import annotations

import contextlib
import errno
import os
import secrets
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from morphe.core.errors import OutputError

__all__ = ["check_output", "shortened", "whole_file", "write_text"]

LONGEST = 255  # bytes of a name that file systems take


def check_output(out: Path, *inputs: Path | None) -> None:
    """Refuse an output that is one of the inputs or cannot be written, before any work starts."""
    for source in inputs:
        if source and out.exists() and source.exists() and os.path.samefile(out, source):
            raise OutputError(f"{out.name} is what is read from; give the output another name.")
    if out.is_dir():
        raise OutputError(f"{out} is a folder; give the output a file name.")
    if not out.parent.is_dir():
        raise OutputError(f"There is no folder {out.parent}; make it first or choose another.")
    probe = out.parent / f".{secrets.token_hex(8)}.try"
    try:
        probe.touch()
        probe.unlink()
    except OSError as error:
        raise OutputError(f"{out.parent} cannot be written to; choose another folder.") from error


def shortened(text: str, most: int = LONGEST) -> str:
    """As many letters of a text, from its beginning, as fit into so many bytes of UTF-8."""
    return text.encode()[:most].decode(errors="ignore")


@contextmanager
def whole_file(out: Path) -> Iterator[Path]:
    """Give a temporary path beside `out`; it takes the name when the block ends well, else it is removed."""
    part = out.parent / f".{secrets.token_hex(8)}.part"
    try:
        yield part
        os.replace(part, out)
    except OSError as error:
        if error.errno == errno.ENOSPC:
            raise OutputError(f"The disk is full; make room and write {out.name} again.") from error
        if isinstance(error, OutputError):
            raise
        raise OutputError(f"{out.name} could not be written ({error.strerror or error}).") from error
    finally:
        with contextlib.suppress(FileNotFoundError):
            part.unlink()


def write_text(out: Path, text: str) -> None:
    """Write a text file whole."""
    with whole_file(out) as part:
        part.write_text(text, encoding="utf-8", newline="\n")

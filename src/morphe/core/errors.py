"""One tree of errors. Each carries a sentence a person can act on, and a code for programs."""

from __future__ import annotations

import errno

__all__ = [
    "ColourError",
    "DecodeError",
    "EmptyFile",
    "LutError",
    "MediaError",
    "MorpheError",
    "NoPicture",
    "OutputError",
    "OutsideClip",
    "PlanError",
    "RecipeError",
    "SourceMissing",
    "TooLarge",
    "UnknownName",
    "UnsupportedPixelFormat",
    "is_disk_full",
]


class MorpheError(Exception):
    """Something a person can mend; `str(error)` says what is wrong and what to do."""

    code = "morphe"

    def __init__(self, sentence: str, **parameters: object) -> None:
        super().__init__(sentence)
        self.sentence = sentence
        self.parameters = parameters


class MediaError(MorpheError, ValueError):
    """A clip that cannot be used as it is."""

    code = "media"


class SourceMissing(MediaError):
    """The named file is not there, or is not a file."""

    code = "source-missing"


class EmptyFile(MediaError):
    """The file has no bytes."""

    code = "empty-file"


class NoPicture(MediaError):
    """The file has no video stream or no frame that can be decoded."""

    code = "no-picture"


class DecodeError(MediaError):
    """The file is not a clip, or its data is broken."""

    code = "decode"


class TooLarge(MediaError):
    """Frame size, duration or file size lies beyond what is accepted."""

    code = "too-large"


class UnsupportedPixelFormat(MediaError):
    """The frames are stored in a way that cannot be measured."""

    code = "pixel-format"


class OutsideClip(MediaError, IndexError):
    """A time before the first or after the last frame was asked for."""

    code = "outside-clip"


class ColourError(MorpheError, ValueError):
    """A colour parameter outside its meaning."""

    code = "colour"


class LutError(MorpheError, ValueError):
    """A table or curve file that is malformed; the sentence names the row."""

    code = "lut"


class UnknownName(MorpheError, LookupError):
    """A key that is not registered; the sentence lists those that are."""

    code = "unknown-name"


class PlanError(MorpheError, ValueError):
    """A camera's data or an answer to a question that cannot be planned with."""

    code = "plan"


class RecipeError(MorpheError, ValueError):
    """A recipe that is broken, foreign or from a newer version."""

    code = "recipe"


class OutputError(MorpheError, OSError):
    """The result cannot be written where it was asked for."""

    code = "output"


def is_disk_full(error: BaseException | None) -> bool:
    """Whether an error, or one that it came from, was that the disk has no room."""
    while error is not None:
        if getattr(error, "errno", None) in (errno.ENOSPC, errno.EDQUOT):
            return True
        if getattr(error, "sqlite_errorname", "") == "SQLITE_FULL":  # of a database
            return True
        error = error.__cause__
    return False

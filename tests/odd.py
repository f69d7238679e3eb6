"""Words that nobody means, for every field, and files that broke on their way."""

import random

__all__ = ["WORDS", "mutated"]

WORDS = (
    "²", "1e999", "-1", "99999999999999999999", "\ud800", "None", "\0", "a" * 3000, "", "[]", "{}", "0",
    "nan", "inf", "١", "1e308", "../../etc/passwd", "true", "null", "1,5", "0.5", "1", "2", "exposure", "<b>",
)  # fmt: skip


def mutated(data: bytes, dice: random.Random) -> bytes:
    """The bytes with some changed, cut off, doubled, swapped or made zero."""
    out = bytearray(data)
    for _ in range(dice.choice((1, 1, 3, 10, 60))):
        at, size = dice.randrange(len(out)), dice.choice((1, 1, 2, 4, 8, 200))
        way = dice.randrange(6)
        if way == 0:
            out[at : at + size] = dice.randbytes(size)
        elif way == 1:
            out[at : at + size] = dice.choice((b"\0", b"\xff", b"\x7f", b"9")) * size
        elif way == 2 and len(out) > 400:
            del out[at : at + size * 3]
        elif way == 3:
            out[at:at] = out[max(at - size, 0) : at]
        elif way == 4 and dice.random() < 0.2 and at > 50:
            del out[at:]
        else:
            out[at] ^= 1 << dice.randrange(8)
    return bytes(out)

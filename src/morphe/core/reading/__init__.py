"""Files read and judged as a whole: a clip, its shots, a reference to match."""

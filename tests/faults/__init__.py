"""Faults that a decoder may have, for a Morphe that is started with these settings: by the clip's name."""

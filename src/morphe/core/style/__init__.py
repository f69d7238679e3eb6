"""Style: looks of our own, and how much of one a clip bears."""

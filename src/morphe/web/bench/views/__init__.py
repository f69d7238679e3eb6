"""The views of the Bench, by what a page asks."""

"""The options of `morphe plan`, apart from its work, so that they are read at once."""

from __future__ import annotations

import argparse
from pathlib import Path

__all__ = ["ASKED", "add_plan_options"]

# Options whose words go to the questions as they are: (option, question, help).
ASKED = (
    ("--shot", "shot", "flight, ride, walk, talk, snorkel, dive or night"),
    ("--sky", "sky", "clear, hazy, cloudy or overcast"),
    ("--sun-deg", "sun_deg", "height of the sun in degrees"),
    ("--place", "place", "a built-in place or typed coordinates"),
    ("--contrast", "contrast_stops", "contrast of the scene in stops"),
    ("--motion", "motion", "still, calm, brisk or fast"),
    ("--skin", "skin", "yes or no"),
    ("--delivery", "delivery", "web-sdr, web-hdr or vertical"),
    ("--device", "device", "laptop, tablet or phone"),
    ("--hours", "grading_hours", "hours for grading"),
    ("--minutes", "minutes", "minutes to film"),
    ("--left-gb", "storage_left_gb", "storage left in GB"),
    ("--school", "school", "meter, under or bright"),
    ("--slow", "slow", "slow motion: 1, 2, 4 or 8 times"),
    ("--mains", "mains_hz", "50 or 60"),
    ("--depth", "depth_m", "depth in metres"),
    ("--distance", "distance_m", "distance to the subject in metres"),
    ("--water", "water", "Jerlov water type, such as II or 3C"),
    ("--lamp", "lamp", "yes or no"),
    ("--lesson", "lesson_stops", "stops that a lesson of this camera adds"),
)


def add_plan_options(parser: argparse.ArgumentParser) -> None:
    """Add the options of `morphe plan`."""
    parser.add_argument("--camera", metavar="NAME|KIT.json", help="the first that suits the shot")
    parser.add_argument("--with", dest="companions", action="append", default=[], metavar="NAME|KIT.json",
                        help="another camera of the day; may be repeated")  # fmt: skip
    parser.add_argument("--light", help="an entry of the scale, sky, or an exposure value")
    parser.add_argument("--day", help="such as 2026-09-12; today if only a place is given")
    parser.add_argument("--hour", help="local time, such as 10:30")
    for option, question, about in ASKED:
        parser.add_argument(option, dest=question, help=about)
    for option, about in (("--pin-nd", "stops"), ("--pin-aperture", "f-number"), ("--pin-iso", "ISO"),
                          ("--pin-shutter", "such as 1/100")):  # fmt: skip
        parser.add_argument(option, help=f"hold this fast ({about})")
    parser.add_argument("--ics", type=Path, help="write the sun windows as a calendar file")

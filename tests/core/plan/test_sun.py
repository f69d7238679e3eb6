"""The sun: heights against an independent formula, windows, odd days, the calendar."""

import math
from datetime import UTC, date, datetime, timedelta

import pytest
from icalendar import Calendar

from morphe.core.errors import PlanError
from morphe.core.plan.calendar_file import calendar_text
from morphe.core.plan.place import PLACES, Place, place_at
from morphe.core.plan.sun import elevation, moment, sun_day, water_score
from morphe.core.water.daylight import WATER_TYPES


def somewhere(latitude, longitude, zone="UTC"):
    return Place(name="Somewhere", latitude=latitude, longitude=longitude, zone=zone)


def low_precision_height(latitude, longitude, when):
    """Astronomical Almanac's low-precision formula, written down independently of the library in use."""
    n = (when - datetime(2000, 1, 1, 12, tzinfo=UTC)).total_seconds() / 86400
    g, mean = math.radians(357.528 + 0.9856003 * n), 280.460 + 0.9856474 * n
    long = math.radians(mean + 1.915 * math.sin(g) + 0.020 * math.sin(2 * g))
    tilt = math.radians(23.439 - 4e-7 * n)
    declination = math.asin(math.sin(tilt) * math.sin(long))
    ascension = math.degrees(math.atan2(math.cos(tilt) * math.sin(long), math.cos(long)))
    hour = math.radians(280.46061837 + 360.98564736629 * n + longitude - ascension)
    north = math.radians(latitude)
    return math.degrees(
        math.asin(
            math.sin(north) * math.sin(declination) + math.cos(north) * math.cos(declination) * math.cos(hour)
        )
    )


@pytest.mark.parametrize(
    ("latitude", "longitude", "when", "height"),
    [
        (51.4779, 0.0, datetime(2024, 6, 21, 12, tzinfo=UTC), 61.957),
        (0.0, 0.0, datetime(2024, 3, 20, 12, tzinfo=UTC), 88.171),
        (27.9, 34.3, datetime(2024, 8, 1, 9, tzinfo=UTC), 74.880),
        (-16.9, 145.8, datetime(2024, 12, 21, 6, tzinfo=UTC), 37.109),
    ],
)
def test_given_a_moment_when_the_sun_is_looked_up_then_two_ways_agree(latitude, longitude, when, height):
    found = elevation(somewhere(latitude, longitude), when)

    assert found == pytest.approx(height, abs=0.002)
    assert found == pytest.approx(low_precision_height(latitude, longitude, when), abs=0.01)


def test_given_a_day_by_the_red_sea_when_looked_up_then_the_evening_is_golden_as_tabulated():
    # 27.9 N, 34.3 E on 1 August 2024: 16:00 to 16:48 UTC.
    day = sun_day(somewhere(27.9, 34.3), date(2024, 8, 1))

    morning, evening = day.of("golden")
    assert abs(evening.start - datetime(2024, 8, 1, 16, 0, tzinfo=UTC)) < timedelta(minutes=1.5)
    assert abs(evening.end - datetime(2024, 8, 1, 16, 48, tzinfo=UTC)) < timedelta(minutes=1.5)
    assert morning.end < day.noon < evening.start


def test_given_a_summer_noon_when_looked_up_then_hard_light_is_warned_of():
    day = sun_day(PLACES.get("wrenfleet"), date(2026, 6, 21))

    (hard,) = day.of("hard")
    assert hard.start < day.noon < hard.end
    assert elevation(day.place, hard.start) == pytest.approx(45, abs=0.05)
    assert any("Hard light" in s for s in day.sentences)


@pytest.mark.parametrize(
    ("day", "word"), [(date(2026, 12, 21), "does not rise"), (date(2026, 6, 21), "highest")]
)
def test_given_the_far_north_when_the_sun_stays_down_or_up_then_it_is_said(day, word):
    found = sun_day(PLACES.get("skarnvoll"), day)

    assert word in found.sentences[0]
    assert bool(found.of("day")) == (word == "highest")


def test_given_the_clocks_going_forward_when_a_day_is_laid_out_then_it_has_23_hours():
    day = sun_day(PLACES.get("alderhorn"), date(2026, 3, 29))

    first, last = day.heights[0][0], day.heights[-1][0]
    assert last.astimezone(UTC) - first.astimezone(UTC) == timedelta(hours=23)


def test_given_water_when_hours_are_ranked_then_the_best_lie_around_noon_and_low_sun_brings_nothing():
    reef, water = PLACES.get("corraline"), WATER_TYPES.get("IB")

    day = sun_day(reef, date(2026, 12, 1), water=water, depth_m=9)

    (best,) = day.of("water")
    assert best.start < day.noon < best.end
    assert water_score(water, 9, 5) < 0.1 * water_score(water, 9, 80)
    assert water_score(water, 9, -5) == 0


def test_given_a_day_when_written_as_a_calendar_then_another_program_reads_the_same_windows():
    day = sun_day(PLACES.get("wrenfleet"), date(2026, 9, 12))

    read = Calendar.from_ical(calendar_text(day, name="Volunteer day"))

    events = [e for e in read.walk("VEVENT")]
    assert len({str(e["uid"]) for e in events}) == len(events) == len(day.of("blue")) + len(day.of("golden"))
    golden = next(e for e in events if "Golden hour" in str(e["summary"]))
    assert abs(golden["dtstart"].dt - day.of("golden")[0].start) < timedelta(seconds=1)


@pytest.mark.parametrize(
    ("typed", "latitude", "longitude"),
    [("52.0 N, 1.0 E", 52, 1), ("-17, 146", -17, 146), ("17 S 70,5 W", -17, -70.5),
     ("28.0° N; 16.5° W", 28, -16.5)],
)  # fmt: skip
def test_given_typed_coordinates_when_read_then_place_and_clock_are_found(typed, latitude, longitude):
    place = place_at(typed)

    assert (place.latitude, place.longitude) == (latitude, longitude)
    assert moment(place, date(2026, 1, 1), 12).hour == 12
    again = place_at(place.coordinates)
    assert (again.latitude, again.longitude) == (latitude, longitude)


@pytest.mark.parametrize("typed", ["", "here", "52", "95 N, 1 E", "1 E, 52 N", "52 N, 181 E", "1e9, 2"])
def test_given_no_coordinates_when_read_then_a_sentence_says_how_to_type_them(typed):
    with pytest.raises(PlanError, match=r"latitude|Latitude"):
        place_at(typed)

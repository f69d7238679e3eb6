"""Room and time: sizes, minutes and transfers as tabulated."""

import pytest

from morphe.core.plan.kit import Card, Codec, Recording
from morphe.core.plan.questions import Device
from morphe.core.plan.storage import editing_fit, gb_for, gib, minutes_on, room, transfer_minutes


def recording(mbit_s=60.0, **changes):
    values = {
        "codec": Codec.H264,
        "bit_depth": 8,
        "chroma": "4:2:0",
        "width": 3840,
        "height": 2160,
        "fps": 30,
    }
    return Recording(**{**values, **changes}, mbit_s=mbit_s)


@pytest.mark.parametrize(
    ("mbit_s", "gb_a_minute", "on_64"),
    [(16, 0.12, 533), (60, 0.45, 142), (100, 0.75, 85), (150, 1.125, 57), (120, 0.90, 71),
     (470, 3.525, 18), (940, 7.05, 9.1)],
)  # fmt: skip
def test_given_a_bitrate_when_minutes_are_counted_then_they_are_as_tabulated(mbit_s, gb_a_minute, on_64):
    assert gb_for(mbit_s, 60) == pytest.approx(gb_a_minute)
    assert minutes_on(64, mbit_s) == pytest.approx(on_64, rel=0.01)


@pytest.mark.parametrize(("gb", "binary"), [(64, 59.60), (128, 119.21), (256, 238.42)])
def test_given_a_card_when_counted_in_binary_then_it_is_as_tabulated(gb, binary):
    assert gib(gb) == pytest.approx(binary, abs=0.005)


@pytest.mark.parametrize(("speed", "minutes"), [(30, 35.6), (90, 11.9), (400, 2.7)])
def test_given_64_gb_when_moved_then_it_takes_as_long_as_tabulated(speed, minutes):
    assert transfer_minutes(64, speed) == pytest.approx(minutes, abs=0.05)


@pytest.mark.parametrize(
    ("changes", "bpp"),
    [({"mbit_s": 16, "width": 1920, "height": 1080}, 0.257), ({"mbit_s": 60}, 0.241),
     ({"mbit_s": 100}, 0.402),
     ({"mbit_s": 150, "fps": 60}, 0.301), ({"mbit_s": 470, "fps": 25}, 2.267)],
)  # fmt: skip
def test_given_a_recording_when_spread_over_its_pixels_then_bits_are_as_tabulated(changes, bpp):
    assert recording(**changes).bits_per_pixel == pytest.approx(bpp, abs=0.001)


def test_given_storage_left_when_a_day_is_fitted_then_a_tenth_stays_free_and_spare_is_counted():
    card = Card(name="A", gb=128, write_mb_s=60, read_mb_s=90)

    fresh = room(recording(), card, wanted_minutes=100, left_gb=None)
    nearly_full = room(recording(), card, wanted_minutes=100, left_gb=20)

    assert fresh.fits_minutes == pytest.approx(276 * 0.9, rel=0.01)
    assert fresh.is_enough and not nearly_full.is_enough
    assert fresh.needed_gb == pytest.approx(45 * 1.15)
    assert fresh.with_backup_gb == pytest.approx(2 * fresh.needed_gb)
    assert nearly_full.usable_gb == pytest.approx(18)


def test_given_heavier_recordings_when_fitted_to_devices_then_phones_give_up_first():
    heavy = recording(470, codec=Codec.INTRA, chroma="4:2:2", bit_depth=10, fps=25)

    words = {d: editing_fit(heavy, d).word for d in Device}
    assert words == {Device.LAPTOP: "with proxies", Device.TABLET: "with proxies", Device.PHONE: "too heavy"}
    assert editing_fit(recording(width=1920, height=1080), Device.PHONE).word == "smooth"

"""Naming the profile with what is known beforehand, of tags that are wrong, and of one's own curves."""

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from morphe.core.advise.evidence import Evidence
from morphe.core.advise.filmed_as import Hints, filmed_as_own
from morphe.core.advise.profile_guess import guess_profile
from morphe.core.errors import UnknownName
from morphe.core.footage.info import SignalInfo
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.own_profile import OwnProfile
from morphe.core.signal.primaries import Primaries
from morphe.core.signal.profiles import PROFILES, Kind
from morphe.core.signal.ycbcr import Matrix, Range
from tests.footage import scene


def evidence(key="log-mild", transfer="bt709", bits=8, gain=1.0):
    linear = gain * PROFILES.get("std-709").decode(scene(256, 144))
    picture = np.clip(PROFILES.get(key).encode(linear), 0, 1).astype(np.float32)
    info = SignalInfo(
        path=Path("x.mp4"), codec="h264", container="mp4", width=1920, height=1080, rotation=0,
        fps=Fraction(25), variable_rate=False, frames=100, duration_s=4.0, bit_depth=bits, chroma="4:2:0",
        bitrate=10**7, range=Range.NARROW,
        matrix=Matrix.BT709, primaries=Primaries.BT709, transfer=transfer,
    )  # fmt: skip
    return Evidence(info=info, frames=(picture,))


@pytest.mark.parametrize("key", ["flat-a", "log-mild", "log-lifted"])
def test_given_a_name_for_the_profile_when_judged_then_it_weighs_in_and_is_quoted(key):
    named = guess_profile(evidence(key), hints=Hints(named=((key, f"the slate says {key}"),)))

    assert named.name == key
    assert f"the slate says {key}" in named.evidence


def test_given_a_camera_when_judged_then_profiles_it_does_not_have_are_not_taken():
    hints = Hints(camera="Fern", has=("std-709", "log-mild", "hlg"))

    verdict = guess_profile(evidence("log-mild"), hints=hints)

    assert verdict.name == "log-mild"
    assert "Fern has this profile" in verdict.evidence


def test_given_a_camera_with_a_punchy_profile_when_judged_then_it_is_a_candidate_there_alone():
    hints = Hints(camera="Cuttle", has=("vivid-a",), named=(("vivid-a", "the slate says so"),))

    assert guess_profile(evidence("vivid-a"), hints=hints).name == "vivid-a"
    assert guess_profile(evidence("vivid-a")).name != "vivid-a"


@pytest.mark.parametrize(("key", "gain", "doubted"), [("hlg", 0.6, False), ("std-709", 4.0, True)])
def test_given_an_hdr_tag_when_the_picture_does_not_bear_it_out_then_it_is_doubted(key, gain, doubted):
    verdict = guess_profile(evidence(key, transfer="hlg", bits=10, gain=gain))

    assert verdict.kind is Kind.HLG
    assert (verdict.confidence < 0.9) == doubted
    assert any("tagged wrongly" in sentence for sentence in verdict.evidence) == doubted


def test_given_ones_own_profile_as_the_word_when_judged_then_it_is_taken_with_its_exposure():
    curve = CameraLog.of((0.1258, 0.6825, 0.03086, 0.012))
    own = OwnProfile(name="Mine", kind=Kind.LOG, curve=curve, clip_stops=4.75)

    ours = guess_profile(evidence(), chosen=filmed_as_own("own-1", own))
    built_in = guess_profile(evidence(), chosen="log-mild")

    assert (ours.name, ours.label, ours.confidence) == ("own-1", "Mine", 1.0)
    assert ours.stops == built_in.stops


def test_given_a_profile_nobody_knows_when_named_then_the_known_ones_are_listed():
    with pytest.raises(UnknownName, match="known are: auto, std-709"):
        guess_profile(evidence(), chosen="film")

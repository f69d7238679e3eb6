"""Naming the profile with what is known beforehand, of tags that are wrong, and of one's own curves."""

from fractions import Fraction
from pathlib import Path

import numpy as np
import pytest

from morphe.core.advise.evidence import Evidence
from morphe.core.advise.profile.filmed_as import Hints, filmed_as_own
from morphe.core.advise.profile.prior import prior_of
from morphe.core.advise.profile.verdict import ASK_BELOW, guess_profile
from morphe.core.errors import UnknownName
from morphe.core.footage.info import SignalInfo
from morphe.core.signal.camera_log import CameraLog
from morphe.core.signal.own_profile import OwnProfile
from morphe.core.signal.primaries import Primaries, rgb_to_rgb
from morphe.core.signal.profiles import PROFILES, Kind
from morphe.core.signal.ycbcr import Matrix, Range
from tests.footage import scene


def evidence(key="log-mild", transfer="bt709", bits=8, gain=1.0):
    linear = gain * PROFILES.get("std-709").decode(scene(256, 144))
    linear = linear @ rgb_to_rgb(Primaries.BT709, PROFILES.get(key).primaries).T
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
    named = guess_profile(evidence(key), hints=Hints(said=((key, f"the slate says {key}"),)))

    assert named.name == key
    assert f"the slate says {key}" in named.evidence


def test_given_a_camera_when_judged_then_profiles_it_does_not_have_are_not_taken():
    hints = Hints(camera="Fern", has=("std-709", "log-mild", "hlg"))

    verdict = guess_profile(evidence("log-mild"), hints=hints)

    assert verdict.name == "log-mild"
    assert "Fern has this profile" in verdict.evidence


def test_given_a_camera_with_a_punchy_profile_when_judged_then_it_is_a_candidate_there_alone():
    hints = Hints(camera="Cuttle", has=("vivid-a",), said=(("vivid-a", "the slate says so"),))

    assert guess_profile(evidence("vivid-a"), hints=hints).name == "vivid-a"
    assert guess_profile(evidence("vivid-a")).name != "vivid-a"


@pytest.mark.parametrize("key", ["hlg", "pq"])
def test_given_a_tag_of_hdr_on_ten_bits_when_judged_then_it_stands_and_nothing_else_is_changed(key):
    verdict = guess_profile(evidence(key, transfer=key, bits=10))

    assert verdict.kind is PROFILES.get(key).kind
    assert verdict.evidence[0] == f"the file is tagged {key.upper()}"
    assert verdict.stops is None


@pytest.mark.parametrize(
    ("key", "bits", "gain", "why"),
    [
        ("std-709", 10, 4.0, "far brighter than white"),
        ("std-709", 8, 1.0, "8 bits"),
        ("log-lifted", 10, 1.0, ""),
    ],
)
def test_given_a_tag_of_hdr_that_is_wrong_when_judged_then_it_is_doubted_and_why(key, bits, gain, why):
    verdict = guess_profile(evidence(key, transfer="hlg", bits=bits, gain=gain))

    assert verdict.kind is PROFILES.get(key).kind or verdict.confidence < ASK_BELOW
    assert any("tagged wrongly" in sentence and why in sentence for sentence in verdict.evidence)


@pytest.mark.parametrize("key", ["hlg", "pq"])
def test_given_hdr_that_lost_its_tags_when_judged_then_it_is_asked_for_rather_than_taken_for_another(key):
    verdict = guess_profile(evidence(key, transfer="unspecified", bits=10, gain=1.2))

    assert verdict.kind is PROFILES.get(key).kind or verdict.confidence < ASK_BELOW


# --- clips of one card ------------------------------------------------------------------------------


def test_given_others_of_its_card_when_judged_then_they_turn_a_doubtful_answer_but_it_is_still_asked():
    doubtful = evidence("flat-a", gain=0.7)
    alone = guess_profile(doubtful)
    rival = {key: 1.0 if key == "flat-a" else 0.02 for key in alone.likelihoods}

    together = guess_profile(doubtful, hints=Hints(others=(rival, rival, rival)))

    assert alone.kind is not Kind.FLAT and together.kind is Kind.FLAT
    assert together.confidence < ASK_BELOW
    assert "weighed together with 3 other clips of this camera and folder" in together.evidence


def test_given_a_word_on_the_clip_when_judged_then_others_of_its_card_do_not_weigh_against_it():
    named = (("flat-a", "the slate says flat"),)
    standard = {"std-709": 1.0, "flat-a": 1e-3}

    with_others, without = (
        guess_profile(evidence("flat-a"), hints=Hints(said=named, others=others))
        for others in ((standard,) * 5, ())
    )

    assert with_others == without


def test_given_others_that_say_nothing_when_judged_then_the_answer_stays_as_it_was():
    alone = guess_profile(evidence("log-mild"))
    silent = dict.fromkeys(alone.likelihoods, 1.0)

    together = guess_profile(evidence("log-mild"), hints=Hints(others=(silent, silent)))

    assert together.name == alone.name
    assert together.confidence == pytest.approx(alone.confidence)


@pytest.mark.parametrize("count", [1, 3, 40])
def test_given_others_when_weighed_then_they_never_rule_a_profile_out(count):
    info = evidence().info
    other = {"std-709": 1.0, "log-mild": 1e-6}

    prior = prior_of(info, Hints(others=(other,) * count))

    before, after = (p["log-mild"] / sum(p.values()) for p in (prior_of(info), prior))
    assert before / 11 < after < before
    assert prior["std-709"] > prior_of(info)["std-709"] / sum(prior_of(info).values())


def test_given_ones_own_profile_as_the_word_when_judged_then_it_is_taken_with_its_exposure():
    curve = CameraLog.of((0.1258, 0.6825, 0.03086, 0.012))
    own = OwnProfile(name="Mine", kind=Kind.LOG, curve=curve, clip_stops=4.75)

    ours = guess_profile(evidence(), chosen=filmed_as_own("own-1", own))
    built_in = guess_profile(evidence(), chosen="log-mild")

    assert (ours.name, ours.label, ours.confidence) == ("own-1", "Mine", 1.0)
    assert ours.stops == built_in.stops


def test_given_a_profile_nobody_knows_when_named_then_the_known_ones_are_listed():
    with pytest.raises(UnknownName, match="known are: auto, standard, flat, log, hlg, pq, std-709"):
        guess_profile(evidence(), chosen="film")

"""When Morphe asks how footage was filmed, and what a person's word does."""

import numpy as np
import pytest

from morphe.core.advise.profile.filmed_as import Hints
from morphe.core.advise.profile.prior import FITTED, prior_of
from morphe.core.advise.profile.verdict import ASK_BELOW, guess_profile
from morphe.core.signal.profiles import PROFILES, Kind
from tests.core.advise.profile.test_hints import evidence

LOGS = [p.key for p in PROFILES.values() if p.kind is Kind.LOG]


@pytest.mark.parametrize("gain", [0.4, 1.0, 1.8])
@pytest.mark.parametrize("bits", [8, 10])
@pytest.mark.parametrize("transfer", ["bt709", "unspecified"])
@pytest.mark.parametrize("key", ["flat-a", *LOGS, "hlg", "pq"])
def test_given_footage_to_convert_when_only_its_picture_says_so_then_it_is_asked(key, transfer, bits, gain):
    verdict = guess_profile(evidence(key, transfer=transfer, bits=bits, gain=gain))

    assert verdict.kind is PROFILES.get(key).kind or verdict.confidence < ASK_BELOW
    assert verdict.kind is Kind.STANDARD or verdict.confidence < ASK_BELOW


@pytest.mark.parametrize("hints", ["said", "planned"])
@pytest.mark.parametrize("key", ["log-lifted", "log-wide"])
def test_given_log_that_was_said_or_planned_when_the_picture_agrees_then_it_is_not_asked(key, hints):
    named = Hints(**{hints: ((key, "so it was"),)})

    verdict = guess_profile(evidence(key, bits=10), hints=named)

    assert verdict.kind is Kind.LOG and verdict.confidence >= ASK_BELOW
    assert "so it was" in verdict.evidence


def test_given_a_word_that_the_picture_contradicts_when_judged_then_it_is_asked_or_overruled():
    bright = evidence("std-709", gain=1.6)

    verdict = guess_profile(bright, hints=Hints(said=(("log-lifted", "you said log before"),)))

    assert verdict.kind is Kind.STANDARD or verdict.confidence < ASK_BELOW
    assert "you said log before" not in verdict.evidence or verdict.kind is Kind.LOG


def test_given_word_and_plan_when_weighed_then_the_word_counts_for_more_and_both_together_for_most():
    info, named = evidence().info, (("flat-a", "it was"),)

    plain, planned, said, both = (
        prior_of(info, hints)["flat-a"]
        for hints in (Hints(), Hints(planned=named), Hints(said=named), Hints(said=named, planned=named))
    )

    assert plain < planned < said < both


def test_given_several_logs_named_when_weighed_then_curves_between_them_are_set_back_once():
    info = evidence().info

    one = prior_of(info, Hints(said=(("log-mild", "it was"),)))
    three = prior_of(info, Hints(said=tuple((key, "it was") for key in LOGS)))

    assert one[FITTED] == pytest.approx(three[FITTED])
    assert one[FITTED] < prior_of(info)[FITTED]


@pytest.mark.parametrize("key", ["std-709", "flat-a", *LOGS])
def test_given_log_as_the_word_when_judged_then_some_log_curve_is_taken(key):
    verdict = guess_profile(evidence(key), chosen="log")

    assert verdict.kind is Kind.LOG and verdict.confidence == 1.0
    assert verdict.name in (*LOGS, FITTED)
    how = "judged from the clip" if verdict.name == FITTED else "fits best"
    assert verdict.evidence[0] == "you said log" and how in verdict.evidence[1]


@pytest.mark.parametrize("key", ["std-709", "flat-a", "log-mild", "hlg"])
@pytest.mark.parametrize("others", [(), ({"flat-a": 1.0, "std-709": 0.1},) * 3])
def test_given_any_clip_when_judged_then_the_kinds_add_up_and_the_answer_is_no_surer_than_they_are(
    key, others
):
    verdict = guess_profile(evidence(key), hints=Hints(others=others))

    assert sum(verdict.kinds.values()) == pytest.approx(1.0)
    assert np.all(np.array(list(verdict.kinds.values())) >= 0)
    assert verdict.confidence <= verdict.kinds[verdict.kind] + 1e-9
    rivals = [k for k, p in verdict.kinds.items() if k is not verdict.kind and p > 0.05]
    assert all(any(k.word in s for s in verdict.evidence) for k in rivals)


def test_given_a_camera_that_films_hdr_when_a_file_of_eight_bits_is_tagged_so_then_only_a_word_upholds_it():
    camera, ordinary = Hints(camera="Fern", has=("std-709", "hlg")), evidence("std-709", transfer="hlg")
    said = Hints(camera="Fern", has=("std-709", "hlg"), said=(("hlg", "you said HLG before"),))

    assert guess_profile(ordinary, hints=camera).kind is Kind.STANDARD
    shares = [prior_of(ordinary.info, h)["hlg"] for h in (camera, Hints(), said)]
    assert shares == sorted(shares) and shares[0] < shares[1] < shares[2]
    ten = evidence("hlg", transfer="bt709", bits=10).info
    assert prior_of(ten, camera)["hlg"] > prior_of(ten)["hlg"]


@pytest.mark.parametrize("kind", list(Kind))
@pytest.mark.parametrize("filmed", ["std-709", "flat-a", "log-mild", "hlg"])
def test_given_a_kind_by_the_persons_word_when_judged_then_it_is_that_kind_whatever_the_picture(filmed, kind):
    verdict = guess_profile(evidence(filmed, transfer="hlg"), chosen=str(kind))

    assert (verdict.kind, verdict.confidence) == (kind, 1.0)
    assert verdict.evidence[0].startswith("you said")

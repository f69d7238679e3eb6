"""What was learned of curves and exposure: nearer to the truth than nothing, ordered, honest."""

import numpy as np
import pytest

from morphe.core.advise.judge import judge
from morphe.core.advise.profile.landing import landing_of
from morphe.core.advise.profile.metering import metered
from morphe.core.advise.profile.resemblance import traits_of
from morphe.core.advise.seen import Seen, seen_through
from morphe.core.grade.convert import FAMILY_OF, fitted
from morphe.core.measure.readings import oklab_of
from morphe.core.signal.families import FAMILIES, Landing, curve_of
from morphe.core.signal.profiles import Kind
from morphe.core.standins.cameras import truth
from morphe.core.standins.demo import render_scene
from tests.core.advise.profile.test_hints import evidence

SCENES = ("jetty-tan", "jetty-deep")
CURVES = {
    Kind.FLAT: Landing(black=0.10, grey=0.40, white=0.72),
    Kind.LOG: Landing(black=0.08, grey=0.42, white=0.66),
}


@pytest.fixture(scope="module", params=SCENES)
def linear(request):
    return render_scene(request.param, 1.0, width=256, height=144)


def filmed(linear, kind):
    code = curve_of(kind, CURVES[kind]).encode(linear)
    return np.clip(code, 0, 1).astype(np.float32)


def clip_of(picture):
    plain = evidence()
    return type(plain)(info=plain.info, frames=(picture,), times_s=(0.0,))


def apart(picture, other):
    return float(np.sqrt(((oklab_of(picture) - oklab_of(other)) ** 2).sum(axis=-1)).mean())


@pytest.mark.parametrize("kind", FAMILIES)
def test_given_an_unknown_curve_when_judged_then_its_landmarks_lie_within_their_spread(linear, kind):
    judged = landing_of(traits_of(filmed(linear, kind).reshape(-1, 3)), kind)

    (found, _), wanted = judged.best, CURVES[kind]
    for name, spread in zip(("black", "grey", "white"), judged.spread, strict=True):
        assert abs(getattr(found, name) - getattr(wanted, name)) < 3 * spread
        assert 0.005 < spread < 0.15


@pytest.mark.parametrize("kind", FAMILIES)
def test_given_a_judged_curve_when_its_points_are_read_then_they_surround_it_and_weigh_one(linear, kind):
    judged = landing_of(traits_of(filmed(linear, kind).reshape(-1, 3)), kind)

    points = list(judged.points())

    assert sum(weight for *_, weight in points) == pytest.approx(1)
    assert all(x.black < x.grey < x.white for x, *_ in points)
    middle = np.average([x.grey for x, *_ in points], weights=[w for *_, w in points])
    assert middle == pytest.approx(judged.best[0].grey, abs=0.02)


@pytest.mark.parametrize("kind", FAMILIES)
def test_given_the_kind_alone_when_judged_then_the_picture_comes_much_nearer_to_the_truth(linear, kind):
    picture = filmed(linear, kind)

    advice = judge(clip_of(picture), profile=str(kind))

    after = seen_through(Seen(pictures=(picture,), times_s=(0.0,)), advice.grade).pictures[0]
    assert FAMILY_OF[advice.profile.convert.profile] is kind
    assert apart(after, truth(linear)) < 0.8 * apart(picture, truth(linear))


def test_given_more_light_when_metered_then_the_answer_never_gets_darker(linear):
    found = [
        metered(traits_of(truth(linear * np.float32(2.0**stops)).reshape(-1, 3))).stops
        for stops in (-2, -1.5, -1, -0.5, 0, 0.5, 1)
    ]

    assert (np.diff(found) > -0.05).all()
    assert found[0] < -1.0


@pytest.mark.parametrize("picture", [np.zeros((20, 20, 3)), np.ones((20, 20, 3)), np.full((20, 20, 3), 0.4)])
def test_given_nothing_to_go_by_when_judged_then_numbers_stay_finite(picture):
    traits = traits_of(picture.astype(np.float32).reshape(-1, 3))

    assert abs(metered(traits).stops) < 5 and np.isfinite(metered(traits).log_likelihood(np.zeros(1))).all()
    for kind in FAMILIES:
        landing, colour = landing_of(traits, kind).best
        assert fitted(kind, landing, colour).curve is not None

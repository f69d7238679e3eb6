"""Curves of clips filmed alike, pooled: surer together, each at its own exposure."""

import numpy as np
import pytest

from morphe.core.advise.profile.landing import Judged
from morphe.core.advise.profile.pooled_curve import pooled, shared_curve
from morphe.core.signal.families import WHITE, Landing, curve_of
from morphe.core.signal.point_curve import GREY
from morphe.core.signal.profiles import Kind

TRUE = {
    Kind.LOG: Landing(black=0.06, grey=0.42, white=0.72),
    Kind.FLAT: Landing(black=0.09, grey=0.40, white=0.78),
}
SPREAD = np.diag([0.03, 0.05, 0.06, 0.05])


def clip_of(kind, stops=0.0, error=(0.0, 0.0, 0.0, 0.0)):
    """What a clip filmed at an exposure says of its curve, with an error."""
    grey, white = curve_of(kind, TRUE[kind]).encode(np.array([GREY, WHITE]) * 2.0**stops)
    return Judged(mean=np.array([TRUE[kind].black, grey, white, 0.0]) + error, axes=SPREAD)


@pytest.mark.parametrize("kind", TRUE)
def test_given_no_others_when_pooled_then_the_curve_is_the_clips_own(kind):
    own = clip_of(kind)
    assert pooled(own, (), kind) is own


@pytest.mark.parametrize("kind", TRUE)
def test_given_clips_filmed_alike_when_pooled_then_an_error_shrinks_and_the_spread_with_it(kind):
    own = clip_of(kind, error=(0.03, -0.03, 0.05, 0.0))
    together = pooled(own, [clip_of(kind) for _ in range(4)], kind)

    truth = clip_of(kind).mean
    assert np.linalg.norm(together.mean - truth) < 0.7 * np.linalg.norm(own.mean - truth)
    assert all(np.array(together.spread) < np.array(own.spread))


@pytest.mark.parametrize("kind", TRUE)
@pytest.mark.parametrize("stops", [-1.0, 0.7])
def test_given_another_exposure_when_pooled_then_it_is_kept(kind, stops):
    own = clip_of(kind, stops)
    together = pooled(own, [clip_of(kind) for _ in range(4)], kind)

    light = float(curve_of(kind, together.best[0]).decode(np.array(own.mean[1])))
    assert abs(np.log2(light / GREY)) < 0.4 * abs(stops)
    assert together.mean[0] == pytest.approx(TRUE[kind].black, abs=0.005)


@pytest.mark.parametrize("kind", TRUE)
def test_given_more_clips_when_a_curve_is_shared_then_it_is_surer_but_never_certain(kind):
    spreads = [np.array(shared_curve([clip_of(kind)] * n, kind).spread) for n in (1, 3, 30)]
    assert all(spreads[0] > spreads[1]) and all(spreads[1] > spreads[2]) and all(spreads[2] > 0.005)
    with pytest.raises(ValueError, match="at least one"):
        shared_curve([], kind)


def test_given_a_judged_curve_when_kept_as_plain_values_then_it_comes_back():
    own = clip_of(Kind.LOG, 0.3)
    again = Judged.from_json(own.as_json())
    np.testing.assert_allclose(again.mean, own.mean, atol=1e-5)
    assert again.spread == pytest.approx(own.spread, abs=1e-4)

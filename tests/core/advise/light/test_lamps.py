"""Lamps: their warmth is taken out, kept in part, or left, as the person prefers."""

import numpy as np
import pytest

from morphe.core.advise.evidence import evidence_of_pictures
from morphe.core.advise.judge import judge
from morphe.core.footage.probe import probe
from morphe.core.signal.light import adaptation_matrix
from morphe.core.signal.transfer import encode_bt709
from morphe.core.standins.demo import render_scene
from tests.footage import ClipSpec, write_clip


@pytest.fixture(scope="module")
def under_lamps(tmp_path_factory):
    """Evidence of a scene in light far warmer than the camera was balanced for."""
    light = np.asarray(render_scene("jetty-tan", 0.5, width=256, height=144), np.float32)
    warm = np.maximum(light @ np.linalg.inv(adaptation_matrix(90.0, 0.0)).T, 0).astype(np.float32)
    picture = np.clip(encode_bt709(warm), 0, 1).astype(np.float32)
    spec = ClipSpec(size=(256, 144), frames=5)
    path = write_clip(tmp_path_factory.mktemp("lamps") / "a.mp4", spec, lambda i: picture)
    return evidence_of_pictures(probe(path), [picture], [0.0], None)


def balance(evidence, lamps):
    return judge(evidence, profile="std-709", lamps=lamps).rung("balance")


def test_given_lamps_when_part_of_their_warmth_is_kept_then_so_much_less_is_taken_out(under_lamps):
    whole, half = (balance(under_lamps, share).step.number("warmth") for share in (1.0, 0.5))
    assert whole > 50
    assert half == pytest.approx(whole / 2, abs=0.2)
    assert "50 % of the warmth of lamps is kept" in balance(under_lamps, 0.5).reason


def test_given_lamps_when_they_are_left_warm_then_nothing_is_proposed_and_it_says_so(under_lamps):
    rung = balance(under_lamps, 0.0)
    assert not rung.applied and not rung.step.at_work
    assert "leave warm" in rung.reason

"""On the Bench an HDR clip is shown as its HDR file will be, and what that leaves out is named."""

import base64
import json

import cv2
import numpy as np
import pytest
from django.urls import reverse

from morphe.core.footage.probe import probe
from morphe.core.footage.reader import frame_at
from morphe.core.grade import recipe
from morphe.core.grade.grade import Grade
from morphe.core.grade.layer import Layer, Scope
from morphe.core.grade.region import Ellipse, Place, Region
from morphe.core.grade.steps import Exposure, Glow
from morphe.core.handover.delivery import Delivery
from morphe.core.handover.render import render
from morphe.core.signal.hdr import hlg_to_display, nits_to_sdr_display
from morphe.core.signal.transfer import encode_hlg
from morphe.web.clips.services.grades.grade import grade_of
from tests.footage import ClipSpec, scene, write_clip
from tests.web.conftest import brought_in

HLG = ClipSpec(
    codec="libx265", pixel_format="yuv420p10le", size=(192, 108), frames=12, matrix="bt2020", primaries=9,
    transfer=18,
)  # fmt: skip


@pytest.fixture
def hdr_clip(outing, tmp_path):
    light = np.clip(0.02 + 0.3 * scene(192, 108), 0, 1)
    return brought_in(
        outing, write_clip(tmp_path / "hlg.mov", HLG, lambda i: encode_hlg(light).astype(np.float32))
    )


def asked(client, clip, grade, **more):
    body = {"grade": json.loads(recipe.to_text(grade)), "frame": 0, **more}
    answer = client.post(
        reverse("bench-still", args=[clip.pk]), json.dumps(body), content_type="application/json"
    )
    return answer.json()


def picture_of(answer):
    data = base64.b64decode(answer["picture"].split(",")[1])
    return cv2.imdecode(np.frombuffer(data, np.uint8), cv2.IMREAD_COLOR)[..., ::-1] / 255


def test_given_an_hdr_clip_when_shown_as_hdr_then_it_is_what_its_file_will_be_and_says_what_is_left_out(
    client, hdr_clip, tmp_path
):
    middle = Region(shape=Ellipse(wide=0.5, tall=0.5), feather=0.1).put(Place(x=0.5, y=0.5))
    grade = grade_of(hdr_clip).with_layer(Layer(id="lit", steps=(Exposure(stops=0.7),), region=middle))
    grade = grade.with_step(Glow(amount=40), Scope.FINISH)

    answer = asked(client, hdr_clip, grade, hdr=True)

    assert answer["left_out"].startswith("As an HDR display shows it") and "Glow" in answer["left_out"]
    info = probe(hdr_clip.path)
    done = render(info, grade, tmp_path / "out.mp4", Delivery.of("web-hdr"))
    code = frame_at(probe(done.out), answer["time_s"]).encoded()
    wanted = np.clip(nits_to_sdr_display(hlg_to_display(code)), 0, 1) ** (1 / 2.4)
    assert np.abs(picture_of(answer) - wanted).mean() < 0.02
    plain = asked(client, hdr_clip, grade)
    assert "HDR" not in plain["left_out"]
    assert np.abs(picture_of(plain) - wanted).mean() > 0.02


def test_given_an_ordinary_clip_when_hdr_is_asked_for_then_it_is_not_offered_and_a_sentence_says_why(
    client, clip, hdr_clip
):
    assert "not filmed in HDR" in asked(client, clip, Grade(), hdr=True)["problem"]
    pages = [client.get(reverse("bench-clip", args=[one.pk])).text for one in (clip, hdr_clip)]
    assert ["data-hdr-switch" in page for page in pages] == [False, True]

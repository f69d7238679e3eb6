"""A curve judged from the clip: offered by the kind alone, slid, kept as a profile, used by the next clip."""

import numpy as np
import pytest

from morphe.core.errors import ColourError
from morphe.core.grade.convert import FAMILY_OF
from morphe.core.signal.families import Landing, curve_of
from morphe.core.signal.profiles import PROFILES, Kind
from morphe.web.bench.services.convert import choices_of, keep_curve, take_profile
from morphe.web.clips.services.grades.grade import grade_of
from morphe.web.clips.services.grades.versions import keep
from morphe.web.library.models import KeptProfile
from morphe.web.outings.models import Camera
from tests.footage import ClipSpec, scene, write_clip
from tests.web.conftest import brought_in

UNKNOWN = {
    Kind.LOG: Landing(black=0.045, grey=0.47, white=0.76),
    Kind.FLAT: Landing(black=0.11, grey=0.38, white=0.74),
}


def filmed_in(kind, folder):
    """A clip of the test scene in a curve that nobody named."""
    linear = PROFILES.get("std-709").decode(scene(192, 108))
    code = np.clip(curve_of(kind, UNKNOWN[kind]).encode(linear), 0, 1).astype(np.float32)
    return write_clip(folder / f"{kind}.mp4", ClipSpec(size=(192, 108), frames=20), lambda i: code)


@pytest.mark.parametrize("kind", UNKNOWN)
def test_given_the_kind_alone_when_said_then_the_curve_is_judged_with_its_spread(outing, tmp_path, kind):
    clip = brought_in(outing, filmed_in(kind, tmp_path))

    take_profile(clip, str(kind))

    clip.refresh_from_db()
    assert clip.profile["kind"] == kind and clip.profile["confidence"] == 1.0
    assert "±" in " ".join(clip.profile["evidence"])
    assert choices_of(clip).is_judged and FAMILY_OF[grade_of(clip).convert.profile] is kind


@pytest.mark.parametrize("kind", UNKNOWN)
def test_given_a_judged_curve_when_kept_then_the_picture_stays_and_the_next_clip_is_read_by_it(
    client, outing, tmp_path, kind
):
    Camera.objects.create(name="Cuttle")
    path = filmed_in(kind, tmp_path)
    clip = brought_in(outing, path, "cuttle-1.mp4")
    take_profile(clip, str(kind))
    before = grade_of(clip).convert
    codes = np.linspace(0.15, 0.7, 30, dtype=np.float32)[:, None] * np.array([1.0, 0.97, 0.94], np.float32)

    keep_curve(clip, "Cuttle soft")

    clip.refresh_from_db()
    kept = KeptProfile.objects.get()
    assert clip.profile_choice == kept.key and kept.kind == kind
    np.testing.assert_allclose(grade_of(clip).convert.apply(codes), before.apply(codes), atol=4e-3)
    assert "Cuttle soft" in client.get("/library/profiles/").content.decode()
    assert brought_in(outing, path, "cuttle-2.mp4").profile["label"] == "Cuttle soft"


def test_given_a_curve_that_was_not_judged_when_kept_or_named_like_another_then_it_is_refused(
    outing, tmp_path
):
    clip = brought_in(outing, filmed_in(Kind.LOG, tmp_path))
    take_profile(clip, "log")
    for name in ("", "Wide log"):
        with pytest.raises(ColourError, match="name"):
            keep_curve(clip, name)
    keep(clip, grade_of(clip).without_step("convert"), "As filmed")

    with pytest.raises(ColourError, match="not converted by a curve that was judged"):
        keep_curve(clip, "Mine")

    assert not KeptProfile.objects.exists()


def test_given_clips_of_one_camera_when_their_curve_is_judged_then_each_tells_of_it_and_library_keeps_it(
    client, outing, tmp_path
):
    Camera.objects.create(name="Cuttle")
    path = filmed_in(Kind.LOG, tmp_path)
    first = brought_in(outing, path, "cuttle-1.mp4")
    take_profile(first, "log")
    second = brought_in(outing, path, "cuttle-2.mp4")

    assert second.profile["kind"] == "log"
    assert "from the clip and 1 other of its camera and folder" in " ".join(second.profile["evidence"])

    page = client.get("/library/profiles/").content.decode()
    assert "Log, judged from 2 clips" in page and "Cuttle" in page
    refused = client.post(f"/library/profiles/judged/{first.pk}/", {"name": "Wide log"}, follow=True)
    assert "There is a profile called Wide log already" in refused.content.decode()
    kept = client.post(f"/library/profiles/judged/{first.pk}/", {"name": "Cuttle soft"}, follow=True)

    assert "Cuttle soft is kept" in kept.content.decode()
    assert brought_in(outing, path, "cuttle-3.mp4").profile["label"] == "Cuttle soft"
    gone = client.get(f"/library/profiles/judged/{first.pk}/", follow=True).content.decode()
    assert "This curve has changed or is gone" in gone

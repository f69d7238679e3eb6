"""Names of what goes out: letters of any script, and as long as a disk takes."""

import shutil
from email.message import Message

import pytest

from morphe.core.handover.hand_back import Rules, hand_back
from morphe.web.clips.models import Clip
from morphe.web.clips.services.intake.card import look_at
from morphe.web.handover.models import HandOver
from morphe.web.handover.services.queue import hand_over
from morphe.web.handover.services.wish import Wish
from tests.web.working import work_all

NAMES = [
    "Żółć źrebię.mp4",
    "βράδυ στη θάλασσα.mp4",
    "Вечер.mp4",
    "夕方の海.mp4",
    "é" * 100 + ".mp4",
    "海" * 80 + ".mp4",
]


def saved_as(answer):
    """The name under which a browser saves an answer."""
    said = Message()
    said["Content-Disposition"] = answer.headers["Content-Disposition"]
    return said.get_filename()


@pytest.mark.parametrize("name", NAMES)
def test_given_letters_of_any_script_when_a_clip_goes_out_then_its_files_bear_its_name(client, clip, name):
    Clip.objects.filter(pk=clip.pk).update(title=name)
    hand_over(Clip.objects.with_grades().filter(pk=clip.pk), Wish())
    work_all("hand-over")

    order = HandOver.objects.get()
    assert order.is_done and order.result.name.split("/")[-1].startswith(name[:3])
    assert saved_as(client.get(f"/hand-over/{order.pk}/clip/")).startswith(name[:3])
    assert saved_as(client.get(f"/bench/{clip.pk}/grade.cube")).startswith(name[:3])


def test_given_a_name_as_long_as_a_disk_takes_when_handed_back_then_all_files_are_written(log_file, tmp_path):
    (tmp_path / "back").mkdir()
    done = []
    for last in "ab":  # two that are told apart by their last letter alone
        clip = shutil.copy(log_file, tmp_path / ("é" * 125 + f"{last}.mp4"))
        done.append(hand_back(clip, tmp_path / "back", Rules(film=last == "a")))

    files = {path for one in done for path in (one.cube, one.recipe, one.report, one.out) if path}
    assert len(files) == 7 and all(path.exists() for path in files)


def test_given_clips_of_a_camcorder_and_of_the_web_when_a_card_is_looked_at_then_they_are_there(
    outing, log_file, tmp_path, settings
):
    settings.IMPORT_ROOTS = [tmp_path]
    for name in ("one.MTS", "two.webm", "three.txt"):
        shutil.copy(log_file, tmp_path / name)

    assert [c.path for c in look_at(outing, str(tmp_path)).clips] == ["one.MTS", "two.webm"]

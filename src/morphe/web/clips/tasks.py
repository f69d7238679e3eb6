"""What the worker does with clips: read, copy from cards, prepare for playing."""

from huey.contrib.djhuey import db_task

from morphe.web.clips.models import Clip
from morphe.web.clips.services.card import run_import
from morphe.web.clips.services.proxies import prepare_playing
from morphe.web.clips.services.read import look_again, read_again, read_and_keep

__all__ = ["card_import_task", "look_again_task", "prepare_playing_task", "read_again_task", "read_clip_task"]


@db_task()
def read_clip_task(clip_id: int) -> None:
    read_and_keep(clip_id)


@db_task()
def read_again_task(clip_id: int) -> None:
    clip = Clip.objects.ready().filter(pk=clip_id).first()
    if clip is not None:
        read_again(clip)


@db_task()
def look_again_task(clip_id: int) -> None:
    """After a word on a clip: others of its camera and folder follow."""
    told = Clip.objects.filter(pk=clip_id).first()
    if told is not None:
        look_again(told.outing, told)


@db_task(priority=-1)  # reading goes first
def prepare_playing_task(clip_id: int) -> None:
    prepare_playing(clip_id)


@db_task()
def card_import_task(job_id: int) -> None:
    run_import(job_id)

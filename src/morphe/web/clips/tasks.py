"""Reading clips in the worker."""

from huey.contrib.djhuey import db_task

from morphe.web.clips.services.read import read_and_keep

__all__ = ["read_clip_task"]


@db_task()
def read_clip_task(clip_id: int) -> None:
    read_and_keep(clip_id)

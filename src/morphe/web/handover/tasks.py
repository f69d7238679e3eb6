"""Rendering in the worker."""

from huey.contrib.djhuey import db_task

from morphe.web.handover.services.run import run_hand_over

__all__ = ["hand_over_task"]


@db_task()
def hand_over_task(hand_over_id: int) -> None:
    run_hand_over(hand_over_id)

"""The one task of the queue: the row says what is to be done, a child of the worker does it."""

from huey.contrib.djhuey import db_task, on_startup

__all__ = ["run_job_task"]


@db_task()  # type: ignore[untyped-decorator]
def run_job_task(job_id: int) -> None:
    from morphe.web.jobs.services.children import do_in_child  # which asks for work itself

    do_in_child(job_id)


@on_startup()  # type: ignore[untyped-decorator]
def warm() -> None:
    """Each thread of the worker has its child ready before the first job comes."""
    from morphe.web.jobs.services.children import ready

    ready()

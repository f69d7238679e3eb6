"""The one task of the queue: the row says what is to be done."""

from huey.contrib.djhuey import db_task

from morphe.web.jobs.services.run import run_job

__all__ = ["run_job_task"]


@db_task()
def run_job_task(job_id: int) -> None:
    run_job(job_id)

"""Work of the plan that the worker does."""

from huey.contrib.djhuey import db_task

from morphe.web.plan.models import PlannedCamera
from morphe.web.plan.services.meet import meet_again


@db_task()
def meet_again_task(planned_id: int) -> None:
    """Set a camera's clips against its changed plan."""
    planned = PlannedCamera.objects.filter(pk=planned_id).first()
    if planned is not None:
        meet_again(planned)

"""Renders become jobs; a hand-over keeps what was ordered and what came out."""

import django.db.models.deletion
from django.db import migrations, models


def orders_to_jobs(apps, schema_editor):
    """Renders that waited or ran begin again; the others keep how they ended."""
    Job, HandOver = apps.get_model("jobs", "Job"), apps.get_model("handover", "HandOver")
    for order in HandOver.objects.all():
        state = {"running": "waiting", "cancelled": "stopped"}.get(order.state, order.state)
        order.job = Job.objects.create(
            kind="hand-over", subject=order.pk, state=state, heartbeat=order.heartbeat, created=order.created,
            done=order.frames_done, total=order.frames_total, problem=order.problem,
        )
        order.save(update_fields=["job"])


class Migration(migrations.Migration):

    dependencies = [
        ("handover", "0001_initial"),
        ("clips", "0005_grades_and_findings"),
        ("jobs", "0001_initial"),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.AlterField(
                    model_name="handover",
                    name="version",
                    field=models.ForeignKey(blank=True, null=True,
                    on_delete=django.db.models.deletion.PROTECT,
                                            to="clips.gradeversion"),
                ),
            ],
            database_operations=[],
        ),
        migrations.AddField(
            "handover",
            "job",
            models.OneToOneField(null=True, on_delete=django.db.models.deletion.SET_NULL,
                                 related_name="hand_over", to="jobs.job"),
        ),
        migrations.RunPython(orders_to_jobs, migrations.RunPython.noop),
        *(
            migrations.RemoveField("handover", name)
            for name in ("state", "frames_done", "frames_total", "heartbeat", "claim", "stop_wanted", "problem")
        ),
    ]

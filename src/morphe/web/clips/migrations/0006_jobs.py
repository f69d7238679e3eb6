"""Long work of clips and cards becomes jobs."""

import django.db.models.deletion
from django.db import migrations, models


def cards_to_jobs(apps, schema_editor):
    """Cards that were being copied go on; how the others ended is in their own numbers."""
    Job, CardImport = apps.get_model("jobs", "Job"), apps.get_model("clips", "CardImport")
    for card in CardImport.objects.all():
        state = {"running": "waiting"}.get(card.state, card.state)
        card.job = Job.objects.create(
            kind="import", subject=card.pk, state=state, heartbeat=card.heartbeat, created=card.created,
            done=card.done, total=len(card.files),
        )
        card.save(update_fields=["job"])


class Migration(migrations.Migration):

    dependencies = [
        ("clips", "0005_grades_and_findings"),
        ("jobs", "0001_initial"),
    ]

    operations = [
        migrations.AddField(
            "cardimport",
            "job",
            models.OneToOneField(null=True, on_delete=django.db.models.deletion.SET_NULL, related_name="+",
                                 to="jobs.job"),
        ),
        migrations.RunPython(cards_to_jobs, migrations.RunPython.noop),
        migrations.RemoveField("cardimport", "state"),
        migrations.RemoveField("cardimport", "heartbeat"),
        migrations.RemoveField("clip", "heartbeat"),
    ]

import django.utils.timezone
from django.db import migrations, models


class Migration(migrations.Migration):

    initial = True

    dependencies = []

    operations = [
        migrations.CreateModel(
            name="Job",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("kind", models.CharField(max_length=20)),
                ("subject", models.BigIntegerField()),
                ("state", models.CharField(
                    choices=[("waiting", "Waiting"), ("running", "Running"), ("done", "Done"),
                             ("failed", "Failed"), ("stopped", "Stopped")],
                    default="waiting", max_length=10)),
                ("claim", models.CharField(blank=True, max_length=32)),
                ("heartbeat", models.DateTimeField(default=django.utils.timezone.now)),
                ("attempts", models.PositiveSmallIntegerField(default=0)),
                ("done", models.PositiveIntegerField(default=0)),
                ("total", models.PositiveIntegerField(default=0)),
                ("stop_wanted", models.BooleanField(default=False)),
                ("problem", models.TextField(blank=True)),
                ("created", models.DateTimeField(default=django.utils.timezone.now)),
                ("ended", models.DateTimeField(blank=True, null=True)),
            ],
            options={"ordering": ("-id",)},
        ),
        migrations.AddIndex(
            model_name="job", index=models.Index(fields=["kind", "subject"], name="jobs_job_kind_subject")
        ),
        migrations.AddIndex(
            model_name="job", index=models.Index(fields=["state", "heartbeat"], name="jobs_job_state_heart")
        ),
        migrations.AddConstraint(
            model_name="job",
            constraint=models.UniqueConstraint(
                fields=("kind", "subject"), condition=models.Q(("state", "waiting")),
                name="one_waiting_per_subject"
            ),
        ),
    ]

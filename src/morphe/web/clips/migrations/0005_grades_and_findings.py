"""The history of grades moves here from the Bench; what is found of a clip is kept apart from what is
judged."""

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ("clips", "0004_proxy_chroma"),
        ("bench", "0002_initial"),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[
                migrations.CreateModel(
                    name="GradeVersion",
                    fields=[
                        ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False,
                                                   verbose_name="ID")),
                        ("grade", models.JSONField()),
                        ("change", models.CharField(max_length=200)),
                        ("created", models.DateTimeField(auto_now_add=True)),
                        ("clip", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE,
                                                   related_name="versions", to="clips.clip")),
                        ("parent", models.ForeignKey(blank=True, null=True,
                                                     on_delete=django.db.models.deletion.CASCADE,
                                                     related_name="children", to="clips.gradeversion")),
                    ],
                    options={"ordering": ("id",), "db_table": "bench_gradeversion"},
                ),
                migrations.AlterField(
                    model_name="clip",
                    name="version",
                    field=models.ForeignKey(blank=True, null=True,
                    on_delete=django.db.models.deletion.SET_NULL,
                                            related_name="+", to="clips.gradeversion"),
                ),
            ],
            database_operations=[],
        ),
        migrations.AddField("clip", "findings", models.JSONField(default=dict)),
        migrations.AddField(
            "clip", "over_time", models.FileField(blank=True, max_length=300, upload_to="over-time/")
        ),
        migrations.AddField("clip", "advice_version", models.PositiveSmallIntegerField(default=0)),
    ]

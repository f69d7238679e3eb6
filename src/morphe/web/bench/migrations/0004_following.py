import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):

    dependencies = [
        ("bench", "0003_grades_leave"),
        ("clips", "0006_jobs"),
        ("jobs", "0001_initial"),
    ]

    operations = [
        migrations.CreateModel(
            name="Following",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False,
                                           verbose_name="ID")),
                ("layer", models.CharField(max_length=40)),
                ("start_s", models.FloatField()),
                ("lost_s", models.FloatField(blank=True, null=True)),
                ("created", models.DateTimeField(auto_now_add=True)),
                ("clip", models.ForeignKey(on_delete=django.db.models.deletion.CASCADE,
                                           related_name="followings", to="clips.clip")),
                ("job", models.OneToOneField(null=True, on_delete=django.db.models.deletion.SET_NULL,
                                             related_name="+", to="jobs.job")),
            ],
            options={"ordering": ("-id",)},
        ),
    ]

import django.db.models.deletion
from django.db import migrations, models


def gather(apps, schema_editor):
    answer = apps.get_model("clips", "GivenAnswer")
    for was in apps.get_model("clips", "ProfileMemory").objects.all():
        answer.objects.create(
            question="profile", camera_id=was.camera_id, folder=was.folder, key=was.key, label=was.label
        )
    for was in apps.get_model("clips", "WaterMemory").objects.all():
        word = "wet" if was.wet else "dry"
        answer.objects.create(
            question="water", camera_id=was.camera_id, folder=was.folder, key=word, label=word
        )


class Migration(migrations.Migration):
    dependencies = [
        ("clips", "0016_uploads_settle"),
        ("outings", "0008_practice"),
    ]

    operations = [
        migrations.CreateModel(
            name="GivenAnswer",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("question", models.CharField(max_length=20)),
                ("folder", models.CharField(blank=True, max_length=200)),
                ("key", models.CharField(max_length=40)),
                ("label", models.CharField(max_length=80)),
                ("changed", models.DateTimeField(auto_now=True)),
                (
                    "camera",
                    models.ForeignKey(
                        blank=True, null=True, on_delete=django.db.models.deletion.CASCADE,
                        related_name="+", to="outings.camera",
                    ),
                ),
            ],
            options={"ordering": ("-changed",)},
        ),
        migrations.AddConstraint(
            model_name="givenanswer",
            constraint=models.UniqueConstraint(
                fields=("question", "camera", "folder"), name="one_answer_per_folder"
            ),
        ),
        migrations.AddConstraint(
            model_name="givenanswer",
            constraint=models.UniqueConstraint(
                condition=models.Q(("camera", None)), fields=("question", "folder"),
                name="one_answer_without_camera",
            ),
        ),
        migrations.RunPython(gather, migrations.RunPython.noop),
        migrations.DeleteModel(name="ProfileMemory"),
        migrations.DeleteModel(name="WaterMemory"),
    ]

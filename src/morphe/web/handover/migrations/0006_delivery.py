"""All that is wanted of a file as one value; what came out, looked over."""

from django.apps.registry import Apps
from django.db import migrations, models
from django.db.backends.base.schema import BaseDatabaseSchemaEditor


def gather(apps: Apps, schema_editor: BaseDatabaseSchemaEditor) -> None:
    for order in apps.get_model("handover", "HandOver").objects.iterator():
        order.delivery = {
            "preset": order.preset, "megabytes": order.megabytes, "sound": order.sound, "parts": order.parts,
        }  # fmt: skip
        order.save(update_fields=["delivery"])


def scatter(apps: Apps, schema_editor: BaseDatabaseSchemaEditor) -> None:
    for order in apps.get_model("handover", "HandOver").objects.iterator():
        for name in ("megabytes", "sound", "parts"):
            if order.delivery.get(name):
                setattr(order, name, order.delivery[name])
        order.save(update_fields=["megabytes", "sound", "parts"])


class Migration(migrations.Migration):
    dependencies = [("handover", "0005_parts")]

    operations = [
        migrations.AddField("handover", "delivery", models.JSONField(default=dict)),
        migrations.AddField(
            "handover", "what",
            models.CharField(
                choices=[
                    ("clip", "Clip"), ("joined", "One joined file"), ("still", "Still"), ("link", "Page to send"),
                    ("report", "Report of the outing"),
                ],
                default="clip", max_length=10,
            ),
        ),  # fmt: skip
        migrations.AddField("handover", "title", models.CharField(blank=True, max_length=200)),
        migrations.AddField("handover", "name", models.CharField(blank=True, max_length=120)),
        migrations.AddField("handover", "others", models.JSONField(default=list)),
        migrations.AddField("handover", "time_s", models.FloatField(blank=True, null=True)),
        migrations.AddField("handover", "paused", models.BooleanField(default=False)),
        migrations.AddField(
            "handover", "picture", models.FileField(blank=True, max_length=400, upload_to="results/")
        ),
        migrations.AddField("handover", "verdicts", models.JSONField(default=list)),
        migrations.RunPython(gather, scatter),
        migrations.RemoveField("handover", "megabytes"),
        migrations.RemoveField("handover", "sound"),
        migrations.RemoveField("handover", "parts"),
        migrations.AlterField("handover", "preset", models.CharField(max_length=40)),
    ]

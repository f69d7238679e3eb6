from datetime import date

from django.db import migrations, models


def mark(apps, schema_editor):
    """The outing that an older Morphe began with is known by its name and day."""
    outings = apps.get_model("outings", "Outing").objects
    outings.filter(name="Volunteer day", date=date(2026, 9, 12)).update(is_demo=True)


class Migration(migrations.Migration):
    dependencies = [("outings", "0006_outing_school")]

    operations = [
        migrations.AddField("outing", "is_demo", models.BooleanField(default=False)),
        migrations.RunPython(mark, migrations.RunPython.noop),
    ]

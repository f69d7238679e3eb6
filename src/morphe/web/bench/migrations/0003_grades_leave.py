"""The history of grades belongs to the clips; its table stays where it is."""

from django.db import migrations


class Migration(migrations.Migration):

    dependencies = [
        ("bench", "0002_initial"),
        ("clips", "0005_grades_and_findings"),
        ("handover", "0002_jobs"),
    ]

    operations = [
        migrations.SeparateDatabaseAndState(
            state_operations=[migrations.DeleteModel(name="GradeVersion")], database_operations=[]
        ),
    ]

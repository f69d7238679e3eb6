from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("library", "0003_looks_and_luts")]

    operations = [
        migrations.CreateModel(
            name="KeptPreset",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=60, unique=True)),
                ("created", models.DateTimeField(auto_now_add=True)),
                ("values", models.JSONField(default=dict)),
            ],
            options={"ordering": ("name",), "abstract": False},
        ),
    ]

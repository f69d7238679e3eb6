from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("library", "0004_presets")]

    operations = [
        migrations.CreateModel(
            name="KeptRecipe",
            fields=[
                (
                    "id",
                    models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID"),
                ),
                ("name", models.CharField(max_length=60, unique=True)),
                ("created", models.DateTimeField(auto_now_add=True)),
                ("given", models.JSONField(default=dict)),
                ("tags", models.JSONField(default=dict)),
                ("used", models.PositiveIntegerField(default=0)),
            ],
            options={"ordering": ("name",), "abstract": False},
        ),
    ]

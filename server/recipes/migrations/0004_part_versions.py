"""Parts keep what they said before."""

from typing import Any

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


def begin(apps: Any, schema_editor: Any) -> None:
    """What parts say now is their first version."""
    version = apps.get_model("recipes", "PartVersion")
    parts = apps.get_model("recipes", "Part").objects.all()
    version.objects.bulk_create(version(part=part, number=1, setting=part.setting) for part in parts)


class Migration(migrations.Migration):
    dependencies = [
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
        ("recipes", "0003_set"),
    ]
    operations = [
        migrations.CreateModel(
            name="PartVersion",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("number", models.PositiveIntegerField()),
                ("setting", models.JSONField()),
                ("made", models.DateTimeField(auto_now_add=True)),
                (
                    "made_by",
                    models.ForeignKey(
                        null=True, on_delete=django.db.models.deletion.SET_NULL, to=settings.AUTH_USER_MODEL
                    ),
                ),
                (
                    "part",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="versions", to="recipes.part"
                    ),
                ),
            ],
            options={"ordering": ["-number"]},
        ),
        migrations.AddConstraint(
            model_name="partversion",
            constraint=models.UniqueConstraint(fields=("part", "number"), name="version_number_in_part"),
        ),
        migrations.RunPython(begin, migrations.RunPython.noop),
    ]

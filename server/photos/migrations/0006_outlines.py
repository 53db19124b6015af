"""Photos have an outline of their object."""

from __future__ import annotations

import django.db.models.deletion
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("photos", "0005_tone")]
    operations = [
        migrations.AddField("photo", "traced", models.JSONField(default=dict)),
        migrations.AddField(
            "photo",
            "outlined",
            models.BooleanField(default=False, help_text="whether a person kept the outline"),
        ),
        migrations.AddField("photo", "outline_version", models.PositiveIntegerField(default=0)),
        migrations.CreateModel(
            name="Outline",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("digest", models.CharField(max_length=64)),
                ("content", models.JSONField()),
                (
                    "photo",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="outlines", to="photos.photo"
                    ),
                ),
            ],
            options={"constraints": [models.UniqueConstraint(fields=("photo", "digest"), name="outline_once_a_photo")]},
        ),
    ]

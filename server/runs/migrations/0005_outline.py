"""A rendition is made with the outline that its photo had when it was asked for."""

from __future__ import annotations

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("runs", "0004_tone")]
    operations = [
        migrations.AddField("rendition", "outline", models.JSONField(default=dict)),
        migrations.AlterField(
            "rendition",
            "question",
            models.CharField(
                blank=True,
                choices=[("crop", "Crop"), ("name", "Name"), ("word", "Word"), ("outline", "Outline")],
                max_length=8,
            ),
        ),
    ]

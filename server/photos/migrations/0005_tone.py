"""Photos have a tone of their own."""

from __future__ import annotations

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("photos", "0004_written")]
    operations = [
        migrations.AddField("photo", "tone", models.JSONField(default=dict)),
        migrations.AddField("photo", "tone_version", models.PositiveIntegerField(default=0)),
    ]

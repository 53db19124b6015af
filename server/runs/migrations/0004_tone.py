"""A rendition is made with the tone that its photo had when it was asked for."""

from __future__ import annotations

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("runs", "0003_held_and_afterwards")]
    operations = [migrations.AddField("rendition", "tone", models.JSONField(default=dict))]

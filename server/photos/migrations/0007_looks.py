"""Photos have further tones, each for some recipes."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("photos", "0006_outlines")]
    operations = [
        migrations.AddField(
            "photo",
            "looks",
            models.JSONField(default=list, help_text="further tones, each for some recipes"),
        )
    ]

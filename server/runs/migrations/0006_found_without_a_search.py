"""What a run's page says of all its renditions is written down, so that a run of 80,000 answers as soon as one of 20."""

from __future__ import annotations

from django.db import migrations, models

FILL = """
UPDATE runs_rendition SET differs = true WHERE receipt IS NOT NULL AND receipt->'differences' <> '[]'::jsonb;
UPDATE runs_run SET originals = coalesce((
    SELECT sum(bytes) FROM photos_photo
    WHERE id IN (SELECT photo_id FROM runs_rendition WHERE run_id = runs_run.id)
), 0);
"""


class Migration(migrations.Migration):
    dependencies = [("runs", "0005_outline")]
    operations = [
        migrations.AddField(
            "rendition",
            "differs",
            models.BooleanField(default=False, help_text="whether its file is other than planned"),
        ),
        migrations.AddField("run", "originals", models.BigIntegerField(default=0)),
        migrations.RunSQL(FILL, migrations.RunSQL.noop),
        migrations.AddIndex(
            "rendition",
            models.Index(fields=["run"], name="rendition_differs", condition=models.Q(differs=True)),
        ),
    ]

"""A photo's outline changes the renditions that cut it out: the journal notes it too."""

from __future__ import annotations

from django.db import migrations

WATCHED = """OLD.state <> NEW.state OR OLD.read IS DISTINCT FROM NEW.read OR OLD.folder <> NEW.folder
    OR OLD.typed_version <> NEW.typed_version OR OLD.said <> NEW.said OR OLD.tone_version <> NEW.tone_version"""
AGAIN = """
DROP TRIGGER board_note ON photos_photo;
CREATE TRIGGER board_note AFTER UPDATE ON photos_photo FOR EACH ROW
    WHEN ({}) EXECUTE FUNCTION board_note_photo();
"""


class Migration(migrations.Migration):
    dependencies = [("board", "0003_tones"), ("photos", "0006_outlines")]
    operations = [migrations.RunSQL(AGAIN.format(f"{WATCHED} OR OLD.traced <> NEW.traced"), AGAIN.format(WATCHED))]

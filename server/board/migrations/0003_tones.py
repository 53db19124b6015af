"""A photo's tone changes all of its renditions: the journal notes it too."""

from __future__ import annotations

from django.db import migrations

WATCHED = """OLD.state <> NEW.state OR OLD.read IS DISTINCT FROM NEW.read OR OLD.folder <> NEW.folder
    OR OLD.typed_version <> NEW.typed_version OR OLD.said <> NEW.said"""
AGAIN = """
DROP TRIGGER board_note ON photos_photo;
CREATE TRIGGER board_note AFTER UPDATE ON photos_photo FOR EACH ROW
    WHEN ({}) EXECUTE FUNCTION board_note_photo();
"""


class Migration(migrations.Migration):
    dependencies = [("board", "0002_words"), ("photos", "0005_tone")]
    operations = [
        migrations.RunSQL(AGAIN.format(f"{WATCHED} OR OLD.tone_version <> NEW.tone_version"), AGAIN.format(WATCHED))
    ]

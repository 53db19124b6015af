"""A journal of which photos' cells may have changed, written by triggers; see `server.board.journal`."""

from __future__ import annotations

from django.db import migrations

TABLE = """
CREATE TABLE board_change (
    photo_id bigint NOT NULL,
    tray_id bigint,
    plans boolean NOT NULL DEFAULT true,
    xact xid8 NOT NULL DEFAULT pg_current_xact_id(),
    made timestamptz NOT NULL DEFAULT now()
);
CREATE INDEX board_change_xact ON board_change (xact);
CREATE INDEX board_change_made ON board_change USING brin (made);
"""

NOTES = """
CREATE FUNCTION board_note_photos() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
    INSERT INTO board_change (photo_id) SELECT DISTINCT photo_id FROM changed;
    RETURN NULL;
END $$;
CREATE FUNCTION board_note_states() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
    INSERT INTO board_change (photo_id, plans) SELECT DISTINCT photo_id, false FROM changed;
    RETURN NULL;
END $$;
CREATE FUNCTION board_note_places() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
    INSERT INTO board_change (photo_id, tray_id) SELECT photo_id, tray_id FROM changed;
    RETURN NULL;
END $$;
CREATE FUNCTION board_note_photo() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
    INSERT INTO board_change (photo_id) VALUES (NEW.id);
    RETURN NULL;
END $$;
CREATE FUNCTION board_note_rendition() RETURNS trigger LANGUAGE plpgsql AS $$ BEGIN
    INSERT INTO board_change (photo_id, plans) VALUES (NEW.photo_id, false);
    RETURN NULL;
END $$;
CREATE TRIGGER board_note AFTER UPDATE ON photos_photo FOR EACH ROW
    WHEN (OLD.state <> NEW.state OR OLD.read IS DISTINCT FROM NEW.read OR OLD.folder <> NEW.folder)
    EXECUTE FUNCTION board_note_photo();
CREATE TRIGGER board_note AFTER UPDATE ON runs_rendition FOR EACH ROW
    WHEN (OLD.state <> NEW.state OR OLD.lost <> NEW.lost OR OLD.name <> NEW.name)
    EXECUTE FUNCTION board_note_rendition();
"""

# table, function, operations
WHOLE = (
    ("runs_rendition", "board_note_states", ("INSERT", "DELETE")),
    ("framings_framing", "board_note_photos", ("INSERT", "DELETE", "UPDATE")),
    ("framings_sharpness", "board_note_photos", ("INSERT", "DELETE", "UPDATE")),
    ("trays_exclusion", "board_note_states", ("INSERT", "DELETE")),
    ("trays_trayphoto", "board_note_places", ("INSERT", "DELETE", "UPDATE")),
)


def triggers() -> str:
    """One a table and operation, once a statement: PostgreSQL allows no more where the changed rows are handed over."""
    return "\n".join(
        f"CREATE TRIGGER board_note_{each.lower()} AFTER {each} ON {table} "
        f"REFERENCING {'OLD' if each == 'DELETE' else 'NEW'} TABLE AS changed "
        f"FOR EACH STATEMENT EXECUTE FUNCTION {function}();"
        for table, function, operations in WHOLE
        for each in operations
    )


class Migration(migrations.Migration):
    initial = True
    dependencies = [
        ("photos", "0001_initial"),
        ("trays", "0001_initial"),
        ("framings", "0001_initial"),
        ("runs", "0001_initial"),
    ]
    operations = [migrations.RunSQL(TABLE), migrations.RunSQL(NOTES), migrations.RunSQL(triggers())]

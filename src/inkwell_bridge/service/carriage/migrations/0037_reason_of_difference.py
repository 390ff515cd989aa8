"""Why something stands between the sides of a document, kept beside it and in step with what becomes of the document.

Asking for it when it is told was a look at every document that has a difference: with a backlog of 20,000 most of what
the first page of a day costs.
"""

from __future__ import annotations

from django.db import migrations, models

# The names are those of ``core.proof.Reason``; the first that fits counts. What is carried, with nobody's word for it,
# has none.
_FUNCTIONS = """
    CREATE FUNCTION carriage_reason(between_ text, document carriage_crossing) RETURNS text LANGUAGE sql STABLE AS $$
        SELECT CASE
            WHEN between_ = 'cut-off' AND document.findings @> '[{"id": "DATE-N002"}]'
                THEN 'moved out of a locked period'
            WHEN between_ = 'cut-off' THEN 'on another day in the books'
            WHEN document.kind = 'entered_by_hand' THEN 'entered by hand'
            WHEN document.kind = 'not_posted_here' THEN 'under our reference, and not posted from here'
            WHEN document.gone_at IS NOT NULL THEN 'gone at the sales side'
            WHEN document.state = 'left out' AND document.left_out_by = '/bridge/starts_on' THEN 'before the start'
            WHEN document.state = 'left out' THEN 'left out'
            WHEN document.state = 'held' THEN 'held'
            WHEN document.state = 'waiting' THEN 'waiting'
            WHEN document.state = 'adopted' THEN 'adopted as it was entered'
            WHEN document.state = 'differs' THEN CASE document.cause
                WHEN 'changed-in-books' THEN 'changed in the books'
                WHEN 'voided-in-books' THEN 'voided in the books'
                WHEN 'missing-in-books' THEN 'missing in the books'
                WHEN 'twice-in-books' THEN 'twice in the books'
                WHEN 'reference-changed' THEN 'under another reference in the books'
                ELSE 'posted otherwise than planned' END
            WHEN document.state = 'carried' AND document.decision ->> 'kind' = 'keep posted' THEN 'kept as posted'
            WHEN document.state = 'carried' AND (document.decision ? 'accepted'
                OR document.decision ->> 'kind' = 'keep theirs') THEN 'accepted by a person'
            ELSE 'unexplained' END
    $$;
    -- What it is held for, or the rule that left it out.
    CREATE FUNCTION carriage_detail(between_ text, document carriage_crossing) RETURNS text LANGUAGE sql STABLE AS $$
        SELECT CASE
            WHEN between_ = 'cut-off' THEN ''
            WHEN document.state = 'held' THEN document.cause
            WHEN document.state = 'left out' AND document.left_out_by <> '/bridge/starts_on' THEN document.left_out_by
            ELSE '' END
    $$;
    CREATE FUNCTION carriage_difference_made() RETURNS trigger LANGUAGE plpgsql AS $$
    BEGIN
        SELECT carriage_reason(NEW.between, document), carriage_detail(NEW.between, document)
            INTO NEW.reason, NEW.detail FROM carriage_crossing AS document WHERE document.id = NEW.crossing_id;
        RETURN NEW;
    END $$;
    CREATE FUNCTION carriage_document_became() RETURNS trigger LANGUAGE plpgsql AS $$
    BEGIN
        UPDATE carriage_difference SET reason = carriage_reason("between", NEW), detail = carriage_detail("between", NEW)
            WHERE crossing_id = NEW.id;
        RETURN NULL;
    END $$;
    UPDATE carriage_difference AS difference
        SET reason = carriage_reason("between", document), detail = carriage_detail("between", document)
        FROM carriage_crossing AS document WHERE document.id = difference.crossing_id
"""
_TRIGGERS = """
    CREATE TRIGGER carriage_difference_reason BEFORE INSERT ON carriage_difference
        FOR EACH ROW EXECUTE FUNCTION carriage_difference_made();
    CREATE TRIGGER carriage_crossing_reason
        AFTER UPDATE OF state, cause, left_out_by, gone_at, decision, findings ON carriage_crossing FOR EACH ROW
        WHEN ((OLD.state, OLD.cause, OLD.left_out_by, OLD.gone_at, OLD.decision, OLD.findings)
              IS DISTINCT FROM (NEW.state, NEW.cause, NEW.left_out_by, NEW.gone_at, NEW.decision, NEW.findings))
        EXECUTE FUNCTION carriage_document_became()
"""
_NO_TRIGGERS = """
    DROP TRIGGER carriage_crossing_reason ON carriage_crossing;
    DROP TRIGGER carriage_difference_reason ON carriage_difference;
    DROP FUNCTION carriage_document_became, carriage_difference_made, carriage_detail, carriage_reason
"""


class Migration(migrations.Migration):
    """Two columns of differences, which the database keeps; and an index that has all that holds are told by."""

    dependencies = [("carriage", "0036_by_account")]

    operations = [
        migrations.AddField("difference", "reason", models.CharField(default="", max_length=60)),
        migrations.AddField("difference", "detail", models.CharField(default="", max_length=120)),
        migrations.RunSQL(_FUNCTIONS, migrations.RunSQL.noop),
        migrations.RunSQL(_TRIGGERS, _NO_TRIGGERS),
        migrations.RemoveIndex("crossing", "crossing_state"),
        migrations.AddIndex(
            "crossing",
            models.Index(fields=["workspace", "state", "cause"], include=["currency", "gross"], name="crossing_state"),
        ),
    ]

"""One carriage for every kind: documents and crossings many to many, events, figures, movements; names of the craft."""

import datetime
import decimal

import django.contrib.postgres.indexes
import django.db.models.deletion
import django.db.models.functions
from django.conf import settings
from django.db import migrations, models
from django.db.models import F, Q, Value
from django.db.models.functions import Coalesce, Upper

from inkwell_bridge.service.immutable import kept_as_written
from inkwell_bridge.service.tenancy import same_workspace

AMOUNT = {"max_digits": 20, "decimal_places": 4, "null": True}
FIRST = Coalesce(F("moment"), Value(datetime.datetime(1900, 1, 1, tzinfo=datetime.UTC)))
LEAST = Coalesce(F("gross"), Value(decimal.Decimal("-999999999999999")))

# A JSON document of the books, with the names that it has from now on; nothing else of it changes.
_RENAMED = """
CREATE FUNCTION pg_temp.each_renamed(list jsonb, before text, after text) RETURNS jsonb LANGUAGE sql AS $$
    SELECT coalesce(jsonb_agg(CASE WHEN one ? before THEN (one - before) || jsonb_build_object(after, one -> before)
                                   ELSE one END ORDER BY place), '[]'::jsonb)
    FROM jsonb_array_elements(list) WITH ORDINALITY AS parts (one, place)
$$;
CREATE FUNCTION pg_temp.renamed(said jsonb) RETURNS jsonb LANGUAGE sql AS $$
    SELECT CASE WHEN said IS NULL OR jsonb_typeof(said) <> 'object' THEN said ELSE
        (said - 'mark')
        || CASE WHEN said ? 'mark' THEN jsonb_build_object('external_reference', said -> 'mark') ELSE '{}' END
        || CASE WHEN said ? 'lines' THEN jsonb_build_object(
               'lines', pg_temp.each_renamed(said -> 'lines', 'mark', 'line_reference')) ELSE '{}' END
        || CASE WHEN said ? 'applied' THEN jsonb_build_object(
               'applied', pg_temp.each_renamed(said -> 'applied', 'mark', 'external_reference')) ELSE '{}' END
        || CASE WHEN said ->> 'mark' LIKE '%:invoice:delivered' THEN '{"final": true}'::jsonb ELSE '{}' END
    END
$$;
UPDATE carriage_document SET
    planned = pg_temp.renamed(planned),
    settled = pg_temp.renamed(settled),
    reasons = pg_temp.each_renamed(reasons, 'placed', 'allocated'),
    record = CASE WHEN record ? 'document'
                  THEN pg_temp.renamed(record) || jsonb_build_object('document', pg_temp.renamed(record -> 'document'))
                  ELSE pg_temp.renamed(record) END;
UPDATE carriage_crossing SET planned = planned
    || CASE WHEN planned ? 'documents' THEN jsonb_build_object('documents', (
           SELECT coalesce(jsonb_agg(pg_temp.renamed(one) ORDER BY place), '[]'::jsonb)
           FROM jsonb_array_elements(planned -> 'documents') WITH ORDINALITY AS parts (one, place))) ELSE '{}' END
    || CASE WHEN planned ? 'reasons' THEN jsonb_build_object('reasons',
           pg_temp.each_renamed(planned -> 'reasons', 'placed', 'allocated')) ELSE '{}' END
    WHERE planned IS NOT NULL;
"""
_SOURCES = """
INSERT INTO carriage_documentsource (workspace_id, document_id, crossing_id, part, net, tax, gross)
SELECT workspace_id, id, crossing_id, part, net, tax, gross FROM carriage_document;
UPDATE carriage_document SET date = (coalesce(record -> 'document' ->> 'date', record ->> 'date', planned ->> 'date'))::date
WHERE coalesce(record -> 'document' ->> 'date', record ->> 'date', planned ->> 'date') IS NOT NULL;
UPDATE carriage_exchange AS call SET connection_id = bridge.books_id
FROM carriage_crossing AS crossing JOIN bridges_bridge AS bridge ON bridge.id = crossing.bridge_id
WHERE crossing.id = call.crossing_id;
"""
_CROSSINGS = """
UPDATE carriage_crossing AS crossing SET
    parent_source_id = coalesce(snapshot.content ->> 'order_id', ''),
    pinned = CASE WHEN crossing.articles IS NULL THEN '{}'::jsonb ELSE jsonb_build_object('articles', articles) END
          || CASE WHEN crossing.given_back = '[]'::jsonb THEN '{}'::jsonb
                  ELSE jsonb_build_object('refunds_before_invoice', given_back) END,
    posted_snapshot_id = CASE WHEN EXISTS (
        SELECT 1 FROM carriage_documentsource AS share JOIN carriage_document AS document
            ON document.id = share.document_id
        WHERE share.crossing_id = crossing.id AND document.posting_at IS NOT NULL) THEN crossing.snapshot_id END
FROM carriage_snapshot AS snapshot WHERE snapshot.id = crossing.snapshot_id;
UPDATE carriage_document AS document SET snapshot_id = crossing.snapshot_id
FROM carriage_documentsource AS share JOIN carriage_crossing AS crossing ON crossing.id = share.crossing_id
WHERE share.document_id = document.id;
INSERT INTO carriage_crossingevent (workspace_id, crossing_id, at, kind, document, detail)
SELECT crossing.workspace_id, crossing.id, snapshot.fetched_at, 'staged', '', '{}'::jsonb
FROM carriage_crossing AS crossing JOIN carriage_snapshot AS snapshot ON snapshot.id = crossing.snapshot_id;
INSERT INTO carriage_crossingevent (workspace_id, crossing_id, at, kind, document, detail)
SELECT workspace_id, id, updated_at, state, '',
    CASE WHEN cause <> '' THEN jsonb_build_object('cause', cause)
         WHEN left_out_by <> '' THEN jsonb_build_object('rule', left_out_by) ELSE '{}'::jsonb END
FROM carriage_crossing WHERE state <> 'waiting';
UPDATE carriage_run AS run SET unchanged = found.number FROM (
    SELECT run_id, count(*) AS number FROM carriage_runentry WHERE outcome = 'unchanged' GROUP BY run_id) AS found
WHERE found.run_id = run.id;
DELETE FROM carriage_runentry WHERE outcome = 'unchanged';
"""
_MOVEMENTS = """
INSERT INTO carriage_moneymovement (workspace_id, connection_id, account, transaction, kind, tender, amount, currency,
                                    moved_at, crossing_id, document_id)
SELECT crossing.workspace_id, bridge.source_id, left(coalesce(money ->> 'gateway', ''), 120), money ->> 'transaction',
    CASE crossing.kind WHEN 'refunds' THEN 'refund' ELSE 'charge' END, coalesce(money ->> 'tender', 'other'),
    CASE crossing.kind WHEN 'refunds' THEN -1 ELSE 1 END * (money ->> 'amount')::numeric, crossing.currency,
    (money ->> 'paid_at')::timestamptz, crossing.id, document.id
FROM carriage_crossing AS crossing
JOIN bridges_bridge AS bridge ON bridge.id = crossing.bridge_id
JOIN carriage_snapshot AS snapshot ON snapshot.id = crossing.snapshot_id
CROSS JOIN LATERAL jsonb_array_elements(coalesce(snapshot.content -> 'payments', '[]'::jsonb)) AS money
LEFT JOIN LATERAL (
    SELECT document.id FROM carriage_documentsource AS share
    JOIN carriage_document AS document ON document.id = share.document_id
    WHERE share.crossing_id = crossing.id AND document.planned ->> 'transaction' = money ->> 'transaction'
      AND document.role IN ('payment', 'refund payment') ORDER BY share.part LIMIT 1) AS document ON true
WHERE coalesce(money ->> 'state', 'received') = 'received' AND (money ->> 'amount')::numeric <> 0
ON CONFLICT DO NOTHING;
"""
_COLUMNS = """carriage_figure (workspace_id, bridge_id, crossing_id, side, grain, role, date, currency, account, tax_code,
    tender, count, net, tax, gross, written_at)"""
# What counts of a crossing: of a sales order and its invoice the invoice; what came back counts against.
_COUNTED = """
    SELECT crossing.workspace_id, crossing.bridge_id, crossing.id AS crossing_id, crossing.business_date,
        document.role, document.planned, document.record, document.currency, document.net, document.tax, document.gross,
        CASE WHEN document.role IN ('credit note', 'refund payment') THEN -1 ELSE 1 END AS sign,
        CASE WHEN document.role IN ('payment', 'refund payment') THEN coalesce((
            SELECT money ->> 'tender' FROM jsonb_array_elements(coalesce(snapshot.content -> 'payments', '[]'::jsonb))
                AS money WHERE money ->> 'transaction' = document.planned ->> 'transaction' LIMIT 1), 'other')
            ELSE '' END AS tender,
        coalesce((document.record -> 'document' ->> 'date')::date, document.date, crossing.business_date) AS day
    FROM carriage_crossing AS crossing
    JOIN carriage_snapshot AS snapshot ON snapshot.id = crossing.snapshot_id
    JOIN carriage_documentsource AS share ON share.crossing_id = crossing.id
    JOIN carriage_document AS document ON document.id = share.document_id
    WHERE document.record IS NOT NULL AND crossing.business_date IS NOT NULL
      AND crossing.state IN ('carried', 'differs', 'adopted')
      AND NOT (document.role = 'sales order' AND EXISTS (
          SELECT 1 FROM carriage_documentsource AS other JOIN carriage_document AS invoice
              ON invoice.id = other.document_id
          WHERE other.crossing_id = crossing.id AND invoice.role = 'invoice'))
"""
_FIGURES = f"""
INSERT INTO {_COLUMNS}
SELECT crossing.workspace_id, crossing.bridge_id, crossing.id, 'source', 'document', kind, business_date, currency, '',
    '', '', 1, sign * coalesce(net, 0), sign * coalesce(tax, 0), sign * gross, now()
FROM carriage_crossing AS crossing
CROSS JOIN LATERAL (SELECT CASE kind WHEN 'refunds' THEN -1 ELSE 1 END AS sign) AS signed
WHERE gross IS NOT NULL AND business_date IS NOT NULL;
INSERT INTO {_COLUMNS}
SELECT crossing.workspace_id, crossing.bridge_id, crossing.id, 'source', 'document',
    CASE crossing.kind WHEN 'refunds' THEN 'refund payment' ELSE 'payment' END,
    coalesce(((money ->> 'paid_at')::timestamptz AT TIME ZONE company.time_zone)::date, crossing.business_date),
    crossing.currency, '', '', coalesce(money ->> 'tender', 'other'), count(*), 0, 0,
    CASE crossing.kind WHEN 'refunds' THEN -1 ELSE 1 END * sum((money ->> 'amount')::numeric), now()
FROM carriage_crossing AS crossing
JOIN bridges_bridge AS bridge ON bridge.id = crossing.bridge_id
JOIN people_company AS company ON company.id = bridge.company_id
JOIN carriage_snapshot AS snapshot ON snapshot.id = crossing.snapshot_id
CROSS JOIN LATERAL jsonb_array_elements(coalesce(snapshot.content -> 'payments', '[]'::jsonb)) AS money
WHERE crossing.business_date IS NOT NULL AND crossing.gross IS NOT NULL
  AND coalesce(money ->> 'state', 'received') = 'received' AND (money ->> 'amount')::numeric <> 0
GROUP BY crossing.workspace_id, crossing.bridge_id, crossing.id, crossing.kind, crossing.currency, 7, 11;
WITH counted AS ({_COUNTED})
INSERT INTO {_COLUMNS}
SELECT workspace_id, bridge_id, crossing_id, 'coded', 'line', role, coalesce((planned ->> 'date')::date, day), currency,
    coalesce(line ->> 'account', ''), coalesce(line ->> 'tax_code', ''), tender, count(*),
    sum(sign * coalesce(line ->> 'net', line ->> 'base')::numeric), sum(sign * coalesce(line ->> 'tax', '0')::numeric),
    sum(sign * (coalesce(line ->> 'net', line ->> 'base')::numeric + coalesce(line ->> 'tax', '0')::numeric)), now()
FROM counted CROSS JOIN LATERAL jsonb_array_elements(planned -> 'lines') AS line
GROUP BY 1, 2, 3, role, 7, currency, 9, 10, tender
UNION ALL
SELECT workspace_id, bridge_id, crossing_id, 'books', 'line', role, day, currency,
    coalesce(line ->> 'account', ''), coalesce(line ->> 'tax_code', ''), tender, count(*),
    sum(sign * coalesce(line ->> 'net', line ->> 'base')::numeric), sum(sign * coalesce(line ->> 'tax', '0')::numeric),
    sum(sign * (coalesce(line ->> 'net', line ->> 'base')::numeric + coalesce(line ->> 'tax', '0')::numeric)), now()
FROM counted CROSS JOIN LATERAL jsonb_array_elements(record -> 'document' -> 'lines') AS line
GROUP BY 1, 2, 3, role, day, currency, 9, 10, tender
UNION ALL
SELECT workspace_id, bridge_id, crossing_id, 'coded', 'document', role, coalesce((planned ->> 'date')::date, day),
    currency, '', '', tender, CASE WHEN planned ? 'final' THEN 0 ELSE 1 END,
    sign * coalesce((SELECT sum((line ->> 'net')::numeric) FROM jsonb_array_elements(planned -> 'lines') AS line), 0),
    sign * coalesce((SELECT sum((line ->> 'tax')::numeric) FROM jsonb_array_elements(planned -> 'lines') AS line), 0),
    sign * coalesce((SELECT sum((line ->> 'net')::numeric + (line ->> 'tax')::numeric)
                     FROM jsonb_array_elements(planned -> 'lines') AS line), (planned ->> 'amount')::numeric, 0), now()
FROM counted WHERE planned <> '{{}}'::jsonb
UNION ALL
SELECT workspace_id, bridge_id, crossing_id, 'books', 'document', role, day, currency, '', '', tender,
    CASE WHEN planned ? 'final' THEN 0 ELSE 1 END, sign * coalesce(net, 0), sign * coalesce(tax, 0),
    sign * coalesce(gross, (record -> 'document' ->> 'amount')::numeric, 0), now()
FROM counted
UNION ALL
SELECT workspace_id, bridge_id, crossing_id, 'reconciling', 'line', 'penny', day, currency, role, line ->> 'tax_code',
    '', 0, -sign * (line ->> 'net')::numeric, -sign * (line ->> 'tax')::numeric,
    -sign * ((line ->> 'net')::numeric + (line ->> 'tax')::numeric), now()
FROM counted CROSS JOIN LATERAL jsonb_array_elements(record -> 'document' -> 'lines') AS line
WHERE line ->> 'kind' = 'rounding' AND planned <> '{{}}'::jsonb AND NOT EXISTS (
    SELECT 1 FROM jsonb_array_elements(planned -> 'lines') AS ours
    WHERE ours ->> 'line_reference' = line ->> 'line_reference')
UNION ALL
SELECT workspace_id, bridge_id, crossing_id, 'reconciling', 'line', 'tax lines', coalesce((planned ->> 'date')::date, day),
    currency, role, '', '', 0, -sign * sum((line ->> 'net')::numeric), sign * sum((line ->> 'net')::numeric), 0, now()
FROM counted CROSS JOIN LATERAL jsonb_array_elements(planned -> 'lines') AS line
WHERE line ->> 'kind' = 'tax' GROUP BY 1, 2, 3, 7, currency, role, sign
UNION ALL
SELECT workspace_id, bridge_id, crossing_id, 'reconciling', 'line', 'tax computed', day, currency, role,
    line ->> 'tax_code', '', 0, 0, sign * ((ours ->> 'tax')::numeric - (line ->> 'tax')::numeric),
    sign * ((ours ->> 'tax')::numeric - (line ->> 'tax')::numeric), now()
FROM counted
CROSS JOIN LATERAL jsonb_array_elements(record -> 'document' -> 'lines') WITH ORDINALITY AS theirs (line, place)
JOIN LATERAL jsonb_array_elements(planned -> 'lines') WITH ORDINALITY AS mine (ours, place) ON mine.place = theirs.place
WHERE ours ->> 'line_reference' = line ->> 'line_reference' AND ours ->> 'tax_code' = line ->> 'tax_code'
  AND (ours ->> 'net')::numeric = (line ->> 'net')::numeric AND (ours ->> 'tax')::numeric <> (line ->> 'tax')::numeric;
INSERT INTO {_COLUMNS}
SELECT workspace_id, bridge_id, id, 'reconciling', 'line', reason, business_date, currency, '', '', '', 0, about.net,
    about.tax, about.net + about.tax, now()
FROM carriage_crossing AS crossing CROSS JOIN LATERAL (VALUES
    ('withheld', 0::numeric, withheld), ('vouchers', voucher_net, voucher_tax), ('deposits', -untaxed, untaxed)
) AS about (reason, net, tax)
WHERE state IN ('carried', 'differs') AND business_date IS NOT NULL AND about.tax IS NOT NULL AND about.net IS NOT NULL
  AND (about.net <> 0 OR about.tax <> 0);
"""
# As in ``immutable``, but that the removal of superseded snapshots is let through where it says who it is.
_SNAPSHOTS_KEPT = """
CREATE OR REPLACE FUNCTION inkwell_refuse_snapshot() RETURNS trigger LANGUAGE plpgsql AS $$
BEGIN
    IF TG_OP = 'DELETE' AND current_setting('inkwell.retention', true) = 'on' THEN RETURN OLD; END IF;
    RAISE EXCEPTION '% of % is refused: it is kept as it was written', TG_OP, TG_TABLE_NAME;
END $$;
DROP TRIGGER IF EXISTS carriage_snapshot_kept ON carriage_snapshot;
CREATE TRIGGER carriage_snapshot_kept BEFORE UPDATE OR DELETE ON carriage_snapshot
    FOR EACH ROW EXECUTE FUNCTION inkwell_refuse_snapshot();
"""
_SNAPSHOTS_KEPT_BEFORE = """
DROP TRIGGER IF EXISTS carriage_snapshot_kept ON carriage_snapshot;
CREATE TRIGGER carriage_snapshot_kept BEFORE UPDATE OR DELETE ON carriage_snapshot
    FOR EACH ROW EXECUTE FUNCTION inkwell_refuse();
"""
_EVENTS_KEPT = """
CREATE TRIGGER carriage_crossingevent_kept BEFORE UPDATE OF crossing_id, at, kind, document, detail
    ON carriage_crossingevent FOR EACH ROW EXECUTE FUNCTION inkwell_refuse();
"""
_EVENTS_KEPT_BEFORE = "DROP TRIGGER IF EXISTS carriage_crossingevent_kept ON carriage_crossingevent;"


# A table with unchecked rows cannot be altered in the same transaction.
_CHECKED = "SET CONSTRAINTS ALL IMMEDIATE; SET CONSTRAINTS ALL DEFERRED;"


def sql(forward: str) -> migrations.RunSQL:
    return migrations.RunSQL(forward + _CHECKED, migrations.RunSQL.noop)


def workspace() -> tuple[str, models.Field]:
    return (
        "workspace",
        models.ForeignKey("people.Workspace", on_delete=django.db.models.deletion.CASCADE, related_name="+"),
    )


class Migration(migrations.Migration):
    dependencies = [
        ("bridges", "0007_lane_kinds"),
        ("carriage", "0010_deposits"),
        ("connections", "0006_breaker"),
        # It brings the trigrams that numbers are searched by.
        ("reference", "0001_initial"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.RenameField("snapshot", "fingerprint", "books_digest"),
        migrations.AddField("snapshot", "content_digest", models.CharField(max_length=80, default="")),
        migrations.AddField("run", "unchanged", models.PositiveIntegerField(default=0)),
        migrations.AlterField(
            "run",
            "state",
            models.CharField(
                choices=[("reading", "Reading"), ("carrying", "Carrying"), ("ended", "Ended"), ("failed", "Failed"),
                         ("abandoned", "Abandoned")],
                default="reading", max_length=10,
            ),
        ),
        migrations.AddIndex("run", models.Index(fields=["bridge", "-id"], name="run_of_bridge")),
        migrations.RemoveConstraint("document", "document_mark"),
        migrations.RenameField("document", "mark", "external_reference"),
        migrations.RenameField("document", "held", "record"),
        migrations.AddField("document", "date", models.DateField(null=True)),
        migrations.AddConstraint(
            "document",
            models.UniqueConstraint(
                fields=["workspace", "connection", "external_reference"], name="document_external_reference"
            ),
        ),
        *(migrations.AlterField("document", name, models.DecimalField(**AMOUNT)) for name in ("difference", "net", "tax", "gross")),
        *(migrations.AlterField("crossing", name, models.DecimalField(**AMOUNT)) for name in ("net", "tax", "gross")),
        sql(_RENAMED),
        migrations.CreateModel(
            name="DocumentSource",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("part", models.PositiveSmallIntegerField(default=1)),
                ("net", models.DecimalField(**AMOUNT)),
                ("tax", models.DecimalField(**AMOUNT)),
                ("gross", models.DecimalField(**AMOUNT)),
                ("document", models.ForeignKey("carriage.document", on_delete=django.db.models.deletion.CASCADE, related_name="sources")),
                ("crossing", models.ForeignKey("carriage.crossing", on_delete=django.db.models.deletion.CASCADE, related_name="shares")),
                workspace(),
            ],
            options={"constraints": [models.UniqueConstraint(fields=["crossing", "document"], name="document_source_once")]},
        ),
        migrations.RenameField("exchange", "mark", "external_reference"),
        migrations.AddField(
            "exchange", "connection",
            models.ForeignKey("connections.connection", on_delete=django.db.models.deletion.CASCADE, null=True, related_name="+"),
        ),
        sql(_SOURCES),
        migrations.RemoveField("exchange", "crossing"),
        migrations.AlterField(
            "exchange", "connection",
            models.ForeignKey("connections.connection", on_delete=django.db.models.deletion.CASCADE, related_name="+"),
        ),
        migrations.AddIndex("exchange", models.Index(fields=["connection", "external_reference"], name="exchange_of_document")),
        migrations.AddIndex("exchange", models.Index(fields=["at"], name="exchange_age")),
        migrations.RemoveField("document", "crossing"),
        migrations.RemoveField("document", "part"),
        migrations.AddField(
            "crossing", "documents",
            models.ManyToManyField("carriage.document", through="carriage.DocumentSource", related_name="crossings"),
        ),
        migrations.RenameField("crossing", "placed_at", "moment"),
        migrations.RenameField("crossing", "reference", "master_data"),
        migrations.AddField("crossing", "parent_source_id", models.CharField(blank=True, default="", max_length=120)),
        migrations.AddField("crossing", "pinned", models.JSONField(default=dict)),
        migrations.AddField("crossing", "read_again_at", models.DateTimeField(null=True)),
        migrations.AddField(
            "crossing", "posted_snapshot",
            models.ForeignKey("carriage.snapshot", on_delete=django.db.models.deletion.PROTECT, null=True, related_name="+"),
        ),
        migrations.CreateModel(
            name="CrossingEvent",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("at", models.DateTimeField()),
                ("kind", models.CharField(
                    choices=[("staged", "Read at the origin"), ("changed", "Changed at the origin"), ("waiting", "Waits"),
                             ("posted", "Posted"), ("proved", "Proved"), ("carried", "Carried"), ("held", "Held"),
                             ("differs", "Differs"), ("left out", "Left out"), ("adopted", "Adopted"),
                             ("released", "Released"), ("requeued", "Queued anew by upkeep")],
                    max_length=10)),
                ("document", models.CharField(default="", max_length=250)),
                ("detail", models.JSONField(default=dict)),
                ("crossing", models.ForeignKey("carriage.crossing", on_delete=django.db.models.deletion.CASCADE, related_name="events")),
                ("person", models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=django.db.models.deletion.PROTECT, null=True, related_name="+")),
                ("run", models.ForeignKey("carriage.run", on_delete=django.db.models.deletion.SET_NULL, null=True, related_name="+")),
                workspace(),
            ],
            options={"indexes": [models.Index(fields=["crossing", "id"], name="event_of_crossing")]},
        ),
        migrations.CreateModel(
            name="MoneyMovement",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("account", models.CharField(default="", max_length=120)),
                ("transaction", models.CharField(max_length=120)),
                ("kind", models.CharField(max_length=20)),
                ("tender", models.CharField(default="", max_length=30)),
                ("amount", models.DecimalField(**AMOUNT)),
                ("currency", models.CharField(max_length=3)),
                ("moved_at", models.DateTimeField(null=True)),
                ("connection", models.ForeignKey("connections.connection", on_delete=django.db.models.deletion.CASCADE, related_name="movements")),
                ("crossing", models.ForeignKey("carriage.crossing", on_delete=django.db.models.deletion.CASCADE, related_name="movements")),
                ("document", models.ForeignKey("carriage.document", on_delete=django.db.models.deletion.SET_NULL, null=True, related_name="movements")),
                workspace(),
            ],
            options={"constraints": [models.UniqueConstraint(
                fields=["workspace", "connection", "account", "transaction", "kind"], name="movement_transaction")]},
        ),
        migrations.CreateModel(
            name="Figure",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("side", models.CharField(max_length=12, choices=[("source", "Source"), ("coded", "As the rules code it"), ("books", "Books"), ("reconciling", "Reconciling")])),
                ("grain", models.CharField(max_length=10, choices=[("document", "Document"), ("line", "Line")])),
                ("role", models.CharField(max_length=30)),
                ("date", models.DateField()),
                ("currency", models.CharField(max_length=3)),
                ("account", models.CharField(default="", max_length=120)),
                ("tax_code", models.CharField(default="", max_length=120)),
                ("tender", models.CharField(default="", max_length=30)),
                ("count", models.IntegerField(default=0)),
                ("net", models.DecimalField(decimal_places=4, default=0, max_digits=20)),
                ("tax", models.DecimalField(decimal_places=4, default=0, max_digits=20)),
                ("gross", models.DecimalField(decimal_places=4, default=0, max_digits=20)),
                ("written_at", models.DateTimeField(auto_now_add=True)),
                ("bridge", models.ForeignKey("bridges.bridge", on_delete=django.db.models.deletion.CASCADE, related_name="+")),
                ("crossing", models.ForeignKey("carriage.crossing", on_delete=django.db.models.deletion.CASCADE, related_name="figures")),
                workspace(),
            ],
            options={"indexes": [models.Index(fields=["workspace", "date", "side", "grain"], name="figure_period")]},
        ),
        migrations.AddField(
            "document", "snapshot",
            models.ForeignKey("carriage.snapshot", on_delete=django.db.models.deletion.PROTECT, null=True, related_name="+"),
        ),
        sql(_CROSSINGS),
        sql(_MOVEMENTS),
        sql(_FIGURES),
        *(migrations.RemoveField("crossing", name) for name in ("articles", "given_back", "withheld", "voucher_net", "voucher_tax", "untaxed")),
        migrations.RemoveIndex("crossing", "crossing_number"),
        *(
            migrations.AddIndex("crossing", index)
            for index in (
                models.Index(fields=["workspace", "number", "id"], name="crossing_number"),
                models.Index(fields=["workspace", "bridge", "kind", "parent_source_id"], name="crossing_parent"),
                models.Index(F("workspace"), FIRST.desc(), F("id").desc(), name="crossing_newest"),
                models.Index(F("workspace"), F("state"), FIRST.desc(), F("id").desc(), name="crossing_state_newest"),
                models.Index(F("workspace"), LEAST.desc(), F("id").desc(), name="crossing_largest"),
                models.Index(fields=["next_try_at"], condition=Q(state="waiting"), name="crossing_waiting"),
                models.Index(
                    fields=["bridge", "kind", "read_again_at"], condition=Q(state__in=("waiting", "held", "differs")),
                    name="crossing_open",
                ),
                django.contrib.postgres.indexes.GinIndex(
                    django.contrib.postgres.indexes.OpClass(Upper("number"), "gin_trgm_ops"), name="crossing_number_part"
                ),
            )
        ),
        *(
            migrations.AddIndex("document", index)
            for index in (
                models.Index(fields=["workspace", "-id"], name="document_newest"),
                models.Index(
                    fields=["workspace", "difference"], condition=~Q(difference=0) & Q(difference__isnull=False),
                    name="document_differing",
                ),
                django.contrib.postgres.indexes.GinIndex(
                    django.contrib.postgres.indexes.OpClass(Upper("books_number"), "gin_trgm_ops"),
                    name="document_books_number_part",
                ),
            )
        ),
        migrations.AlterField(
            "runentry", "outcome",
            models.CharField(
                choices=[("pending", "Pending"), ("waiting", "Waiting"), ("carried", "Carried"), ("held", "Held"),
                         ("differs", "Differs"), ("left out", "Left out"), ("adopted", "Adopted")],
                default="pending", max_length=10,
            ),
        ),
        kept_as_written("carriage_figure"),
        migrations.RunSQL(_SNAPSHOTS_KEPT, _SNAPSHOTS_KEPT_BEFORE),
        migrations.RunSQL(_EVENTS_KEPT, _EVENTS_KEPT_BEFORE),
        *(
            same_workspace(*columns)
            for columns in (
                ("carriage_documentsource", "crossing_id", "carriage_crossing"),
                ("carriage_documentsource", "document_id", "carriage_document"),
                ("carriage_crossingevent", "crossing_id", "carriage_crossing"),
                ("carriage_figure", "crossing_id", "carriage_crossing"),
                ("carriage_figure", "bridge_id", "bridges_bridge"),
                ("carriage_moneymovement", "crossing_id", "carriage_crossing"),
                ("carriage_moneymovement", "connection_id", "connections_connection"),
                ("carriage_exchange", "connection_id", "connections_connection"),
                ("carriage_crossing", "posted_snapshot_id", "carriage_snapshot"),
                ("carriage_document", "snapshot_id", "carriage_snapshot"),
            )
        ),
    ]  # fmt: skip

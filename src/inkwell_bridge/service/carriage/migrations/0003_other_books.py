from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("carriage", "0002_guards")]
    operations = [
        migrations.AddField("contactlink", "intended_key", models.CharField(default="", max_length=120)),
        # What the books hold can be any document by now, not an invoice alone.
        migrations.RunSQL(
            "UPDATE carriage_document SET held = (held - 'invoice') || jsonb_build_object("
            "'document', (held->'invoice') || '{\"role\": \"invoice\"}') WHERE held ? 'invoice'",
            migrations.RunSQL.noop,
        ),
    ]

"""When documents were read back last, and when they are to be read again."""

from django.db import migrations, models

# What was posted lately is looked at within a day of the change of version.
_DUE = """
    UPDATE carriage_document AS document SET read_due_at = now() + interval '1 day' * random()
    FROM connections_connection AS connection
    WHERE connection.id = document.connection_id AND connection.side = 'books' AND document.posting_at IS NOT NULL
      AND document.state <> 'cancelled' AND document.date > current_date - 62
"""


class Migration(migrations.Migration):
    dependencies = [
        ("carriage", "0029_told_payments"),
        ("connections", "0010_paused"),
        ("people", "0006_publish_rules"),
    ]

    operations = [
        migrations.AddField(
            model_name="document",
            name="read_at",
            field=models.DateTimeField(null=True),
        ),
        migrations.AddField(
            model_name="document",
            name="read_due_at",
            field=models.DateTimeField(null=True),
        ),
        migrations.AlterField(
            model_name="crossingevent",
            name="kind",
            field=models.CharField(
                choices=[
                    ("staged", "Read at the origin"),
                    ("changed", "Changed at the origin"),
                    ("told", "Told of money"),
                    ("read", "Read again in the books"),
                    ("waiting", "Waits"),
                    ("posted", "Posted"),
                    ("proved", "Proved"),
                    ("carried", "Carried"),
                    ("held", "Held"),
                    ("differs", "Differs"),
                    ("left out", "Left out"),
                    ("adopted", "Adopted"),
                    ("reported", "Written back"),
                    ("released", "Released"),
                    ("withdrawn", "Trial taken back"),
                    ("requeued", "Queued anew by upkeep"),
                    ("decided", "Decided by a person"),
                    ("amended", "Amended"),
                ],
                max_length=10,
            ),
        ),
        migrations.AddIndex(
            model_name="document",
            index=models.Index(
                condition=models.Q(("read_due_at__isnull", False)),
                fields=["connection", "read_due_at"],
                name="document_read_due",
            ),
        ),
        migrations.RunSQL(_DUE, migrations.RunSQL.noop),
    ]

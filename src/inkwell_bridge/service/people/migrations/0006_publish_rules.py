"""Who publishes rules is a role of its own; whoever could until now still can."""

from django.db import migrations, models

ROLES = [
    ("see", "See"),
    ("operate", "Operate"),
    ("edit", "Edit rules"),
    ("publish", "Publish rules"),
    ("own", "Own"),
]


def _as_before(apps, schema_editor):  # type: ignore[no-untyped-def]
    for name in ("membership", "invitation", "token"):
        apps.get_model("people", name).objects.filter(role="edit").update(role="publish")


class Migration(migrations.Migration):
    dependencies = [
        ("people", "0005_account"),
    ]

    operations = [
        migrations.AlterField("membership", "role", models.CharField(max_length=10, choices=ROLES)),
        migrations.AlterField("invitation", "role", models.CharField(max_length=10, choices=ROLES)),
        migrations.AlterField("token", "role", models.CharField(max_length=10, choices=ROLES, default="own")),
        migrations.RunPython(_as_before, migrations.RunPython.noop),
    ]

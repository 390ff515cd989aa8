"""Tries to sign in that failed count for all processes."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("people", "0003_invitations")]

    operations = [
        migrations.CreateModel(
            name="SignInFailure",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("digest", models.CharField(max_length=64)),
                ("at", models.DateTimeField()),
            ],
            options={
                "indexes": [
                    models.Index(fields=["digest", "at"], name="failure_of"),
                    models.Index(fields=["at"], name="failure_age"),
                ]
            },
        ),
    ]

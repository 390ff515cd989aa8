"""Accounts: sessions that their owners see, the second factor, identities at a provider, when a token was used."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("people", "0004_sign_in_failures"),
    ]

    operations = [
        # Sessions are kept in a table of our own from now on; whoever was signed in signs in once more.
        migrations.RunSQL("DROP TABLE IF EXISTS django_session", migrations.RunSQL.noop),
        migrations.AddField(
            model_name="token",
            name="last_used_at",
            field=models.DateTimeField(null=True),
        ),
        migrations.CreateModel(
            name="SecondFactor",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("sealed", models.BinaryField()),
                ("confirmed_at", models.DateTimeField(null=True)),
                ("last_step", models.BigIntegerField(default=0)),
                (
                    "person",
                    models.OneToOneField(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="second_factor",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
        ),
        migrations.CreateModel(
            name="BrowserSession",
            fields=[
                (
                    "session_key",
                    models.CharField(max_length=40, primary_key=True, serialize=False, verbose_name="session key"),
                ),
                ("session_data", models.TextField(verbose_name="session data")),
                ("expire_date", models.DateTimeField(db_index=True, verbose_name="expire date")),
                ("number", models.BigIntegerField(unique=True)),
                ("started_at", models.DateTimeField()),
                ("last_used_at", models.DateTimeField()),
                ("address", models.CharField(default="", max_length=45)),
                ("browser", models.CharField(default="", max_length=200)),
                (
                    "person",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="browser_sessions",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={
                "indexes": [models.Index(fields=["person", "-last_used_at"], name="browser_session_of")],
            },
        ),
        migrations.CreateModel(
            name="Identity",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("issuer", models.CharField(max_length=200)),
                ("subject", models.CharField(max_length=255)),
                (
                    "person",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="identities",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={
                "constraints": [models.UniqueConstraint(fields=("issuer", "subject"), name="identity_subject")],
            },
        ),
        migrations.CreateModel(
            name="RecoveryCode",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("digest", models.CharField(max_length=64)),
                (
                    "person",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="recovery_codes",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
            ],
            options={
                "constraints": [models.UniqueConstraint(fields=("person", "digest"), name="recovery_code")],
            },
        ),
    ]

"""Bank accounts, statements, lines and what they are."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models

from inkwell_bridge.service.tenancy import anchored, same_workspace


class Migration(migrations.Migration):
    initial = True

    dependencies = [
        ("carriage", "0024_movement_by_transaction"),
        ("connections", "0010_paused"),
        ("people", "0006_publish_rules"),
        migrations.swappable_dependency(settings.AUTH_USER_MODEL),
    ]

    operations = [
        migrations.CreateModel(
            name="BankAccount",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("slug", models.SlugField(max_length=60)),
                ("name", models.CharField(max_length=200)),
                ("ledger_account", models.CharField(max_length=120)),
                ("number", models.CharField(max_length=120)),
                ("currency", models.CharField(max_length=3)),
                ("layout", models.JSONField(null=True)),
                (
                    "books",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="bank_accounts",
                        to="connections.connection",
                    ),
                ),
                (
                    "workspace",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.workspace"
                    ),
                ),
            ],
        ),
        migrations.CreateModel(
            name="BankLine",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("line", models.PositiveIntegerField()),
                ("booked_on", models.DateField()),
                ("value_on", models.DateField(null=True)),
                ("amount", models.DecimalField(decimal_places=4, max_digits=20)),
                ("reference", models.CharField(blank=True, default="", max_length=120)),
                ("end_to_end", models.CharField(blank=True, default="", max_length=120)),
                ("name", models.CharField(blank=True, default="", max_length=200)),
                ("text", models.CharField(blank=True, default="", max_length=1000)),
                ("digest", models.CharField(max_length=32)),
                ("occurrence", models.PositiveIntegerField(default=1)),
                (
                    "state",
                    models.CharField(
                        choices=[("open", "Open"), ("matched", "Matched"), ("excluded", "Excluded")],
                        default="open",
                        max_length=10,
                    ),
                ),
                ("note", models.CharField(blank=True, default="", max_length=500)),
                (
                    "account",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="lines", to="bank.bankaccount"
                    ),
                ),
                (
                    "decided_by",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
                (
                    "workspace",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.workspace"
                    ),
                ),
            ],
        ),
        migrations.CreateModel(
            name="LineMatch",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("amount", models.DecimalField(decimal_places=4, max_digits=20)),
                (
                    "by",
                    models.CharField(
                        choices=[("reference", "By what it says"), ("amount", "By its amount"), ("hand", "By hand")],
                        max_length=10,
                    ),
                ),
                ("note", models.CharField(blank=True, default="", max_length=500)),
                ("made_at", models.DateTimeField()),
                (
                    "line",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="matches", to="bank.bankline"
                    ),
                ),
                (
                    "made_by",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
                (
                    "payout",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="bank_matches", to="carriage.crossing"
                    ),
                ),
                (
                    "workspace",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.workspace"
                    ),
                ),
            ],
        ),
        migrations.CreateModel(
            name="Statement",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("number", models.CharField(blank=True, default="", max_length=120)),
                ("first_day", models.DateField(null=True)),
                ("last_day", models.DateField(null=True)),
                ("opening", models.DecimalField(decimal_places=4, max_digits=20, null=True)),
                ("closing", models.DecimalField(decimal_places=4, max_digits=20, null=True)),
                ("complete", models.BooleanField(default=True)),
                ("whole_days", models.BooleanField(default=True)),
                (
                    "account",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="statements", to="bank.bankaccount"
                    ),
                ),
                (
                    "workspace",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.workspace"
                    ),
                ),
            ],
        ),
        migrations.AddField(
            model_name="bankline",
            name="statement",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="lines", to="bank.statement"
            ),
        ),
        migrations.CreateModel(
            name="StatementFile",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("name", models.CharField(max_length=200)),
                ("digest", models.CharField(max_length=64)),
                ("read_at", models.DateTimeField()),
                ("problem", models.TextField(blank=True, default="")),
                ("notes", models.JSONField(default=list)),
                ("lines", models.PositiveIntegerField(default=0)),
                ("new_lines", models.PositiveIntegerField(default=0)),
                (
                    "account",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="files", to="bank.bankaccount"
                    ),
                ),
                (
                    "read_by",
                    models.ForeignKey(
                        null=True,
                        on_delete=django.db.models.deletion.PROTECT,
                        related_name="+",
                        to=settings.AUTH_USER_MODEL,
                    ),
                ),
                (
                    "workspace",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.workspace"
                    ),
                ),
            ],
        ),
        migrations.AddField(
            model_name="statement",
            name="file",
            field=models.ForeignKey(
                on_delete=django.db.models.deletion.CASCADE, related_name="statements", to="bank.statementfile"
            ),
        ),
        migrations.AddConstraint(
            model_name="bankaccount",
            constraint=models.UniqueConstraint(fields=("workspace", "slug"), name="bank_account_slug"),
        ),
        migrations.AddConstraint(
            model_name="bankaccount",
            constraint=models.UniqueConstraint(
                fields=("workspace", "books", "ledger_account"), name="bank_account_of_ledger"
            ),
        ),
        migrations.AddIndex(
            model_name="linematch",
            index=models.Index(fields=["payout"], name="line_match_of_payout"),
        ),
        migrations.AddConstraint(
            model_name="linematch",
            constraint=models.UniqueConstraint(fields=("line", "payout"), name="line_match_once"),
        ),
        migrations.AddIndex(
            model_name="bankline",
            index=models.Index(fields=["account", "state", "booked_on", "id"], name="bank_line_oldest"),
        ),
        migrations.AddIndex(
            model_name="bankline",
            index=models.Index(fields=["account", "booked_on"], name="bank_line_days"),
        ),
        migrations.AddConstraint(
            model_name="bankline",
            constraint=models.UniqueConstraint(fields=("account", "digest", "occurrence"), name="bank_line_once"),
        ),
        migrations.AddIndex(
            model_name="statementfile",
            index=models.Index(fields=["account", "-id"], name="statement_file_newest"),
        ),
        migrations.AddConstraint(
            model_name="statementfile",
            constraint=models.UniqueConstraint(
                condition=models.Q(("problem", "")), fields=("account", "digest"), name="statement_file_taken_once"
            ),
        ),
        migrations.AddIndex(
            model_name="statement",
            index=models.Index(fields=["account", "first_day", "last_day"], name="statement_days"),
        ),
        anchored("bank_bankaccount"),
        anchored("bank_statementfile"),
        anchored("bank_statement"),
        anchored("bank_bankline"),
        same_workspace("bank_bankaccount", "books_id", "connections_connection"),
        same_workspace("bank_statementfile", "account_id", "bank_bankaccount"),
        same_workspace("bank_statement", "account_id", "bank_bankaccount"),
        same_workspace("bank_statement", "file_id", "bank_statementfile"),
        same_workspace("bank_bankline", "account_id", "bank_bankaccount"),
        same_workspace("bank_bankline", "statement_id", "bank_statement"),
        same_workspace("bank_linematch", "line_id", "bank_bankline"),
        same_workspace("bank_linematch", "payout_id", "carriage_crossing"),
    ]

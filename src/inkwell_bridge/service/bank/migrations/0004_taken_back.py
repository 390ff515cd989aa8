"""What a line is not, as somebody said who took its match back."""

import django.db.models.deletion
from django.db import migrations, models

from inkwell_bridge.service.tenancy import same_workspace


class Migration(migrations.Migration):
    """One table."""

    dependencies = [
        ("bank", "0003_matches_of_any_kind"),
        ("carriage", "0035_put_right"),
        ("people", "0007_closing_rules"),
    ]

    operations = [
        migrations.CreateModel(
            name="MatchTakenBack",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                (
                    "crossing",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="carriage.crossing"
                    ),
                ),
                (
                    "line",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="taken_back", to="bank.bankline"
                    ),
                ),
                (
                    "workspace",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.workspace"
                    ),
                ),
            ],
            options={
                "constraints": [models.UniqueConstraint(fields=("line", "crossing"), name="match_taken_back_once")],
            },
        ),
        same_workspace("bank_matchtakenback", "line_id", "bank_bankline"),
        same_workspace("bank_matchtakenback", "crossing_id", "carriage_crossing"),
    ]

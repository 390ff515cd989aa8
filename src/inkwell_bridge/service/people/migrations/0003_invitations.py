"""People come by invitation: nobody makes an account for somebody else's address."""

import django.db.models.deletion
from django.conf import settings
from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("people", "0002_guards")]

    operations = [
        migrations.CreateModel(
            name="Invitation",
            fields=[
                ("id", models.BigAutoField(auto_created=True, primary_key=True, serialize=False, verbose_name="ID")),
                ("email", models.EmailField(max_length=254)),
                ("name", models.CharField(blank=True, default="", max_length=200)),
                (
                    "role",
                    models.CharField(
                        choices=[("see", "See"), ("operate", "Operate"), ("edit", "Edit rules"), ("own", "Own")],
                        max_length=10,
                    ),
                ),
                ("digest", models.CharField(max_length=64, unique=True)),
                ("invited_at", models.DateTimeField()),
                ("ends_at", models.DateTimeField()),
                (
                    "invited_by",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to=settings.AUTH_USER_MODEL
                    ),
                ),
                (
                    "workspace",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE, related_name="+", to="people.workspace"
                    ),
                ),
            ],
            options={"constraints": [models.UniqueConstraint(fields=["workspace", "email"], name="invitation_email")]},
        ),
    ]

"""An index of lines whose words may be forgotten."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("bank", "0001_initial")]

    operations = [
        migrations.AddIndex(
            model_name="bankline",
            index=models.Index(
                condition=~models.Q(state="open") & (~models.Q(name="") | ~models.Q(text="")),
                fields=["booked_on"],
                name="bank_line_with_words",
            ),
        ),
    ]

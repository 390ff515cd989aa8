from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("carriage", "0009_vouchers"),
    ]

    operations = [
        migrations.AddField(
            model_name="crossing",
            name="given_back",
            field=models.JSONField(default=list),
        ),
        migrations.AddField(
            model_name="crossing",
            name="untaxed",
            field=models.DecimalField(decimal_places=3, max_digits=20, null=True),
        ),
    ]

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [
        ("carriage", "0008_articles"),
    ]

    operations = [
        migrations.AddField(
            model_name="crossing",
            name="voucher_net",
            field=models.DecimalField(decimal_places=3, max_digits=20, null=True),
        ),
        migrations.AddField(
            model_name="crossing",
            name="voucher_tax",
            field=models.DecimalField(decimal_places=3, max_digits=20, null=True),
        ),
    ]

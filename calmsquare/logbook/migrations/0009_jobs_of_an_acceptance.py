from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("logbook", "0008_tilted_heads")]

    operations = [
        migrations.AddField(
            model_name="acceptance",
            name="jobs",
            field=models.JSONField(default=list),
        ),
    ]

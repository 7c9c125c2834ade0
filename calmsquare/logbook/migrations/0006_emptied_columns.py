"""The columns that needles and subjects have taken the place of, and the way to a subject's rounds."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("logbook", "0005_records_read_on")]

    operations = [
        migrations.RemoveField("move", "nipped"),
        migrations.RemoveField("move", "tight"),
        migrations.AddIndex(
            "round",
            models.Index(
                fields=["check_run", "subject", "-number"], name="logbook_rou_check_r_subject"
            ),
        ),
    ]

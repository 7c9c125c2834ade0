"""Rounds are about a subject and keep what later ones lean on; readings bring their own place and
instrument; a needle read during a move is part of it.

In three parts, as PostgreSQL alters no table that has rows waiting to be checked: the columns, what
was kept read into them, and the columns that this empties."""

from django.db import migrations, models


class Migration(migrations.Migration):
    dependencies = [("logbook", "0003_parts_and_grades"), ("workshop", "0002_course")]

    operations = [
        migrations.RenameField("round", "part", "subject"),
        migrations.AlterField(
            "round", "subject", models.CharField(default="machine", max_length=200)
        ),
        migrations.AddField("round", "others", models.JSONField(default=dict)),
        migrations.AddField("round", "summary", models.JSONField(null=True)),
        migrations.AddField("round", "read_at", models.DateTimeField(null=True)),
        migrations.AddField("round", "lesson", models.JSONField(null=True)),
        migrations.AddField("round", "advice", models.JSONField(null=True)),
        migrations.AddField("reading", "x_mm", models.FloatField(null=True)),
        migrations.AddField("reading", "y_mm", models.FloatField(null=True)),
        migrations.AddField(
            "reading", "instrument_key", models.CharField(blank=True, max_length=40)
        ),
        migrations.AddField("reading", "columns", models.JSONField(null=True)),
        migrations.AddField("move", "needle", models.JSONField(default=list)),
    ]

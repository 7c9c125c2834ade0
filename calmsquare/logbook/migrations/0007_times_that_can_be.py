"""Times that no clock has shown, and that cannot even be read back, become the earliest that can be
entered."""

from datetime import UTC, datetime

from django.db import migrations

EARLIEST = datetime(2000, 1, 1, tzinfo=UTC)
TIMES = {
    "Check": ("opened_at", "closed_at"),
    "Round": ("opened_at", "settled_at", "read_at"),
    "Reading": ("read_at",),
    "Move": ("made_at", "taken_back_at"),
    "Note": ("written_at", "taken_back_at"),
    "Event": ("at", "taken_back_at"),
    "Decision": ("at", "taken_back_at"),
    "Acceptance": ("at", "taken_back_at"),
    "Photo": ("at", "taken_back_at"),
}


def mend(apps, schema_editor):
    for name, fields in TIMES.items():
        rows = apps.get_model("logbook", name).objects
        for field in fields:
            rows.filter(**{f"{field}__lt": EARLIEST}).update(**{field: EARLIEST})


class Migration(migrations.Migration):
    dependencies = [("logbook", "0006_emptied_columns")]
    operations = [migrations.RunPython(mend, migrations.RunPython.noop)]

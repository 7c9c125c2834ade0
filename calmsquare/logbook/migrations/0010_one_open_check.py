"""Of a kind one check is under way on a machine. Where an older one was opened again beside a newer,
it is closed, and stays as it stands."""

from django.db import migrations, models
from django.utils import timezone


def close_the_older(apps, schema_editor):
    Check = apps.get_model("logbook", "Check")
    seen = set()
    for check in Check.objects.filter(closed_at=None).order_by("-opened_at", "pk"):
        of = (check.machine_id, check.kind)
        if of in seen:
            check.closed_at = timezone.now()
            check.save(update_fields=["closed_at"])
        seen.add(of)


class Migration(migrations.Migration):
    dependencies = [
        ("logbook", "0009_jobs_of_an_acceptance"),
        ("workshop", "0006_wanted"),
    ]

    operations = [
        migrations.RunPython(close_the_older, migrations.RunPython.noop),
        migrations.AddConstraint(
            model_name="check",
            constraint=models.UniqueConstraint(
                condition=models.Q(("closed_at", None)),
                fields=("machine", "kind"),
                name="one_open_check_of_a_kind",
            ),
        ),
    ]

"""Plans and programs say what each of their parts is, and in which format, as all that is kept."""

from django.db import migrations

FORMAT = 3
SHAPES = {
    "SurfacingPlan": {"wish": "wish", "plan": "surfacing", "done": "done"},
    "Program": {"stated": "stated", "ground": "ground", "report": "report", "picture": "picture"},
}


def stamp(apps, schema_editor):
    for name, columns in SHAPES.items():
        rows = apps.get_model("surfacing", name).objects.only("pk", *columns)
        for row in rows.iterator(chunk_size=20):
            for column, shape in columns.items():
                kept = getattr(row, column)
                if kept is not None and "format" not in kept:
                    setattr(row, column, {"shape": shape, "format": FORMAT, **kept})
            row.save(update_fields=list(columns))


class Migration(migrations.Migration):
    dependencies = [("surfacing", "0001_plans_and_programs")]
    operations = [migrations.RunPython(stamp, migrations.RunPython.noop)]

"""A program's bytes in pieces of their own: nothing has to hold all of them at once."""

import django.db.models.deletion
from django.db import migrations, models

PIECE_BYTES = 4 * 1024 * 1024
IN_PIECES = f"""
INSERT INTO surfacing_programpiece (program_id, number, data)
SELECT p.id, n, substring(p.data FROM n * {PIECE_BYTES} + 1 FOR {PIECE_BYTES})
FROM surfacing_program p,
    generate_series(0, greatest(0, (length(p.data) - 1) / {PIECE_BYTES})) n
WHERE length(p.data) > 0
"""


class Migration(migrations.Migration):
    dependencies = [("surfacing", "0002_stamped")]
    operations = [
        migrations.CreateModel(
            name="ProgramPiece",
            fields=[
                (
                    "id",
                    models.BigAutoField(
                        auto_created=True, primary_key=True, serialize=False, verbose_name="ID"
                    ),
                ),
                ("number", models.PositiveIntegerField()),
                ("data", models.BinaryField()),
                (
                    "program",
                    models.ForeignKey(
                        on_delete=django.db.models.deletion.CASCADE,
                        related_name="kept",
                        to="surfacing.program",
                    ),
                ),
            ],
            options={
                "ordering": ["program", "number"],
                "constraints": [
                    models.UniqueConstraint(
                        models.F("program"), models.F("number"), name="one_piece_of_a_number"
                    )
                ],
            },
        ),
        migrations.RunSQL(IN_PIECES, migrations.RunSQL.noop),
        migrations.RemoveField(model_name="program", name="data"),
    ]

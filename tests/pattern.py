"""What databases of the tests begin as, built once for all tests of a run: one with every table,
and one with the demo's pattern, of which others are copies or take the rows."""

from __future__ import annotations

import os
import subprocess
import sys
from pathlib import Path

import psycopg
from django.contrib.auth.models import User
from django.db import connection, transaction
from psycopg import sql

from calmsquare.demo.copying import COPIED

ROOT = Path(__file__).parents[1]
LOCK = 4_620_011
"""One builds it, the others wait; a number that nothing else locks by."""


def address(database: str) -> str:
    base, _, _ = os.environ["DATABASE_URL"].rpartition("/")
    return f"{base}/{database}"


def empty_pattern(run: str) -> str:
    """Name of a database that has every table and nothing in them, for the run of that id."""
    return _built("calmsquare_empty", run, "template1", "migrate")


def demo_pattern(run: str) -> str:
    """Name of a database that holds nothing but the demo's pattern, for the run of that id."""
    return _built("calmsquare_pattern", run, empty_pattern(run), "load_demo")


def _built(kind: str, run: str, template: str, command: str) -> str:
    """A database of a kind, a copy of another in which a command was run; those of other runs go.
    One process builds it while the others wait."""
    name = f"{kind}_{run[:12]}"
    with psycopg.connect(address("postgres"), autocommit=True) as admin:
        admin.execute("SELECT pg_advisory_lock(%s)", [LOCK])
        kept = "SELECT datname FROM pg_database WHERE datname LIKE %s"
        there = [row[0] for row in admin.execute(kept, [f"{kind}\\_%"])]
        if name not in there:
            for old in there:
                admin.execute(sql.SQL("DROP DATABASE {} WITH (FORCE)").format(sql.Identifier(old)))
            copy = sql.SQL("CREATE DATABASE {} TEMPLATE {}")
            admin.execute(copy.format(sql.Identifier(name), sql.Identifier(template)))
            try:
                subprocess.run(
                    [sys.executable, "manage.py", command],
                    cwd=ROOT,
                    env={**os.environ, "DATABASE_URL": address(name), "DEMO": "1"},
                    check=True,
                    stdout=subprocess.DEVNULL,
                )
            except BaseException:
                admin.execute(sql.SQL("DROP DATABASE {} WITH (FORCE)").format(sql.Identifier(name)))
                raise
    return name


def take_pattern(run: str) -> None:
    """All rows of the pattern, into Django's own database."""
    with psycopg.connect(address(demo_pattern(run))) as source, transaction.atomic():
        for model in (User, *COPIED):
            table, key = model._meta.db_table, model._meta.pk.column
            columns = ", ".join(f'"{f.column}"' for f in model._meta.concrete_fields)
            with connection.cursor() as cursor:
                with (
                    source.cursor().copy(f'COPY "{table}" ({columns}) TO STDOUT') as out,
                    cursor.copy(f'COPY "{table}" ({columns}) FROM STDIN') as into,
                ):
                    for data in out:
                        into.write(data)
                cursor.execute("SELECT pg_get_serial_sequence(%s, %s)", [table, key])
                if sequence := cursor.fetchone()[0]:
                    cursor.execute(
                        f'SELECT setval(%s, greatest(nextval(%s), (SELECT max("{key}") '
                        f'FROM "{table}")))',
                        [sequence, sequence],
                    )

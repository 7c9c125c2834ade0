"""What a workshop keeps of photos and programs together has an end; removing makes room."""

from __future__ import annotations

from functools import partial
from typing import Any

import pytest
from django.test import Client

from calmsquare.logbook.models import Photo, PhotoFile
from calmsquare.surfacing.models import Program, ProgramPiece
from calmsquare.workshop import room
from calmsquare.workshop.models import Workshop
from tests.api.conftest import (
    Bench,
    Person,
    a_photo,
    bench_for,
    send_photo,
    send_program,
    somebody,
)
from tests.api.test_at_once import at_once

PROGRAM = b"G21\n" + b"G0 X1\n" * 2000


def kept() -> int:
    files = PhotoFile.objects.all()
    photos = sum(len(bytes(f.large)) + len(bytes(f.small)) for f in files)
    return photos + sum(len(bytes(p.data)) for p in ProgramPiece.objects.all())


def test_photos_and_programs_share_a_room(bench: Bench, monkeypatch: pytest.MonkeyPatch) -> None:
    send_photo(bench, a_photo())
    first = send_program(bench, PROGRAM)
    monkeypatch.setattr(room, "MOST_BYTES", kept() + len(PROGRAM) - 1)
    told = send_program(bench, PROGRAM, expect=409)
    assert "Remove programs" in told["detail"]
    # another workshop has its own
    other = bench_for(somebody("tove"))
    send_program(other, PROGRAM[: len(PROGRAM) // 2])
    bench.by.call("delete", f"/programs/{first['id']}", expect=204)
    bench.by.get(f"/programs/{first['id']}", expect=404)
    assert Program.objects.filter(machine=bench.machine).count() == 0
    send_program(bench, PROGRAM)
    mine = Workshop.objects.filter(pk=bench.by.workshop.pk)  # type: ignore[union-attr]
    monkeypatch.setattr(room, "MOST_BYTES", room.kept_for(mine).total())  # type: ignore[union-attr]
    send_photo(bench, a_photo(), expect=409)
    assert Photo.objects.count() == 1


def test_a_program_whose_check_runs_is_not_pulled_away(bench: Bench) -> None:
    sent = send_program(bench, PROGRAM)
    Program.objects.update(state=Program.State.RUNNING)
    told = bench.by.call("delete", f"/programs/{sent['id']}", expect=409)
    assert "Stop it first" in told["detail"]
    assert Program.objects.count() == 1


@pytest.mark.django_db(transaction=True)
def test_of_two_that_come_at_once_one_gets_the_last_of_the_room(
    monkeypatch: pytest.MonkeyPatch,
) -> None:
    bench = bench_for(somebody("merrin"))
    monkeypatch.setattr(room, "MOST_BYTES", len(PROGRAM) + 1)

    def sends(person: Person) -> Any:
        try:
            send_program(bench, PROGRAM, by=person)
        except AssertionError:
            return 409
        return 200

    def another() -> Person:
        return Person(bench.by.user, Client(), bench.by.workshop)

    told = at_once(*(partial(sends, another()) for _ in range(3)))
    assert sorted(told) == [200, 409, 409]
    assert Program.objects.count() == 1

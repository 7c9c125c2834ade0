"""What earlier rounds left is remembered while somebody reads, and never longer than it holds."""

from __future__ import annotations

from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from threading import Event as Signal
from typing import Any
from uuid import uuid4

import pytest
from django.db import connection, transaction
from django.test.utils import CaptureQueriesContext

from calmsquare.logbook import earlier as remembered
from calmsquare.logbook.earlier import Earlier, earlier
from calmsquare.logbook.models import Check, Event, Move, Round
from tests.api.conftest import Person, somebody
from tests.api.test_below_the_tram import Sitting
from tests.api.test_course import now
from tests.api.test_leaning import FINE, TRUTH, on, read, settle

KINDS = ("spindle_play", "spindle_tram")


class Mill:
    """A spindle's play read once, the tram read once and tapped, and its second round in hand."""

    def __init__(self, by: Person) -> None:
        self.by = by
        self.play = Sitting(by, "column_mill", "spindle_play", FINE, TRUTH)
        self.play_again()
        tram = on(self.play, "spindle_tram")
        found = read(tram, radius_mm=100, passes=2)
        move = {"id": str(uuid4()), "next_round_id": str(uuid4()), "key": None, "said": "tapped it"}
        more = {"advice": found["advice_id"], "made_at": now(), "needle": []}
        tram.check = by.post(f"/rounds/{tram.round['id']}/move", {**move, **more})
        self.tram = tram

    def play_again(self) -> None:
        self.play_read()
        settle(self.play)

    def play_read(self) -> None:
        self.play = on(self.play, "spindle_play")
        read(self.play, way="cold", passes=1)

    def play_corrected(self) -> None:
        first = self.play.round["readings"][0]
        self.play.put(first["station"], "0.345", supersedes=first["id"])

    @property
    def in_hand(self) -> tuple[Check, Round, str, tuple[str, ...]]:
        round = Round.objects.select_related("check_run__machine").get(pk=self.tram.round["id"])
        return round.check_run, round, round.subject, KINDS

    def knows(self) -> Earlier:
        """What the round in hand leans on, as remembered; as gathered anew it is the same."""
        told = earlier(*self.in_hand)
        remembered._kept.clear()
        assert earlier(*self.in_hand) == told
        return told


def happened(mill: Mill, mechanism: str = "spindle_bearing") -> None:
    event = {"id": str(uuid4()), "kind": "replaced", "mechanisms": [mechanism]}
    at = f"/machines/{mill.tram.machine}/events"
    mill.by.post(at, {**event, "at": now(), "said": "dropped"})


def other_record(kind: str, model: Any, back: bool) -> Callable[[Mill], None]:
    def change(mill: Mill) -> None:
        last = model.objects.order_by("-pk").first()
        mill.by.put(f"/records/{kind}/{last.pk}/taken-back", {"taken_back": back})

    return change


def test_whatever_changes_beside_a_round_is_known_with_its_next_reading(owner: Person) -> None:
    mill = Mill(owner)
    changes: list[Callable[[Mill], None]] = [
        happened,
        other_record("events", Event, True),
        other_record("events", Event, False),
        Mill.play_read,
        Mill.play_corrected,
        other_record("moves", Move, True),
        other_record("moves", Move, False),
    ]
    for change in changes:
        before = mill.knows()
        change(mill)
        assert mill.knows() != before, change


def test_a_preview_gathers_the_past_once(owner: Person) -> None:
    mill = Mill(owner)
    typed = {"station": "12", "text": "+0.01", "unit": "mm"}
    path = f"/rounds/{mill.tram.round['id']}/preview"
    mill.by.post(path, typed)
    with CaptureQueriesContext(connection) as asked:
        mill.by.post(path, typed)
    assert len(asked) <= 8, [q["sql"][:90] for q in asked]


@pytest.mark.django_db(transaction=True)
def test_what_began_first_and_ended_last_is_not_missed() -> None:
    mill = Mill(somebody("merrin"))
    happened(mill)
    crash = Event.objects.get()
    written, go_on = Signal(), Signal()

    def slow() -> None:
        try:
            with transaction.atomic():
                Event.objects.filter(pk=crash.pk).update(taken_back_at=now())
                written.set()
                assert go_on.wait(20)
        finally:
            connection.close()

    with ThreadPoolExecutor(1) as pool:
        waiting = pool.submit(slow)
        assert written.wait(20)
        # by a later transaction, and there before the other
        happened(mill, "vice")
        assert not any(k.fresh for k in mill.knows().known if k.kind == "spindle_play")
        go_on.set()
        waiting.result(20)
    assert all(k.fresh for k in mill.knows().known if k.kind == "spindle_play")


def test_what_was_rolled_back_was_never_there(owner: Person) -> None:
    mill = Mill(owner)
    before = mill.knows()
    with transaction.atomic():
        happened(mill)
        assert earlier(*mill.in_hand) != before
        transaction.set_rollback(True)
    assert earlier(*mill.in_hand) == before


def test_what_one_transaction_writes_twice_is_told_apart(owner: Person) -> None:
    mill = Mill(owner)
    happened(mill)
    with transaction.atomic():
        seen = []
        for at in (now(), None, now()):
            Event.objects.update(taken_back_at=at)
            seen.append([k.fresh for k in mill.knows().known if k.kind == "spindle_play"])
    assert seen == [[True], [False], [True]]


def test_what_is_remembered_is_bounded(owner: Person, monkeypatch: pytest.MonkeyPatch) -> None:
    mill = Mill(owner)
    monkeypatch.setattr(remembered, "MOST_KEPT", 1)
    mill.knows()
    check, round, subject, _ = mill.in_hand
    earlier(check, round, subject, ())
    assert [key[2] for key in remembered._kept] == [()]

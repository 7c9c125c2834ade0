"""Beds, plans and programs through the API, with a worker that checks them."""

from __future__ import annotations

import json
import os
import threading
import time
from datetime import timedelta
from importlib import import_module
from multiprocessing.connection import Connection
from multiprocessing.context import ForkServerProcess
from typing import Any
from uuid import uuid4

import pytest
from django.apps import apps
from django.db import connection, connections
from django.utils import timezone
from procrastinate.contrib.django.models import ProcrastinateJob

from calmsquare.logbook.models import Reading, Round
from calmsquare.surfacing import tasks
from calmsquare.surfacing.facts import _feed
from calmsquare.surfacing.models import PIECE_BYTES, Program, ProgramPiece, SurfacingPlan
from calmsquare.workshop.models import Machine
from tests.api.conftest import API, Bench, Person, bench_for, send_program, somebody
from tests.api.test_below_the_tram import FINE, Sitting, now
from tests.core.test_programs import GOOD
from truing.contract.known import Known
from truing.kit.instruments import ScaleTrigger
from truing.machine.subject import Subject
from truing.measure.estimate import Estimate
from truing.programs import read
from truing.programs.check import check
from truing.programs.ground import Ground
from truing.standin.truth import Truth

REACH = {
    "reach_left_mm": -400,
    "reach_right_mm": 400,
    "reach_front_mm": -400,
    "reach_rear_mm": 400,
}
PROBE = ScaleTrigger(resolution_mm=0.001, repeatability_mm=0.001)
LOG = "x y z\n" + "\n".join(
    f"{x} {y} {0.2 + 0.0004 * x + 0.0002 * y:.4f}"
    for x in range(-240, 241, 60)
    for y in range(-180, 181, 60)
)


@pytest.fixture
def bed(owner: Person) -> Bench:
    """A router whose board has been mapped by a probe."""
    sitting = Sitting(owner, "gantry_router", "bed_map", PROBE)
    sitting.set_up(way="log")
    body = {"station": "log", "text": LOG, "unit": "mm", "read_at": now()}
    owner.put(f"/rounds/{sitting.round['id']}/logs/{uuid4()}", body)
    owner.post(f"/rounds/{sitting.round['id']}/settle")
    return Bench(owner, sitting.machine, sitting.instrument or "", sitting.check)


def look(bed: Bench) -> Any:
    return bed.by.get(f"/machines/{bed.machine}/bed")


def wish(bed: Bench, **more: Any) -> dict[str, Any]:
    return {**look(bed)["wish"], **REACH, **more}


def test_from_a_map_to_a_program_that_was_read_back(bed: Bench) -> None:
    seen = look(bed)
    assert seen["map"]["fresh"]
    assert seen["wish"]["heights"] == "map"
    assert "not known" in seen["lean_words"]["metric"]
    looked = bed.by.post(f"/machines/{bed.machine}/surfacing-preview", {"wish": wish(bed)})
    assert looked["plan"]["report"]["faults"] == []
    assert look(bed)["plans"] == []
    id = uuid4()
    body = {"id": id, "wish": wish(bed)}
    kept = bed.by.post(f"/machines/{bed.machine}/surfacing-plans", body)
    again = bed.by.post(f"/machines/{bed.machine}/surfacing-plans", body)
    assert kept["plan"]["program"] == again["plan"]["program"]
    for run in ("cut", "air"):
        got = bed.by.client.get(f"{API}/surfacing-plans/{id}/program?run={run}")
        assert got["Content-Disposition"].startswith('attachment; filename="heron-board-')
        motions = read(got.content).motions
        lowest = float(motions.at[motions.cuts][:, 5].min())
        deepest = kept["plan"]["levels"][-1]["z_mm"]
        assert lowest == pytest.approx(deepest + (30 if run == "air" else 0), abs=1e-3)
    # what came in is the map's own: highest less lowest, and a skim
    assert kept["plan"]["removed_mm"] == pytest.approx(0.264 + 0.1, abs=0.01)
    assert [p["file_name"] for p in look(bed)["plans"]] == [kept["plan"]["file_name"]]


def test_a_map_that_was_kept_as_means_is_planned_from_its_log(owner: Person) -> None:
    """As versions before this one kept it: the seam stands between the means."""
    sitting = Sitting(owner, "gantry_router", "bed_map", PROBE)
    sitting.set_up(way="log")
    rows = [
        f"{x} {y} {1.0 if abs(x - 33) < 5 else 0.0}"
        for x in range(-240, 241, 8)
        for y in range(-180, 181, 12)
    ]
    body = {"station": "log", "text": "\n".join(["x y z", *rows]), "unit": "mm", "read_at": now()}
    owner.put(f"/rounds/{sitting.round['id']}/logs/{uuid4()}", body)
    owner.post(f"/rounds/{sitting.round['id']}/settle")
    bed = Bench(owner, sitting.machine, sitting.instrument or "", sitting.check)
    round = Round.objects.get(pk=sitting.round["id"])
    assert round.outcome["finding"].pop("patches")
    round.save()
    looked = owner.post(f"/machines/{bed.machine}/surfacing-preview", {"wish": wish(bed)})
    assert looked["plan"]["removed_mm"] == pytest.approx(1.1, abs=0.02)


def test_a_log_is_kept_once_however_often_it_is_sent(owner: Person) -> None:
    sitting = Sitting(owner, "gantry_router", "bed_map", PROBE)
    sitting.set_up(way="log")
    id, body = uuid4(), {"station": "log", "text": LOG, "unit": "mm", "read_at": now()}
    at = f"/rounds/{sitting.round['id']}/logs"
    first = owner.put(f"{at}/{id}", body)
    assert [r["text"] for r in first["readings"]] == ["63 points"]
    again = owner.put(f"{at}/{id}", body)
    assert again["readings"] == first["readings"]
    assert again["brief"] == first["brief"]
    # another log under the same id is no second sending of it
    told = owner.put(f"{at}/{id}", {**body, "unit": "in"}, expect=409)
    assert told["detail"]
    assert [r.text for r in Reading.objects.all()] == ["63 points"]


def test_a_board_gets_no_thinner_than_it_may(bed: Bench) -> None:
    at = f"/machines/{bed.machine}"
    bed.by.change(f"{at}/board", {"board": {"thickness_mm": "18 mm", "least_mm": 8}})
    id = uuid4()
    bed.by.post(f"{at}/surfacing-plans", {"id": id, "wish": wish(bed)})
    before = look(bed)
    told = bed.by.post(
        f"/surfacing-plans/{id}/done",
        {"done": {"marks_gone": True, "thickness_mm": "7.5 mm"}},
        expect=422,
    )
    assert [e["field"] for e in told["errors"]] == ["done.thickness_mm"]
    assert "as thin as it may get" in told["errors"][0]["message"]
    assert look(bed) == before
    assert bed.by.post(
        f"/surfacing-plans/{id}/done", {"done": {"marks_gone": True, "thickness_mm": "8.5 mm"}}
    )


def test_a_plan_of_a_bed_that_has_changed_is_not_done_without_a_word(bed: Bench) -> None:
    id = uuid4()
    bed.by.post(f"/machines/{bed.machine}/surfacing-plans", {"id": id, "wish": wish(bed)})
    insert = {"name": "Insert", "what": "insert", "top_mm": "-6 mm"}
    board = {"thickness_mm": "18 mm", "least_mm": 8, "keep_outs": [insert]}
    bed.by.change(f"/machines/{bed.machine}/board", {"board": board})
    done = {"marks_gone": True}
    told = bed.by.post(f"/surfacing-plans/{id}/done", {"done": done}, expect=422)
    assert [e["field"] for e in told["errors"]] == ["done.note"]
    after = bed.by.post(f"/surfacing-plans/{id}/done", {"done": {**done, "note": "ran before"}})
    assert after["plans"][0]["done_at"]


def test_surfaced_the_board_is_thinner_and_what_lay_on_it_is_stale(bed: Bench) -> None:
    bed.by.change(
        f"/machines/{bed.machine}/board",
        {
            "board": {
                "thickness_mm": "18 mm",
                "least_mm": 8,
                "keep_outs": [{"name": "Insert", "what": "insert", "top_mm": "-3 mm"}],
            }
        },
    )
    id = uuid4()
    kept = bed.by.post(f"/machines/{bed.machine}/surfacing-plans", {"id": id, "wish": wish(bed)})
    refused = bed.by.post(
        f"/surfacing-plans/{id}/done", {"done": {"thickness_mm": "17.6 mm"}}, expect=422
    )
    # whether the marks are gone is asked, and nothing is taken for granted
    assert refused["errors"][0]["field"] == "done.where"
    thicker = {"done": {"marks_gone": True, "thickness_mm": "19 mm"}}
    told = bed.by.post(f"/surfacing-plans/{id}/done", thicker, expect=422)
    assert "thicker" in told["errors"][0]["message"]
    after = bed.by.post(
        f"/surfacing-plans/{id}/done",
        {"done": {"marks_gone": True, "thickness_mm": "17.6 mm", "ridges": True}},
    )
    assert after["board"]["thickness_mm"] == 17.6
    assert after["board"]["keep_outs"][0]["top_mm"] == pytest.approx(-2.6)
    assert not after["map"]["fresh"]
    assert after["plans"][0]["done_words"]["metric"] == "marks gone everywhere, ridges felt"
    assert any("once" in w["metric"] for w in after["board_words"])
    bed.by.post(f"/surfacing-plans/{id}/done", {"done": {}}, expect=409)
    assert bed.by.workshop
    log = bed.by.get(f"/workshops/{bed.by.workshop.pk}/logbook")
    assert "Surface" in str(log["entries"][0]["record"])
    # on a map that is not fresh nothing is planned
    told = bed.by.post(
        f"/machines/{bed.machine}/surfacing-preview",
        {"wish": {**kept["wish"], "heights": "map"}},
        expect=422,
    )
    assert told["errors"][0]["field"] == "wish.heights"


@pytest.mark.parametrize(
    ("path", "body", "field"),
    [
        ("board", {"board": {"thickness_mm": "7 mm"}, "was": {}}, "board"),
        ("board", {"board": {"keep_outs": [{"name": ""}]}, "was": {}}, "board.keep_outs.0.name"),
        ("surfacing-preview", {"wish": {"diameter_mm": "wide"}}, "wish.diameter_mm"),
        ("surfacing-preview", {"wish": {"stepover_mm": "60 mm"}}, "wish.stepover_mm"),
        ("surfacing-preview", {"wish": {"nonsense": 1}}, "wish.nonsense"),
    ],
)
def test_what_cannot_be_is_said_at_its_field(bed: Bench, path: str, body: Any, field: str) -> None:
    method = "put" if path == "board" else "post"
    before = look(bed)
    told = bed.by.call(method, f"/machines/{bed.machine}/{path}", body, expect=422)
    assert field in [e["field"] for e in told["errors"]]
    assert look(bed) == before


def test_a_mark_that_is_left_does_not_put_back_what_was_cut(bed: Bench) -> None:
    """Metal lies less deep wherever the cutter has been, marks or no marks; a seat is no skim."""
    insert = {"name": "Insert", "what": "insert", "top_mm": "-6 mm", "x_mm": 200}
    bed.by.change(f"/machines/{bed.machine}/board", {"board": {"keep_outs": [insert]}})
    seat = {"work": "seat", "heights": "map", "diameter_mm": 6, "panel_mm": 3}
    for more, done in (
        (seat, {"marks_gone": True}),
        ({}, {"marks_gone": False, "where": "rear left"}),
    ):
        id = uuid4()
        body = {"id": id, "wish": wish(bed, **{"work": "skim", "heights": "map", **more})}
        if look(bed)["map"]["fresh"]:
            bed.by.post(f"/machines/{bed.machine}/surfacing-plans", body)
            plan = bed.by.get(f"/surfacing-plans/{id}")
        else:
            body["wish"].update(heights="range", range_mm=0.3)
            plan = bed.by.post(f"/machines/{bed.machine}/surfacing-plans", body)
        after = bed.by.post(f"/surfacing-plans/{id}/done", {"done": done})
    removed = plan["plan"]["removed_mm"]
    assert after["board"]["thickness_mm"] == pytest.approx(18 - removed)
    assert after["board"]["keep_outs"][0]["top_mm"] == pytest.approx(-6 + removed)
    # the seat's three millimetres are not what a skim takes
    assert any("once" in w["metric"] for w in after["board_words"])


def test_a_feed_is_proven_only_when_both_drives_are() -> None:
    def proof(subject: str, feed: float, fresh: bool = True) -> Known:
        return Known(
            kind="drive_proof",
            subject=Subject.part(subject).text,
            at=timezone.now(),
            fresh=fresh,
            verdict="true",
            values={"recommended": Estimate.exact("feed", feed)},
            limits={},
        )

    x, y = proof("left_right", 3000), proof("front_back", 2400)
    assert _feed([x, y]) == 2400
    assert _feed([x]) == 0
    assert _feed([x, proof("front_back", 2400, fresh=False)]) == 0
    assert _feed([x, proof("up_down", 800)]) == 0


# --- programs of others ---------------------------------------------------------------------------

STATED = {
    "diameter_mm": "30 mm",
    "depth_mm": 1,
    "x_mm": -100,
    "y_mm": -75,
    "plunges": True,
    **REACH,
}


def work(id: str) -> Any:
    tasks.check_program(program_id=id)


def test_a_foreign_program_is_checked_by_a_worker_on_this_bed(bed: Bench) -> None:
    text = GOOD.replace("X220\nY30", "X220\nG0 Y30")
    sent = send_program(bed, text.encode(), **STATED)
    assert (sent["state"], sent["report"]) == ("waiting", None)
    work(sent["id"])
    got = bed.by.get(f"/programs/{sent['id']}")
    assert got["state"] == "done"
    # two rapids, since what is modal goes on: one slip
    faults = got["report"]["faults"]
    assert [(f["code"], f["more"]) for f in faults] == [("rapid_through", 1)]
    line = got["report"]["faults"][0]["line"]
    assert got["shown_lines"][str(line)] == "G0 Y30"
    # half a millimetre where Z was zeroed, and more where the face rises to the right
    assert 0.5 < got["picture"]["most_mm"] < 0.7
    # the same file on the same ground, without a worker
    ground = Ground.model_validate(Program.objects.get().ground)
    alone = check(read(text.encode()), ground).model_dump(mode="json")
    assert {**alone, "cited": got["report"]["cited"]} == got["report"]
    # nobody reads the program again for a look at its report
    ProgramPiece.objects.all().delete()
    assert bed.by.get(f"/programs/{sent['id']}")["shown_lines"] == got["shown_lines"]
    assert look(bed)["programs"][0]["sentence"] == got["report"]["sentence"]


def test_what_is_in_the_board_is_in_the_way_of_foreign_programs_too(bed: Bench) -> None:
    screw = {"name": "Screw", "top_mm": "-0.2 mm", "x_mm": 0, "y_mm": -60}
    bed.by.change(f"/machines/{bed.machine}/board", {"board": {"keep_outs": [screw]}})
    sent = send_program(bed, GOOD.encode(), **STATED)
    work(sent["id"])
    report = bed.by.get(f"/programs/{sent['id']}")["report"]
    assert "keep_out" in [f["code"] for f in report["faults"]]
    assert "Screw" in report["faults"][0]["text"]["metric"]


@pytest.mark.parametrize(
    ("data", "says"),
    [
        (b"Dear Sir, the cutter is sharp.", "no word of a program"),
        ("G0 Z5\n".encode("utf-16"), "two bytes a letter"),
        (b"G1 " + b"X1 " * 3_000, "Not everything is known"),
        (b"G1 " + b"X1 " * 300_000, "Line 1 is 900,003 letters long"),
        (b";a\n" * 3_000_001, "3,000,001 lines are more"),
    ],
)
def test_whatever_is_sent_is_explained_and_the_queue_goes_on(
    bed: Bench, data: bytes, says: str
) -> None:
    first, second = send_program(bed, data, **STATED), send_program(bed, GOOD.encode(), **STATED)
    work(first["id"])
    work(second["id"])
    got = bed.by.get(f"/programs/{first['id']}")
    sentence = got["report"]["sentence"]["metric"] if got["report"] else got["reason"]
    assert says in sentence or got["report"]["unknown_from"]
    assert bed.by.get(f"/programs/{second['id']}")["state"] == "done"


def test_a_program_is_kept_in_pieces_and_comes_out_as_it_went_in(
    bed: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    """What is sent is larger than a piece; one line of each kind of fault is shown, not all."""
    garbage = "G1 Y~30\n" * 200 + "G1 Y30\n" * 900
    data = (GOOD.replace("M30\n", "") + "(remark)\n" * 600_000 + garbage).encode()
    sent = send_program(bed, data, **STATED)
    kept = Program.objects.get()
    sizes = [len(piece) for piece in kept.pieces()]
    assert len(sizes) > 1
    assert max(sizes) <= PIECE_BYTES
    assert b"".join(kept.pieces()) == data
    work(sent["id"])
    got = bed.by.get(f"/programs/{sent['id']}")
    garbled = [f for f in got["report"]["faults"] if f["code"] == "unreadable"]
    assert len(garbled) == 20
    # a word without its number, and a sign that is none, in each
    assert sum(1 + f["more"] for f in garbled) == 400
    assert got["shown_lines"][str(garbled[0]["line"])] == "G1 Y~30"
    monkeypatch.setattr("calmsquare.surfacing.models.Program.pieces", None)
    assert bed.by.get(f"/programs/{sent['id']}") == got


def test_a_check_is_stopped_while_it_waits_and_while_it_runs_and_goes_again(bed: Bench) -> None:
    sent = send_program(bed, GOOD.encode(), **STATED)
    assert bed.by.post(f"/programs/{sent['id']}/stop")["state"] == "stopped"
    work(sent["id"])
    assert bed.by.get(f"/programs/{sent['id']}")["state"] == "stopped"
    bed.by.post(f"/programs/{sent['id']}/again")
    # as if it were pressed while a worker is at it
    Program.objects.update(stop=True)
    work(sent["id"])
    got = bed.by.get(f"/programs/{sent['id']}")
    assert (got["state"], got["report"]) == ("stopped", None)
    bed.by.post(f"/programs/{sent['id']}/again")
    work(sent["id"])
    assert bed.by.get(f"/programs/{sent['id']}")["state"] == "done"


def test_a_child_that_dies_is_told_and_a_lost_worker_is_followed_up(
    bed: Bench, monkeypatch: pytest.MonkeyPatch
) -> None:
    sent = send_program(bed, GOOD.encode(), **STATED)

    def killed(program_id: str, child: ForkServerProcess, ours: Connection) -> Any:
        child.kill()
        return follow(program_id, child, ours)

    follow = tasks._follow
    monkeypatch.setattr(tasks, "_follow", killed)
    work(sent["id"])
    got = bed.by.get(f"/programs/{sent['id']}")
    assert got["state"] == "failed"
    assert "memory" in got["reason"]
    monkeypatch.undo()
    asked: list[str] = []
    monkeypatch.setattr(
        tasks.check_program, "defer", lambda **told: asked.append(told["program_id"])
    )
    lost = timezone.now() - 2 * tasks.LOST
    Program.objects.update(state="running", beat_at=lost, tries=1)
    tasks.look_for_lost(timestamp=0)
    assert asked == [sent["id"]]
    assert Program.objects.get().state == "waiting"
    Program.objects.update(state="running", beat_at=lost, tries=tasks.TRIES)
    tasks.look_for_lost(timestamp=0)
    assert Program.objects.get().state == "failed"
    assert "died, twice" in Program.objects.get().reason
    # one that speaks is left alone
    Program.objects.update(state="running", beat_at=timezone.now() - timedelta(seconds=5), tries=1)
    tasks.look_for_lost(timestamp=0)
    assert Program.objects.get().state == "running"


@pytest.mark.django_db
@pytest.mark.parametrize(("line", "says"), [(0, "while it was read"), (4711, "from line 4,711 on")])
def test_a_child_that_dies_in_the_midst_of_a_word_is_told_too(line: int, says: str) -> None:
    """With the line that it was at last."""
    ours, theirs = tasks.FORKING.Pipe(duplex=False)
    with theirs:
        theirs.send_bytes(json.dumps({"share": 0.3, "line": line}).encode())
        # a hundred bytes are announced and four come
        os.write(theirs.fileno(), (100).to_bytes(4, "big") + b"half")
    child = tasks.FORKING.Process(target=int)
    child.start()
    with ours:
        told = tasks._follow(str(uuid4()), child, ours)["problem"]
    assert told.startswith(f"Its check broke off {says}")


@pytest.mark.parametrize(
    ("limit", "most", "says"),
    [("MOST_BYTES", 1 << 20, "more memory"), ("MOST_SECONDS", 0, "After 0 s it was not done")],
)
def test_a_check_that_takes_too_much_is_broken_off(
    bed: Bench, monkeypatch: pytest.MonkeyPatch, limit: str, most: int, says: str
) -> None:
    monkeypatch.setattr(tasks, limit, most)
    sent = send_program(bed, GOOD.encode(), **STATED)
    work(sent["id"])
    got = bed.by.get(f"/programs/{sent['id']}")
    assert got["state"] == "failed"
    assert says in got["reason"]
    # another after it has what it needs
    monkeypatch.undo()
    bed.by.post(f"/programs/{sent['id']}/again")
    work(sent["id"])
    assert bed.by.get(f"/programs/{sent['id']}")["state"] == "done"


def test_only_so_many_wait_at_once_and_an_id_is_taken_once(bed: Bench) -> None:
    id = uuid4()
    for _ in range(2):
        assert send_program(bed, b"G21", id=id, **STATED)["id"] == str(id)
    for _ in range(4):
        send_program(bed, b"G21", **STATED)
    told = send_program(bed, b"G21", expect=409, **STATED)
    assert "Stop one" in told["detail"]
    assert Program.objects.count() == 5


@pytest.mark.django_db(transaction=True)
def test_a_worker_takes_what_is_asked_from_the_queue(owner: Person) -> None:
    """Through PostgreSQL, as `bin/demo` runs it."""
    from procrastinate.contrib.django import app

    sitting = Sitting(owner, "gantry_router", "bed_map", PROBE)
    bed = Bench(owner, sitting.machine, "", sitting.check)
    sent = send_program(bed, GOOD.encode(), **STATED)

    def run() -> None:
        with app.replace_connector(app.connector.get_worker_connector()) as there:  # type: ignore[attr-defined]
            there.run_worker(wait=False, queues=["programs"], install_signal_handlers=False)
        connections.close_all()

    worker = threading.Thread(target=run)
    worker.start()
    worker.join(120)
    for _ in range(100):
        if bed.by.get(f"/programs/{sent['id']}")["state"] == "done":
            break
        time.sleep(0.1)
    assert bed.by.get(f"/programs/{sent['id']}")["state"] == "done"


def test_ridges_tell_the_lean_until_a_dial_does(bed: Bench) -> None:
    """What they left goes into a plan, as the weaker witness that it is."""
    owner = bed.by
    truth = Truth(head_about_y_mrad=0.4, head_about_x_mrad=0.1)
    Machine.objects.filter(pk=bed.machine).update(truth=truth.model_dump(mode="json"))
    ridges = Sitting(owner, "gantry_router", "ridge_reading", FINE, machine=bed.machine)
    ridges.set_up()
    ridges.ask()
    owner.post(f"/rounds/{ridges.round['id']}/settle")
    assert "by the ridges that it left" in look(bed)["lean_words"]["metric"]
    tram = Sitting(owner, "gantry_router", "spindle_tram", FINE, machine=bed.machine)
    tram.set_up(radius_mm="100 mm")
    tram.ask()
    owner.post(f"/rounds/{tram.round['id']}/settle")
    assert "by the tram as read last" in look(bed)["lean_words"]["metric"]


def test_plans_and_programs_of_before_are_stamped_and_damaged_ones_named(bed: Bench) -> None:
    """What was kept without its shape and format is read; one that is damaged takes no screen
    with it."""
    id = uuid4()
    kept = bed.by.post(f"/machines/{bed.machine}/surfacing-plans", {"id": id, "wish": wish(bed)})
    program = send_program(bed, GOOD.encode())
    columns = {
        SurfacingPlan: ("wish", "plan"),
        Program: ("stated", "ground"),
    }
    for model, names in columns.items():
        row = model.objects.get()
        for name in names:
            data = getattr(row, name)
            setattr(row, name, {k: v for k, v in data.items() if k not in ("shape", "format")})
        row.save()
    import_module("calmsquare.surfacing.migrations.0002_stamped").stamp(apps, None)
    again = bed.by.get(f"/surfacing-plans/{id}")
    assert again["plan"] == kept["plan"]
    assert SurfacingPlan.objects.get().plan["shape"] == "surfacing"
    assert Program.objects.get().ground["format"] == 3
    assert SurfacingPlan.objects.get().done is None
    SurfacingPlan.objects.update(plan={"shape": "surfacing", "format": 3})
    Program.objects.update(ground={"shape": "ground", "format": 3})
    seen = look(bed)
    assert "cannot be read" in seen["plans"][0]["sentence"]["metric"]
    for at in (f"/surfacing-plans/{id}", f"/programs/{program['id']}"):
        told = bed.by.get(at, expect=409)
        assert "cannot be read" in told["detail"]


def test_a_program_is_not_given_out_for_a_bed_that_has_changed(bed: Bench) -> None:
    """Another clamp, another thickness, a map that holds no more: what was planned before is of
    another bed. Put back, it is of this one again."""
    board = {"thickness_mm": 18, "least_mm": 8, "keep_outs": []}
    at = f"/machines/{bed.machine}"
    bed.by.change(f"{at}/board", {"board": board})
    id = uuid4()
    bed.by.post(f"{at}/surfacing-plans", {"id": id, "wish": wish(bed)})
    file = f"{API}/surfacing-plans/{id}/program"
    assert bed.by.client.get(file).status_code == 200
    assert look(bed)["plans"][0]["stale"] is None
    clamp = {"name": "Clamp", "what": "clamp", "x_mm": 0, "y_mm": 0, "across_mm": 40, "top_mm": 20}
    bed.by.change(f"{at}/board", {"board": {**board, "keep_outs": [clamp]}})
    assert "Plan it anew" in look(bed)["plans"][0]["stale"]["metric"]
    for run in ("cut", "air"):
        refused = bed.by.client.get(f"{file}?run={run}")
        assert refused.status_code == 409
        assert "as it was" in refused.json()["detail"]
    bed.by.change(f"{at}/board", {"board": board})
    assert bed.by.client.get(file).status_code == 200
    crash = {"id": uuid4(), "kind": "crash", "said": "Into the fence.", "at": now()}
    bed.by.post(f"{at}/events", crash)
    assert look(bed)["plans"][0]["stale"] is not None
    assert bed.by.client.get(file).status_code == 409


def test_workshops_take_turns_and_none_floods_the_queue(
    bed: Bench, django_capture_on_commit_callbacks: Any
) -> None:
    """Five of one shed, then one of another: it is next but one. A sixth is refused, sent anew or
    asked for again."""
    other = bench_for(somebody("tove"))
    with django_capture_on_commit_callbacks(execute=True):
        mine = [send_program(bed, GOOD.encode(), **STATED)["id"] for _ in range(4)]
        stopped = bed.by.post(f"/programs/{mine[-1]}/stop")["id"]
        mine += [send_program(bed, GOOD.encode(), **STATED)["id"] for _ in range(2)]
        theirs = send_program(other, GOOD.encode(), **STATED)["id"]
    jobs = ProcrastinateJob.objects.filter(status="todo").order_by("-priority", "id")
    order = [job.args["program_id"] for job in jobs]
    assert order[:2] == [mine[0], theirs]
    told = bed.by.post(f"/programs/{stopped}/again", expect=409)
    assert "wait for their check already" in told["detail"]
    send_program(bed, GOOD.encode(), expect=409, **STATED)


def test_the_server_says_when_nothing_fetches_jobs(bed: Bench) -> None:
    def healthy() -> str:
        return str(bed.by.client.get("/healthy").content.decode())

    with connection.cursor() as cursor:
        cursor.execute("DELETE FROM procrastinate_workers")
        assert "nothing fetches jobs" in healthy()
        cursor.execute("INSERT INTO procrastinate_workers DEFAULT VALUES")
        assert healthy() == "ok"
        cursor.execute("UPDATE procrastinate_workers SET last_heartbeat = now() - interval '2 min'")
    assert "nothing fetches jobs" in healthy()

"""The heaviest that each route can be sent: answered in bounds, whatever the answer is."""

from __future__ import annotations

import logging
import re
import time
from collections.abc import Iterator
from functools import cache
from pathlib import Path
from typing import Any
from uuid import uuid4

import numpy as np
import pytest
from django.db import transaction

from calmsquare.logbook.models import Reading
from calmsquare.logbook.readings import MOST_READINGS
from calmsquare.surfacing import tasks
from calmsquare.workshop.models import ShimStock
from calmsquare.workshop.services import MOST_TINS
from tests.api.conftest import Bench, json, send_program
from tests.api.test_below_the_tram import Sitting
from tests.api.test_refused import body_of
from tests.api.test_surfacing import PROBE
from tests.api.test_walls import NOW, WISH, filled, routes, schema, theirs  # noqa: F401
from truing.contract.paste import MOST_LINES
from truing.jobs.features import MOST_FEATURES
from truing.kit.instruments import PlungerDial
from truing.machine import starting_point

SECONDS, SECONDS_OF_PART, MEGABYTES = 2.0, 1.0, 150.0
WHOLE, PART = 1_600_000, 140_000
"""Signs in a body, less than half of what the door takes (4 MB), and in one of its places alone:
what grows with the square of its length is beyond its bound at that as well."""


@cache
def heavy(signs: int) -> dict[str, bytes]:
    """Values of so many signs, as JSON."""
    values: dict[str, Any] = {
        "digits": "9" * signs,
        "a decimal": "0." + "1" * signs,
        "numbers": [0.125] * (signs // 7),
        "columns": "0.1 " * (signs // 4),
        "lines": "1,2,3\n" * (signs // 7),
        "blanks": " " * signs + "1",
        "signs": "+-" * (signs // 2),
        "texts": ["0.1 mm"] * (signs // 10),
        "objects": [{}] * (signs // 4),
        "names": {f"n{n}": 1 for n in range(signs // 14)},
    }
    return {name: json(value) for name, value in values.items()}


HERE = "put it here"
ALONE = heavy(PART)
DEEP = ("digits", "a decimal", "numbers")


def leaves(body: Any, path: tuple[Any, ...] = ()) -> Iterator[tuple[Any, ...]]:
    """Where something stands in a body; of each list its first."""
    yield path
    if isinstance(body, dict):
        for key, value in body.items():
            yield from leaves(value, (*path, key))
    elif isinstance(body, list) and body:
        yield from leaves(body[0], (*path, 0))


def put(body: Any, path: tuple[Any, ...], value: Any) -> Any:
    """The body with something else there."""
    if not path:
        return value
    step, *rest = path
    inner = put(body[step], tuple(rest), value)
    return {**body, step: inner} if isinstance(body, dict) else [inner, *body[1:]]


def fields(model: str) -> dict[str, Any]:
    """Names of all fields of a body."""
    return dict.fromkeys(schema()["components"]["schemas"][model].get("properties", {}))


def memory(name: str) -> float:
    """VmHWM (the most so far) or VmRSS of this process, in MB."""
    told = re.search(rf"{name}:\s+(\d+)", Path("/proc/self/status").read_text())
    assert told
    return int(told[1]) / 1024


class Scales:
    """What was too slow or took too much room."""

    def __init__(self, bench: Bench) -> None:
        self.bench = bench
        began = time.process_time()
        for _ in range(1_000_000):
            pass
        # a core that others have half of counts its seconds twice
        self.slower = max(1.0, (time.process_time() - began) / 0.02)
        self.told: list[tuple[int, str]] = []
        self.found: list[tuple[str, str, float, float, int]] = []

    def send(self, method: str, path: str, body: Any) -> None:
        """A body as it is."""
        self.weigh(method, path, b"" if body is None else json(body), b"", path)

    def weigh(
        self,
        method: str,
        path: str,
        body: bytes,
        value: bytes,
        what: str,
        seconds: float = SECONDS,
    ) -> None:
        """Send it, with the value in its place, and take back whatever it did. Time is what this
        process worked: busy neighbours do not count."""
        data = body.replace(json(HERE), value)
        assert len(data) < 4_000_000
        Path("/proc/self/clear_refs").write_text("5")  # the most so far is what there is now
        room, began = memory("VmRSS"), time.process_time()
        with transaction.atomic():
            got = self.bench.by.client.generic(
                method.upper(), f"/api/v1{path}", data, content_type="application/json"
            )
            transaction.set_rollback(True)
        took, grown = time.process_time() - began, memory("VmHWM") - room
        self.told.append((got.status_code, path))
        if took > seconds * self.slower or grown > MEGABYTES or got.status_code >= 500:
            self.found.append((f"{method} {path}", what, took, grown, got.status_code))


@pytest.fixture
def scales(theirs: Bench) -> Iterator[Scales]:  # noqa: F811
    theirs.by.client.raise_request_exception = False
    # what is told of a refusal holds its request: thousands of bodies would be kept for a report
    logging.disable(logging.CRITICAL)
    yield Scales(theirs)
    logging.disable(logging.NOTSET)


WRITING = sorted({r for r in routes() if r[0] in ("post", "put") and r[2]})
FULL = {
    "NewMachineIn": {"name": "M", "spec": starting_point("gantry_router").model_dump(mode="json")},
    "MachineChange": {"name": "M", "spec": starting_point("gantry_router").model_dump(mode="json")},
    "SpecIn": {"spec": starting_point("column_mill").model_dump(mode="json")},
    "InstrumentIn": {"name": "I", "spec": PlungerDial().model_dump(mode="json")},
}


SHARES = 5


@pytest.mark.parametrize("share", range(SHARES))
def test_the_heaviest_of_each_route(scales: Scales, share: int) -> None:
    for method, path, model in WRITING[share::SHARES]:
        sendable = body_of(path, model, scales.bench) or {}
        whole = {**fields(model), **sendable, **FULL.get(model, {})}
        at = filled(path, scales.bench)
        everywhere = json(dict.fromkeys(whole, HERE))
        for what, value in heavy(WHOLE // len(whole)).items():
            scales.weigh(method, at, everywhere, value, f"{what} everywhere")
        for place in leaves(whole):
            body = json(put(whole, place, HERE))
            for what in ALONE if len(place) == 1 else DEEP:
                name = f"{what} at {place}"
                scales.weigh(method, at, body, ALONE[what], name, SECONDS_OF_PART)
    assert scales.found == []


def test_the_heaviest_that_is_taken(scales: Scales) -> None:
    """Nothing wrong with any of it, and as much as fits."""
    bench = scales.bench
    workshop, round = f"/workshops/{bench.by.workshop.pk}", f"/rounds/{bench.round['id']}"  # type: ignore[union-attr]
    hole = {"kind": "hole", "upright_tol_mm": 0.1}
    job = {"name": "Sieve", "features": [hole] * MOST_FEATURES}
    scales.send("post", f"{workshop}/jobs/preview", {"spec": job})
    reading = {"station": "3", "text": "0.1", "unit": "mm", "read_at": NOW}
    readings = [{"id": str(uuid4()), "reading": reading} for _ in range(500)]
    scales.send("post", f"{round}/batch", {"readings": readings})
    scales.send("post", f"{round}/paste", {"text": "3 0.1\n" * MOST_LINES, "unit": "mm"})
    fine = {**WISH, "diameter_mm": "1 mm"}
    scales.send("post", f"/machines/{bench.machine}/surfacing-preview", {"wish": fine})
    # a tin as full as one can be, and a lean that any stack of it might take out
    ShimStock.objects.bulk_create(
        ShimStock(workshop=bench.by.workshop, thickness_mm=0.005 * (n + 1), count=9)
        for n in range(MOST_TINS - 10)
    )
    bench.swing(0.9, 0.9, passes=9)
    scales.send("get", f"{round}/finding", None)
    scales.send("get", f"{workshop}/kit", None)
    assert scales.found == []
    assert {status for status, _ in scales.told} == {200}, scales.told


def test_the_heaviest_that_is_stored_is_read_back(scales: Scales) -> None:
    """What was taken in its bounds is told in the same ones, on every screen that shows it."""
    by = scales.bench.by
    assert by.workshop
    shed = f"/workshops/{by.workshop.pk}"
    # a map as long as one is sent, over a board with as much in its way as there may be
    sitting = Sitting(by, "gantry_router", "bed_map", PROBE)
    sitting.set_up(way="log")
    rng = np.random.default_rng(4)
    points = np.column_stack([rng.uniform(-400, 400, (100_000, 2)), rng.normal(0, 0.05, 100_000)])
    rows = "\n".join(f"{x:.6f} {y:.6f} {z:.9f}" for x, y, z in points)
    log = {"station": "log", "text": f"x y z\n{rows}", "unit": "mm", "read_at": NOW}
    by.put(f"/rounds/{sitting.round['id']}/logs/{uuid4()}", log)
    by.post(f"/rounds/{sitting.round['id']}/settle")
    bed = f"/machines/{sitting.machine}"
    screws = [
        {"name": f"screw {n}", "what": "screw", "across_mm": 6, "x_mm": -380 + 12 * n, "y_mm": 0}
        for n in range(60)
    ]
    by.change(f"{bed}/board", {"board": {"keep_outs": screws}})
    # a tram read over and over, and a job of as many features as there may be
    reading = {"station": "3", "text": "0.1", "unit": "mm", "read_at": NOW}
    for _ in range(MOST_READINGS // 500 + 1):
        batch = [{"id": str(uuid4()), "reading": reading} for _ in range(500)]
        told = by.post(f"/rounds/{scales.bench.round['id']}/batch", {"readings": batch})
    assert Reading.objects.filter(round=scales.bench.round["id"]).count() == MOST_READINGS
    assert not told["answers"][-1]["kept"]
    assert "Settle it" in told["answers"][-1]["expected"]
    hole = {"kind": "hole", "upright_tol_mm": 0.1}
    features = [{**hole, "name": f"hole {n} " + "x" * 30} for n in range(MOST_FEATURES)]
    job = by.post(f"{shed}/jobs", {"id": uuid4(), "spec": {"name": "Sieve", "features": features}})
    made = by.post(f"/jobs/{job['id']}/makings", {"id": uuid4(), "machine_id": sitting.machine})
    # a program with as much wrong with it as is told, checked as a worker does
    wrong = "\n".join(f"G1 X{n % 400} F{n} Q{n} G99 (and {'x' * 200})" for n in range(60_000))
    sent = send_program(scales.bench, f"G21 G90\n{wrong}\nG0 Z-9 X9\nT4 M6\n".encode())
    tasks.check_program(sent["id"])
    paths = [
        *(f"{bed}{more}" for more in ("", "/bed", "/symptoms", "/symptoms/ridges")),
        *(f"{shed}{more}" for more in ("", "/jobs", "/logbook", "/kit", "/calendar")),
        *(f"/rounds/{r}/finding" for r in (sitting.round["id"], scales.bench.round["id"])),
        *(f"/checks/{c}" for c in (sitting.check["id"], scales.bench.check["id"])),
        f"/machines/{scales.bench.machine}",
        f"/jobs/{job['id']}",
        f"/makings/{made['id']}",
        f"/programs/{sent['id']}",
    ]
    for path in paths:
        scales.send("get", path, None)
    plan = {"wish": {**WISH, "heights": "map", "skim_mm": 0.15}}
    # what is compiled and imported is there once a server runs
    by.post(f"{bed}/surfacing-preview", {"wish": {**plan["wish"], "diameter_mm": 60}})
    scales.send("post", f"{bed}/surfacing-preview", plan)
    scales.send("post", f"/jobs/{job['id']}/limits", {"machine_id": sitting.machine})
    assert scales.found == []
    assert {status for status, _ in scales.told} == {200}, scales.told
    assert by.get(f"/programs/{sent['id']}")["state"] == "done"

"""Every kind of check on a machine of every form, with every choice of its set-up that can be made:
whatever is asked of such a round is answered, and in a moment."""

from __future__ import annotations

import time
from collections.abc import Iterator
from typing import Any, get_args
from uuid import uuid4

import pytest

from tests.api.conftest import API, Person, json
from tests.api.test_below_the_tram import Sitting, now
from truing.kit.instruments import INSTRUMENT_TITLES
from truing.machine import starting_point
from truing.machine.machine import Form
from truing.registry import registry
from truing.standin.truth import Truth

FORMS = get_args(Form)
SECONDS = 30.0
"""Beyond what any answer takes on a busy machine: what runs on is found, not what is slow."""


def choices(schema: Any) -> Iterator[dict[str, Any]]:
    """One field after the other with each of its other choices, everything else as proposed."""
    yield {}
    for name, field in schema["properties"].items():
        for values in (field.get("enum"), *(o.get("enum") for o in field.get("anyOf", []))):
            yield from ({name: value} for value in values or [])
        if field.get("type") == "boolean":
            yield from ({name: value} for value in (True, False))


class Asked:
    """All that can be asked of a round, and what was answered otherwise than it should be."""

    def __init__(self, by: Person) -> None:
        self.by, self.wrong = by, []  # type: list[str]

    def call(self, about: str, method: str, path: str, body: Any = None) -> Any:
        began = time.perf_counter()
        got = self.by.client.generic(
            method, f"{API}{path}", b"" if body is None else json(body), "application/json"
        )
        took = time.perf_counter() - began
        if got.status_code >= 500 or took > SECONDS:
            self.wrong.append(f"{about}: {method} {path}: {got.status_code}, {took:.1f} s")
        return got.json() if "json" in got.headers.get("Content-Type", "") else None

    def stated(self, sitting: Sitting, about: str, setup: Any, kit: list[str]) -> None:
        """The set-up with whatever instrument it takes, and what is told of it before a reading."""
        at = f"/rounds/{sitting.round['id']}"
        told = self.call(about, "POST", f"{at}/instruments", {"setup": setup}) or {}
        suits = [i["id"] for i in told.get("instruments", []) if i.get("id")]
        for instrument in [None, *(suits or kit)]:
            body = {"version": sitting.round["version"], "instrument_id": instrument}
            kept = self.call(about, "PUT", f"{at}/setup", {**body, "setup": setup})
            if kept and "rounds" in kept:
                sitting.check = kept
                break
        self.call(about, "GET", f"{at}/programs")

    def round(self, about: str, sitting: Sitting) -> None:
        at = f"/rounds/{sitting.round['id']}"
        for format in ("svg", "dxf", "pdf"):
            self.call(about, "GET", f"{at}/drawing/{format}")
        for made in self.call(about, "GET", f"{at}/programs") or []:
            if isinstance(made, dict):
                for run in ("cut", "air"):
                    self.call(about, "GET", f"{at}/programs/{made['key']}?run={run}")
        for station in sitting.round["stations"][:2]:
            for text in ("0.02", "-1", "9999"):
                typed = {"station": station["key"], "text": text, "unit": "mm"}
                self.call(about, "POST", f"{at}/preview", typed)
        self.call(about, "POST", f"{at}/paste", {"text": "0.1\n0.2\n0.3", "unit": "mm"})
        found = self.call(about, "GET", f"{at}/finding") or {}
        for move in ((found.get("advice") or {}).get("moves", []))[:2]:
            for system in ("metric", "inch"):
                self.call(about, "GET", f"{at}/sheet?move={move['key']}&system={system}")


CASES = [
    (kind, forms[n % len(forms)], next((f for f in FORMS if f not in forms), None))
    for n, (kind, check) in enumerate(registry().items())
    if (forms := [f for f in FORMS if check.suits(starting_point(f))])
]
"""Every kind on one form that it suits, of each in turn, and one that it does not suit, if any."""


@pytest.mark.django_db
@pytest.mark.parametrize(("kind", "form", "other"), CASES)
def test_whatever_is_asked_is_answered(owner: Person, kind: str, form: Any, other: Any) -> None:
    assert owner.workshop
    owner.client.raise_request_exception = False
    asked = Asked(owner)
    at = f"/workshops/{owner.workshop.pk}"
    kit = [
        owner.post(f"{at}/instruments", {"name": title, "spec": {"type": type}})["id"]
        for type, title in INSTRUMENT_TITLES.items()
    ]
    for type in ("collet", "holder", "tool", "pin", "square"):
        owner.post(f"{at}/pieces", {"name": type, "spec": {"type": type}})
    for n in range(6):
        owner.post(f"{at}/shims", {"thickness_mm": f"{0.02 + 0.03 * n:.2f} mm", "count": 9})
    sitting = Sitting(owner, form, kind, truth=Truth())
    machine = f"/machines/{sitting.machine}"
    for path in (f"sketches/{kind}", f"jobs/{kind}"):
        asked.call(kind, "GET", f"{machine}/{path}")
    begun = sitting.round["suggested"] or {}
    at_round = f"/rounds/{sitting.round['id']}"
    for choice in [*list(choices(sitting.check["setup_schema"]))[1:], {}]:
        asked.stated(sitting, f"{kind} on {form} with {choice}", {**begun, **choice}, kit)
    about = f"{kind} on {form}"
    asked.round(about, sitting)
    # the stand-in reads all, and the round is settled and gone on with
    for _ in range(400):
        station = sitting.round["next_station"] if sitting.round["setup"] else None
        if station is None:
            break
        seen = asked.call(about, "POST", f"{at_round}/standin", {"station": station})
        if not seen or "status" in seen:
            break
        read = {"station": station, "unit": "mm", "read_at": now(), "accepted": True, **seen}
        news = asked.call(about, "PUT", f"{at_round}/readings/{uuid4()}", read)
        if not news or "status" in news:
            break
        sitting.look()
    asked.round(about, sitting)
    if other is not None:
        # meanwhile somebody has found out that the machine is another
        spec = starting_point(other).model_dump(mode="json")
        owner.change(machine, {"name": "Heron", "spec": spec})
        about = f"{kind} on {form} that became {other}"
        asked.round(about, sitting)
        asked.stated(sitting, about, begun, kit)
        begin = {"id": uuid4(), "kind": kind}
        told = Sitting(owner, other, "lost_motion").by.post(f"{machine}/checks", begin, expect=422)
        assert told["errors"][0]["field"] == "kind"
    done = asked.call(about, "POST", f"{at_round}/settle")
    for path in (machine, f"{machine}/bed", f"{at}/logbook", f"{at}/calendar"):
        asked.call(about, "GET", path)
    if done and "rounds" in done:
        asked.call(about, "POST", f"/checks/{done['id']}/rounds", {"id": uuid4()})
    assert not asked.wrong, "\n".join(asked.wrong)


def test_every_kind_and_every_form_is_among_them() -> None:
    assert {kind for kind, *_ in CASES} == set(registry())
    assert {form for _, form, _ in CASES} == set(FORMS)

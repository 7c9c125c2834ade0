"""People, workshops and a client that speaks JSON."""

from __future__ import annotations

import io
from collections.abc import Iterator
from dataclasses import dataclass, field
from datetime import UTC, datetime
from typing import Any
from uuid import UUID, uuid4

import pytest
from django.contrib.auth.models import User
from django.core.files.uploadedfile import SimpleUploadedFile
from django.test import Client
from PIL import Image

from calmsquare.workshop.models import Membership, Role, Workshop
from truing.kit.instruments import PlungerDial
from truing.machine import starting_point
from truing.registry import registry
from truing.standin.truth import Truth

API = "/api/v1"


@dataclass
class Person:
    """Somebody signed in, and what they made last."""

    user: User
    client: Client = field(default_factory=Client)
    workshop: Workshop | None = None

    def __post_init__(self) -> None:
        self.client.force_login(self.user, "django.contrib.auth.backends.ModelBackend")

    def call(self, method: str, path: str, body: Any = None, *, expect: int = 200) -> Any:
        """Call the API; fails with the server's words when the status is another."""
        got = self.client.generic(
            method.upper(),
            f"{API}{path}",
            *([] if body is None else [json(body)]),
            content_type="application/json",
        )
        assert got.status_code == expect, (path, got.status_code, got.content[:600])
        return got.json() if got.content else None

    def get(self, path: str, **more: Any) -> Any:
        return self.call("get", path, **more)

    def post(self, path: str, body: Any = None, **more: Any) -> Any:
        return self.call("post", path, body if body is not None else {}, **more)

    def put(self, path: str, body: Any, **more: Any) -> Any:
        return self.call("put", path, body, **more)

    def change(self, path: str, body: Any, **more: Any) -> Any:
        """Send changes as a form does that was opened just now."""
        return self.put(path, {**body, "was": self.shown(path)}, **more)

    def shown(self, path: str) -> Any:
        """What a form for that address begins with."""
        of, id, *rest = path.strip("/").split("/")
        if of in ("instruments", "pieces", "shims"):
            assert self.workshop
            kit = self.get(f"/workshops/{self.workshop.pk}/kit")[of]
            return next(item for item in kit if item["id"] == str(id))
        if rest:
            return self.get(f"/{of}/{id}/bed")["board_values"]
        told = self.get(path)
        return {"makings": told.get("mark"), "jobs": {**told, "machines": told.get("on")}}.get(
            of, {**told, "tolerances": {}}
        )


def json(body: Any) -> bytes:
    from json import dumps

    from django.core.serializers.json import DjangoJSONEncoder

    return dumps(body, cls=DjangoJSONEncoder).encode()


def somebody(name: str, workshop: Workshop | None = None, role: Role = Role.OWNER) -> Person:
    user = User.objects.create_user(f"{name}@example.org", first_name=name.title())
    if workshop is None:
        workshop = Workshop.objects.create(name=f"{name}'s shed")
    Membership.objects.create(workshop=workshop, user=user, role=role)
    return Person(user, workshop=workshop)


@pytest.fixture(autouse=True)
def quick_passwords(settings: Any) -> None:
    """Slow on purpose is for people's passwords, not for tests'."""
    settings.PASSWORD_HASHERS = ["django.contrib.auth.hashers.MD5PasswordHasher"]


@pytest.fixture
def owner(db: None) -> Person:
    return somebody("merrin")


class UnderWay:
    """A check that somebody is at, as its page shows it. What a reading changes is only looked at
    when somebody wants to see it."""

    def __init__(self, by: Person, check: Any) -> None:
        self.by, self.check = by, check

    @property
    def check(self) -> Any:
        return self.look() if self._changed else self._check

    @check.setter
    def check(self, told: Any) -> None:
        self._check, self._changed = told, False

    @property
    def round(self) -> Any:
        return self.check["rounds"][-1]

    @property
    def round_id(self) -> str:
        """That of the round in hand, which no reading changes."""
        return str(self._check["rounds"][-1]["id"])

    def look(self) -> Any:
        """The check as it stands now."""
        self.check = self.by.get(f"/checks/{self._check['id']}")
        return self._check

    @property
    def found(self) -> Any:
        """The finding of the round in hand, with advice."""
        return self.by.get(f"/rounds/{self.round_id}/finding")

    def keep(self, body: Any, expect: int, id: UUID | None = None, round_id: str = "") -> Any:
        """Send a reading, and what it changed of its round."""
        at = f"/rounds/{round_id or self.round_id}/readings/{id or uuid4()}"
        told = self.by.put(at, body, expect=expect)
        self._changed = self._changed or expect == 200
        return told


class Bench(UnderWay):
    """A machine with an instrument and shims, and a check under way on it."""

    def __init__(self, by: Person, machine: str, instrument: str, check: Any) -> None:
        super().__init__(by, check)
        self.machine, self.instrument = machine, instrument

    def set_up(self, expect: int = 200, version: int | None = None, **setup: Any) -> Any:
        got = self.by.put(
            f"/rounds/{self.round['id']}/setup",
            {
                "version": self.round["version"] if version is None else version,
                "instrument_id": self.instrument,
                "setup": {"radius_mm": "100 mm", **setup},
            },
            expect=expect,
        )
        if expect == 200:
            self.check = got
        return got

    def read(
        self,
        station: str,
        text: str,
        expect: int = 200,
        id: UUID | None = None,
        round_id: str | None = None,
        **more: Any,
    ) -> Any:
        body = {
            "station": station,
            "text": text,
            "unit": "mm",
            "read_at": datetime.now(UTC).isoformat(),
            **more,
        }
        return self.keep(body, expect, id, round_id or "")

    def swing(self, a: float, b: float, passes: int = 2) -> None:
        """Readings of a spindle leaning by a, b mm/m at 100 mm."""
        for _ in range(passes):
            for station, x, y in (("12", 0, 1), ("3", 1, 0), ("6", 0, -1), ("9", -1, 0)):
                self.read(station, f"{(a * x + b * y) / 10:+.4f}")

    def move(
        self, key: str | None, expect: int = 200, nipped: str = "", tight: str = "", **more: Any
    ) -> Any:
        found = {} if key is None else self.found
        moves = (found.get("advice") or {}).get("moves", [])
        target = next((t for m in moves if m["key"] == key for t in m["targets"][:1]), {})
        told = (("nipped", nipped), ("tight", tight))
        body = {
            "id": uuid4(),
            "next_round_id": uuid4(),
            "advice": found.get("advice_id", ""),
            "needle": [
                {"state": state, "station": target.get("station", ""), "text": text}
                for state, text in told
                if text
            ],
            "key": key,
            "made_at": datetime.now(UTC).isoformat(),
            **more,
        }
        got = self.by.post(f"/rounds/{self.round['id']}/move", body, expect=expect)
        if expect == 200:
            self.check = got
        return got


def bench_for(person: Person, *, form: Any = "column_mill", standin: bool = False) -> Bench:
    from calmsquare.workshop.models import Machine

    assert person.workshop
    spec = starting_point(form).model_dump(mode="json")
    made = person.post(
        f"/workshops/{person.workshop.pk}/machines", {"name": "Avocet", "spec": spec}
    )
    if standin:
        Machine.objects.update(truth=Truth(head_about_y_mrad=0.5).model_dump(mode="json"))
    dial = PlungerDial(graduation_mm=0.001, range_mm=5, repeatability_mm=0.001)
    instrument = person.post(
        f"/workshops/{person.workshop.pk}/instruments",
        {"name": "Dial", "spec": dial.model_dump(mode="json")},
    )
    for thickness in ("0.02 mm", "0.05 mm", "0,1"):
        person.post(
            f"/workshops/{person.workshop.pk}/shims", {"thickness_mm": thickness, "count": 8}
        )
    check = person.post(f"/machines/{made['id']}/checks", {"id": uuid4(), "kind": "spindle_tram"})
    return Bench(person, made["id"], instrument["id"], check)


def a_photo(width: int = 640, height: int = 480, format: str = "JPEG", **saved: Any) -> bytes:
    """A picture whose top half is dark and whose bottom half is light."""
    image = Image.new("RGB", (width, height), (230, 225, 215))
    image.paste((40, 45, 50), (0, 0, width, height // 2))
    out = io.BytesIO()
    image.save(out, format, **saved)
    return out.getvalue()


def send_photo(
    bench: Bench, data: bytes, *, by: Person | None = None, expect: int = 200, **more: Any
) -> Any:
    """Upload a photo of the bench's machine as a browser does."""
    form = {"id": str(uuid4()), "at": datetime.now(UTC).isoformat(), **more}
    got = (by or bench.by).client.post(
        f"{API}/machines/{bench.machine}/photos",
        {**form, "photo": SimpleUploadedFile("shims.jpg", data, content_type="image/jpeg")},
    )
    assert got.status_code == expect, got.content[:500]
    return got.json()


def send_program(
    bench: Bench,
    data: bytes,
    *,
    by: Person | None = None,
    expect: int = 200,
    name: str = "dial.nc",
    id: UUID | None = None,
    **stated: Any,
) -> Any:
    """Upload a program to be checked on the bench's machine as a browser does."""
    form = {"id": str(id or uuid4()), "stated": json(stated).decode()}
    got = (by or bench.by).client.post(
        f"{API}/machines/{bench.machine}/programs",
        {**form, "program": SimpleUploadedFile(name, data, content_type="text/plain")},
    )
    assert got.status_code == expect, got.content[:500]
    return got.json()


@pytest.fixture
def bench(owner: Person) -> Bench:
    return bench_for(owner)


@pytest.fixture
def tram_only() -> Iterator[None]:
    """As if nothing under the tram could be read: what is not built holds up nothing."""
    every = dict(registry())
    registry().clear()
    registry()["spindle_tram"] = every["spindle_tram"]
    yield
    # in the order of the course, as before
    registry().clear()
    registry().update(every)

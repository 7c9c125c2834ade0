"""What is small on its way and large once it is opened."""

from __future__ import annotations

import gc
import io
import os
import subprocess
import sys
from pathlib import Path

import pytest
from PIL import Image

from calmsquare.logbook.pictures import LARGE_PX, MOST_WHOLE_PIXELS, picture
from calmsquare.memory import YOUNG
from tests.api.conftest import Person, json
from truing.measure.problem import Problem

MOST_MB = 300
TAKE = """
import resource, sys
from pathlib import Path
from calmsquare.logbook.pictures import picture
def mb(): return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024
before = mb()
taken = picture(Path(sys.argv[1]).read_bytes())
print(mb() - before, taken.width, taken.height)
"""


def file(tmp_path: Path, kind: str, size: tuple[int, int], mode: str) -> Path:
    path = tmp_path / f"bomb.{kind}"
    Image.new(mode, size, 120 if mode == "L" else (120, 130, 140, 255)[: len(mode)]).save(
        path, kind
    )
    return path


@pytest.mark.parametrize("text", ["[" * 100_000, '{"a":' * 50_000, "9" * 1_000_000])
def test_a_body_that_is_too_deep_or_no_number_is_refused(owner: Person, text: str) -> None:
    assert owner.workshop
    got = owner.client.post(
        f"/api/v1/workshops/{owner.workshop.pk}/shims", text, content_type="application/json"
    )
    assert got.status_code == 422
    assert got.json()["status"] == 422
    # one that can be read, but not kept, is told as that
    deep = '{"thickness_mm":' + "[" * 500 + "]" * 500 + "}"
    got = owner.client.post(
        f"/api/v1/workshops/{owner.workshop.pk}/shims", deep, content_type="application/json"
    )
    assert got.status_code == 422


def test_more_fields_than_anybody_fills_in_are_refused_and_colons_are_none(owner: Person) -> None:
    assert owner.workshop
    at = f"/api/v1/workshops/{owner.workshop.pk}/shims"
    shim = {"thickness_mm": "0.1 mm", "count": 3}
    for more, status in (
        ({f"f{n}": 1 for n in range(20_000)}, 422),
        ({"deep": [{"a": {"b": 1}}] * 10_001}, 422),
        ({"material": "brass, " + "::" * 15_000}, 422),
        ({"vendor": "::" * 15_000}, 200),
    ):
        got = owner.client.post(at, json({**shim, **more}), content_type="application/json")
        assert got.status_code == status
        told = str(got.json())
        assert ("More than 20,000 fields" in told) == (status == 422 and "material" not in more)


def test_a_body_that_is_too_large_is_told_its_bound(owner: Person) -> None:
    assert owner.workshop
    at = f"/api/v1/workshops/{owner.workshop.pk}/shims"
    text = '{"material": "' + "x" * 5_000_000 + '"}'
    got = owner.client.post(at, text, content_type="application/json")
    assert got.status_code == 413
    assert "4 MB" in got.json()["detail"]


@pytest.mark.parametrize(
    ("method", "path", "status"),
    [
        ("get", "/api/v1/nothing", 404),
        ("get", "/api/nothing/at/all", 404),
        ("delete", "/api/v1/auth/me", 405),
        ("patch", "/api/v1/workshops", 405),
    ],
)
def test_every_refusal_of_the_api_is_told_alike(
    owner: Person, method: str, path: str, status: int
) -> None:
    got = owner.client.generic(method.upper(), path)
    assert got.status_code == status
    assert got.headers["Content-Type"] == "application/problem+json"
    told = got.json()
    assert told["status"] == status
    assert told["title"]
    assert told["detail"]
    assert ("Allow" in got.headers) == (status == 405)


def test_what_goes_wrong_inside_tells_nothing_of_the_inside(
    owner: Person, monkeypatch: pytest.MonkeyPatch
) -> None:
    def broken(*args: object) -> None:
        raise RuntimeError("the secret way in")

    monkeypatch.setattr("calmsquare.screens.machine.workshop_out", broken)
    owner.client.raise_request_exception = False
    assert owner.workshop
    got = owner.client.get(f"/api/v1/workshops/{owner.workshop.pk}")
    assert got.status_code == 500
    assert got.json()["status"] == 500
    assert "secret" not in got.content.decode()


@pytest.mark.parametrize(
    ("kind", "size", "mode"),
    [
        ("png", (5000, 5000), "RGBA"),
        ("webp", (5000, 4900), "RGB"),
        ("jpeg", (10_000, 6_000), "RGB"),
    ],
)
def test_the_largest_picture_that_is_taken_takes_no_more_room_than_there_is(
    tmp_path: Path, kind: str, size: tuple[int, int], mode: str
) -> None:
    """In a process of its own, so that nothing else's memory is counted."""
    path = file(tmp_path, kind, size, mode)
    got = subprocess.run(
        [sys.executable, "-c", TAKE, str(path)], capture_output=True, text=True, check=True
    )
    took, width, height = map(float, got.stdout.split())
    assert took < MOST_MB
    assert max(width, height) == LARGE_PX
    assert width / height == pytest.approx(size[0] / size[1], rel=0.01)


def test_a_picture_of_too_many_pixels_is_told_how_many(tmp_path: Path) -> None:
    path = file(tmp_path, "png", (10_000, 6_000), "L")
    assert path.stat().st_size < 500_000
    with pytest.raises(Problem) as told:
        picture(path.read_bytes())
    assert f"{MOST_WHOLE_PIXELS / 1e6:.0f} million" in told.value.expected


def test_a_picture_that_is_made_small_as_it_is_read_may_be_larger(
    tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("calmsquare.logbook.pictures.MOST_PIXELS", 120 * 80)
    monkeypatch.setattr("calmsquare.logbook.pictures.MOST_WHOLE_PIXELS", 60 * 40)
    for kind, most in (("jpeg", (120, 80)), ("png", (60, 40)), ("webp", (60, 40))):
        taken = picture(file(tmp_path, kind, most, "RGB").read_bytes())
        assert (taken.width, taken.height) == most
        with pytest.raises(Problem, match="pixels"):
            picture(file(tmp_path, kind, (most[0] + 1, most[1]), "RGB").read_bytes())


def test_a_picture_lies_as_the_camera_was_held() -> None:
    """Left half dark, turned by the camera's note: the dark half is above or below, and no note of
    the place is left."""
    drawn = Image.new("RGB", (2400, 1200), "white")
    drawn.paste("black", (0, 0, 1200, 1200))
    notes = Image.Exif()
    notes[0x0112] = 6
    notes[0x010F] = "a camera"
    kept = io.BytesIO()
    drawn.save(kept, "JPEG", exif=notes)
    taken = picture(kept.getvalue())
    assert (taken.width, taken.height) == (800, 1600)
    large = Image.open(io.BytesIO(taken.large))
    assert not large.getexif()
    # note 6: to be turned a quarter to the right, which brings the left side to the top
    assert large.getpixel((400, 100))[0] < 40  # type: ignore[index]
    assert large.getpixel((400, 1500))[0] > 215  # type: ignore[index]


def test_small_sums_are_not_shared_among_threads() -> None:
    """Threads that wait for one another made an inverse of ten figures six hundred times as slow on
    a machine with busy neighbours."""
    sums = (
        "import numpy, scipy.linalg as s; s.inv(numpy.eye(600)); s.lstsq(numpy.eye(600), [1] * 600)"
    )
    told = f"import os, calmsquare.settings; {sums}; print(len(os.listdir('/proc/self/task')))"
    env = {k: v for k, v in os.environ.items() if not k.startswith("OPENBLAS")}
    ran = subprocess.run([sys.executable, "-c", told], env=env, capture_output=True, check=True)
    assert ran.stdout.split() == [b"1"]


def test_what_stays_is_not_walked_through_again_and_again() -> None:
    """A start makes a million objects that all stay: looked through every 700, as is usual, they
    made it half as long again."""
    before = gc.get_stats()[0]["collections"]
    stays: list[list[int]] = [[] for _ in range(100_000)]
    assert gc.get_stats()[0]["collections"] - before <= len(stays) / YOUNG

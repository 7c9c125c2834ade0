"""Checks of programs, in a worker: each in a child process with limits of time and memory.

The queue is in PostgreSQL; workers may be as many as there are machines with the same database.
"""

from __future__ import annotations

import json
import multiprocessing
import signal
import tempfile
from contextlib import suppress
from datetime import timedelta
from multiprocessing.connection import Connection
from multiprocessing.context import ForkServerProcess
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db.models import F
from django.utils import timezone
from procrastinate.contrib.django import app

from calmsquare.surfacing.models import Program

MOST_SECONDS = 30 if settings.DEMO else 120
MOST_BYTES = 3 * 1024**3
"""Of address space: a compiler, a file of 100 MB and its motions."""
LOOK_SECONDS = 0.25
LOST = timedelta(seconds=60)
"""A check whose worker has not said a word for so long lost it."""
TRIES = 2
FORKING = multiprocessing.get_context("forkserver")
"""The first check starts a server that loads the code; from there each begins in no time."""
FORKING.set_forkserver_preload(["calmsquare.surfacing.ready"])


@app.task(queue="programs", pass_context=False)
def check_program(program_id: str) -> None:
    """Check one program, from beginning to end; whatever happens, it is said in its record."""
    # tasks are looked for while the application starts, before anybody needs the kinds of check
    from calmsquare.surfacing.child import main
    from truing.record import load

    program = _begin(program_id)
    if program is None:
        return
    with tempfile.TemporaryDirectory() as folder:
        ground, data = Path(folder, "ground.json"), Path(folder, "program")
        ground.write_text(load("ground", program.ground).model_dump_json())
        with data.open("wb") as file:
            file.writelines(program.pieces())
        ours, theirs = FORKING.Pipe(duplex=False)
        child = FORKING.Process(
            target=main, args=(theirs, ground, data, MOST_SECONDS, MOST_BYTES), daemon=True
        )
        with ours:
            # once nobody here holds their end, it ends with the child
            with theirs:
                child.start()
            try:
                told = _follow(program_id, child, ours)
            finally:
                child.kill()
                child.join()
    _end(program_id, told)


@app.periodic(cron="* * * * *")
@app.task(queue="programs", queueing_lock="look-for-lost", pass_context=False)
def look_for_lost(timestamp: int) -> None:
    """What a worker began and lost with its life is tried once more, then fails with the reason."""
    lost = Program.objects.filter(state=Program.State.RUNNING, beat_at__lt=timezone.now() - LOST)
    for program in lost:
        if program.tries >= TRIES:
            _fail(str(program.pk), "The worker that checked it died, twice. It may need too much.")
            continue
        again = Program.objects.filter(pk=program.pk, state=Program.State.RUNNING)
        if again.update(state=Program.State.WAITING):
            check_program.defer(program_id=str(program.pk))


def _begin(program_id: str) -> Program | None:
    """Take it, unless somebody else has it, or it was stopped while it waited."""
    waiting = Program.objects.filter(pk=program_id, state=Program.State.WAITING)
    taken = waiting.update(
        state=Program.State.RUNNING, share=0.0, beat_at=timezone.now(), tries=F("tries") + 1
    )
    return Program.objects.get(pk=program_id) if taken else None


def _follow(program_id: str, child: ForkServerProcess, ours: Connection) -> dict[str, Any]:
    """What the child says last: its report and picture, a problem, or that it was stopped."""
    begun = timezone.now()
    share, line = 0.02, 0
    # the pipe's end is an error of its own, and another one in the midst of what is said
    with suppress(EOFError, OSError):
        while True:
            if ours.poll(LOOK_SECONDS):
                told: dict[str, Any] = json.loads(ours.recv_bytes())
                if "share" not in told:
                    return told
                share, line = told["share"], told["line"] or line
            if (timezone.now() - begun).total_seconds() > MOST_SECONDS:
                return _late(line)
            Program.objects.filter(pk=program_id).update(share=share, beat_at=timezone.now())
            if Program.objects.filter(pk=program_id, stop=True).exists():
                return {"stopped": True}
    child.join()
    if child.exitcode == -signal.SIGXCPU:
        # its own clock may be the first to say so
        return _late(line)
    return {
        "problem": f"Its check broke off{_at(line)} (code {child.exitcode}): the file is kept. "
        "It may need more memory than there is: look at what stands there, or split the program."
    }


def _late(line: int) -> dict[str, Any]:
    return {"problem": f"After {MOST_SECONDS} s it was not done{_at(line)}: split the program."}


def _at(line: int) -> str:
    return f" from line {line:,} on" if line else " while it was read"


def _end(program_id: str, told: dict[str, Any]) -> None:
    from truing.record import stamped

    program = Program.objects.filter(pk=program_id, state=Program.State.RUNNING)
    if "stopped" in told:
        program.update(state=Program.State.STOPPED)
    elif "problem" in told:
        _fail(program_id, str(told["problem"]))
    else:
        found = {key: stamped(key, told[key]) for key in ("report", "picture")}
        program.update(state=Program.State.DONE, share=1.0, **found)


def _fail(program_id: str, reason: str) -> None:
    Program.objects.filter(pk=program_id).update(state=Program.State.FAILED, reason=reason)

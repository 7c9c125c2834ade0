"""The search for what is behind a symptom on one machine: suspects, likeliest first, and the one
check that tells most about them per minute, until a cause is found or all are cleared.

Nothing is kept of a search: it follows from how the checks stand. A cause that was put right is
cleared by its own check, and a search that is looked at again goes on with the others.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from typing import Literal

from pydantic import BaseModel

from truing.course.guide import guide
from truing.course.kinds import course_kind
from truing.course.standing import Standing
from truing.machine import Machine
from truing.machine.mechanisms import mechanisms_of
from truing.machine.mechanisms import title as called
from truing.measure.words import Words, capital, lower, plain
from truing.symptoms.bench import HARDLY, Bench
from truing.symptoms.candidates import Candidate, Sitting, candidates, subjects
from truing.symptoms.data import Symptom, symptoms
from truing.symptoms.weigh import Weighed

DOUBT = 0.1
"""How likely a cause may be that is left when all is said to be cleared."""

State = Literal["open", "too_close", "cleared", "found"]
End = Literal["asks", "found", "cleared", "open", "leads"]


class Suspect(BaseModel):
    """A cause that this machine can have."""

    cause: str
    title: str
    does: str
    where: list[str]
    """What of the machine it is set by."""
    kind: str
    """The check by which it is put right."""
    subject: str
    """What of that check, as `Subject.text`."""
    chance: float
    odds: str
    """The same in words."""
    state: State


class NextCheck(BaseModel):
    """A check to be made."""

    kind: str
    subject: str
    title: str
    minutes: int
    reason: Words
    again: bool = False
    """It was read and left it open."""


class SignOut(BaseModel):
    """A look that costs nothing, and what was seen."""

    key: str
    asks: str
    answers: dict[str, str]
    said: str | None


class Search(BaseModel):
    """How far the search for what is behind a symptom has come."""

    symptom: str
    title: str
    sees: str
    end: End
    sentence: Words
    suspects: list[Suspect]
    next: NextCheck | None
    rest: list[NextCheck]
    """What would follow if every one of them came out true, the next one first."""
    minutes: int
    """For all of those."""
    signs: list[SignOut]
    look: list[str]
    """What no check can tell and is worth a look."""
    events: list[str]
    """What has happened, of which one is to be told first."""

    @property
    def sittings(self) -> dict[str, list[str]]:
        """Kinds of check in the order in which an evening makes them, each with the subjects that
        it is made for."""
        found = [(s.kind, s.subject) for s in self.suspects if s.state == "found"]
        all_of_them: dict[str, list[str]] = {}
        for kind, subject in [*found, *((a.kind, a.subject) for a in self.rest)]:
            all_of_them.setdefault(kind, []).append(subject)
        return all_of_them


def suiting(machine: Machine) -> list[Symptom]:
    """The symptoms that this machine can have a cause of, or that lead somewhere else."""
    return [s for s in symptoms() if s.leads or candidates(s, machine)]


def search(
    symptom: Symptom,
    machine: Machine,
    found: Sequence[Standing],
    said: Mapping[str, str] | None = None,
) -> Search:
    """How far the search has come: by how the checks of the machine stand and by what was seen, as
    sign -> answer. KeyError for a sign or an answer that the symptom does not have."""
    bench = Bench(symptom, machine, found, said or {})
    signs = [
        SignOut(
            key=key,
            asks=sign.asks,
            answers={k: a.says for k, a in sign.answers.items()},
            said=(said or {}).get(key),
        )
        for key, sign in symptom.signs.items()
    ]
    told: dict[str, object] = {
        "symptom": symptom.key,
        "title": symptom.title,
        "sees": symptom.sees,
        "look": symptom.look,
        "signs": signs,
    }
    if not bench.here:
        leads = symptom.leads
        says = leads.says if leads else "None of its causes can be on this machine."
        return Search.model_validate(
            {
                **told,
                "end": "leads" if leads else "cleared",
                "sentence": plain(says),
                "suspects": [],
                "next": None,
                "rest": [],
                "minutes": 0,
                "events": leads.events if leads else [],
            }
        )
    known = bench.weighed()
    culprit = bench.found(known)
    first = bench.rival(known, culprit) if culprit else None
    if first:
        culprit = None
    rest = [] if culprit else _rest(bench, known, first)
    suspects = _suspects(bench, known, culprit)
    end: End = "found" if culprit else "asks" if rest else _end(suspects)
    return Search.model_validate(
        {
            **told,
            "end": end,
            "sentence": _sentence(bench, end, culprit, suspects),
            "suspects": suspects,
            "next": rest[0] if rest else None,
            "rest": rest,
            "minutes": sum(a.minutes for a in rest),
            "events": [],
        }
    )


def _end(suspects: Sequence[Suspect]) -> End:
    """Where no check is left: whether one of them is still likely that no check has cleared."""
    return (
        "open" if any(s.state != "cleared" and s.chance >= DOUBT for s in suspects) else "cleared"
    )


def _rest(bench: Bench, known: Weighed, first: Sitting | None) -> list[NextCheck]:
    """What follows as long as everything comes out true; what was too close to call comes last."""
    asks: list[NextCheck] = []
    made: list[Sitting] = []
    for again in (False, True):
        while (sitting := first or bench.best(known, made, again)) is not None:
            asks.append(_next_check(bench, known, sitting, again))
            made.append(sitting)
            known, first = bench.weighed(made), None
    return asks


def _next_check(bench: Bench, known: Weighed, sitting: Sitting, again: bool) -> NextCheck:
    kind, subject = sitting
    part = next((t for s, t in subjects(kind, bench.machine) if s == subject), "")
    chances = known.causes
    about = sorted(
        (
            (float(p), i.title)
            for p, i in zip(chances, bench.here, strict=True)
            if any(c.sitting == sitting for c in i.checks)
        ),
        reverse=True,
    )
    minutes = guide(kind).minutes
    named = [f"“{title}”, {odds(p)}" for p, title in about[:2] if p >= HARDLY]
    if again:
        reason = "It was too close to call. More passes or a finer instrument would decide."
    else:
        reason = f"In {minutes} minutes it tells of {'; and of '.join(named)}."
    title = course_kind(kind).title
    return NextCheck(
        kind=kind,
        subject=subject,
        title=f"{title}: {part}" if part else title,
        minutes=minutes,
        reason=plain(reason),
        again=again,
    )


def _suspects(bench: Bench, known: Weighed, culprit: Candidate | None) -> list[Suspect]:
    here = set(mechanisms_of(bench.machine))
    found = []
    for chance, instance in zip(known.causes, bench.here, strict=True):
        main = instance.main
        state: State = "open"
        if instance is culprit:
            state = "found"
        elif bench.record.close(main.sitting):
            state = "too_close"
        elif bench.record.read(main.sitting) and not bench.amiss(main):
            state = "cleared"
        found.append(
            Suspect(
                cause=instance.key,
                title=instance.title,
                does=instance.cause.does,
                where=[called(m) for m in instance.cause.mechanisms if m in here],
                kind=instance.main.kind,
                subject=instance.main.subject,
                chance=float(chance),
                odds=odds(float(chance)),
                state=state,
            )
        )
    rank: dict[State, int] = {"found": 0, "open": 1, "too_close": 1, "cleared": 2}
    return sorted(found, key=lambda s: (rank[s.state], -s.chance))


def _sentence(
    bench: Bench, end: End, culprit: Candidate | None, suspects: Sequence[Suspect]
) -> Words:
    cleared = sum(s.state == "cleared" for s in suspects)
    if culprit is not None:
        return plain(_found(bench, culprit))
    if end == "cleared":
        return plain(
            "As far as the checks can tell, none of its causes is on this machine. What is left is "
            "below."
        )
    if end == "open":
        likely = suspects[0]
        if not bench.record.read((likely.kind, likely.subject)):
            return plain(
                f"No check that can be made now tells more. Likeliest is “{likely.title}”, "
                f"{likely.odds}, which cannot be read as the machine stands."
            )
        return plain(
            f"No other check tells more. Likeliest is “{likely.title}”, {likely.odds}: put it "
            "right as far as it is out, then look whether it is gone."
        )
    n = len(suspects)
    can = "One thing on this machine can make it." if n == 1 else f"{n} things can make it here."
    return plain(can + (f" {cleared} of them cleared." if cleared else ""))


def _found(bench: Bench, culprit: Candidate) -> str:
    out = [c for c in culprit.checks if bench.amiss(c)]
    kind = course_kind(out[0].kind).title
    times = bench.record.times(out[0])
    by = f"is out, {times:.1f} times its limit" if times else "is out"
    said = f"“{kind}” {by}: {lower(culprit.title)}. {culprit.cause.does}"
    left = bench.record.left(out[0])
    if left:
        return f"{capital(said)} It was left as it is: {left.reason}"
    return (
        f"{capital(said)} Put it right, then look whether it is gone. If it is not, come back: "
        "the search goes on with the others."
    )


def odds(chance: float) -> str:
    """How likely, in words; to a tenth, which is more than anybody knows."""
    tenths = round(10 * chance)
    if tenths >= 10:
        return "almost surely"
    return f"about {tenths} in 10" if tenths else "hardly"

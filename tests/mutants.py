"""Mutants: changes one thing in a copy of the code, runs the tests that go through it, and counts
how many such changes some test refuses. `bin/mutants` runs it.

The operators are a mutation tester's own, but for those that nearly always end in a crash (an
argument or a value that becomes None), for texts, which are edited, not tested, and for two that
nobody could notice: a number that grows by one, where one is a hair (it is doubled here), and a
boundary that moves from < to <=, where lengths are continuous (the comparison is turned round).
What else changes nothing is listed with its reason in `tests/equivalent.txt`, and does not count;
nor is it noticed when a guard against rounding is twice as large.
"""

from __future__ import annotations

import argparse
import ast
import hashlib
import json
import os
import random
import re
import shutil
import subprocess
import sys
import tempfile
import xml.etree.ElementTree as ET
from collections.abc import Callable, Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import cache
from pathlib import Path
from queue import Queue
from typing import Any
from urllib.parse import urlsplit, urlunsplit

import libcst as cst
from coverage import CoverageData
from libcst.metadata import MetadataWrapper, PositionProvider
from mutmut.mutation.mutators import mutation_operators

from tests.equivalent import equivalent

ROOT = Path(__file__).parents[1]
CODE = ("truing/**/*.py", "calmsquare/**/services.py", "calmsquare/logbook/*.py",
        "calmsquare/screens/*.py", "calmsquare/planning/calendar.py")  # fmt: off
NOT = ("/migrations/", "calmsquare/demo/", "/models.py", "/schemas.py", "/api.py")
SKIPPED = {"operator_string", "operator_arg_removal", "operator_assignment", "operator_lambda",
           "operator_dict_arguments",
    "operator_number",
}  # fmt: off
SECONDS = (30.0, 120.0, 900.0)
"""Of tests, as long as they take unhindered, that a mutant is tried against: those that are likely
to notice it, those that speak of its part, and whatever else goes through its line."""
WORKERS = 2
TOLD = "tests/core/test_told.py"
"""The approved text: what every kind says, asks and begins with."""
DEMO = "tests/api/test_demo.py"
"""Tests that wait for the demo to be built."""
APART = "tests/throwaway"
"""Tests that need a process of their own."""


@dataclass(frozen=True)
class Mutant:
    """One change."""

    path: str
    line: int
    was: str
    code: str
    """The whole file with the change."""
    now: str


_TURNED: dict[type[cst.BaseCompOp], type[cst.BaseCompOp]] = {
    cst.LessThan: cst.GreaterThanEqual,
    cst.LessThanEqual: cst.GreaterThan,
    cst.GreaterThan: cst.LessThanEqual,
    cst.GreaterThanEqual: cst.LessThan,
}


ROUNDING = 1.01e-5
"""Guards against rounding are smaller than this, and as good when they are twice as large."""


def another_number(node: cst.BaseNumber) -> Iterator[cst.BaseNumber]:
    """One more for what is counted, twice as much for what is measured."""
    if isinstance(node, cst.Integer | cst.Float) and not 0 < node.evaluated_value < ROUNDING:
        value = node.evaluated_value
        small = isinstance(value, int) and value < 10
        yield node.with_changes(value=repr(value + 1 if small or value == 0 else value * 2))


def turned_round(node: cst.ComparisonTarget) -> Iterator[cst.ComparisonTarget]:
    """Less for more."""
    other = _TURNED.get(type(node.operator))
    if other is not None:
        yield node.with_changes(operator=other())


OPERATORS: list[tuple[type, Callable[[Any], Iterable[cst.CSTNode]]]] = [
    *((kind, op) for kind, op in mutation_operators if op.__name__ not in SKIPPED),
    (cst.BaseNumber, another_number),
    (cst.ComparisonTarget, turned_round),
]


class _Finder(cst.CSTVisitor):
    METADATA_DEPENDENCIES = (PositionProvider,)

    def __init__(self) -> None:
        super().__init__()
        self.found: list[tuple[int, cst.CSTNode, cst.CSTNode]] = []
        self.statement = 1
        self.resolutions: set[int] = set()

    def visit_Call(self, node: cst.Call) -> None:
        if isinstance(node.func, cst.Name) and node.func.value == "show" and len(node.args) > 1:
            resolution = node.args[1].value
            if isinstance(resolution, cst.BaseNumber):
                # only its decimals show: ten times as large it is another one
                self.resolutions.add(id(resolution))

    def visit_Annotation(self, node: cst.Annotation) -> bool:
        return False

    def visit_Decorator(self, node: cst.Decorator) -> bool:
        return False

    def visit_Arg(self, node: cst.Arg) -> bool:
        # zip's flag is an assertion: without it nothing else happens
        return node.keyword is None or node.keyword.value != "strict"

    def visit_If(self, node: cst.If) -> bool:
        # TYPE_CHECKING is nothing that runs
        return not (isinstance(node.test, cst.Name) and node.test.value == "TYPE_CHECKING")

    def on_visit(self, node: cst.CSTNode) -> bool:
        if isinstance(node, cst.BaseCompoundStatement | cst.SimpleStatementLine):
            self.statement = self.get_metadata(PositionProvider, node).start.line
        for kind, operator in OPERATORS:
            boundary = isinstance(node, cst.ComparisonTarget) and type(node.operator) in _TURNED
            if operator is another_number and id(node) in self.resolutions:
                assert isinstance(node, cst.BaseNumber)
                tenfold = node.with_changes(value=repr(node.evaluated_value * 10))
                self.found.append((self.statement, node, tenfold))
            elif isinstance(node, kind) and (not boundary or operator is turned_round):
                self.found += [(self.statement, node, new) for new in operator(node)]
        return super().on_visit(node)


def sites(path: Path) -> list[tuple[int, int]]:
    """(index, line) of every change that can be made to a file."""
    return [(i, line) for i, (line, _, _) in enumerate(_found(path)[1])]


@cache
def _found(path: Path) -> tuple[cst.Module, list[tuple[int, cst.CSTNode, cst.CSTNode]]]:
    wrapper = MetadataWrapper(cst.parse_module(path.read_text("utf-8")))
    finder = _Finder()
    wrapper.visit(finder)
    return wrapper.module, finder.found


def mutant(path: Path, index: int) -> Mutant:
    """The change of that number."""
    module, found = _found(path)
    line, old, new = found[index]
    changed = module.deep_replace(old, new)
    code = changed.code
    before, after = module.code.splitlines(), code.splitlines()
    differ = next(i for i, (a, b) in enumerate(zip(before, after, strict=False)) if a != b)
    return Mutant(
        str(path.relative_to(ROOT)), line, before[differ].strip(), code, after[differ].strip()
    )


def files(only: str) -> list[Path]:
    """What is mutated."""
    found = {p for pattern in CODE for p in ROOT.glob(pattern)}
    told = {p: p.relative_to(ROOT).as_posix() for p in found}
    return sorted(p for p, t in told.items() if not any(n in t for n in NOT) and t.startswith(only))


def compiled(path: Path, line: int) -> bool:
    """Whether a line is in a function that runs as machine code, which nothing can follow."""
    return any(
        isinstance(node, ast.FunctionDef)
        and node.lineno <= line <= (node.end_lineno or 0)
        and any(ast.unparse(d) == "compiled" for d in node.decorator_list)
        for node in ast.walk(ast.parse(path.read_text("utf-8")))
    )


@cache
def _bodies(path: Path) -> list[tuple[int, int]]:
    """First and last line of what runs when a function of a file is called."""
    tree = ast.parse(path.read_text("utf-8"))
    kinds = (ast.FunctionDef, ast.AsyncFunctionDef)
    made = [n for n in ast.walk(tree) if isinstance(n, kinds)]
    return [(n.body[0].lineno, n.end_lineno or 0) for n in made]


def copied(to: Path) -> Path:
    """The code and its tests, to be changed at will."""
    for name in ("truing", "calmsquare", "tests"):
        shutil.copytree(ROOT / name, to / name, ignore=shutil.ignore_patterns("__pycache__"))
    for name in ("pyproject.toml", "manage.py"):
        shutil.copy(ROOT / name, to)
    (to / "web").symlink_to(ROOT / "web")
    (to / "bench").symlink_to(ROOT / "bench")
    return to


def pytest(folder: Path, database: str, *args: str, limit: float | None = None) -> int:
    """Its exit status; a run that takes longer than `limit` s counts as refused."""
    url = urlsplit(os.environ["DATABASE_URL"])
    env = {
        **os.environ,
        "DATABASE_URL": urlunsplit(url._replace(path=f"/{database}")),
        "PYTHONDONTWRITEBYTECODE": "1",
        "PYTHONPATH": str(folder),
    }
    command = [sys.executable, "-m", "pytest", "-q", "-p", "no:cacheprovider", *args]
    with open(folder / "pytest.log", "w") as log:
        try:
            # in a session of its own: who interrupts the whole run must not end a trial early,
            # since tests that were cut off look like tests that refuse
            return subprocess.run(
                command,
                cwd=folder,
                env=env,
                stdout=log,
                stderr=log,
                timeout=limit,
                check=False,
                start_new_session=True,
            ).returncode
        except subprocess.TimeoutExpired:
            return 1


def schema_differs(folder: Path) -> bool:
    """Whether the change shows in what travels to the browser, which `bin/test` compares too."""
    env = {**os.environ, "PYTHONPATH": str(folder)}
    command = [sys.executable, "manage.py", "export_openapi_schema"]
    command += ["--api", "calmsquare.api.api", "--indent", "1", "--output", "schema.json"]
    ran = subprocess.run(command, cwd=folder, env=env, capture_output=True, check=False)
    kept = (ROOT / "web/src/api/schema.json").read_bytes()
    return ran.returncode != 0 or (folder / "schema.json").read_bytes() != kept


def digest() -> str:
    """Tells one state of the code and of its tests from every other."""
    told = hashlib.sha256()
    for name in ("truing", "calmsquare", "tests/core", "tests/api", APART):
        for path in sorted((ROOT / name).rglob("*.py")):
            told.update(path.read_bytes())
    return told.hexdigest()[:16]


@cache
def speaks_of(file: str, path: str) -> bool:
    """Whether a file of tests imports from the package that a module is in, or names the kind of
    check that it belongs to; whatever calls the application speaks of all of it."""
    if path.startswith("calmsquare/") and file.startswith("tests/api/"):
        return True
    package, _, module = path.removesuffix(".py").replace("/", ".").rpartition(".")
    kind = f"[\"'](?:{package.rpartition('.')[2]}|{module})[\"']"
    found = re.search(rf"\b{re.escape(package)}\b|{kind}", (ROOT / file).read_text("utf-8"))
    return found is not None


class Covering:
    """Which tests go through a line: those first whose file speaks of the part that it is in, and
    of each file the shortest."""

    def __init__(self, folder: Path) -> None:
        self.took: dict[str, float] = {}
        self._lines: dict[str, dict[int, list[str]]] = {}
        # who tries another sample, or goes on with one, need not run all the tests again
        kept = self.kept = ROOT / ".run" / "mutants" / digest()
        if not (kept / "took.json").exists():
            self._run(folder)
            # the lines are told by where they were run
            kept.mkdir(parents=True, exist_ok=True)
            shutil.copy(folder / ".coverage", kept)
            told = {"folder": str(folder), "took": self.took}
            (kept / "took.json").write_text(json.dumps(told), "utf-8")
        told = json.loads((kept / "took.json").read_text("utf-8"))
        self.took, self.measured = told["took"], told["folder"]
        self.data = CoverageData(str(kept / ".coverage"))
        self.data.read()

    def _run(self, folder: Path) -> None:
        counted = ("--cov=truing", "--cov=calmsquare", "--cov-context=test", "--cov-report=")
        together = ("-n", str(WORKERS), "tests/core", "tests/api")
        for which in (together, ("--cov-append", APART)):
            if pytest(folder, "mutants", *counted, "--junitxml=times.xml", *which) != 0:
                told = (folder / "pytest.log").read_text()
                sys.exit("The tests fail without any change:\n" + told)
            self.took |= dict(self._times(folder / "times.xml"))

    def _times(self, report: Path) -> Iterator[tuple[str, float]]:
        for case in ET.parse(report).iter("testcase"):
            module = case.attrib["classname"].replace(".", "/") + ".py"
            yield f"{module}::{case.attrib['name']}", float(case.attrib["time"])

    def patience(self, tests: list[str]) -> float:
        """How long a run of these may last (s) before it is taken for one that never ends."""
        return 240 + 4 * sum(self.took.get(t, 1.0) for t in tests)

    def lines(self, path: str) -> dict[int, list[str]]:
        if path not in self._lines:
            self._lines[path] = self.data.contexts_by_lineno(f"{self.measured}/{path}")
        return self._lines[path]

    def _calling(self, path: str, seen: set[str]) -> set[str]:
        """The tests that go through the nearest files that import this one and can be seen."""
        seen.add(path)
        module = path.removesuffix(".py").replace("/", ".")
        found: set[str] = set()
        for other in files(""):
            name = other.relative_to(ROOT).as_posix()
            if name in seen or f"from {module} import" not in other.read_text("utf-8"):
                continue
            found |= self._going_through(name) or self._calling(name, seen)
        return found

    def _going_through(self, path: str) -> set[str]:
        return {c.partition("|")[0] for cs in self.lines(path).values() for c in cs if c}

    def tests(self, path: str, line: int) -> list[list[str]]:
        """What a change is tried against, one after the other while it passes."""
        through = self.lines(path).get(line, [])
        names = {c.partition("|")[0] for c in through if c}
        if not names and not through and compiled(ROOT / path, line):
            # nobody sees a compiled line run: it is tried by what goes through its callers, in its
            # own file or in others
            names = self._going_through(path) | self._calling(path, set())
        if not names or not any(a <= line <= b for a, b in _bodies(ROOT / path)):
            # what runs when a module is imported shows in all that uses the module, whichever test
            # it was that imported it
            if not through:
                return []
            names = self._going_through(path)
            names |= {n for n in self.took if n.startswith(TOLD) and "[forms]" in n}
        of_file: dict[str, int] = {}
        turns = []
        for seconds, name in sorted((self.took.get(n, 1.0), n) for n in names):
            # what is told in full notices most, and who speaks of the part that is changed; of the
            # others each file has its turn, since another file asks for something else
            file = name.partition("::")[0]
            turn = of_file[file] = of_file.get(file, 0) + 1
            speaks = speaks_of(file, path)
            told = file == TOLD
            turns.append((file == DEMO, not told, not (speaks or told), turn, seconds, name))
        tries: list[list[str]] = [[], [], []]
        spent = [0.0, 0.0, 0.0]
        for _, _, silent, _, seconds, name in sorted(turns):
            for n in (0, 2) if silent else (0, 1, 2):
                if spent[n] + seconds <= SECONDS[n] or not tries[0]:
                    spent[n] += seconds
                    tries[n].append(name)
                    break
        return [t for t in tries if t]


def main() -> None:
    """Print each change that no test refused, and the share that were."""
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--seed", type=int, default=1)
    options.add_argument("--sample", type=int, default=200)
    options.add_argument("--only", default="", help="paths that begin with this")
    options.add_argument("--list", action="store_true", help="only say what would be changed")
    given = options.parse_args()
    all_sites = [(p, i) for p in files(given.only) for i, _ in sites(p)]
    chosen = random.Random(given.seed).sample(all_sites, min(given.sample, len(all_sites)))
    mutants = [mutant(p, i) for p, i in chosen]
    print(f"{len(mutants)} of {len(all_sites)} changes, seed {given.seed}", flush=True)
    known = equivalent()
    for m in mutants:
        if why := known.get((m.path, m.was, m.now)):
            print(f"{m.path}:{m.line}: {m.was}  →  {m.now}  (changes nothing: {why})", flush=True)
    mutants = [m for m in mutants if (m.path, m.was, m.now) not in known]
    if given.list:
        for m in mutants:
            print(f"{m.path}:{m.line}: {m.was}  →  {m.now}")
        return
    with tempfile.TemporaryDirectory() as temporary:
        here = Path(temporary)
        covering = Covering(copied(here / "whole"))
        free: Queue[tuple[str, Path]] = Queue()
        for n in range(WORKERS):
            free.put((f"mutants_{n}", copied(here / f"copy{n}")))

        def killed(m: Mutant) -> str:
            known = covering.kept / hashlib.sha256(f"{m.path}\n{m.code}".encode()).hexdigest()[:16]
            if not known.exists():
                fresh = known.with_suffix(".new")
                fresh.write_text(tried(m), "utf-8")
                fresh.replace(known)
            return known.read_text("utf-8")

        def tried(m: Mutant) -> str:
            tries = covering.tests(m.path, m.line)
            if not tries:
                return "reached by no test"
            database, folder = free.get()
            target = folder / m.path
            kept = target.read_text("utf-8")
            try:
                target.write_text(m.code, "utf-8")
                groups = [[t for t in g if t.startswith(APART) == a] for g in tries for a in (0, 1)]
                refused = any(
                    pytest(folder, database, "-x", "--reuse-db", *g, limit=covering.patience(g))
                    for g in groups
                    if g
                ) or schema_differs(folder)
            finally:
                target.write_text(kept, "utf-8")
                free.put((database, folder))
            return "" if refused else f"passes {sum(map(len, tries))} tests"

        with ThreadPoolExecutor(WORKERS) as pool:
            count = 0
            try:
                for m, told in zip(mutants, pool.map(killed, mutants), strict=True):
                    count += not told
                    if told:
                        print(f"{m.path}:{m.line}: {m.was}  →  {m.now}  ({told})", flush=True)
            except KeyboardInterrupt:
                pool.shutdown(wait=False, cancel_futures=True)
                sys.exit("Stopped; what was found is kept, and the same command goes on from here.")
    print(f"{count} of {len(mutants)} refused: {count / len(mutants):.0%}")


if __name__ == "__main__":
    main()

"""Small faults put into the code one at a time, each to be noticed by the tests that reach it.

By hand: ``script/mutants`` runs the suite once to learn which tests reach which line, then puts each of the faults kept
in ``tests/data/faults.json`` (a hundred each of the core, the store and the interface, drawn at random) into a copy of
the tree and runs the tests that reach its line: two dozen at most, those that reach least of the program first. A fault
that no test reaches was not noticed; one whose line is not there any more is left out.

``--drawn FILE`` puts in the faults of another file, and draws ``--count`` into it where it is not there, as many from
each of the ``--rooms``: of lines that stand in ``--like TREE`` too, if given, so that the suites of two versions can be
held against each other. A line that stands in another file there, and in one only, is the same line. ``--tree`` is the
checkout that is tried, ``--kept FOLDER`` keeps what was learned of its suite.
"""

from __future__ import annotations

import argparse
import compileall
import json
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections import Counter, defaultdict
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace
from functools import cache, cached_property
from pathlib import Path
from queue import SimpleQueue
from typing import Any
from xml.etree import ElementTree

from cosmic_ray import plugins
from cosmic_ray.ast import ast_nodes, get_ast
from cosmic_ray.mutating import mutate_code
from coverage import CoverageData

ROOMS = ("core", "store", "ui")
PACKAGE = Path("src/wise_cellar")
DRAWN = Path(__file__).parent / "data" / "faults.json"
COUNT = 300
Key = tuple[str, ...]
"""Of a fault: its file, operator, line, column, and which of those that are alike."""
MOST_TESTS = 24
"""That a fault is given to."""
FAULTS = (
    "AddNot", "BinaryOperator_Add_Sub", "BinaryOperator_Sub_Add", "BinaryOperator_Mul_Div", "BinaryOperator_Div_Mul",
    "BinaryOperator_Pow_Mul", "UnaryOperator_USub_UAdd", "UnaryOperator_Delete_Not", "ComparisonOperator_Eq_NotEq",
    "ComparisonOperator_NotEq_Eq", "ComparisonOperator_Lt_LtE", "ComparisonOperator_Lt_GtE",
    "ComparisonOperator_LtE_Lt", "ComparisonOperator_LtE_Gt", "ComparisonOperator_Gt_GtE",
    "ComparisonOperator_Gt_LtE", "ComparisonOperator_GtE_Gt", "ComparisonOperator_GtE_Lt",
    "ComparisonOperator_Is_IsNot", "ComparisonOperator_IsNot_Is", "ReplaceTrueWithFalse", "ReplaceFalseWithTrue",
    "ReplaceAndWithOr", "ReplaceOrWithAnd", "ReplaceBreakWithContinue", "ReplaceContinueWithBreak",
    "ZeroIterationForLoop", "ExceptionReplacer", "NumberReplacer",
)  # fmt: skip
DECLARED = ("def ", "class ", "@", "from ", "import ", "*")
"""What a line that cannot be at fault begins with."""
NOT_IN_UI = "NumberReplacer"
"""A margin of another pixel is no fault."""


@dataclass(frozen=True)
class Fault:
    """One change of one line: the operator's name, and which of the places in the file it could be put."""

    path: str
    line: int
    operator: str
    occurrence: int
    room: Path
    """The folder it was drawn from."""


@cache
def operators() -> dict[str, Any]:
    """What can be changed: comparisons, arithmetic, numbers, conditions, loops, by the operator's name."""
    names = [name for name in plugins.operator_names() if name.endswith(FAULTS)]
    return {name: plugins.get_operator(name)() for name in sorted(names)}


def faults_of(tree: Path, path: str) -> Iterator[tuple[Key, Fault]]:
    """Every fault of a file, with a key that names the same one in another version of the file."""
    text = (tree / path).read_text(encoding="utf-8")
    lines, nodes = text.splitlines(), list(ast_nodes(get_ast(text)))
    for name, operator in operators().items():
        if name.endswith(NOT_IN_UI) and Path(path).is_relative_to(PACKAGE / "ui"):
            continue
        seen: Counter[Key] = Counter()
        count = 0
        for node in nodes:
            for (line, column), _end in operator.mutation_positions(node):
                words = (path, name, lines[line - 1].strip(), str(column))
                seen[words] += 1
                if not words[2].startswith(DECLARED):
                    yield (*words, str(seen[words])), Fault(path, line, name, count, Path(path).parent)
                count += 1


def sources(tree: Path, room: str = "") -> list[str]:
    """The files of a room, or of the whole program."""
    return sorted(str(path.relative_to(tree)) for path in (tree / PACKAGE / room).rglob("*.py"))


def drawn(tree: Path, rooms: list[str], like: Path | None, count: int, seed: int) -> list[Key]:
    """Keys of faults at random, as many from each room; each file as likely as it has places for them."""
    chosen: list[Key] = []
    for room in rooms:
        every = {key for path in sources(tree, room) for key, _ in faults_of(tree, path)}
        if like is not None:
            every = found_in(like, sorted(every)).keys()
        # One fault a line at most: many operators fit one comparison.
        by_line = defaultdict(list)
        for key in sorted(every):
            by_line[key[0], key[2], key[4]].append(key)
        dice = random.Random(seed)
        lines = dice.sample(sorted(by_line), min(count // len(rooms), len(by_line)))
        chosen += [dice.choice(by_line[line]) for line in lines]
    return chosen


def found_in(tree: Path, keys: list[Key]) -> dict[Key, Fault]:
    """The faults that keys name in a tree, also where a file was moved; those that are not there are left out."""
    there = {key: fault for path in sources(tree) for key, fault in faults_of(tree, path)}
    moved = defaultdict(list)
    for key in there:
        moved[key[1:]].append(key)
    alike = Counter(key[1:] for key in keys)
    found = {}
    for key in keys:
        if key in there:
            found[key] = there[key]
        elif alike[key[1:]] == len(moved[key[1:]]) == 1:
            found[key] = replace(there[moved[key[1:]][0]], room=Path(key[0]).parent)
    return found


# Which tests reach a line


@dataclass(frozen=True)
class Suite:
    """What one run of all tests has told: the tests that reach each line of each file, and what each test took."""

    reach: dict[str, dict[int, list[str]]]
    seconds: dict[str, float]

    @cached_property
    def breadth(self) -> Counter[str]:
        """How many lines each test reaches: the fewer, the more it is about them."""
        lines = (contexts for reached in self.reach.values() for contexts in reached.values())
        return Counter(test for contexts in lines for test in {context.split("|")[0] for context in contexts})

    def tests_for(self, fault: Fault) -> list[str]:
        """The tests that reach a fault, the closest first; for what only runs at import, those that reach its file."""
        here = self.reach.get(fault.path, {})
        contexts = [context for context in here.get(fault.line, []) if context]
        if not contexts and fault.line in here:
            contexts = [context for line in here.values() for context in line if context]
        itself = {context.split("|")[0] for context in contexts if context.endswith("|run")}
        # What is made once for a file of tests is looked at by all of them, after those that reach it themselves.
        made_for = {context.split("::")[0] for context in contexts if context.endswith("|setup")}
        tests = itself | {test for test in self.seconds if test.split("::")[0] in made_for}
        order = sorted(tests & self.seconds.keys(), key=lambda test: (test not in itself, self.breadth[test]))
        return order[:MOST_TESTS]


def known_suite(tree: Path, folder: Path) -> Suite:
    """What was learned of a tree's suite, or is learned now by running it."""
    data, times = folder / "reached", folder / "times.xml"
    if not times.exists():
        folder.mkdir(parents=True, exist_ok=True)
        run = [sys.executable, "-m", "pytest", "-n", "2", "--dist", "loadfile", "-q", "--cov=wise_cellar",
               "--cov-context=test", "--cov-report=", f"--junitxml={times}"]  # fmt: skip
        subprocess.run(run, cwd=tree, env=surroundings(tree) | {"COVERAGE_FILE": str(data)}, check=False)
    reached = CoverageData(str(data))
    reached.read()
    reach = {}
    for name in reached.measured_files():
        if Path(name).is_relative_to(tree):
            reach[str(Path(name).relative_to(tree))] = reached.contexts_by_lineno(name)
    return Suite(reach, dict(_seconds(times)))


def _seconds(times: Path) -> Iterator[tuple[str, float]]:
    """Every test that passes, with what it took."""
    for case in ElementTree.parse(times).iter("testcase"):
        if case.find("failure") is None and case.find("error") is None and case.find("skipped") is None:
            path = case.attrib["classname"].replace(".", "/")
            yield f"{path}.py::{case.attrib['name']}", float(case.attrib["time"])


def surroundings(tree: Path) -> dict[str, str]:
    """The environment of a run in a tree: its own sources, no display."""
    path = os.pathsep.join((str(tree / "src"), str(tree)))
    # Compiled once: most of a short run is its start.
    usual = {name: value for name, value in os.environ.items() if name != "PYTHONDONTWRITEBYTECODE"}
    return usual | {"PYTHONPATH": path, "QT_QPA_PLATFORM": "offscreen"}


# Putting faults in


@dataclass(frozen=True)
class Verdict:
    """What became of a fault: ``noticed``, ``missed``, or ``unreached`` by any test."""

    fault: Fault
    word: str
    text: str


def judged(fault: Fault, suite: Suite, copies: SimpleQueue[Path]) -> Verdict:
    """Put one fault into a copy of the tree that is free, and run the tests that reach it."""
    tests = suite.tests_for(fault)
    copy = copies.get()
    path = copy / fault.path
    sound = path.read_text(encoding="utf-8")
    text = f"{fault.path}:{fault.line} {fault.operator.split('/')[-1]}: {sound.splitlines()[fault.line - 1].strip()}"
    try:
        faulty = mutate_code(sound, operators()[fault.operator], fault.occurrence)
        if not tests or faulty is None:
            return Verdict(fault, "unreached", text)
        path.write_text(faulty, encoding="utf-8")
        passed = passes(copy, tests, longest_s=60 + 10 * sum(suite.seconds[test] for test in tests))
        return Verdict(fault, "missed" if passed else "noticed", text)
    finally:
        path.write_text(sound, encoding="utf-8")
        copies.put(copy)


def passes(tree: Path, tests: list[str], longest_s: float) -> bool:
    """Whether tests pass in a tree; one that goes on for ever does not."""
    run = [sys.executable, "-m", "pytest", "-x", "-q", "--no-header", *tests]
    try:
        done = subprocess.run(
            run, cwd=tree, env=surroundings(tree), capture_output=True, timeout=longest_s, check=False
        )
    except subprocess.TimeoutExpired:
        return False
    return done.returncode == 0


def told(found: list[Verdict], rooms: list[str]) -> Iterator[str]:
    """What became of the faults of each room, and of all."""
    for room in (*rooms, ""):
        words = Counter(verdict.word for verdict in found if verdict.fault.room.is_relative_to(PACKAGE / room))
        total = max(words.total(), 1)
        yield (
            f"{room or 'together'}: {words['noticed']} of {words.total()} noticed ({words['noticed'] / total:.0%}),"
            f" {words['unreached']} reached by no test"
        )


def chosen_faults(asked: argparse.Namespace) -> list[Fault]:
    """Those that a file keeps, or others drawn now."""
    if not asked.drawn.exists():
        keys = drawn(asked.tree, asked.rooms, asked.like, asked.count, asked.seed)
        asked.drawn.write_text("[\n" + ",\n".join(json.dumps(key, ensure_ascii=False) for key in keys) + "\n]\n")
    return list(found_in(asked.tree, [tuple(key) for key in json.loads(asked.drawn.read_text())]).values())


def main() -> None:
    """Draw, put in, count."""
    parser = argparse.ArgumentParser(description="Put small faults into the code and see which the suite notices.")
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--count", type=int, default=COUNT)
    parser.add_argument("--rooms", nargs="+", default=ROOMS, help="folders of the program")
    parser.add_argument("--tree", type=Path, default=Path.cwd())
    parser.add_argument("--like", type=Path)
    parser.add_argument("--drawn", type=Path, default=DRAWN)
    parser.add_argument("--kept", type=Path)
    parser.add_argument("--at-once", type=int, default=os.cpu_count() or 1)
    asked = parser.parse_args()
    asked.tree = asked.tree.resolve()
    copies: SimpleQueue[Path] = SimpleQueue()
    with tempfile.TemporaryDirectory() as folder, ThreadPoolExecutor(asked.at_once) as runs:
        suite = known_suite(asked.tree, asked.kept or Path(folder) / "kept")
        for number in range(asked.at_once):
            copy = Path(folder) / str(number)
            shutil.copytree(asked.tree, copy, ignore=shutil.ignore_patterns(".git", ".venv", "__pycache__"))
            compileall.compile_dir(copy / "src", quiet=1)
            copies.put(copy)
        found = []
        for verdict in runs.map(lambda fault: judged(fault, suite, copies), chosen_faults(asked)):
            found.append(verdict)
            print(verdict.word, verdict.text, flush=True)
    print(*told(found, asked.rooms), sep="\n")


if __name__ == "__main__":
    main()

"""Processes killed in the middle of what they do with a workspace; nothing that was kept may be lost.

By hand: ``script/kill 1000`` kills so many, in turn while edits are made, a workspace is made, a series grows, it is
copied by us and by others, and its file is renamed under it.
"""

from __future__ import annotations

import shutil
import subprocess
import sys
import tempfile
import time
from collections import Counter
from pathlib import Path
from random import Random

from tests.builders import cell_type
from wise_cellar.core.documents import CellType, DischargeRecord
from wise_cellar.store import Workspace, WorkspaceError
from wise_cellar.store.series import GROWING

WAYS = ("editing", "making", "growing", "copying", "copied by others", "renamed")
GROWS = f"{GROWING}here"
_CHILD = """
import sys
from pathlib import Path
from tests.builders import cell_type
from tests.kills import child
child(sys.argv[1], Path(sys.argv[2]))
"""


def child(way: str, folder: Path) -> None:
    """What is killed: tells every number that it has kept, once it is kept."""
    path = folder / "work.cellar"
    if way == "making":
        print("begun", flush=True)
        for number in range(1, 1000):
            with Workspace.open(folder / f"made-{number}.cellar") as made:
                made.seed([cell_type(mass_g=10 + number)])
            print(number, flush=True)
        return
    with Workspace.open(path) as workspace:
        if way == "growing":
            workspace.commit("Record", [recorded()])
            for number in range(1, 5000):
                workspace.grow_series(GROWS, [number.to_bytes(4) * 256])
                print(number, flush=True)
            return
        for number in range(1, 5000):
            try:
                workspace.commit("Heavier", [cell_type(mass_g=10 + number)])
            except WorkspaceError:
                time.sleep(0.002)  # its file was renamed: nothing is kept, and nothing is told
                continue
            if way == "copying" and number % 3 == 0:
                workspace.copy_to(folder / f"copy-{number}.cellar")
            if way in ("copied by others", "renamed") and number % 5 == 0:
                workspace.settle()  # as after a quiet second
                print(f"settled {number}", flush=True)
                time.sleep(0.004)
            else:
                print(number, flush=True)


def recorded() -> DischargeRecord:
    """A document that names the series that grows."""
    return DischargeRecord(
        id="log",
        name="C/2",
        cell_type_id="cell",
        series_key=GROWS,
        points=20,
        mean_current_a=2.5,
        charge_mah=4000,
        end_v=2.5,
    )


def kept(path: Path) -> int:
    """The last number that a workspace holds; 0 for none, or for parts of a series that are not in order."""
    with Workspace.open(path) as opened:
        if parts := opened.series_parts(GROWS):
            whole = parts == [number.to_bytes(4) * 256 for number in range(1, len(parts) + 1)]
            return len(parts) if whole else 0
        cells = opened.all(CellType)
        return round(cells["cell"].mass_g) - 10 if cells else 0


def killed(way: str, random: Random, folder: Path) -> str:
    """Start one, kill it after a while, and look at what is left: what was found wrong, or nothing."""
    path, apart = folder / "work.cellar", folder / "apart.cellar"
    with subprocess.Popen(
        [sys.executable, "-c", _CHILD, way, str(folder)], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True
    ) as process:
        assert process.stdout is not None
        assert process.stderr is not None
        lines = [process.stdout.readline()]
        if way in ("renamed", "copied by others"):
            while not lines[-1].startswith("settled"):
                lines.append(process.stdout.readline())
            # The log may be written again by now; what had settled is in the file alone.
            if way == "renamed":
                path.rename(apart)
            else:
                shutil.copy(path, apart)
        time.sleep(random.uniform(0, 0.12))
        process.kill()
        lines += process.stdout.read().splitlines()
        problem = process.stderr.read()
    if problem:
        return problem[-300:]
    numbers = [int(word) for line in lines for word in line.split()[-1:] if word.isdigit()]
    settled = [int(line.split()[1]) for line in lines if line.startswith("settled")]
    return _left(way, folder, numbers, settled)


def _left(way: str, folder: Path, numbers: list[int], settled: list[int]) -> str:
    path, apart = folder / "work.cellar", folder / "apart.cellar"
    try:
        if way == "making":
            for made in folder.glob("made-*.cellar"):
                kept(made)
            whole = all(kept(folder / f"made-{n}.cellar") == n for n in numbers)
            return "" if whole else f"one of {numbers} is not whole"
        if way == "renamed":
            found = kept(apart)
            return "" if found >= settled[0] else f"{found} of {settled[0]} settled"
        found, last = kept(path), max(numbers)
        if not last <= found <= last + 1:
            return f"{found} is there, {last} was kept"
        if way == "copied by others" and kept(apart) < settled[0]:
            return f"the copy has {kept(apart)} of {settled[0]}"
        for copy in folder.glob("copy-*.cellar"):
            if kept(copy) != int(copy.stem.split("-")[1]):
                return f"{copy.name} holds {kept(copy)}"
    except WorkspaceError as error:
        return str(error)
    return ""


def run(count: int, first: int = 0) -> int:
    """Kill so many; prints what came of it, and returns how many were wrong."""
    done: Counter[str] = Counter()
    wrong = 0
    for number in range(first, first + count):
        way = WAYS[number % len(WAYS)]
        with tempfile.TemporaryDirectory() as folder:
            said = killed(way, Random(number), Path(folder))
        done[way] += 1
        if said:
            wrong += 1
            print(f"{way} {number}: {said}", flush=True)
    print(f"{count} kills, {wrong} wrong: {', '.join(f'{n} {way}' for way, n in done.items())}")
    return wrong


if __name__ == "__main__":
    arguments = [int(argument) for argument in sys.argv[1:]]
    sys.exit(bool(run(*(arguments or [50]))))

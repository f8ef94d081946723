"""Files changed at random, given to every reader and every command: read, or refused in one sentence.

By hand: ``script/damage 20000`` changes so many files and tells the slowest and the most memory; any that ends in
something else is named with its number, by which :func:`tried` makes it again.
"""

from __future__ import annotations

import contextlib
import io
import resource
import sys
import tempfile
import time
import warnings
from collections import Counter
from collections.abc import Callable
from functools import cache
from pathlib import Path
from random import Random

from tests.builders import beside, cell_type, complete, craft, whole_pack
from wise_cellar.cli import main
from wise_cellar.core.documents import DocumentError, cell_types_to_csv, export_text
from wise_cellar.store import Workspace, WorkspaceError, read_exchange_file
from wise_cellar.store.cell_tables import read_cell_table
from wise_cellar.store.curve_files import look_at_table, read_discharge_curve, read_resting_table
from wise_cellar.store.stand_files import read_stand
from wise_cellar.store.tray_tables import read_tray_table

LOG = "time [s],voltage [V],current [A]\n" + "\n".join(f"{10 * n},{4.15 - 0.03 * n:.3f},2.5" for n in range(40)) + "\n"
SLOW = "t;U;I\n" + "\n".join(f"{300 * n};{4.15 - 0.04 * n:.3f};0,45".replace(".", ",") for n in range(40)) + "\n"
SEMICOLONS = "logged at the bench\n\n" + SLOW
STAND = "throttle,thrust g,current A,voltage V,rpm\n" + "\n".join(
    f"{20 * n},{150 * n},{2.5 * n},15.{9 - n},{2000 * n}" for n in range(1, 6)
)
TRAY = (
    "number,arrival_v,arrived_on,capacity_mah,dcir_mohm,looks\n1,3.52,2026-03-02,4350,15.1,dent; rust\n"
    "2,3.51,,4.36 Ah,,\n"
)
RESTING = "soc,ocv_v\n" + "\n".join(f"{n / 10},{3 + 0.12 * n}" for n in range(11)) + "\n"


def _two_packs() -> str:
    return export_text(beside(complete(series_count=2, parallel_count=1), (whole_pack(), {"own": True})))


@cache
def seeds() -> dict[str, bytes]:
    """A valid file of every kind."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "work.cellar"
        with Workspace.open(path) as fresh:
            for grams in (60, 62, 64):
                fresh.commit("Mass", [cell_type(mass_g=grams), craft(), complete().design])
        workspace = path.read_bytes()
    texts = {
        "export": export_text(complete()),
        "packs": _two_packs(),
        "cell": export_text(cell_type()),
        "cells": cell_types_to_csv({"a": cell_type(id="a"), "b": cell_type(id="b", name="Fell 18-29P")}),
        "log": LOG,
        "semicolons": SEMICOLONS,
        "resting": RESTING,
        "stand": STAND,
        "tray": TRAY,
    }
    return {name: text.encode() for name, text in texts.items()} | {"workspace": workspace}


READERS: dict[str, Callable[[Path], object]] = {
    "export": read_exchange_file,
    "packs": read_exchange_file,
    "cell": read_exchange_file,
    "cells": read_cell_table,
    "tray": read_tray_table,
    "log": read_discharge_curve,
    "semicolons": read_discharge_curve,
    "resting": lambda path: read_resting_table(look_at_table(path)),
    "stand": read_stand,
    "workspace": lambda path: Workspace.open(path).close(),
}
COMMANDS: dict[str, tuple[str, Callable[[Path, Path], list[str]]]] = {
    "predict": ("export", lambda path, _: ["predict", str(path), "--json"]),
    "predict packs": ("packs", lambda path, _: ["predict", str(path)]),
    "charge": ("packs", lambda path, _: ["charge", str(path)]),
    "compare": ("export", lambda path, folder: ["compare", str(path), "--csv", str(folder / "out.csv")]),
    "compare cells": ("cells", lambda path, folder: ["compare", str(_whole("export", folder)), "--cells", str(path)]),
    "fit": ("log", lambda path, folder: _fit(_whole("cell", folder), path, _whole("semicolons", folder))),
    "fit cell": ("cell", lambda path, folder: _fit(path, _whole("log", folder), _whole("semicolons", folder))),
}  # fmt: skip
KINDS = (*READERS, *COMMANDS)


def _fit(cell: Path, *logs: Path) -> list[str]:
    return ["fit", str(cell), *map(str, logs), "--out", str(cell.parent / "out.json")]


def _whole(kind: str, folder: Path) -> Path:
    path = folder / f"whole-{kind}.csv"
    path.write_bytes(seeds()[kind])
    return path


def damaged(seed: bytes, random: Random) -> bytes:
    """The file with bytes flipped, cut, blown up, nested, taken out, or encoded anew, in up to three places."""
    data = bytearray(seed)
    for _ in range(random.randint(1, 3)):
        at = random.randrange(len(data)) if data else 0
        way = random.randrange(9)
        if way == 0 and data:
            data[at] = random.randrange(256)
        elif way == 1:
            del data[at:]
        elif way == 2:
            data[at:at] = bytes(data[at : at + 20]) * random.choice((1, 3, 100, 3000))
        elif way == 3:
            data[at:at] = random.choice((b"[" * 500, b'{"a":' * 500, b"9" * 5000, b"\xff\xfe", b"\x00", b"(" * 3000))
        elif way == 4:
            text = data.decode("utf-8", "replace")
            data = bytearray(text.encode(random.choice(("utf-16", "cp1252", "utf-8-sig")), "replace"))
        elif way == 5:
            data[at:at] = random.choice(("\u2028", "\x85", "\f", "\x1c", "\ud7ff", "\u202e")).encode()
        elif way == 6:
            data[at:at] = random.choice((b"1e999", b"nan", b"-", b",", b";", b'"', b"\r", b"\n", b"1,200", b"0"))
        elif way == 7:
            digits = [n for n, byte in enumerate(data) if 48 <= byte <= 57]
            if digits:
                data[random.choice(digits)] = random.choice(b"0123456789-.e")
        else:
            del data[at : at + random.randint(1, 200)]
    return bytes(data)


def tried(kind: str, number: int | None, folder: Path) -> str:
    """Change the file of a kind by a number and give it to its reader or command: what was refused, or nothing.
    Without a number it stays as it is.

    Anything but a refusal with its sentence is raised.
    """
    seed = kind if kind in READERS else COMMANDS[kind][0]
    path = folder / ("file.cellar" if kind == "workspace" else "file.csv")
    whole = seeds()[seed]
    path.write_bytes(whole if number is None else damaged(whole, Random(number)))
    if kind in READERS:
        try:
            READERS[kind](path)
        except (DocumentError, WorkspaceError) as error:
            return str(error) or "no sentence at all, which is worse than a long one" * 9
        return ""
    out, err = io.StringIO(), io.StringIO()
    with contextlib.redirect_stdout(out), contextlib.redirect_stderr(err):
        status = main(COMMANDS[kind][1](path, folder))
    assert status in (0, 2)
    return err.getvalue().strip() if status else ""


def run(count: int, first: int = 0) -> int:
    """Change so many files; prints what came of it, and returns how many ended in something else than a sentence.

    A warning of the arithmetic counts as something else: a user would see it between the lines of an answer.
    """
    warnings.simplefilter("error")
    worst: dict[str, tuple[float, int]] = {}
    ends: Counter[str] = Counter()
    wrong = 0
    for number in range(first, first + count):
        kind = KINDS[number % len(KINDS)]
        began = time.perf_counter()
        with tempfile.TemporaryDirectory() as folder:
            try:
                said = tried(kind, number, Path(folder))
                if len(said) > 300 or "\n" in said:
                    raise ValueError(f"{len(said)} letters: {said[:400]}")
                ends["refused" if said else "read"] += 1
            except Exception as error:
                wrong += 1
                print(f"{kind} {number}: {type(error).__name__}: {str(error)[:300]}", flush=True)
        seconds = time.perf_counter() - began
        if seconds > worst.get(kind, (0.0, 0))[0]:
            worst[kind] = seconds, number
    print(f"{count} files: {ends['read']} read, {ends['refused']} refused in a sentence, {wrong} wrong")
    for kind, (seconds, number) in sorted(worst.items(), key=lambda item: -item[1][0]):
        print(f"  {kind}: slowest {seconds:.2f} s (number {number})")
    print(f"  most memory {resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024:.0f} MB")
    return wrong


if __name__ == "__main__":
    arguments = [int(argument) for argument in sys.argv[1:]]
    sys.exit(bool(run(*(arguments or [1000]))))

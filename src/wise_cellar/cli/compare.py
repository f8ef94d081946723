"""``wise-cellar compare``: every buildable pack around an exported design, without a window."""

from __future__ import annotations

import argparse
import sys
from collections.abc import Sequence
from contextlib import closing, suppress
from pathlib import Path
from typing import TypeVar

import numpy as np

from wise_cellar.cli.given import add_units, command_parser, finite, read_design, read_told
from wise_cellar.core.documents import (
    MOST_PARALLEL,
    MOST_SERIES,
    CellType,
    CompleteDesign,
    DocumentError,
    Joint,
    LandingPolicy,
    Wishes,
    parse_counts,
)
from wise_cellar.core.lowering.space import READY_POLICIES
from wise_cellar.core.propulsion import calibrate
from wise_cellar.core.search import (
    Aim,
    Flown,
    Flyers,
    Judged,
    Space,
    as_csv,
    as_text,
    columns,
    gains,
    joined,
    judge,
    pareto,
    worst_exclusion,
)
from wise_cellar.core.units import format_number
from wise_cellar.core.words import quoted
from wise_cellar.demo import sample_documents
from wise_cellar.store import Workspace
from wise_cellar.store.cell_tables import is_cell_table, read_cell_table
from wise_cellar.store.reading import write_whole

Member = TypeVar("Member", Joint, LandingPolicy)
WISHES = [name for name in Wishes.model_fields if name != "into_bay"]


def run(arguments: Sequence[str]) -> int:
    """Run the command; raises :class:`DocumentError` with a sentence for bad input."""
    options = parser().parse_args(arguments)
    complete = read_design(options.file, "compare")
    space = Space.around(
        complete,
        series=_counts(options.series, "cells in series", 1, MOST_SERIES),
        parallel=_counts(options.parallel, "cells in parallel", 1, MOST_PARALLEL),
        cells=_cells(options.cells),
        joints=_named(options.joints, tuple(Joint), "way of joining"),
        gauges=_counts(options.gauges, "lead gauges", 0, 30),
        policies=_named(options.policies, READY_POLICIES, "landing policy"),
    )
    wishes = Wishes.from_data({name: getattr(options, name) for name in WISHES} | {"into_bay": not options.any_bay})
    flown = _fly(space, complete)
    judged = judge(space, flown, wishes)
    _report(space, flown, judged)
    if options.csv is not None:
        every = columns(space, flown, judged)
        wanted = np.arange(len(flown)) if options.excluded else np.flatnonzero(judged.passes)
        wanted = wanted[np.argsort(-flown.duration_s[wanted], kind="stable")]
        write_whole(options.csv, as_csv(every, wanted))
        print(f"{format_number(len(wanted), 0)} rows written to {options.csv}.")
    return 0


def parser() -> argparse.ArgumentParser:
    """What it is told."""
    parser = command_parser(
        "compare",
        "Fly every combination of cells, counts, joints, leads and landing rules around an exported design. What is not"
        " given stays as the design has it.",
        "whimbrel.json --series 4:6 --parallel 1:4 --csv designs.csv",
    )
    parser.add_argument("file", type=Path, help="a design exported from Wise Cellar")
    parser.add_argument("--cells", nargs="+", default=[], metavar="CELL", help="exported cell types (JSON), tables of"
                        " cells (CSV), workspaces (.cellar), or names of sample cells")  # fmt: skip
    parser.add_argument("--series", default="", metavar="3:8", help="cells in series: 4, or 3:8, or 4,6")
    parser.add_argument("--parallel", default="", metavar="1:4", help="cells in parallel")
    parser.add_argument("--gauges", default="", metavar="10:14", help="lead gauges, AWG")
    parser.add_argument("--joints", nargs="+", default=[], metavar="JOINT", help=f"all, or {_choices(tuple(Joint))}")
    parser.add_argument(
        "--policies", nargs="+", default=[], metavar="POLICY", help=f"all, or {_choices(READY_POLICIES)}"
    )
    for name in WISHES:
        title = Wishes.model_fields[name].title
        parser.add_argument(f"--{name.replace('_', '-')}", type=finite, metavar="N", help=title)
    parser.add_argument("--any-bay", action="store_true", help="keep packs that do not go into the battery bay")
    parser.add_argument("--csv", type=Path, metavar="OUT", help="write the designs that keep to every limit")
    add_units(parser)
    parser.add_argument("--excluded", action="store_true", help="write the others too, with what excludes them")
    return parser


def _choices(members: Sequence[Joint | LandingPolicy]) -> str:
    return ", ".join(f"“{member}”" for member in members)


def _counts(text: str, title: str, least: int, most: int) -> tuple[int, ...]:
    try:
        return parse_counts(text, title, least, most)
    except ValueError as error:
        raise DocumentError(str(error)) from error


def _named(given: Sequence[str], members: Sequence[Member], what: str) -> tuple[Member, ...]:
    if list(given) == ["all"]:
        return tuple(members)
    by_name = {str(member): member for member in members}
    for name in given:
        if name not in by_name:
            raise DocumentError(f"{quoted(name)} is no {what}: write all, or some of {_choices(list(members))}.")
    return tuple(by_name[name] for name in given)


def _cells(given: Sequence[str]) -> list[CellType]:
    """Cell types of files, of workspaces and by sample names, each once."""
    found: dict[str, CellType] = {}
    samples = {document.name: document for document in sample_documents() if isinstance(document, CellType)}
    for name in given:
        path = Path(name)
        if name in samples:
            cells = [samples[name]]
        elif not _is_there(path):
            raise DocumentError(f"{quoted(name)} is neither a file nor a sample cell: {', '.join(samples)}.")
        elif path.suffix == ".cellar":
            with closing(Workspace.open(path)) as workspace:
                cells = [cell for cell in workspace.all(CellType).values() if not cell.archived]
        elif is_cell_table(path):
            cells = list(read_cell_table(path).rows)
        else:
            document = read_told(path).document
            if not isinstance(document, CellType | CompleteDesign):
                raise DocumentError(f"{path.name} holds no cell type.")
            cells = [document if isinstance(document, CellType) else document.pack.cell]
        for cell in cells:
            found.setdefault(cell.name, cell)
    return list(found.values())


def _is_there(path: Path) -> bool:
    with suppress(OSError, ValueError):
        return path.exists()
    return False


def _fly(space: Space, complete: CompleteDesign) -> Flown:
    calibration = calibrate(complete.craft)
    total, parts = len(space.rows), []
    shown = sys.stderr.isatty()
    with closing(Flyers()) as flyers:
        for part in flyers.fly(space, calibration.factor if calibration else 1.0):
            parts.append(part)
            if shown:
                flown = format_number(sum(len(one) for one in parts), 0)
                print(f"\r{flown} of {format_number(total, 0)} flown", end="", file=sys.stderr, flush=True)
    if shown:
        print(file=sys.stderr)
    return joined(parts)


def _report(space: Space, flown: Flown, judged: Judged) -> None:
    """How many keep to the limits, what excludes most, and the edge as a table."""
    total, passing = format_number(len(flown), 0), format_number(int(judged.passes.sum()), 0)
    print(f"{passing} of {total} designs keep to every limit.")
    exclusion = worst_exclusion(judged, flown)
    if exclusion is not None:
        print(exclusion.sentence(len(flown), flown))
    edge = np.flatnonzero(pareto(gains(flown, [Aim.MINUTES, Aim.MASS]), judged.passes))
    if len(edge):
        print("\nThe edge, which nothing lighter outlasts:")
        shown = [column for column in columns(space, flown, judged) if column.usual]
        print(as_text(shown, edge[np.argsort(flown.takeoff_g[edge], kind="stable")]))

"""``wise-cellar stand-in``: a simulated device behind a pseudo-terminal, to try things with nothing plugged in."""

from __future__ import annotations

import argparse
import sys

from wise_cellar.cli.given import command_parser, end_when_told
from wise_cellar.core.documents import CellType, CompleteDesign, Design, DocumentError
from wise_cellar.core.units import format_significant
from wise_cellar.demo import FIRST_DESIGN_ID, complete_sample, sample_documents
from wise_cellar.instruments.stand_ins import KINDS, Served, made

FASTEST = 10_000.0


def parser() -> argparse.ArgumentParser:
    """What it is told."""
    parser = command_parser("stand-in", "Simulate a device; it prints where it is plugged in.", "cell-meter --seed 3")
    parser.add_argument("kind", choices=sorted(KINDS), help="what it stands in for", metavar="KIND")
    parser.add_argument("--design", default=FIRST_DESIGN_ID, help="design of the sample world, by its identifier")
    parser.add_argument("--cell", help="cell type of the sample world in place of the design's, by its identifier")
    parser.add_argument("--seed", type=int, default=1, help="another number makes other hidden truths")
    parser.add_argument("--speed", type=float, default=1.0, help="how many of its seconds pass in one")
    parser.add_argument("--truths", action="store_true", help="say at the end what was really so")
    return parser


def run(arguments: list[str]) -> int:
    """Serve until it is interrupted; returns the exit status. Raises :class:`DocumentError` with a sentence."""
    options = parser().parse_args(arguments)
    if not 0 < options.speed <= FASTEST:
        raise DocumentError(
            f"--speed lies over 0 and up to {round(FASTEST)}; {format_significant(options.speed)} does not."
        )
    stand_in = made(options.kind, _design(options.design, options.cell), options.seed)
    end_when_told()
    served = Served(stand_in, options.speed)
    print(f"{served.address}  talks by the profile {stand_in.profile}", flush=True)
    try:
        served.run()
    except KeyboardInterrupt:
        if options.truths:
            print("\n".join(stand_in.truths()), file=sys.stdout, flush=True)
    finally:
        served.stop()
    return 0


def _design(identifier: str, cell: str | None) -> CompleteDesign:
    samples = sample_documents()
    designs = sorted(one.id for one in samples if isinstance(one, Design))
    if identifier not in designs:
        raise DocumentError(f"--design names one of the sample world: {', '.join(designs)}.")
    complete = complete_sample(identifier)
    types = {one.id: one for one in samples if isinstance(one, CellType)}
    if cell is not None and cell not in types:
        raise DocumentError(f"--cell names a type of the sample world: one of {', '.join(sorted(types))}.")
    return complete if cell is None else complete.with_pack(cell=types[cell])

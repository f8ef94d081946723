"""``wise-cellar charge``: the charging plan of a pack of an exported design, without a window."""

from __future__ import annotations

import argparse
from pathlib import Path

from wise_cellar.cli.given import add_units, command_parser, read_design, whole
from wise_cellar.core.answer import answer
from wise_cellar.core.charge import charge_plan
from wise_cellar.core.documents import ChargeGoal, DocumentError


def parser() -> argparse.ArgumentParser:
    """What it is told."""
    parser = command_parser(
        "charge", "Plan the charge of a pack of an exported design, from where it lands.", "whimbrel.json --storage"
    )
    parser.add_argument("file", type=Path, help="a design exported from Wise Cellar")
    parser.add_argument("--pack", type=whole, help="which of its packs: 1 is the recipe's; as the design asks, else")
    parser.add_argument("--storage", action="store_true", help="for storage, not for the next flight")
    add_units(parser)
    return parser


def run(arguments: list[str]) -> int:
    """Print the plan; returns the exit status. Raises :class:`DocumentError` with a sentence for bad input."""
    options = parser().parse_args(arguments)
    complete = read_design(options.file, "charge")
    packs = complete.packs
    wish = complete.design.charge
    if options.pack is not None:
        if not 1 <= options.pack <= len(packs):
            raise DocumentError(
                f"{complete.design.name} has {len(packs)} packs; --pack {options.pack} is none of them."
            )
        wish = wish.changed(pack=options.pack - 1)
    if options.storage:
        wish = wish.changed(goal=ChargeGoal.STORAGE)
    asked = complete.changed(design=complete.design.changed(charge=wish))
    plan = charge_plan(asked, answer(asked))
    print(f"{complete.design.name}: {plan.pack.name}, {plan.pack.cell.name}")
    for name, value in plan.settings():
        print(f"  {name:<8} {value}")
    for sentence in plan.sentences():
        print(f"  {sentence}")
    for caution in plan.cautions:
        print(f"  {str(caution.severity).capitalize()}: {caution.sentence}")
    return 0

"""``wise-cellar move-in``: a workspace of a folder that was moved out."""

from __future__ import annotations

import argparse
from pathlib import Path

from wise_cellar.cli.given import command_parser
from wise_cellar.core.units import format_number
from wise_cellar.store.moving import move_in


def parser() -> argparse.ArgumentParser:
    """What it is told."""
    parser = command_parser(
        "move-in", "Make a new workspace of a folder that was moved out of one.", "mine-moved mine-again.cellar"
    )
    parser.add_argument("folder", type=Path, help="the folder")
    parser.add_argument("workspace", type=Path, help="the workspace to make; it must not be there yet")
    return parser


def run(arguments: list[str]) -> int:
    """Make it; returns the exit status. Raises :class:`DocumentError` and :class:`WorkspaceError`."""
    options = parser().parse_args(arguments)
    count = move_in(options.folder, options.workspace)
    print(f"{format_number(count, 0)} documents are in {options.workspace}.")
    return 0

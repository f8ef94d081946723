"""``wise-cellar move-out``: all of a workspace as a folder of JSON and CSV."""

from __future__ import annotations

import argparse
from contextlib import closing
from pathlib import Path

from wise_cellar.cli.given import command_parser, needs_workspace
from wise_cellar.core.units import format_number
from wise_cellar.store import Workspace
from wise_cellar.store.moving import move_out


def parser() -> argparse.ArgumentParser:
    """What it is told."""
    parser = command_parser(
        "move-out", "Write all of a workspace into a folder of JSON and CSV, with a README.", "mine.cellar mine-moved"
    )
    parser.add_argument("workspace", type=Path, help="the workspace")
    parser.add_argument("folder", type=Path, help="where to; it must be new or empty")
    return parser


def run(arguments: list[str]) -> int:
    """Write it; returns the exit status. Raises :class:`DocumentError` and :class:`WorkspaceError`."""
    options = parser().parse_args(arguments)
    needs_workspace(options.workspace)
    with closing(Workspace.open(options.workspace)) as workspace:
        count = move_out(workspace, options.folder)
    print(f"{format_number(count, 0)} documents written into {options.folder}.")
    return 0

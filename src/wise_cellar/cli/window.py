"""``wise-cellar`` by itself: the window."""

from __future__ import annotations

import argparse
from pathlib import Path

from wise_cellar import __version__
from wise_cellar.cli import COMMANDS
from wise_cellar.cli.given import add_units, command_parser


def parser() -> argparse.ArgumentParser:
    """What it is told."""
    parser = command_parser(
        "",
        "Design lithium-ion packs for drones and see how long they fly. Without a window: wise-cellar"
        f" {', '.join(COMMANDS)} (each with --help).",
        "my.cellar",
    )
    parser.add_argument("workspace", nargs="?", type=Path, help="the workspace file to open")
    parser.add_argument("--demo", action="store_true", help="open the sample workspace")
    add_units(parser)
    parser.add_argument("--version", action="version", version=__version__)
    return parser


def run(arguments: list[str]) -> int:
    """Open a workspace in a window; returns the exit status when it is closed."""
    options = parser().parse_args(arguments)
    from wise_cellar.ui.application import run as run_application

    return run_application(options.workspace, demo=options.demo, shown_in=options.units)

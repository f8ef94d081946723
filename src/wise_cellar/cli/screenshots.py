"""``wise-cellar screenshots``: a picture of every view, or those of the handbook."""

from __future__ import annotations

import argparse
from pathlib import Path

from wise_cellar.cli.given import command_parser
from wise_cellar.handbook_pictures import save_handbook_pictures
from wise_cellar.screenshots import save_screenshots


def parser() -> argparse.ArgumentParser:
    """What it is told."""
    parser = command_parser("screenshots", "Save one PNG per station from the sample workspace.", "pictures --all")
    parser.add_argument("folder", type=Path, help="where to put them")
    parser.add_argument("--all", action="store_true", help="every main view, for the documentation")
    parser.add_argument("--handbook", action="store_true", help="the pictures of the handbook instead")
    return parser


def run(arguments: list[str]) -> int:
    """Save the pictures and name them; returns the exit status."""
    options = parser().parse_args(arguments)
    pictures = (
        save_handbook_pictures(options.folder)
        if options.handbook
        else save_screenshots(options.folder, every_view=options.all)
    )
    for path in pictures:
        print(path)
    return 0

"""``wise-cellar screenshots``: a picture of every view, or those of the handbook."""

from __future__ import annotations

import argparse
from pathlib import Path

from wise_cellar.handbook_pictures import save_handbook_pictures
from wise_cellar.screenshots import save_screenshots


def run(arguments: list[str]) -> int:
    """Save the pictures and name them; returns the exit status."""
    parser = argparse.ArgumentParser(
        prog="wise-cellar screenshots", description="Save one PNG per station from the sample workspace."
    )
    parser.add_argument("folder", type=Path)
    parser.add_argument("--all", action="store_true", help="every main view, for the documentation")
    parser.add_argument("--handbook", action="store_true", help="the pictures of the handbook instead")
    options = parser.parse_args(arguments)
    pictures = (
        save_handbook_pictures(options.folder)
        if options.handbook
        else save_screenshots(options.folder, every_view=options.all)
    )
    for path in pictures:
        print(path)
    return 0

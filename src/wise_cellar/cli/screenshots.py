"""``wise-cellar screenshots``: a picture of every view."""

from __future__ import annotations

import argparse
from pathlib import Path

from wise_cellar.screenshots import save_screenshots


def run(arguments: list[str]) -> int:
    """Save the pictures and name them; returns the exit status."""
    parser = argparse.ArgumentParser(
        prog="wise-cellar screenshots", description="Save one PNG per station from the sample workspace."
    )
    parser.add_argument("folder", type=Path)
    parser.add_argument("--all", action="store_true", help="every main view, for the documentation")
    options = parser.parse_args(arguments)
    for path in save_screenshots(options.folder, every_view=options.all):
        print(path)
    return 0

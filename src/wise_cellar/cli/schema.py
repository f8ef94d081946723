"""``wise-cellar schema``: the JSON Schema of exported files."""

from __future__ import annotations

import argparse
import json

from wise_cellar.cli.given import command_parser
from wise_cellar.core.documents import json_schema


def parser() -> argparse.ArgumentParser:
    """What it is told: nothing."""
    return command_parser("schema", "Print the JSON Schema of exports.", "> export.schema.json")


def run(arguments: list[str]) -> int:
    """Print it; returns the exit status."""
    parser().parse_args(arguments)
    print(json.dumps(json_schema(), indent=2, ensure_ascii=False))
    return 0

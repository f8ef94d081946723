"""``wise-cellar schema``: the JSON Schema of exported files."""

from __future__ import annotations

import argparse
import json

from wise_cellar.core.documents import json_schema


def run(arguments: list[str]) -> int:
    """Print it; returns the exit status."""
    argparse.ArgumentParser(prog="wise-cellar schema", description="Print the JSON Schema of exports.").parse_args(
        arguments
    )
    print(json.dumps(json_schema(), indent=2, ensure_ascii=False))
    return 0

"""What the commands read: numbers of the command line, and exported files with what was cut of them."""

from __future__ import annotations

import argparse
import math
import signal
import sys
from pathlib import Path
from textwrap import fill
from typing import Any

from wise_cellar.core.documents import CompleteDesign, DocumentError, ExchangeFile
from wise_cellar.core.shown import CHOICES, COMMA, POINT, READY, Units, read_units, show_units
from wise_cellar.core.words import quoted
from wise_cellar.store.exchange_files import read_exchange_file
from wise_cellar.store.reading import told


def finite(text: str) -> float:
    """A finite number, for the parser of arguments, which words the refusal."""
    try:
        value = float(text)
    except ValueError:
        value = math.nan
    if not math.isfinite(value):
        raise argparse.ArgumentTypeError(f"{quoted(text)} is no number")
    return value


def whole(text: str) -> int:
    """A whole number of a few digits, likewise."""
    if not text.removeprefix("-").isdecimal() or len(text) > 9:
        raise argparse.ArgumentTypeError(f"{quoted(text)} is no whole number")
    return int(text)


STATUSES = "Exit status: 0 when it is done; 2, with one sentence on standard error, when it cannot be."


def command_parser(name: str, description: str, example: str) -> argparse.ArgumentParser:
    """The parser of a command, whose help ends with an example and what its exit status says."""
    return argparse.ArgumentParser(
        prog=f"wise-cellar {name}".rstrip(),
        description=fill(description, 78),
        epilog=f"example:\n  wise-cellar {f'{name} {example}'.strip()}\n\n{fill(STATUSES, 78)}",
        formatter_class=argparse.RawDescriptionHelpFormatter,
    )


def needs_workspace(path: Path) -> None:
    """Refuse a workspace that is not there, which opening would make; raises :class:`DocumentError`."""
    if not path.exists():
        raise DocumentError(f"There is no file {told(path)}; name a workspace (.cellar).")


def add_units(parser: argparse.ArgumentParser) -> None:
    """``--units``: what this run is shown in. What it writes into files keeps its own units."""
    every = ", ".join([*READY, *(choice for choices in CHOICES.values() for choice in choices), COMMA, POINT])
    parser.add_argument("--units", type=_shown, help=f"one or more, with commas between: {every}")


def _shown(text: str) -> Units:
    """Units for the parser of arguments, shown from then on."""
    try:
        wanted = read_units(text)
    except ValueError as error:
        raise argparse.ArgumentTypeError(str(error)) from error
    show_units(wanted)
    return wanted


def read_told(path: Path) -> ExchangeFile:
    """An exported file; what was cut or cleaned of it is said on standard error."""
    found = read_exchange_file(path)
    for sentence in found.mended:
        print(sentence, file=sys.stderr)
    return found


def read_design(path: Path, command: str) -> CompleteDesign:
    """An exported design, for a command that needs one; raises :class:`DocumentError` for anything else."""
    found = read_told(path)
    if not isinstance(found.document, CompleteDesign):
        raise DocumentError(f"{told(path.name)} holds a {found.kind}; {command} needs an exported design.")
    return found.document


def rounded(value: Any) -> Any:
    """Plain values with numbers of six digits, which is more than any of them is good for; none where it is no
    number."""
    if isinstance(value, dict):
        return {key: rounded(inner) for key, inner in value.items()}
    if isinstance(value, list):
        return [rounded(inner) for inner in value]
    if isinstance(value, float) and math.isnan(value):
        return None
    return float(f"{value:.6g}") if isinstance(value, float) else value


def end_when_told() -> None:
    """Let a request to end be one by the keyboard: what runs on until then closes what it opened."""

    def end(_number: int, _frame: object) -> None:
        raise KeyboardInterrupt

    for number in (signal.SIGTERM, signal.SIGINT):
        signal.signal(number, end)

"""``wise-cellar completion``: what completes commands, options and files in a shell, by shtab."""

from __future__ import annotations

import argparse
from pathlib import Path

import shtab

from wise_cellar.cli import COMMANDS, module_of
from wise_cellar.cli.given import command_parser


def parser() -> argparse.ArgumentParser:
    """What it is told."""
    parser = command_parser(
        "completion",
        "Print what completes commands, options and files in a shell; where it reads it from hangs on the system.",
        "bash > ~/.local/share/bash-completion/completions/wise-cellar",
    )
    parser.add_argument("shell", choices=shtab.SUPPORTED_SHELLS, help="which shell")
    return parser


def run(arguments: list[str]) -> int:
    """Print it; returns the exit status."""
    shell = parser().parse_args(arguments).shell
    print(shtab.complete(whole_parser(), shell))
    return 0


def whole_parser() -> argparse.ArgumentParser:
    """Every command as a part of one parser."""
    whole = argparse.ArgumentParser(prog="wise-cellar")
    for action in _with_files(module_of("window").parser()):
        if action.option_strings and action.dest not in ("help", "version"):
            whole._add_action(action)
    commands = whole.add_subparsers()
    for name in COMMANDS:
        own = module_of(name).parser()
        _with_files(own)
        # What has no help is passed over.
        commands.add_parser(name, parents=[own], add_help=False, help=" ".join((own.description or "").split()))
    return whole


def _with_files(parser: argparse.ArgumentParser) -> list[argparse.Action]:
    """What a parser takes; where that is a file, marked so."""
    for action in parser._actions:
        if action.type is Path:
            action.complete = shtab.FILE  # type: ignore[attr-defined]
    return parser._actions

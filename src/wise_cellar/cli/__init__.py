"""The ``wise-cellar`` command: the window, and what works without one. A command is a file here and its name in
:data:`COMMANDS`."""

from __future__ import annotations

import gc
import io
import os
import sys
from collections.abc import Sequence
from importlib import import_module
from types import ModuleType

BAD_INPUT = 2
COMMANDS = ("predict", "compare", "charge", "fit", "log", "record", "stand-in", "move-out", "move-in", "schema",
            "screenshots", "completion")  # fmt: skip
"""Each a module with ``parser()`` and ``run(arguments)``, imported when it is asked for."""


def module_of(command: str) -> ModuleType:
    """The file of a command."""
    return import_module(f"wise_cellar.cli.{command.replace('-', '_')}")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run the command; returns the exit status: 0, or 2 with one sentence on standard error for bad input."""
    given = list(sys.argv[1:] if arguments is None else arguments)
    # What is made while a program begins stays: to look through it for what could be given back takes a twentieth.
    gc.disable()
    from wise_cellar.core.documents import DocumentError
    from wise_cellar.core.shown import shown_in, units
    from wise_cellar.store import WorkspaceError

    # What cannot be written in the terminal's encoding is written as a question mark.
    for stream in (sys.stdout, sys.stderr):
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="replace")
    named = bool(given) and given[0] in COMMANDS
    command = module_of(given[0] if named else "window")
    if named:
        gc.enable()  # the window does so itself, once it is there
    try:
        with shown_in(units()):
            status = int(command.run(given[named:]))
        sys.stdout.flush()
        return status
    except BrokenPipeError:
        # Whoever reads has seen enough, as ``head`` does; what is left goes nowhere, at the interpreter's end too.
        os.dup2(os.open(os.devnull, os.O_WRONLY), sys.stdout.fileno())
        return 0
    except (DocumentError, WorkspaceError) as error:
        print(error, file=sys.stderr)
        return BAD_INPUT
    finally:
        gc.enable()

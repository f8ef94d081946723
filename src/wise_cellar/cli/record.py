"""``wise-cellar record``: what a device sends, written into a CSV as it comes."""

from __future__ import annotations

import argparse
import math
import sys
import time
from collections.abc import Iterable
from pathlib import Path
from typing import TextIO

from wise_cellar.cli.given import command_parser, end_when_told
from wise_cellar.core.documents import DocumentError
from wise_cellar.core.recorded import heading, row_text
from wise_cellar.core.words import quoted
from wise_cellar.instruments import Listener, Profile, Reading, link_to, needs_asking, read_profile, shipped_profiles

TURN_S = 0.05
GROUPS_S = 1.0
"""So long readings are waited for that tell how many groups there are."""


def parser() -> argparse.ArgumentParser:
    """What it is told."""
    parser = command_parser(
        "record", "Write what a device sends into a CSV.", "pairs serial:/dev/ttyUSB0 --out readings.csv --seconds 60"
    )
    parser.add_argument("profile", help=f"how it talks: {', '.join(shipped_profiles())}, or a file of your own")
    parser.add_argument("port", help="where it is: serial:/dev/ttyUSB0, tcp:127.0.0.1:5025, file:/path/to/log.csv")
    parser.add_argument("--out", type=Path, required=True, help="the CSV; it must not be there yet")
    parser.add_argument("--seconds", type=float, help="stop after so long")
    parser.add_argument("--elsewhere", action="store_true", help="allow an address outside of this computer")
    return parser


def run(arguments: list[str]) -> int:
    """Record until it is interrupted, or for so long; returns the exit status. Raises :class:`DocumentError`."""
    options = parser().parse_args(arguments)
    profile = _profile(options.profile)
    if needs_asking(options.port) and not options.elsewhere:
        raise DocumentError(f"{quoted(options.port)} lies outside of this computer; add --elsewhere if you mean it.")
    link_to(options.port)
    end_when_told()
    listener = Listener(profile, lambda: link_to(options.port, profile.talk.baud))
    try:
        file = options.out.open("x", encoding="utf-8", newline="")
    except OSError as error:
        raise DocumentError(f"{options.out} cannot be made: {error.strerror}.") from error
    with file:
        listener.start()
        try:
            _write(listener, profile, file, options.seconds)
        except KeyboardInterrupt:
            pass
        finally:
            listener.stop()
    return 0


def _profile(given: str) -> Profile:
    shipped = shipped_profiles().get(given)
    return shipped if shipped is not None else read_profile(Path(given))


def _write(listener: Listener, profile: Profile, file: TextIO, seconds: float | None) -> None:
    """A row a reading; headings first, as soon as it is known how many groups there are."""
    names = [] if profile.open_ended else _headed(profile, (), file)
    begun: float | None = None
    waiting: list[Reading] = []
    until = None if seconds is None else time.monotonic() + seconds
    while until is None or time.monotonic() < until:
        time.sleep(TURN_S)
        for event in listener.take():
            if event.reading is None:
                print(event.sentence, file=sys.stderr, flush=True)
                continue
            waiting.append(event.reading)
            begun = event.reading.at_s if begun is None else begun
            if not names and event.reading.at_s - begun >= GROUPS_S:
                names = _headed(profile, {name for one in waiting for name in one.values}, file)
        if names and begun is not None:
            for reading in waiting:
                values = (reading.values.get(name, math.nan) for name in names)
                print(row_text([round(reading.at_s - begun, 3), *values]), file=file, flush=True)
            waiting.clear()


def _headed(profile: Profile, told: Iterable[str], file: TextIO) -> list[str]:
    """Writes the line of headings; the quantities under them."""
    channels = profile.recorded(told)
    print(heading(channels), file=file, flush=True)
    return [channel.quantity for channel in channels]

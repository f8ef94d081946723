"""Recordings on disk: CSV, one row a reading."""

from __future__ import annotations

from collections.abc import Sequence
from pathlib import Path
from typing import Any

from wise_cellar.core.documents import Recording
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.recorded import recording_from_csv, recording_to_csv
from wise_cellar.store.reading import read_table, write_whole

LARGEST_MB = 100
"""Eight hours of twelve channels, ten times a second, have about 60."""


def read_recording(path: Path, given: dict[str, Any], needed: Sequence[str] = ()) -> tuple[Recording, Floats]:
    """See :func:`recording_from_csv`; raises :class:`DocumentError` with the file's name."""
    return read_table(path, "a recording", LARGEST_MB, lambda text: recording_from_csv(text, given, needed))


def write_recording(path: Path, recording: Recording, rows: Floats) -> None:
    """Write it whole or not at all; raises :class:`DocumentError` with one sentence."""
    write_whole(path, recording_to_csv(recording, rows))

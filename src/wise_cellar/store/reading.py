"""What goes wrong when a file is opened or written, in sentences; text of files that must be small."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable, Iterator
from contextlib import contextmanager, suppress
from pathlib import Path
from typing import TypeVar

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.words import one_line

LONGEST_PATH = 120
Read = TypeVar("Read")


def told(path: Path | str) -> str:
    """A path as a sentence may hold it: one that is very long by its end."""
    text = one_line(str(path), 4000)
    return text if len(text) <= LONGEST_PATH else "…" + text[-LONGEST_PATH:]


@contextmanager
def readable(path: Path, wanted: str) -> Iterator[None]:
    """Turn what the system says into a :class:`DocumentError`; ``wanted`` is what should have been named."""
    try:
        yield
    except FileNotFoundError as error:
        raise DocumentError(f"There is no file {told(path)}.") from error
    except IsADirectoryError as error:
        raise DocumentError(f"{told(path)} is a folder; name {wanted} in it.") from error
    except OSError as error:
        raise DocumentError(f"{told(path)} cannot be read: {_why(error)}.") from error


def small_text(path: Path, wanted: str, largest_mb: int, *, western: bool = False) -> str:
    """Text of a file in UTF-8; where it is not and ``western`` allows it, in that encoding.

    Raises :class:`DocumentError` for what is no text, or larger than any such file would be.
    """
    check_name(path)
    # Not by its size alone: a device or a pipe says nothing of what will come.
    with readable(path, wanted), path.open("rb") as file:
        raw = file.read(largest_mb * 1_000_000 + 1)
    if len(raw) > largest_mb * 1_000_000:
        raise DocumentError(f"{told(path)} is larger than {largest_mb} MB, far more than {wanted} would be.")
    if raw.startswith((b"\xff\xfe", b"\xfe\xff")):
        with suppress(UnicodeDecodeError):
            return raw.decode("utf-16")
    if b"\x00" in raw:
        raise DocumentError(f"{told(path)} is not text, so it is not {wanted}.")
    try:
        return raw.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        if western:
            return raw.decode("cp1252", errors="replace")
        raise DocumentError(f"{told(path)} is not text in UTF-8, so it is not {wanted}.") from error


def check_name(path: Path) -> None:
    """Refuse what the system could not even look for; raises :class:`DocumentError`."""
    if "\x00" in str(path):
        raise DocumentError(f"{told(path)} is no name of a file: it holds a character that no name may have.")


@contextmanager
def whole(path: Path) -> Iterator[Path]:
    """Another name beside ``path`` to write to; what stands there afterwards takes the name ``path``, or nothing does.

    A link stays a link, and rights that a file has stay its rights. Raises :class:`DocumentError` with one sentence,
    and then ``path`` is as it was.
    """
    check_name(path)
    part: Path | None = None
    try:
        place = Path(os.path.realpath(path))
        handle, name = tempfile.mkstemp(dir=place.parent, prefix=".wise-cellar-", suffix=place.suffix[:20])
        os.close(handle)
        part = Path(name)
        yield part
        part.chmod(rights(place))
        with part.open("rb") as written:
            os.fsync(written.fileno())
        os.replace(part, place)
        part = None
    except OSError as error:
        raise DocumentError(f"{told(path)} cannot be written: {_why(error)}; nothing was changed.") from error
    finally:
        if part is not None:
            part.unlink(missing_ok=True)


def rights(path: Path) -> int:
    """Those of the file that stands there; of a new one, to be read by everyone and written by its owner."""
    return path.stat().st_mode & 0o777 if path.exists() else 0o644


def write_whole(path: Path, text: str) -> None:
    """Write ``text`` to ``path`` whole or not at all; raises :class:`DocumentError` with one sentence."""
    with whole(path) as part:
        part.write_text(text, encoding="utf-8", errors="replace", newline="")


def write_picture(path: Path, save: Callable[[str], bool]) -> None:
    """Have ``save`` write a picture or a sheet to the name it is given; then as :func:`write_whole`."""
    with whole(path) as part:
        if not save(str(part)):
            raise OSError(0, "check that the folder may be written to and has room")


def _why(error: OSError) -> str:
    return error.strerror or one_line(str(error), 100)


def first_line(path: Path) -> str:
    """The first line that says anything, in small letters; empty where the file cannot be read."""
    try:
        with path.open("rb") as file:
            begun = file.read(4000).lstrip(b"\xef\xbb\xbf\r\n ").replace(b"\r", b"\n").split(b"\n", 1)[0]
    except (OSError, ValueError):
        return ""
    return begun.decode("latin-1").lower()


def read_table(path: Path, what: str, largest_mb: int, read: Callable[[str], Read]) -> Read:
    """What ``read`` makes of a table of text; raises :class:`DocumentError`, with the file's name, where it refuses."""
    text = small_text(path, what, largest_mb, western=True)
    try:
        return read(text)
    except DocumentError as error:
        raise DocumentError(f"{told(path.name)}: {error}", error.path) from error

"""What goes wrong when a file is opened, in sentences."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from wise_cellar.core.documents import DocumentError


@contextmanager
def readable(path: Path, wanted: str) -> Iterator[None]:
    """Turn what the system says into a :class:`DocumentError`; ``wanted`` is what should have been named."""
    try:
        yield
    except FileNotFoundError as error:
        raise DocumentError(f"There is no file {path}.") from error
    except IsADirectoryError as error:
        raise DocumentError(f"{path} is a folder; name {wanted} in it.") from error
    except OSError as error:
        raise DocumentError(f"{path} cannot be read: {error.strerror}.") from error

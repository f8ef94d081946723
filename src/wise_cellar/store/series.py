"""Long series as bytes, kept apart from the documents: those that are whole are named by their content, such as a
discharge's arrays; those that still grow have a name of their own."""

from __future__ import annotations

import hashlib
import io
import uuid
import zipfile
from collections.abc import Sequence

import numpy as np

from wise_cellar.core.curves import DischargeCurve
from wise_cellar.core.documents import DocumentError

GROWING = "growing-"
"""What the name of a series begins with that grows by parts."""
_ARRAYS = ("time_s", "voltage_v", "current_a", "temperature_k")


def series_key(body: bytes) -> str:
    """Name of a series: the same content has the same name."""
    return hashlib.sha256(body).hexdigest()


def growing_key() -> str:
    """Name of a series that begins now and grows by parts."""
    return GROWING + uuid.uuid4().hex


def is_sound(key: str, parts: Sequence[bytes]) -> bool:
    """Whether the parts of a series are what its name says, as far as it says anything."""
    return key.startswith(GROWING) or series_key(b"".join(parts)) == key


def pack_curve(curve: DischargeCurve) -> bytes:
    """A discharge as bytes, without its name."""
    buffer = io.BytesIO()
    np.savez_compressed(buffer, **{name: getattr(curve, name) for name in _ARRAYS})
    return buffer.getvalue()


def unpack_curve(name: str, body: bytes) -> DischargeCurve:
    """The discharge again; raises :class:`DocumentError` for bytes that hold none."""
    try:
        with np.load(io.BytesIO(body), allow_pickle=False) as arrays:
            return DischargeCurve(name, *(arrays[array] for array in _ARRAYS))
    except (ValueError, KeyError, OSError, EOFError, zipfile.BadZipFile) as error:
        raise DocumentError(f"The points of {name} are damaged; import the file again.") from error

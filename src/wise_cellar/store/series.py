"""Long series as bytes: a discharge's arrays, kept apart from the documents and named by their content."""

from __future__ import annotations

import hashlib
import io
import zipfile

import numpy as np

from wise_cellar.core.curves import DischargeCurve
from wise_cellar.core.documents import DocumentError

_ARRAYS = ("time_s", "voltage_v", "current_a", "temperature_k")


def series_key(body: bytes) -> str:
    """Name of a series: the same content has the same name."""
    return hashlib.sha256(body).hexdigest()


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

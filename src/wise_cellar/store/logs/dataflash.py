"""DataFlash logs, by pymavlink."""

from __future__ import annotations

import struct
from collections.abc import Mapping
from pathlib import Path
from typing import Any

import numpy as np

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.logbook.joining import Piece
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.store.curve_files import CancelledError
from wise_cellar.store.logs.common import Progress, Series, damaged, made, of_several, quietly, stop
from wise_cellar.store.reading import readable, told

_DATAFLASH = {
    "BAT": {"volts": "Volt", "amps": "Curr", "charge_mah": "CurrTot", "celsius": "Temp"},
    "CURR": {"volts": "Volt", "amps": "Curr", "charge_mah": "CurrTot"},
    "ARSP": {"airspeed_m_s": "Airspeed"}, "GPS": {"ground_speed_m_s": "Spd"}, "BARO": {"height_m": "Alt"},
    "CTUN": {"throttle": "ThO"},
}  # fmt: skip
"""Of each message, the fields of a flight log and the columns that tell them."""
_INSTANCES = ("Inst", "Instance", "I")
BEGINS = b"\xa3\x95\x80"
"""A message that describes a kind of message comes first."""
GPS_EPOCH_S, WEEK_S, LEAP_S = 315964800.0, 604800.0, 18.0
"""GPS time counts weeks from 1980-01-06, and is ahead of UTC by its leap seconds."""


def read_dataflash(path: Path, progress: Progress) -> Piece:
    """What a DataFlash log tells of a flight; raises :class:`DocumentError`."""
    from pymavlink.DFReader import DFReader_binary

    stop(progress, 0.05)
    with readable(path, "the log"), path.open("rb") as file:
        if file.read(len(BEGINS)) != BEGINS:
            raise damaged(path, "DataFlash")

    def heard(percent: int) -> None:
        stop(progress, 0.05 + 0.6 * percent / 100)

    reader = DFReader_binary.__new__(DFReader_binary)
    try:
        with quietly():
            reader.__init__(str(path), progress_callback=heard)
    except Exception as error:
        # The library leaves its file open where it gives up.
        opened = getattr(reader, "filehandle", None)
        if opened is not None:
            opened.close()
        if isinstance(error, CancelledError):
            raise
        raise damaged(path, "DataFlash", type(error).__name__) from error
    try:
        tables = {name: _messages(reader, name) for name in _DATAFLASH if name in reader.name_to_id}
    finally:
        reader.close()
    series: Series = {}
    several = 0
    for name in _DATAFLASH:
        table = tables.get(name)
        if table is None or "TimeUS" not in table:
            continue
        which = next((one for one in _INSTANCES if one in table), None)
        mine = np.ones(len(table["TimeUS"]), bool)
        if which is not None:
            mine = table[which] == table[which].min()
            if name == "BAT":
                several = len(np.unique(table[which]))
        for field, column in _DATAFLASH[name].items():
            if column in table and field not in series:
                series[field] = table["TimeUS"][mine] * 1e-6, table[column][mine]
    if "volts" not in series:
        raise DocumentError(f"{told(path.name)} tells of no battery; have it log BAT.")
    return made(path, series, _gps_clock(tables.get("GPS")), of_several(several))


def _messages(reader: Any, name: str) -> dict[str, Floats]:
    """All messages of a kind, a column each; what is no number is left out."""
    kind = reader.name_to_id[name]
    form = reader.formats[kind]
    size = struct.calcsize(form.msg_struct)
    body = b"".join(reader.data_map[at + 3 : at + 3 + size] for at in reader.offsets[kind])
    rows = list(struct.iter_unpack(form.msg_struct, body[: len(body) // size * size]))
    found = {}
    for place, (column, factor) in enumerate(zip(form.columns, form.msg_mults, strict=True)):
        if rows and isinstance(rows[0][place], int | float):
            found[column] = np.array([row[place] for row in rows], float) * (1.0 if factor is None else float(factor))
    return found


def _gps_clock(gps: Mapping[str, Floats] | None) -> float | None:
    if gps is None or not {"GWk", "GMS", "TimeUS"} <= gps.keys():
        return None
    told_ = np.flatnonzero(gps["GWk"] > 0)
    if not len(told_):
        return None
    at = int(told_[0])
    return GPS_EPOCH_S + WEEK_S * float(gps["GWk"][at]) + float(gps["GMS"][at]) * 1e-3 - LEAP_S - float(
        gps["TimeUS"][at]
    ) * 1e-6  # fmt: skip

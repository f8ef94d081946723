"""From a discharge as arrays to the record that a workspace keeps of it."""

from __future__ import annotations

import numpy as np

from wise_cellar.core.curves import DischargeCurve
from wise_cellar.core.documents import DischargeRecord
from wise_cellar.core.words import LONGEST_NAME, one_line


def discharge_record(
    curve: DischargeCurve, *, cell_type_id: str, identifier: str, series_key: str, file_name: str,
    air_temperature_c: float,
) -> DischargeRecord:  # fmt: skip
    """Record of ``curve``, whose arrays are the series ``series_key``; raises :class:`DocumentError`."""
    charge_mah = float(curve.charge_c[-1]) / 3.6
    return DischargeRecord.from_data(
        {
            "id": identifier,
            "name": curve.name,
            "cell_type_id": cell_type_id,
            "series_key": series_key,
            "points": len(curve.time_s),
            "file_name": one_line(file_name, LONGEST_NAME),
            "air_temperature_c": air_temperature_c,
            "logged_temperature": float(np.ptp(curve.temperature_k)) > 0,
            "mean_current_a": 3.6 * charge_mah / float(curve.time_s[-1] - curve.time_s[0]),
            "charge_mah": charge_mah,
            "end_v": float(curve.voltage_v.min()),
        }
    )

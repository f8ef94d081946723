"""A sample cell that was tested: its discharges, and the model fitted to three of them.

The discharges were made with an open physics-based model from published parameter sets, not measured on any product.
"""

from __future__ import annotations

from dataclasses import dataclass
from datetime import date
from functools import cache
from importlib import resources

import numpy as np

from wise_cellar.core.curves import DischargeCurve
from wise_cellar.core.documents import DischargeRecord, FittedModel, TracedChart
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K
from wise_cellar.store.records import discharge_record
from wise_cellar.store.series import pack_curve, series_key

TESTED_ID = "fell-21-50e"
_FILES = {"c10": "C/10", "c2": "C/2", "1c": "1C", "pulses": "pulses"}
HELD_OUT = "c2"


@dataclass(frozen=True)
class Bench:
    """Records of the tested cell, and the series that they name."""

    records: tuple[DischargeRecord, ...]
    series: dict[str, bytes]


@cache
def sample_bench() -> Bench:
    """All discharges of the tested cell; one is kept out of its fit, to be held against it."""
    records, series = [], {}
    for stem, name in _FILES.items():
        curve = sample_curve(stem)
        body = pack_curve(curve)
        series[series_key(body)] = body
        record = discharge_record(
            curve, cell_type_id=TESTED_ID, identifier=f"{TESTED_ID}-{stem}", series_key=series_key(body),
            file_name=f"{TESTED_ID}-{stem}.csv", air_temperature_c=25.0,
        )  # fmt: skip
        records.append(record.changed(name=name, day=date(2026, 3, 21), in_fit=stem != HELD_OUT))
    return Bench(tuple(records), series)


def sample_curve(stem: str) -> DischargeCurve:
    """One discharge of the tested cell: c10, c2, 1c or pulses.

    Its columns are known, so that nothing has to be guessed while the program begins.
    """
    with (resources.files("wise_cellar.demo") / "curves" / f"{TESTED_ID}-{stem}.csv").open(encoding="utf-8") as lines:
        seconds, volts, amps, _, celsius = np.loadtxt(lines, delimiter=",", skiprows=1, unpack=True)
    return DischargeCurve(_FILES[stem], seconds, volts, amps, celsius + ZERO_CELSIUS_K)


@cache
def sample_chart() -> tuple[TracedChart, bytes]:
    """A printed chart that was traced, and its picture. script/make-sample-chart drew it."""
    folder = resources.files("wise_cellar.demo") / "charts"
    chart = TracedChart.from_json((folder / "tarn-18-29p.json").read_text(encoding="utf-8"))
    return chart, (folder / "tarn-18-29p.png").read_bytes()


@cache
def sample_fit() -> FittedModel:
    """What a fit of the three constant discharges gives, shipped so that a fresh workspace need not wait for it."""
    text = (resources.files("wise_cellar.demo") / f"{TESTED_ID}.fit.json").read_text(encoding="utf-8")
    return FittedModel.from_json(text)


def fitted_curves() -> list[DischargeCurve]:
    """The discharges that the shipped fit rests on."""
    return [sample_curve(stem) for stem in _FILES if stem != HELD_OUT]

"""A spring of flights with the survey's packs: what was noted of them, and the logs of seven. Invented: the product's
own model flew them with truths that it is not told, and measured them as a craft would (script/make-sample-spring)."""

from __future__ import annotations

import io
import json
from functools import cache
from importlib import resources

import numpy as np

from wise_cellar.core.documents import FlightEntry, RecordedChannel, Recording, RecordingKind
from wise_cellar.store.series import series_key

CHANNELS = (
    ("volts", "V", 100.0), ("amps", "A", 10.0), ("charge", "mAh", 1.0), ("temperature", "°C", 10.0),
    ("throttle", "%", 1.0), ("airspeed", "m/s", 10.0), ("altitude", "m", 10.0),
)  # fmt: skip
"""With the steps in which they are kept, to one unit."""


@cache
def spring_flights() -> tuple[FlightEntry, ...]:
    """All flights, in order."""
    text = (resources.files("wise_cellar.demo") / "spring" / "flights.json").read_text(encoding="utf-8")
    return tuple(FlightEntry.from_data(data) for data in json.loads(text))


@cache
def spring_series() -> dict[str, bytes]:
    """The rows of the logs, by the keys that their recordings name."""
    return {series_key(body): body for body in _bodies().values()}


@cache
def spring_logs(packs: tuple[tuple[str, str, int, int], ...]) -> tuple[Recording, ...]:
    """The logs; ``packs``: of every built pack its identifier, cell type, cells in series and in parallel."""
    of = {identifier: rest for identifier, *rest in packs}
    found, bodies = [], _bodies()
    for entry in spring_flights():
        if not entry.recording_id:
            continue
        cell_type, series, parallel = of[entry.pack_id]
        found.append(
            Recording(
                id=entry.recording_id, name=entry.name, sample=True, kind=RecordingKind.FLIGHT, cell_type_id=cell_type,
                design_id=entry.design_id, series_count=series, parallel_count=parallel,
                channels=tuple(RecordedChannel(quantity=name, unit=unit) for name, unit, _ in CHANNELS),
                series_key=series_key(bodies[entry.recording_id]), begun_at=entry.flown_at, amps=0.0, least_v=0.0,
                ended="landed",
            )
        )  # fmt: skip
    return tuple(found)


@cache
def _bodies() -> dict[str, bytes]:
    body = (resources.files("wise_cellar.demo") / "spring" / "logs.npz").read_bytes()
    steps = np.array([1.0, *(each for _, _, each in CHANNELS)])
    with np.load(io.BytesIO(body), allow_pickle=False) as logs:
        return {name: (logs[name] / steps).astype("<f8").tobytes() for name in logs.files}

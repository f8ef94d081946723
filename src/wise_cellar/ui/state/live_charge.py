"""A charge that is watched: the charger's own current and volts against the plan, and a stop where it can be told."""

from __future__ import annotations

import time

import numpy as np
from PyQt6.QtCore import QObject

from wise_cellar.core.charge import Came, Charged, ChargePlan, Watched, flows, watched
from wise_cellar.core.documents import RecordingKind
from wise_cellar.core.growing import GrowingRows
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.words import one_line
from wise_cellar.instruments import EventKind, Reading
from wise_cellar.instruments.quantities import GROUP
from wise_cellar.ui.state.desk import Device
from wise_cellar.ui.state.recorder import ENDS, Recorder
from wise_cellar.ui.state.session import Session

ENDED_S = 60.0
"""A charger that gives nothing for so long has ended the charge."""
QUIET_S = 10.0
BY_ITSELF = "the charger has ended it"


class ChargeRecorder(Recorder):
    """Begins when a current flows, and goes on while the link comes and goes: the charger does too."""

    kind = RecordingKind.CHARGE

    def __init__(self, session: Session, device: Device, plan: ChargePlan, parent: QObject | None = None) -> None:
        super().__init__(session, device, parent)
        self.plan, self.expected = plan, plan.charged
        self.stops_at_alarm = bool(device.profile.told.off)
        self._places = _places(self._names)
        self._came = GrowingRows(5 + len(self._places[1]))
        self._flowed_s = 0.0
        self.watched: Watched | None = None

    @property
    def came(self) -> Came:
        """What has come so far, of every reading that told volts and amps."""
        return _came(self._came.rows)

    @property
    def silent_s(self) -> float:
        """Since when nothing has come, where that is to be told; else nought."""
        silent = time.monotonic() - self._heard
        return silent if self.running and silent > QUIET_S else 0.0

    def begin(self, name: str) -> None:
        """Write down what comes from now on; raises ``WorkspaceError``."""
        plan, complete = self.plan, self._session.complete
        self._write_down(
            name, cell_type_id=plan.pack.cell.id, design_id=complete.design.id, series_count=plan.cells,
            parallel_count=plan.pack.recipe.parallel_count, amps=plan.current_a, least_v=plan.cells * plan.full_v,
        )  # fmt: skip

    def expect(self, expected: Charged) -> None:
        """What is expected is known better: this charge began elsewhere than was planned."""
        self.expected = expected

    def stop_the_charge(self, why: str) -> None:
        """Tell the charger to stop, and end the recording."""
        self.switch_off()
        self.stop(why)

    def _begins(self, reading: Reading) -> bool:
        self._hear_it()
        amps = reading.values.get("amps", 0.0)
        return flows(self.plan, amps)

    def _take(self, elapsed: float, reading: Reading) -> None:
        values = [reading.values.get(self._names[place], np.nan) for place in self._places[1]]
        told = reading.values
        warmth = told.get("temperature", np.nan)
        self._came.append([elapsed, told["amps"], told["volts"], warmth, self.drawn_mah, *values])
        if self.came.flows(self.plan):
            self._flowed_s = elapsed
        self.watched = watched(self.plan, self.expected, self.came)

    def _why_over(self, elapsed: float, reading: Reading) -> str:
        if elapsed - self._flowed_s > ENDED_S:
            return BY_ITSELF
        alarms = self.watched.alarms if self.watched is not None else ()
        stopping = next((alarm for alarm in alarms if alarm.stops), None)
        if stopping is None or not self.stops_at_alarm:
            return ""
        self.switch_off()
        return stopping.finding.sentence

    def _lost(self, why: str) -> None:
        if why == ENDS[EventKind.CLOSED]:
            self.stop(why)

    def forget(self) -> None:
        """Neither what was looked at."""
        super().forget()
        if not self.running:
            self._came = GrowingRows(5 + len(self._places[1]))

    def _switches_off(self) -> bool:
        return False


def came_of(quantities: list[str], rows: Floats) -> Came:
    """What a recording of a charge holds."""
    told, groups = _places(quantities)
    there = np.isfinite(rows[:, [1 + place for place in told[:2]]]).all(axis=1)
    amps, volts, celsius = (_column(rows[there], place) for place in told)
    each = [_column(rows[there], place) for place in groups]
    return Came.of(rows[there, 0], amps, volts, np.stack(each, axis=1) if each else np.zeros((len(amps), 0)), celsius)


def _places(quantities: list[str]) -> tuple[list[int], list[int]]:
    """Where amps, volts and warmth stand, -1 where they do not, and where the groups do."""
    told = [quantities.index(name) if name in quantities else -1 for name in ("amps", "volts", "temperature")]
    return told, [place for place, name in enumerate(quantities) if name.startswith(GROUP)]


def _column(rows: Floats, place: int) -> Floats:
    return rows[:, 1 + place] if place >= 0 else np.full(len(rows), np.nan)


def _came(rows: Floats) -> Came:
    return Came(
        time_s=rows[:, 0], amps=rows[:, 1], volts=rows[:, 2], groups=rows[:, 5:], celsius=rows[:, 3],
        charge_mah=rows[:, 4],
    )  # fmt: skip


def charge_name(plan: ChargePlan) -> str:
    """What a charge of a plan is called."""
    return one_line(f"{plan.pack.name}, {plan.goal}", 60)

"""What the discharges given to a fit tell of a cell, and what they leave open."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import cached_property

import numpy as np

from wise_cellar.core.cells import believed, resistance_mohm
from wise_cellar.core.curves import DischargeCurve
from wise_cellar.core.documents import CellType, DocumentError
from wise_cellar.core.fit.steps import FastSteps, of_two_currents
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K
from wise_cellar.core.units import bare_number, format_celsius, format_mah, format_number, format_significant

MOST_OVER, JUST_OVER = 1.02, 1.005
"""How far the charge drawn may pass the capacity that is given; how far it is passed where it passes the sheet's."""
START_S = 60.0
TEMPERATURE_SPREAD_K, AT_RATE, ALIKE_RATES = 10.0, 0.4, 2.0
"""Two runs of like currents, by the last factor, must differ by this much in temperature before activation energies are
fitted: a slow warm run and a fast cold one do not tell rate and cold apart. A fit rests on the temperatures of runs at
this share of its highest current, or more."""
SLOWEST_RATE = 0.25
"""Above this share of capacity an hour the slowest curve no longer tells the capacity."""
BASE_SHARE = 0.9
"""Of the most charge drawn: what goes as deep as any drew at least as much."""
SECOND_RATE = 1.5
"""Currents that differ by this factor tell the lag."""
REACHES_CUT_OFF_V = 0.1
FEW_PERCENT = 0.03


@dataclass(frozen=True)
class Told:
    """The curves of a fit, of a cell by its sheet."""

    curves: Sequence[DischargeCurve]
    steps: Sequence[FastSteps]
    """Of each curve as it is fitted."""
    cell: CellType
    given_mah: float | None
    """Its capacity, where somebody knows it."""

    def __post_init__(self) -> None:
        if self.given_mah is not None and self._drawn_mah > self.given_mah * MOST_OVER:
            raise DocumentError(
                f"{format_mah(self.given_mah)} are given, but {self._deepest.name} drew {format_mah(self._drawn_mah)}:"
                " give its true capacity, or leave it to the discharges."
            )

    @property
    def _deepest(self) -> DischargeCurve:
        return max(self.curves, key=lambda curve: float(curve.charge_c[-1]))

    @property
    def _drawn_mah(self) -> float:
        return float(self._deepest.charge_c[-1]) / 3.6

    @cached_property
    def _slow_whole(self) -> DischargeCurve | None:
        """The slowest that tells the capacity."""
        slow = [c for c in self.curves if self._to_the_cut_off(c) and _rate(c) <= SLOWEST_RATE]
        return min(slow, key=lambda c: c.sustained_a, default=None)

    @property
    def capacity_open(self) -> bool:
        """Whether neither a discharge nor anybody told the capacity."""
        return self.given_mah is None and self._slow_whole is None

    @property
    def charge_c(self) -> float:
        """Capacity, coulombs: as given, as drawn slowly to the cut-off, or the sheet's."""
        if self.given_mah is not None:
            return 3.6 * self.given_mah
        if self._slow_whole is not None:
            return float(self._slow_whole.charge_c[-1])
        return 3.6 * max(self.cell.capacity_mah, JUST_OVER * self._drawn_mah)

    @cached_property
    def fastest_a(self) -> float:
        """The highest current that was sustained, A."""
        return float(f"{max(curve.sustained_a for curve in self.curves):.6g}")

    @property
    def lowest_soc(self) -> float:
        """Below which nothing was seen."""
        return max(0.0, 1.0 - 3.6 * self._drawn_mah / self.charge_c)

    @cached_property
    def stepped(self) -> bool:
        """Whether fast steps tell what resistance acts at once."""
        return any(steps.told for steps in self.steps)

    @cached_property
    def saturates(self) -> bool:
        """Whether they tell how it falls with current."""
        return of_two_currents(np.concatenate([steps.middle_a for steps in self.steps]))

    @cached_property
    def lag(self) -> bool:
        """Whether two runs tell what stays behind at rate."""
        return any(self._tells_lag(slow, fast) for slow in self.curves for fast in self.curves)

    @cached_property
    def warmth(self) -> bool:
        """Whether two runs tell cold from rate. Self-heating is no test of it: what counts is where a run began."""
        return any(
            _start_c(one) - _start_c(other) >= TEMPERATURE_SPREAD_K and _alike(one, other)
            for one in self.curves for other in self.curves
        )  # fmt: skip

    @property
    def warmths_c(self) -> tuple[float, float]:
        """The coldest and the warmest of runs at rate, °C."""
        at_rate = [c.temperature_k for c in self.curves if c.sustained_a >= AT_RATE * self.fastest_a]
        celsius = np.concatenate(at_rate) - ZERO_CELSIUS_K
        return float(celsius.min()), float(celsius.max())

    def remarks(self) -> list[str]:
        """What is left open, and what stands for it, in sentences."""
        return [words for words in (self._capacity_words(), *self._resistance_words(), self._cold_words()) if words]

    def _capacity_words(self) -> str:
        if not self.capacity_open:
            return ""
        flown_mah = self.charge_c / 3.6
        why = "the sheet's" if flown_mah == self.cell.capacity_mah else f"a little more than {self._deepest.name} drew"
        return (
            "No discharge is slow and complete enough to tell the capacity (four hours or more, to the cut-off):"
            f" {format_mah(flown_mah)} fly, {why}."
        )

    def _resistance_words(self) -> list[str]:
        words = []
        if not self.stepped:
            whose = "the specimens on the bench" if believed(self.cell, "dcir_mohm") is not None else "the sheet"
            words.append(
                "No log holds a fast step of the current, which alone tells R₀ from the lag: ten seconds'"
                f" resistance is held at the {format_significant(resistance_mohm(self.cell), 3)} mΩ of {whose},"
                " and as doubtful."
            )
        elif not self.saturates:
            words.append(
                "All fast steps are about one current: that the resistance falls with current is not told, so punches"
                " beyond it may sag less than shown."
            )
        if not self.lag:
            words.append(
                "No two runs of different currents go down to the cut-off, the faster at more than a quarter of the"
                " capacity an hour: what stays behind in the cell at rate is an estimate for its class."
            )
        if self.lowest_soc > FEW_PERCENT:
            words.append(
                f"No discharge goes below {format_number(100 * self.lowest_soc, 0)} % of the charge: there the"
                " family's voltage table stands."
            )
        return words

    def _cold_words(self) -> str:
        if self.warmth:
            return ""
        began = [_start_c(curve) for curve in self.curves]
        estimate = "How the cell behaves in the cold is an estimate for its class."
        if max(began) - min(began) < TEMPERATURE_SPREAD_K:
            return f"All discharges began near {format_celsius(min(began))}. {estimate}"
        return (
            f"Discharges began at {bare_number(min(began), '°C')} to {format_celsius(max(began))}, but none of"
            f" like currents, so rate and cold are not told apart. {estimate}"
        )

    def _to_the_cut_off(self, curve: DischargeCurve) -> bool:
        return float(curve.voltage_v.min()) <= self.cell.min_voltage_v + REACHES_CUT_OFF_V

    def _tells_lag(self, slow: DischargeCurve, fast: DischargeCurve) -> bool:
        """Whether two runs differ in current alone, and the faster leaves charge behind at the cut-off."""
        deep = float(slow.charge_c[-1]) >= BASE_SHARE * float(fast.charge_c[-1])
        apart = fast.sustained_a >= SECOND_RATE * slow.sustained_a
        down = self._to_the_cut_off(fast) or float(fast.charge_c[-1]) >= BASE_SHARE * self.charge_c
        return deep and apart and down and _rate(fast) > SLOWEST_RATE


def slowest(curves: Sequence[DischargeCurve]) -> DischargeCurve:
    """Of those that go far enough down, the one that the open-circuit voltage is lifted from."""
    enough = BASE_SHARE * max(float(curve.charge_c[-1]) for curve in curves)
    return min((curve for curve in curves if float(curve.charge_c[-1]) >= enough), key=lambda curve: curve.sustained_a)


def _rate(curve: DischargeCurve) -> float:
    """Sustained current in times of what it drew, 1/h."""
    return curve.sustained_a / (float(curve.charge_c[-1]) / 3600)


def _start_c(curve: DischargeCurve) -> float:
    """Temperature in the first minute, °C."""
    return float(curve.temperature_k[curve.time_s <= curve.time_s[0] + START_S].mean()) - ZERO_CELSIUS_K


def _alike(one: DischargeCurve, other: DischargeCurve) -> bool:
    """Whether two runs are of like currents."""
    return max(one.sustained_a, other.sustained_a) <= ALIKE_RATES * min(one.sustained_a, other.sustained_a)

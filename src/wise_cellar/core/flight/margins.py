"""How far a point of a flight is from its limits: those that end it, and the landing rule."""

from __future__ import annotations

import numpy as np

from wise_cellar.core.flight.balance import Demand, Point
from wise_cellar.core.flight.batch import Ending, FlightBatch, least, total
from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.physics.motor import MOST_DUTY
from wise_cellar.core.physics.numbers import no, smaller, where

Margins = tuple[Floats, Floats, Floats, Floats]


def _hard_margins(batch: FlightBatch, point: Point, demand: Demand) -> Margins:
    """Distance to each hard limit, positive while it holds.

    Cell cut-off, brown-out and out of thrust in volts a cell; cannot supply as the discriminant. A dip of the cells in
    a burst is flown through, unless the flight is strict.
    """
    cut_off = least(point.cell_v - batch.cut_off_v)
    return (
        where(demand.punch & no(batch.strict), np.inf, cut_off),
        (point.bus_v - batch.brown_out_v) / batch.series,
        (point.bus_v - demand.motor_v / smaller(batch.most_duty, MOST_DUTY)) / batch.series,
        point.supply,
    )


def _least(margins: Margins) -> Floats:
    cut_off, brown_out, thrust, supply = margins
    return smaller(smaller(brown_out, cut_off), smaller(thrust, supply))


def _landing_margin(batch: FlightBatch, point: Point) -> Floats:
    """Distance to the landing rule, whichever it goes by: volts, or state of charge."""
    loaded = point.bus_v / batch.series - batch.landing_v
    margin = smaller(loaded, total(batch.counted * point.state.soc) - batch.landing_soc)
    if batch.rests_to_land:
        rest = where(batch.there, batch.cell.ocv(point.state.soc), np.inf)
        margin = smaller(margin, least(rest) - batch.landing_rest_v)
    return margin


class Standing:
    """How far a point is from its limits, each looked at once."""

    def __init__(self, batch: FlightBatch, point: Point, demand: Demand) -> None:
        self.point = point
        self.hard = _hard_margins(batch, point, demand)
        self.least = _least(self.hard)
        self.landing = _landing_margin(batch, point)

    def watched(self, rule_idle: Bools) -> Floats:
        """Least margin of what a step may cross: the hard limits, and the landing threshold unless ``rule_idle``."""
        return smaller(self.least, where(rule_idle, np.inf, self.landing))


def hard_ending(margins: Margins) -> Ints:
    """The limit that was met: no power to be had before all, else the one that lies highest in voltage."""
    cut_off, brown_out, thrust, supply = margins
    by_volts = where(brown_out < cut_off, Ending.BROWN_OUT, Ending.CELL_CUT_OFF)
    by_volts = where(thrust < smaller(brown_out, cut_off), Ending.OUT_OF_THRUST, by_volts)
    return where(supply < 0.0, Ending.NO_POWER, by_volts)

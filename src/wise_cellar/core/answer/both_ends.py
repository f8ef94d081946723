"""Of an extended battery, the other call home: the pilot's volts beside the craft's counter, or the other way round."""

from __future__ import annotations

from dataclasses import dataclass

from wise_cellar.core.documents import CompleteDesign, CounterSees, LandingBasis, LandingRule
from wise_cellar.core.flight.batch import Ending
from wise_cellar.core.flight.integrator import fly
from wise_cellar.core.lowering.designs import lower, lower_one

APART_S = 5.0
"""Two ends nearer than this are one."""


@dataclass(frozen=True)
class OtherEnd:
    """What another rule would have done of the same flight."""

    words: str
    """By what: "by its own counter", "by volts under load"."""
    rule: LandingRule
    duration_s: float
    called: bool
    """Whether that rule calls at all before something else ends the flight."""


def other_end(complete: CompleteDesign, factor: float, duration_s: float) -> OtherEnd | None:
    """The end that the design's landing rule did not choose; none where there is no own battery beside an auxiliary, or
    where both calls fall together.

    ``factor`` is the craft's calibration, ``duration_s`` what the chosen rule gives. Source: the same flight flown with
    the other rule.
    """
    present = complete.design.landing
    if complete.own_battery is None or len(complete.packs) < 2 or complete.mission.on_bench:
        return None
    by_counter = present.basis is LandingBasis.COUNTER
    rule = (
        present.changed(basis=LandingBasis.LOADED)
        if by_counter
        else present.changed(basis=LandingBasis.COUNTER, counter_sees=CounterSees.OWN)
    )
    flown = fly(lower([lower_one(complete.changed(design=complete.design.changed(landing=rule)), factor)]))
    seconds = float(flown.lasted_s[0])
    if abs(seconds - duration_s) < APART_S:
        return None
    called = Ending(int(flown.ending[0])) is Ending.RESERVE_REACHED
    return OtherEnd("by volts under load" if by_counter else "by its own counter", rule, seconds, called)

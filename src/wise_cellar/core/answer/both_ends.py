"""Of an extended battery, the other call home: the pilot's volts beside the craft's counter, or the other way round."""

from __future__ import annotations

from dataclasses import dataclass

from wise_cellar.core.documents import CompleteDesign, CounterSees, LandingBasis, LandingRule
from wise_cellar.core.flight.batch import Ending, FlightTraces

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


def other_rule(complete: CompleteDesign) -> LandingRule | None:
    """The landing rule that the design did not choose; none where there is no own battery beside an auxiliary."""
    present = complete.design.landing
    if complete.own_battery is None or len(complete.packs) < 2 or complete.mission.on_bench:
        return None
    if present.basis is LandingBasis.COUNTER:
        return present.changed(basis=LandingBasis.LOADED)
    return present.changed(basis=LandingBasis.COUNTER, counter_sees=CounterSees.OWN)


def other_end(rule: LandingRule, flown: FlightTraces, duration_s: float) -> OtherEnd | None:
    """The end that the design's landing rule did not choose; none where both calls fall together.

    ``flown`` is the same flight, alone, with the other ``rule``; ``duration_s`` what the chosen rule gives. Source: the
    flight flown with either rule.
    """
    seconds = float(flown.lasted_s[0])
    if abs(seconds - duration_s) < APART_S:
        return None
    called = Ending(int(flown.ending[0])) is Ending.RESERVE_REACHED
    words = "by its own counter" if rule.basis is LandingBasis.COUNTER else "by volts under load"
    return OtherEnd(words, rule, seconds, called)

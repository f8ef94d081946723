"""When the craft calls the pilot home, by what it goes by, and what an auxiliary would still hold then."""

from __future__ import annotations

from dataclasses import dataclass

from wise_cellar.core.documents import CompleteDesign, CounterSees, LandingBasis, LandingRule
from wise_cellar.core.flight import Ending, fly
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.units import format_number, format_volts


@dataclass(frozen=True)
class PackLeft:
    """What one pack holds when the rule calls."""

    name: str
    own: bool
    left_mah: float
    left_share: float


@dataclass(frozen=True)
class CounterOutcome:
    """One way to be called home, flown."""

    rule: LandingRule
    words: str
    call_s: float
    duration_s: float
    ending: Ending
    packs: tuple[PackLeft, ...]

    @property
    def called(self) -> bool:
        """Whether the rule calls before something else ends the flight."""
        return self.ending in (Ending.RESERVE_REACHED, Ending.MISSION_COMPLETE)


def counter_outcomes(complete: CompleteDesign, factor: float) -> tuple[CounterOutcome, ...]:
    """By loaded volts, by what its own battery gave, and by all charge taken for its own; in one batch.

    Percent, capacity of the counter and policy are those of the design's landing rule; ``factor`` is the craft's
    calibration.
    """
    present = complete.design.landing
    called_v = complete_with(complete, LandingBasis.LOADED).landing_voltage_v
    options = (
        (f"Volts under load, {format_volts(called_v)} a cell",
         {"basis": LandingBasis.LOADED}),
        (f"{format_number(present.charge_percent, 0)} % counted from its own battery",
         {"basis": LandingBasis.COUNTER, "counter_sees": CounterSees.OWN}),
        (f"{format_number(present.charge_percent, 0)} % of all charge, taken for its own",
         {"basis": LandingBasis.COUNTER, "counter_sees": CounterSees.ALL}),
    )  # fmt: skip
    rules = [present.changed(**changes) for _, changes in options]
    designs = [_with(complete, rule) for rule in rules]
    batch = lower([lower_one(design, factor) for design in designs])
    flown = fly(batch)
    late = flown.late_state.soc[:, 0]
    found = []
    for place, (rule, (words, _)) in enumerate(zip(rules, options, strict=True)):
        packs = tuple(
            PackLeft(
                pack.name,
                pack.own,
                float(late[branch, place]) * pack.label_mah * pack.state.capacity_percent / 100,
                float(late[branch, place]),
            )
            for branch, pack in enumerate(complete.packs)
        )
        found.append(
            CounterOutcome(
                rule, words, float(flown.landing_call_s[place]), float(flown.lasted_s[place]),
                Ending(int(flown.ending[place])), packs,
            )
        )  # fmt: skip
    return tuple(found)


def complete_with(complete: CompleteDesign, basis: LandingBasis) -> CompleteDesign:
    """The design with its landing rule on another footing."""
    return _with(complete, complete.design.landing.changed(basis=basis))


def _with(complete: CompleteDesign, rule: LandingRule) -> CompleteDesign:
    return complete.changed(design=complete.design.changed(landing=rule))

"""Minutes that differ, told apart: one thing after the other is changed from the one flight to the other.

Each part is what the minutes change by when that one thing is changed, those before it changed already; so the parts
add up, and their order is told. Not modelled: what two things do together beyond that is in the later one.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace

import numpy as np

from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.logbook.flying import fly_many
from wise_cellar.core.logbook.noted import with_shares
from wise_cellar.core.logbook.reflown import NO_CALL
from wise_cellar.core.units import format_celsius, format_minutes, format_number, format_speed

LEAST_S = 1.0


@dataclass(frozen=True)
class Setting:
    """All that minutes hang on."""

    complete: CompleteDesign
    """With the mission as it is flown, on and on, and its landing rule."""
    sensed: float = 1.0
    """Power, by what the craft's sensor told of it, over what was expected."""
    power: float = 1.0
    """The same by what flowed."""
    capacity: float = 1.0
    resistance: float = 1.0
    drawn_mah: float | None = None
    """Charge with which it landed; none: when its landing rule called."""


@dataclass(frozen=True)
class Part:
    """What one thing makes of the minutes."""

    name: str
    seconds: float
    words: str
    """What it was, and what it became."""


@dataclass(frozen=True)
class Apart:
    """From one flight to the other, in parts."""

    first_s: float
    last_s: float
    """As it was."""
    parts: tuple[Part, ...]

    @property
    def left_s(self) -> float:
        """What no part explains."""
        return self.last_s - self.first_s - sum(part.seconds for part in self.parts)

    def sentences(self) -> list[str]:
        """Every part, the largest first, and what is left."""
        ordered = sorted(self.parts, key=lambda part: -abs(part.seconds))
        told = [f"{signed_minutes(part.seconds)}: {part.name}, {part.words}." for part in ordered]
        return [*told, f"{signed_minutes(self.left_s)}: left unexplained."]


def signed_minutes(seconds: float) -> str:
    """A difference of minutes with its sign."""
    return f"{'−' if seconds < 0 else '+'}{format_minutes(abs(seconds))}"


def last_s(settings: Sequence[Setting]) -> list[float]:
    """How long each flies, s: until its charge is drawn, or its landing rule calls."""
    flown = fly_many([(_flies(one), one.power) for one in settings])
    return [
        along.lasted_s if one.drawn_mah is None else float(np.interp(one.drawn_mah, along.drawn_mah, along.time_s))
        for one, along in zip(settings, flown, strict=True)
    ]


def _flies(setting: Setting) -> CompleteDesign:
    complete = setting.complete
    if setting.drawn_mah is not None:
        complete = complete.with_design(landing=complete.design.landing.changed(**NO_CALL))
    return complete.with_pack(state=with_shares(complete.pack.state, setting.capacity, setting.resistance))


Step = tuple[str, Callable[[Setting, Setting], Setting], Callable[[Setting, Setting], str]]


def apart(first: Setting, last: Setting, first_s: float | None, flown_s: float) -> Apart:
    """The minutes from one to the other; ``first_s`` is what the first really took (none: it is a prediction),
    ``flown_s`` what the last did."""
    settings, names = [first], []
    for name, change, words in STEPS:
        now = settings[-1]
        changed = change(now, last)
        if changed != now:
            settings.append(changed)
            names.append((name, words(now, last)))
    took = last_s(settings)
    parts = [
        Part(name, after - before, words)
        for (name, words), before, after in zip(names, took[:-1], took[1:], strict=True)
        if abs(after - before) >= LEAST_S
    ]
    return Apart(took[0] if first_s is None else first_s, flown_s, tuple(parts))


def _percent(share: float) -> str:
    return f"{format_number(100 * share, 0)} %"


def _craft(now: Setting, last: Setting) -> Setting:
    """Another craft, or another pack: all but weather, start, mission and landing."""
    mine, theirs = now.complete.design, last.complete.design
    first = theirs.packs[0]
    kept = first.changed(state=first.state.changed(
        start_charge_percent=mine.packs[0].state.start_charge_percent, temperature_c=mine.packs[0].state.temperature_c,
    ))  # fmt: skip
    design = theirs.changed(packs=(kept, *theirs.packs[1:]), conditions=mine.conditions, landing=mine.landing)
    complete = last.complete.changed(design=design, mission=now.complete.mission)
    return replace(now, complete=complete.changed(design=design.changed(id=mine.id, name=mine.name)))


def _air(now: Setting, last: Setting) -> Setting:
    return replace(now, complete=now.complete.with_design(conditions=last.complete.design.conditions))


def _start(now: Setting, last: Setting) -> Setting:
    theirs = last.complete.design.packs[0].state
    state = now.complete.design.packs[0].state.changed(
        start_charge_percent=theirs.start_charge_percent, temperature_c=theirs.temperature_c
    )
    return replace(now, complete=now.complete.with_pack(state=state))


def _flown_so(now: Setting, last: Setting) -> Setting:
    mission = last.complete.mission.changed(id=now.complete.mission.id, name=now.complete.mission.name)
    return replace(now, complete=now.complete.changed(mission=mission))


def _sensed(now: Setting, last: Setting) -> Setting:
    """The power that its sensor told, where that was put right since."""
    return now if last.sensed == last.power else replace(now, power=last.sensed, sensed=last.sensed)


def _rule(now: Setting, last: Setting) -> Setting:
    landing = now.complete.with_design(landing=last.complete.design.landing)
    return replace(now, complete=landing, drawn_mah=last.drawn_mah)


def _weather(setting: Setting) -> str:
    weather = setting.complete.design.conditions
    return f"{format_celsius(weather.air_temperature_c)} and {format_speed(weather.wind_m_s)}"


def _from_to(words: Callable[[Setting], str]) -> Callable[[Setting, Setting], str]:
    return lambda now, last: f"{words(last)} in place of {words(now)}"


def _started(setting: Setting) -> str:
    return _percent(setting.complete.pack.state.start_charge_percent / 100)


STEPS: tuple[Step, ...] = (
    ("craft and pack", _craft, _from_to(lambda one: f"{one.complete.craft.name} with {one.complete.pack.words}")),
    ("air", _air, _from_to(_weather)),
    ("how full it started", _start, _from_to(_started)),
    ("how it was flown", _flown_so, lambda _now, _last: "its phases in place of what was meant"),
    ("power, as the sensor told it", _sensed, lambda _now, last: f"{_percent(last.sensed)} of what was expected"),
    (
        "power as it was", lambda now, last: replace(now, power=last.power, sensed=last.sensed),
        lambda now, last: f"{_percent(last.power)} in place of {_percent(now.power)}",
    ),
    (
        "capacity", lambda now, last: replace(now, capacity=last.capacity),
        lambda _now, last: f"{_percent(last.capacity)} of what was expected",
    ),
    (
        "resistance", lambda now, last: replace(now, resistance=last.resistance),
        lambda _now, last: f"{_percent(last.resistance)} of what was expected",
    ),
    ("when it landed", _rule, lambda _now, _last: "another charge left than the landing rule would leave"),
)  # fmt: skip
"""What is changed, in this order."""

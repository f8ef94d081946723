"""A balance lead read with a meter before anything is plugged in: which fault explains the readings best.

Every hypothesis is a wiring: the node that each pin really lies at, the sign of each group, where a joint is open, how
the leads are. What it would read follows from the groups' volts; hypotheses are ranked by how likely the readings are
under each, with what is rarer believed less. Source: Bayes' rule with Gaussian readings. Not modelled: a meter that
loads what it reads, wires that touch one another.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import NamedTuple

import numpy as np

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.physics.arrays import Bools, Floats, Ints
from wise_cellar.core.units import format_number
from wise_cellar.core.words import upper_first

READING_V = 0.005
"""What one reading of a meter is good for."""
GROUP_V = 0.008
"""How far a group may be from what is expected of it."""
FLOATING_V = 0.6
"""A pin that lies at nothing reads about nought, or drifts."""
WORTH = 4.0
"""Natural logarithm of the odds down to which a second explanation is told."""
EXPLAINED = 16.0
"""Mean square of the readings' distances, in their doubts, beyond which nothing tried explains them."""
MILLIVOLTS_V = 100.0
TOLERATED = 0.5
"""Readings that one fault may leave unexplained before two are tried."""
MOST_TOLD = 4
MOST_STATES = 20_000
"""Wirings of two faults that are tried: all of leads up to 8S, of longer ones those that begin with a likely fault."""


class Against(StrEnum):
    """How the pins are read."""

    NEGATIVE = "each against the most negative"
    NEIGHBOUR = "each against the one before"


@dataclass(frozen=True)
class Readings:
    """Volts at the pins, counted from the most negative: of ``S + 1`` pins against the first one (whose own reading is
    left out), or of each against the one before: ``S`` readings either way. ``main_v``: at the main plug, red on
    positive; none where it was not read."""

    volts: tuple[float, ...]
    against: Against = Against.NEGATIVE
    main_v: float | None = None


@dataclass(frozen=True)
class Fault:
    """One thing that is wrong. ``first`` and ``second`` are pins counted from 0, or groups counted from 0."""

    kind: str
    first: int = 0
    second: int = 0

    @property
    def words(self) -> str:
        """As a builder would say it; wires are counted from 1 at the most negative, groups likewise."""
        one, other = self.first + 1, self.second + 1
        return {
            "swap": f"wires {one} and {other} are swapped",
            "miss": f"wire {one} lies at nothing: not joined, or broken",
            "off": f"wire {one} lies at the joint of wire {other}",
            "shift": f"from wire {one} on every wire lies one joint too {'high' if self.second > 0 else 'low'}",
            "reversed": "the whole lead is the wrong way round",
            "turn": f"group {one} is the wrong way round",
            "short": f"group {one} reads nothing: shorted, or dead",
            "down": f"group {one} is far down",
            "open": f"the joint above group {one} is open",
            "leads": "the main leads are reversed",
        }[self.kind]


_LOG_PRIOR = {
    "swap": -3.0, "miss": -3.0, "off": -3.5, "shift": -3.5, "reversed": -3.5, "turn": -4.0, "short": -4.5,
    "down": -4.0, "open": -4.0, "leads": -3.0,
}  # fmt: skip
"""How rare each is, natural logarithms: what is handled most goes wrong most. Our estimate."""
_WIRING = ("swap", "miss", "off", "shift", "reversed", "leads")


@dataclass(frozen=True)
class Explanation:
    """A state of the lead that would read as was read."""

    faults: tuple[Fault, ...]
    """None where all is right."""
    off_v: float
    """Root mean square of what is left unexplained."""

    @property
    def right(self) -> bool:
        """Whether nothing is wrong."""
        return not self.faults

    @property
    def words(self) -> str:
        """What is wrong, in a sentence."""
        return "All is as it should be" if self.right else upper_first(" and ".join(one.words for one in self.faults))

    @property
    def advice(self) -> str:
        """What to do before going on."""
        if self.right:
            return "The lead may be plugged into a charger."
        kinds = {one.kind for one in self.faults}
        if kinds & {"turn", "short"}:
            return (
                "Do not connect a charger, and join nothing more: part this group from its neighbours with both faces"
                " covered, and read every cell of it."
            )
        if kinds == {"down"}:
            return "Read its cells one by one before you go on: one of them may be short, or the joint is a poor one."
        if kinds == {"open"}:
            return "Do not connect a charger. Cover the other face, close the joint, and read again."
        return (
            "Do not connect a charger: it would drive current the wrong way. Mend one wire at a time, the others"
            " covered."
        )


@dataclass(frozen=True)
class Diagnosis:
    """The likeliest explanations, the best first."""

    explanations: tuple[Explanation, ...]
    explained: bool
    """Whether the best of them fits the readings at all."""

    @property
    def best(self) -> Explanation:
        """The likeliest."""
        return self.explanations[0]

    def sentences(self) -> list[str]:
        """What it is, what else it may be, what to do."""
        if not self.explained:
            return [
                (
                    "Nothing that was tried explains these readings; nearest,"
                    f" {format_number(1000 * self.best.off_v, 0)} mV off, is this: "
                )
                + self.best.words
                + ".",
                "Do not connect a charger. Read every pin again, against the same one, with the probe on bare metal.",
            ]
        told = [f"{self.best.words}.", self.best.advice]
        if len(self.explanations) > 1:
            others = "; or ".join(one.words[0].lower() + one.words[1:] for one in self.explanations[1:])
            told.append(f"It may as well be that {others}.")
        return told


@dataclass
class _States:
    """Many states of a lead at once."""

    node: Ints
    """(states, pins) Where each pin lies, −1 at nothing."""
    sign: Floats
    """(states, groups) What each group has of its volts."""
    lead: Floats
    """(states,) 1, or −1 where the main leads are reversed."""
    cut: Ints
    """(states,) The first node behind an open joint; one more than there are nodes where none is open."""
    log_prior: Floats
    faults: list[tuple[Fault, ...]] = field(default_factory=list)

    @classmethod
    def right(cls, groups: int) -> _States:
        """The one state in which nothing is wrong."""
        return cls(
            np.arange(groups + 1)[None], np.ones((1, groups)), np.ones(1), np.array([groups + 1]), np.zeros(1), [()]
        )

    def with_fault(self, fault: Fault) -> _States:
        """Every state with one thing more that is wrong."""
        groups = self.sign.shape[1]
        node, sign, lead, cut = self.node.copy(), self.sign.copy(), self.lead.copy(), self.cut.copy()
        one, other = fault.first, fault.second
        if fault.kind == "swap":
            node[:, [one, other]] = node[:, [other, one]]
        elif fault.kind == "miss":
            node[:, one] = -1
        elif fault.kind == "off":
            node[:, one] = node[:, other]
        elif fault.kind == "shift":
            moved = node[:, one:]
            node[:, one:] = np.where(
                moved < 0, moved, np.where((moved + other > groups) | (moved + other < 0), -1, moved + other)
            )
        elif fault.kind == "reversed":
            node = np.where(node < 0, node, groups - node)
        elif fault.kind == "turn":
            sign[:, one] *= -1
        elif fault.kind == "short":
            sign[:, one] = 0
        elif fault.kind == "open":
            cut[:] = one + 1
        elif fault.kind == "leads":
            lead = -lead
        prior = self.log_prior + _LOG_PRIOR[fault.kind]
        return replace(
            self,
            node=node,
            sign=sign,
            lead=lead,
            cut=cut,
            log_prior=prior,
            faults=[(*known, fault) for known in self.faults],
        )

    def some(self, places: Ints) -> _States:
        """Some of them."""
        faults = [self.faults[place] for place in places.tolist()]
        return _States(
            self.node[places], self.sign[places], self.lead[places], self.cut[places], self.log_prior[places], faults
        )

    @classmethod
    def together(cls, parts: Sequence[_States]) -> _States:
        """One after the other."""
        return cls(
            np.concatenate([part.node for part in parts]),
            np.concatenate([part.sign for part in parts]),
            np.concatenate([part.lead for part in parts]),
            np.concatenate([part.cut for part in parts]),
            np.concatenate([part.log_prior for part in parts]),
            [faults for part in parts for faults in part.faults],
        )


def faults_of(groups: int) -> list[Fault]:
    """Every single fault of a lead of so many groups."""
    pins = range(groups + 1)
    found = [Fault("swap", one, other) for one in pins for other in pins if one < other]
    found += [Fault("miss", one) for one in pins]
    found += [Fault("off", one, other) for one in pins for other in (one - 1, one + 1) if 0 <= other <= groups]
    found += [Fault("shift", one, by) for one in range(1, groups) for by in (-1, 1)]
    found += [Fault("reversed"), Fault("leads")]
    found += [Fault(kind, group) for kind in ("turn", "short") for group in range(groups)]
    return found + [Fault("open", group) for group in range(groups - 1)]


def expected(group_v: Sequence[float], against: Against = Against.NEGATIVE) -> tuple[float, ...]:
    """What the pins of a lead without a fault read, from the volts of its groups."""
    return tuple(float(v) for v in (np.cumsum(group_v) if against is Against.NEGATIVE else np.asarray(group_v, float)))


def diagnose(group_v: Sequence[float], readings: Readings) -> Diagnosis:
    """Rank what explains the readings, one fault or two; raises :class:`DocumentError` for readings that cannot be.

    ``group_v`` are the volts of the groups at rest, from the negative end.
    """
    _check(group_v, readings)
    groups = len(group_v)
    singles = _single_states(group_v, readings)
    found = _ranked(singles, group_v, readings)
    best = found.log_posterior.argmax()
    if singles.faults[int(best)] and found.unexplained[best] > TOLERATED:
        faults = faults_of(groups)
        # Of two faults one alone explains some readings wholly, or all of them better: from those that do most, as many
        # as there is time for. Which of the two was made first may matter.
        all_of_them = 2 * len(faults) ** 2 <= MOST_STATES
        most = len(singles.faults) if all_of_them else max(MOST_STATES // (4 * len(faults)), 1)
        likely = np.unique(np.concatenate([np.argsort(by, kind="stable")[:most]
                                           for by in (found.unexplained, -found.log_posterior)]))  # fmt: skip
        begun = singles.some(likely)
        ended = [one[0] for one in begun.faults if one and one[0].kind != "down"]
        wider = _States.together([
            singles, *(begun.with_fault(fault) for fault in faults), *(singles.with_fault(fault) for fault in ended),
        ])  # fmt: skip
        return _diagnosis(wider, _ranked(wider, group_v, readings))
    return _diagnosis(singles, found)


def _check(group_v: Sequence[float], readings: Readings) -> None:
    if len(readings.volts) != len(group_v):
        raise DocumentError(
            f"A lead of {len(group_v)}S has {len(group_v) + 1} pins, so {len(group_v)} readings; there are"
            f" {len(readings.volts)}."
        )
    told = [*readings.volts, *([] if readings.main_v is None else [readings.main_v])]
    far = next((volts for volts in told if abs(volts) > MILLIVOLTS_V), None)
    if far is not None:
        raise DocumentError(
            f"{format_number(far, 0)} V is no voltage of this pack; millivolts are written with their unit."
        )


def _single_states(group_v: Sequence[float], readings: Readings) -> _States:
    right = _States.right(len(group_v))
    parts = [right, *(right.with_fault(fault) for fault in faults_of(len(group_v)))]
    apart = (
        np.diff(np.append(0.0, readings.volts)) if readings.against is Against.NEGATIVE else np.array(readings.volts)
    )
    for group, (volts, full) in enumerate(zip(apart, group_v, strict=True)):
        share = volts / full
        if 0.02 < share < 0.97:
            sign = np.ones((1, len(group_v)))
            sign[0, group] = share
            parts.append(
                replace(right, sign=sign, log_prior=np.array([_LOG_PRIOR["down"]]), faults=[(Fault("down", group),)])
            )
    return _States.together(parts)


class _Ranked(NamedTuple):
    """Of every state, shape ``(states,)`` each."""

    off_v: Floats
    """Root mean square of what is left unexplained."""
    log_posterior: Floats
    distance: Floats
    """Mean square of the same, in doubts."""
    unexplained: Floats
    """How many readings are not explained at all, those nearly so in part."""


def _ranked(states: _States, group_v: Sequence[float], readings: Readings) -> _Ranked:
    """What each state leaves unexplained, and how likely it is."""
    volts = states.sign * np.asarray(group_v, float)
    zero = np.zeros((len(volts), 1))
    potential = np.concatenate([zero, np.cumsum(volts, axis=1)], axis=1)
    island = np.arange(potential.shape[1])[None] >= states.cut[:, None]
    high, low = states.node[:, 1:], states.node[:, :1] if readings.against is Against.NEGATIVE else states.node[:, :-1]
    low = np.broadcast_to(low, high.shape)
    told, floats, steps = _between(potential, island, low, high)
    read = np.broadcast_to(np.array(readings.volts), told.shape)
    if readings.main_v is not None:
        top = np.full((len(volts), 1), potential.shape[1] - 1)
        main, main_floats, main_steps = _between(potential, island, np.zeros_like(top), top)
        told = np.concatenate([told, main * states.lead[:, None]], axis=1)
        floats, steps = np.concatenate([floats, main_floats], axis=1), np.concatenate([steps, main_steps], axis=1)
        read = np.concatenate([read, np.full((len(volts), 1), readings.main_v)], axis=1)
    doubt = np.where(floats, FLOATING_V, np.hypot(READING_V, GROUP_V * np.sqrt(steps)))
    off = (read - told) / doubt
    log = -0.5 * off**2 - np.log(doubt)
    # What lies at nothing is drawn to nought by the meter, or drifts.
    calm = -0.5 * (read[floats] / READING_V) ** 2 - np.log(READING_V)
    log[floats] = np.logaddexp(log[floats], calm) - np.log(2.0)
    likelihood = log.sum(axis=1)
    return _Ranked(
        np.sqrt(((read - told) ** 2).mean(axis=1)),
        likelihood + states.log_prior,
        (off**2).mean(axis=1),
        np.minimum(off**2 / EXPLAINED, 1.0).sum(axis=1),
    )


def _between(potential: Floats, island: Bools, low: Ints, high: Ints) -> tuple[Floats, Bools, Floats]:
    """(states, readings) Volts between two nodes each, whether they float against each other, and how many groups lie
    between them."""
    there = (low >= 0) & (high >= 0)
    at_low, at_high = np.maximum(low, 0), np.maximum(high, 0)
    volts = np.take_along_axis(potential, at_high, 1) - np.take_along_axis(potential, at_low, 1)
    apart = np.take_along_axis(island, at_high, 1) != np.take_along_axis(island, at_low, 1)
    floats = ~there | apart
    return np.where(floats, 0.0, volts), floats, np.abs(at_high - at_low).astype(float)


def _diagnosis(states: _States, ranked: _Ranked) -> Diagnosis:
    off_v, posterior, distance = ranked[:3]
    order = np.argsort(-posterior, kind="stable")
    best = float(posterior[order[0]])
    seen: set[tuple[object, ...]] = set()
    told: list[Explanation] = []
    for place in order.tolist():
        if posterior[place] < best - WORTH or len(told) == MOST_TOLD:
            break
        # Two faults that come to one wiring, such as three wires passed on in a ring, are one explanation.
        state = (
            states.node[place].tobytes(),
            states.sign[place].tobytes(),
            float(states.lead[place]),
            int(states.cut[place]),
        )
        if state in seen:
            continue
        seen.add(state)
        told.append(Explanation(states.faults[place], float(off_v[place])))
    return Diagnosis(tuple(told), float(distance[order[0]]) <= EXPLAINED)


def read_as(group_v: Sequence[float], faults: Sequence[Fault], against: Against = Against.NEGATIVE) -> Readings:
    """What a lead with these faults would read, without noise; a pin that floats reads nought."""
    state = _States.right(len(group_v))
    for fault in faults:
        state = state.with_fault(fault)
    volts = state.sign * np.asarray(group_v, float)
    potential = np.concatenate([np.zeros((1, 1)), np.cumsum(volts, axis=1)], axis=1)
    island = np.arange(potential.shape[1])[None] >= state.cut[:, None]
    high, low = state.node[:, 1:], state.node[:, :1] if against is Against.NEGATIVE else state.node[:, :-1]
    told, _, _ = _between(potential, island, np.broadcast_to(low, high.shape), high)
    top = np.full((1, 1), potential.shape[1] - 1)
    main, _, _ = _between(potential, island, np.zeros_like(top), top)
    return Readings(tuple(told[0].tolist()), against, float(main[0, 0] * state.lead[0]))

"""How a balance lead may be wired, and what a meter then reads at its pins.

Every wiring is the node that each pin really lies at, the sign of each group, where a joint is open, how the leads are.
Not modelled: a meter that loads what it reads, wires that touch one another.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np

from wise_cellar.core.physics.arrays import Bools, Floats, Ints


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


LOG_PRIOR = {
    "swap": -3.0, "miss": -3.0, "off": -3.5, "shift": -3.5, "reversed": -3.5, "turn": -4.0, "short": -4.5,
    "down": -4.0, "open": -4.0, "leads": -3.0,
}  # fmt: skip
"""How rare each is, natural logarithms: what is handled most goes wrong most. Our estimate."""


@dataclass(frozen=True)
class Wirings:
    """Many states of a lead at once, each with at most two faults."""

    node: Ints
    """(states, pins) Where each pin lies, −1 at nothing."""
    sign: Floats
    """(states, groups) What each group has of its volts."""
    lead: Floats
    """(states,) 1, or −1 where the main leads are reversed."""
    cut: Ints
    """(states,) The first node behind an open joint; one more than there are nodes where none is open."""
    log_prior: Floats
    """(states,)"""
    made: Ints
    """(states, 2) Which faults were made, by their places in a list that whoever makes them keeps; −1 for none."""

    @classmethod
    def right(cls, groups: int) -> Wirings:
        """The one state in which nothing is wrong."""
        return cls(
            np.arange(groups + 1)[None], np.ones((1, groups)), np.ones(1), np.array([groups + 1]), np.zeros(1),
            np.full((1, 2), -1),
        )  # fmt: skip

    def with_each(self, faults: Sequence[Fault], places: Sequence[int]) -> Wirings:
        """Every state with each of some faults as one thing more that is wrong, fault after fault; ``places`` are
        theirs in the list of all."""
        count = len(faults)
        node, sign = np.repeat(self.node[None], count, axis=0), np.repeat(self.sign[None], count, axis=0)
        lead, cut = np.repeat(self.lead[None], count, axis=0), np.repeat(self.cut[None], count, axis=0)
        for number, fault in enumerate(faults):
            if fault.kind == "leads":
                lead[number] *= -1.0
            elif fault.kind == "open":
                cut[number] = fault.first + 1
            elif fault.kind in ("turn", "short"):
                sign[number, :, fault.first] *= -1.0 if fault.kind == "turn" else 0.0
            else:
                _rewire(node[number], fault)
        first = np.broadcast_to(self.made[None, :, 0], (count, len(self.made)))
        here = np.broadcast_to(np.array(places)[:, None], first.shape)
        made = np.stack([np.where(first < 0, here, first), np.where(first < 0, -1, here)], axis=2)
        prior = self.log_prior[None] + np.array([LOG_PRIOR[fault.kind] for fault in faults])[:, None]
        return Wirings(
            node.reshape(-1, node.shape[2]), sign.reshape(-1, sign.shape[2]), lead.ravel(), cut.ravel(), prior.ravel(),
            made.reshape(-1, 2),
        )  # fmt: skip

    def some(self, places: Ints | slice) -> Wirings:
        """Some of them."""
        return Wirings(self.node[places], self.sign[places], self.lead[places], self.cut[places],
                       self.log_prior[places], self.made[places])  # fmt: skip

    @classmethod
    def together(cls, parts: Sequence[Wirings]) -> Wirings:
        """One after the other."""
        return cls(
            np.concatenate([part.node for part in parts]), np.concatenate([part.sign for part in parts]),
            np.concatenate([part.lead for part in parts]), np.concatenate([part.cut for part in parts]),
            np.concatenate([part.log_prior for part in parts]), np.concatenate([part.made for part in parts]),
        )  # fmt: skip


def _rewire(node: Ints, fault: Fault) -> None:
    """Let the pins of every state, (states, pins), lie elsewhere, in place."""
    one, other, groups = fault.first, fault.second, node.shape[1] - 1
    if fault.kind == "swap":
        node[:, [one, other]] = node[:, [other, one]]
    elif fault.kind == "miss":
        node[:, one] = -1
    elif fault.kind == "off":
        node[:, one] = node[:, other]
    elif fault.kind == "shift":
        moved = node[:, one:]
        beyond = (moved < 0) | (moved + other > groups) | (moved + other < 0)
        node[:, one:] = np.where(beyond, -1, moved + other)
    elif fault.kind == "reversed":
        node[:] = np.where(node < 0, node, groups - node)


@dataclass(frozen=True)
class Told:
    """What each wiring would read, shape ``(states, readings)`` each: the pins, and the plug where it was read."""

    volts: Floats
    floats: Bools
    """Whether nothing joins the two."""
    steps: Ints
    """How many groups lie between them."""


def told_by(wirings: Wirings, group_v: Sequence[float], against: Against, *, plug: bool) -> Told:
    """What a meter reads of each wiring."""
    volts = wirings.sign * np.asarray(group_v, float)
    potential = np.zeros((len(volts), volts.shape[1] + 1))
    np.cumsum(volts, axis=1, out=potential[:, 1:])
    high = wirings.node[:, 1:]
    low = np.broadcast_to(wirings.node[:, :1], high.shape) if against is Against.NEGATIVE else wirings.node[:, :-1]
    if plug:
        ends = np.zeros((len(volts), 1), high.dtype)
        low, high = np.concatenate([low, ends], axis=1), np.concatenate([high, ends + volts.shape[1]], axis=1)
    nothing = (low < 0) | (high < 0)
    at_low, at_high = np.maximum(low, 0), np.maximum(high, 0)
    cut = wirings.cut[:, None]
    floats = nothing | ((at_low < cut) != (at_high < cut))
    rows = np.arange(len(volts))[:, None] * potential.shape[1]
    read = potential.take(rows + at_high) - potential.take(rows + at_low)
    read[floats] = 0.0
    if plug:
        read[:, -1] *= wirings.lead
    return Told(read, floats, np.abs(at_high - at_low))


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


def read_as(group_v: Sequence[float], faults: Sequence[Fault], against: Against = Against.NEGATIVE) -> Readings:
    """What a lead with these faults, two at most, would read, without noise; a pin that floats reads nought."""
    wiring = Wirings.right(len(group_v))
    for place, fault in enumerate(faults):
        wiring = wiring.with_each([fault], [place])
    *pins, plug = told_by(wiring, group_v, against, plug=True).volts[0].tolist()
    return Readings(tuple(pins), against, plug)

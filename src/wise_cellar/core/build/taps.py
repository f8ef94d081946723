"""A balance lead read with a meter before anything is plugged in: which fault explains the readings best.

Every hypothesis is a wiring (``wiring.py``). What it would read follows from the groups' volts; hypotheses are ranked
by how likely the readings are under each, with what is rarer believed less. Source: Bayes' rule with Gaussian readings.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import NamedTuple

import numpy as np

from wise_cellar.core.build.wiring import LOG_PRIOR, Against, Fault, Readings, Wirings, faults_of, told_by
from wise_cellar.core.documents import DocumentError
from wise_cellar.core.physics.arrays import Floats
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
PART = 1024
MOST_STATES = 20_000
"""Wirings of two faults that are tried: all of leads up to 8S, of longer ones those that begin with a likely fault."""


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


def diagnose(group_v: Sequence[float], readings: Readings) -> Diagnosis:
    """Rank what explains the readings, one fault or two; raises :class:`DocumentError` for readings that cannot be.

    ``group_v`` are the volts of the groups at rest, from the negative end.
    """
    _check(group_v, readings)
    known = faults_of(len(group_v))
    faults, singles = _singles(group_v, readings, known)
    found = _ranked(singles, group_v, readings)
    best = int(found.log_posterior.argmax())
    if best == 0 or found.unexplained[best] <= TOLERATED:
        return _diagnosis(faults, singles, found)
    # Of two faults one alone explains some readings wholly, or all of them better: from those that do most, as many as
    # there is time for. Which of the two was made first may matter.
    all_of_them = 2 * len(known) ** 2 <= MOST_STATES
    most = len(faults) + 1 if all_of_them else max(MOST_STATES // (4 * len(known)), 1)
    likely = np.unique(np.concatenate([np.argsort(by, kind="stable")[:most]
                                       for by in (found.unexplained, -found.log_posterior)]))  # fmt: skip
    begun = singles.some(likely)
    ended = [int(place) for place in begun.made[:, 0] if 0 <= place < len(known)]
    wider = Wirings.together([
        singles, begun.with_each(known, range(len(known))), singles.with_each([known[place] for place in ended], ended),
    ])  # fmt: skip
    return _diagnosis(faults, wider, _ranked(wider, group_v, readings))


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


def _singles(group_v: Sequence[float], readings: Readings, known: Sequence[Fault]) -> tuple[list[Fault], Wirings]:
    """Nothing wrong, or one thing; and the list of all faults: those known beforehand, and groups that read low."""
    right = Wirings.right(len(group_v))
    faults, parts = list(known), [right, right.with_each(known, range(len(known)))]
    apart = (
        np.diff(np.append(0.0, readings.volts)) if readings.against is Against.NEGATIVE else np.array(readings.volts)
    )
    for group, (volts, full) in enumerate(zip(apart, group_v, strict=True)):
        share = volts / full
        if 0.02 < share < 0.97:
            sign = np.ones((1, len(group_v)))
            sign[0, group] = share
            parts.append(
                replace(right, sign=sign, log_prior=np.array([LOG_PRIOR["down"]]), made=np.array([[len(faults), -1]]))
            )
            faults.append(Fault("down", group))
    return faults, Wirings.together(parts)


class _Ranked(NamedTuple):
    """Of every state, shape ``(states,)`` each."""

    off_v: Floats
    """Root mean square of what is left unexplained."""
    log_posterior: Floats
    distance: Floats
    """Mean square of the same, in doubts."""
    unexplained: Floats
    """How many readings are not explained at all, those nearly so in part."""


def _ranked(wirings: Wirings, group_v: Sequence[float], readings: Readings) -> _Ranked:
    """What each state leaves unexplained, and how likely it is; in parts that a processor's cache holds."""
    count = len(wirings.log_prior)
    parts = [
        _ranked_part(wirings.some(slice(start, start + PART)), group_v, readings) for start in range(0, count, PART)
    ]
    return _Ranked(*(np.concatenate(each) for each in zip(*parts, strict=True)))


def _ranked_part(wirings: Wirings, group_v: Sequence[float], readings: Readings) -> _Ranked:
    plug = readings.main_v is not None
    told = told_by(wirings, group_v, readings.against, plug=plug)
    read = np.array([*readings.volts, readings.main_v] if plug else readings.volts, float)
    # By how many groups lie between the two; last of all what lies at nothing.
    doubts = np.append(np.hypot(READING_V, GROUP_V * np.sqrt(np.arange(len(group_v) + 1))), FLOATING_V)
    steps = np.where(told.floats, len(doubts) - 1, told.steps)
    off = read - told.volts
    off_v = np.sqrt(np.einsum("ij,ij->i", off, off) / off.shape[1])
    off *= (1.0 / doubts).take(steps)
    square = off * off
    log = -0.5 * square - np.log(doubts).take(steps)
    # What lies at nothing is drawn to nought by the meter, or drifts.
    rows, pins = np.nonzero(told.floats)
    calm = -0.5 * (read[pins] / READING_V) ** 2 - np.log(READING_V)
    log[rows, pins] = np.logaddexp(log[rows, pins], calm) - np.log(2.0)
    return _Ranked(
        off_v, log.sum(axis=1) + wirings.log_prior, square.mean(axis=1),
        np.minimum(square, EXPLAINED).sum(axis=1) / EXPLAINED,
    )  # fmt: skip


def _diagnosis(faults: Sequence[Fault], wirings: Wirings, ranked: _Ranked) -> Diagnosis:
    off_v, posterior, distance = ranked[:3]
    worth = np.nonzero(posterior >= posterior.max() - WORTH)[0]
    seen: set[tuple[object, ...]] = set()
    told: list[Explanation] = []
    order = worth[np.argsort(-posterior[worth], kind="stable")]
    for place in order.tolist():
        # Two faults that come to one wiring, such as three wires passed on in a ring, are one explanation.
        state = (
            wirings.node[place].tobytes(), wirings.sign[place].tobytes(), float(wirings.lead[place]),
            int(wirings.cut[place]),
        )  # fmt: skip
        if state in seen:
            continue
        seen.add(state)
        made = tuple(faults[number] for number in wirings.made[place].tolist() if number >= 0)
        told.append(Explanation(made, float(off_v[place])))
        if len(told) == MOST_TOLD:
            break
    return Diagnosis(tuple(told), float(distance[order[0]]) <= EXPLAINED)

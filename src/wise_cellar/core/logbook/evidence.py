"""What one flight says of several values at once, and what many flights say together.

A flight's say is a parabola: the information matrix Λ and the vector Λx of the logarithms of shares, x = 0 being what
was expected. Parabolas add, with that of what was known before; so values that no flight alone can tell apart may be
told by several. A flight that disagrees counts less, by how far its own say lies from the others'. Source: least
squares in its information form, e.g. Bierman, *Factorization Methods for Discrete Sequential Estimation* (1977), ch. 2;
weights of Cauchy's form (Holland & Welsch, Comm. Statist. A6, 1977), k = 2.385. Not modelled: errors that flights
share.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.physics.arrays import Floats

CAUCHY = 2.385
ROUNDS = 30


@dataclass(frozen=True)
class Evidence:
    """One flight's say."""

    names: tuple[str, ...]
    vector: Floats
    """(names,) Information times value."""
    information: Floats
    """(names, names)"""

    def alone(self, names: Sequence[str], before: Mapping[str, float]) -> Evidence:
        """Its say on some names only; of the others no more is known than ``before``."""
        every = tuple(dict.fromkeys((*names, *self.names)))
        whole, count = self.on(every), len(names)
        rest = [before[name] for name in every[count:]]
        other = whole.information[count:, count:] + np.diag([1 / doubt**2 for doubt in rest])
        across = whole.information[:count, count:] @ np.linalg.inv(other)
        return Evidence(
            tuple(names), whole.vector[:count] - across @ whole.vector[count:],
            whole.information[:count, :count] - across @ whole.information[count:, :count],
        )  # fmt: skip

    def on(self, names: Sequence[str]) -> Evidence:
        """The same over other names; of what it does not name it says nothing."""
        places = [self.names.index(name) if name in self.names else -1 for name in names]
        kept = [at for at, place in enumerate(places) if place >= 0]
        mine = [places[at] for at in kept]
        vector, information = np.zeros(len(names)), np.zeros((len(names), len(names)))
        vector[kept] = self.vector[mine]
        information[np.ix_(kept, kept)] = self.information[np.ix_(mine, mine)]
        return Evidence(tuple(names), vector, information)


def merged(said: Sequence[Evidence]) -> Evidence:
    """All that one flight says, as one."""
    names = tuple(dict.fromkeys(name for one in said for name in one.names))
    every = [one.on(names) for one in said]
    return Evidence(
        names, np.sum([one.vector for one in every], axis=0), np.sum([one.information for one in every], axis=0)
    )


@dataclass(frozen=True)
class Together:
    """What several flights say together, shapes ``(names,)``: logarithms of shares and their doubts."""

    names: tuple[str, ...]
    values: Floats
    doubts: Floats
    """One standard deviation."""
    weights: Floats
    """(flights,) How much each counted: 1, less for one that disagrees."""

    def value(self, name: str) -> float:
        """Of one name."""
        return float(self.values[self.names.index(name)])

    def doubt(self, name: str) -> float:
        """Of one name."""
        return float(self.doubts[self.names.index(name)])


def together(said: Sequence[Evidence], before: Mapping[str, float]) -> Together:
    """All flights' say with what was known ``before``, a doubt a name around what was expected.

    Where flights disagree by more than their doubts, the doubts grow by it.
    """
    names = tuple(before)
    prior = np.diag([1 / doubt**2 for doubt in before.values()])
    every = [one.on(names) for one in said]
    vectors = np.array([one.vector for one in every]).reshape(-1, len(names))
    matrices = np.array([one.information for one in every]).reshape(-1, len(names), len(names))
    weights, found, away, whole = np.ones(len(every)), np.zeros(len(names)), np.zeros(len(every)), prior
    if len(every) > 2:
        weights = _first_weights(every, prior)
    for _ in range(ROUNDS):
        whole = prior + np.tensordot(weights, matrices, axes=1)
        found = np.linalg.solve(whole, weights @ vectors)
        away = np.array([_away(one, found, prior) for one in every])
        if len(every) < 2:
            break
        weights = _weights(away)
    scatter = float((weights * away**2).sum()) / max(float(weights.sum()) - 1, 1.0) if len(every) > 1 else 0.0
    grown = max(1.0, scatter)
    spread = np.linalg.inv(prior + (whole - prior) / grown)
    return Together(names, found, np.sqrt(np.diag(spread)), weights)


def _away(one: Evidence, values: Floats, prior: Floats) -> float:
    """How far a flight's own say lies from some values, in its doubts, for each value that it tells."""
    missed = one.vector - one.information @ values
    loose = one.information + 1e-6 * prior
    told = max(int(np.count_nonzero(np.diag(one.information) > np.diag(prior))), 1)
    return float(np.sqrt(max(float(missed @ np.linalg.solve(loose, missed)), 0.0) / told))


def _first_weights(every: Sequence[Evidence], prior: Floats) -> Floats:
    """Weights by the middle of what the flights say one by one, so that one of them cannot carry the rest away."""
    alone = np.array([np.linalg.solve(prior + one.information, one.vector) for one in every])
    middle = np.median(alone, axis=0)
    return _weights(np.array([_away(one, middle, prior) for one in every]))


def _weights(away: Floats) -> Floats:
    return np.asarray(1 / (1 + (away / CAUCHY) ** 2))

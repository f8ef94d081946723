"""A resistive network solved by nodal analysis, G·v = i, one factorisation for any number of currents.

The points of a battery pack fall into levels: a strip joins points of one level, a cell joins a point to one of the
next. G is then block tridiagonal and is factorised block by block (Golub and Van Loan, *Matrix Computations*, 4th
ed., section 4.5.1), which for a pack is both sparse and short. Not modelled: inductance, and resistances that change
with their current.
"""

from __future__ import annotations

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from wise_cellar.core.physics.arrays import Floats, Ints


@dataclass(frozen=True)
class Network:
    """Points and the resistors between them, of circuits that differ in their resistances only."""

    level: Ints
    """(points,) Level of each point, from 0 without gaps."""
    start: Ints
    """(resistors,) Point at one end."""
    end: Ints
    """(resistors,) Point at the other, on the same level or the next one up or down."""
    ohm: Floats
    """(circuits, resistors) Resistance, more than 0."""

    def potentials(self, injected_a: Floats) -> Floats:
        """Potential of every point, V, shape ``(circuits, points, cases)``, for currents fed into the points, A, shape
        ``(points, cases)``.

        The currents of a case add up to zero; potentials are against the first point. Raises ``ValueError`` when a
        point is joined to nothing, or a resistor skips a level. Source: nodal analysis, as the module has it.
        """
        order = np.argsort(self.level, kind="stable")
        rank = np.empty_like(order)
        rank[order] = np.arange(len(order))
        matrix = self._matrix(rank)
        bounds = np.searchsorted(self.level[order], np.arange(int(self.level.max()) + 2))
        volts = _solve_blocks(matrix, injected_a[order], bounds)[:, rank]
        return np.asarray(volts - volts[:, :1])

    def currents(self, potentials_v: Floats) -> Floats:
        """Current of every resistor from its start to its end, A, shape ``(circuits, resistors, cases)``.

        From potentials of shape ``(circuits, points, cases)``, by Ohm's law.
        """
        drop = potentials_v[:, self.start] - potentials_v[:, self.end]
        return np.asarray(drop / self.ohm[..., None])

    def _matrix(self, rank: Ints) -> Floats:
        apart = np.abs(self.level[self.start] - self.level[self.end])
        joined = np.zeros(len(rank), bool)
        joined[self.start] = joined[self.end] = True
        if (apart > 1).any() or not joined.all():
            raise ValueError("Every point of a network is joined to others of its level or of the next.")
        conductance = 1.0 / self.ohm
        one, other = rank[self.start], rank[self.end]
        summed = np.zeros((len(rank), len(rank), len(self.ohm)))
        np.add.at(summed, (one, other), -conductance.T)
        np.add.at(summed, (other, one), -conductance.T)
        matrix = np.moveaxis(summed, -1, 0).copy()
        diagonal = np.arange(len(rank))
        matrix[:, diagonal, diagonal] = -matrix.sum(axis=-1)
        # Holds the first point; no current flows there, because the currents of a case add up to zero.
        matrix[:, 0, 0] += conductance.max(axis=-1)
        return matrix


def _solve_blocks(matrix: Floats, cases: Floats, bounds: Ints) -> Floats:
    """Block elimination from the first level to the last, and back; of a stack of matrices each by itself."""
    spans = [slice(*pair) for pair in zip(bounds[:-1].tolist(), bounds[1:].tolist(), strict=True)]
    width = cases.shape[1]
    stack = np.broadcast_to(cases, (*matrix.shape[:-2], *cases.shape))
    solved: list[Floats] = []
    lead = matrix[..., spans[0], spans[0]]
    right = stack[..., spans[0], :]
    for here, above in pairwise(spans):
        upper = matrix[..., here, above]
        both = np.linalg.solve(lead, np.concatenate([upper, right], axis=-1))
        solved.append(both)
        lower = np.swapaxes(upper, -1, -2)
        lead = matrix[..., above, above] - lower @ both[..., :-width]
        right = stack[..., above, :] - lower @ both[..., -width:]
    volts = np.empty(stack.shape)
    volts[..., spans[-1], :] = np.linalg.solve(lead, right)
    for here, above, both in reversed(list(zip(spans, spans[1:], solved, strict=False))):
        volts[..., here, :] = both[..., -width:] - both[..., :-width] @ volts[..., above, :]
    return volts

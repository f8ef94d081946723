"""Many one-dimensional curves over state of charge, looked up together.

A flight of a batch may use any curve of the bank. Curves are resampled once onto an even grid by a
monotone cubic (Fritsch & Carlson 1980, doi:10.1137/0717021), so a look-up is one gather and a linear blend.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from wise_cellar.core.physics.arrays import Floats, Ints
from wise_cellar.core.physics.numbers import plain, whole_and_rest
from wise_cellar.core.physics.two import Two

GRID_POINTS = 2001


@dataclass(frozen=True)
class SocCurve:
    """Values on an even grid of state of charge 0 … 1, shape ``(GRID_POINTS,)``, and the slope beyond its ends."""

    values: Floats
    slope_below: float
    slope_above: float

    @classmethod
    def from_points(cls, soc: Floats, values: Floats, *, least_slope_below: float = 0.0) -> SocCurve:
        """Curve through points; below 0 it goes on with its last slope, at least ``least_slope_below``.

        Raises ``ValueError`` unless the points rise strictly from 0 to 1.
        """
        order = np.argsort(soc)
        soc, values = np.asarray(soc, float)[order], np.asarray(values, float)[order]
        if len(soc) < 2 or np.any(np.diff(soc) <= 0) or soc[0] != 0.0 or soc[-1] != 1.0:
            raise ValueError("A curve needs points from state of charge 0 to 1, each once.")
        grid = np.linspace(0.0, 1.0, GRID_POINTS)
        resampled = monotone_cubic(soc, values, grid)
        step = grid[1]
        below = float((resampled[1] - resampled[0]) / step)
        above = float((resampled[-1] - resampled[-2]) / step)
        return cls(resampled, max(below, least_slope_below), max(above, 0.0))


def monotone_cubic(x: Floats, y: Floats, at: Floats) -> Floats:
    """Piecewise cubic through (x, y) without overshoot, at points inside the range of ``x``.

    Slopes at inner points are the weighted harmonic mean of the slopes on both sides, 0 at a turn; at the ends a
    three-point formula, held to the shape of the data. Source: Fritsch & Butland 1984, doi:10.1137/0905021. Equal to
    scipy's PchipInterpolator, whose import would take a third of the start of the application.
    """
    width, rise = np.diff(x), np.diff(y) / np.diff(x)
    slope = np.empty_like(y)
    if len(x) == 2:
        slope[:] = rise[0]
    else:
        left, right = 2 * width[1:] + width[:-1], width[1:] + 2 * width[:-1]
        turns = rise[:-1] * rise[1:] <= 0
        safe_before, safe_after = np.where(turns, 1.0, rise[:-1]), np.where(turns, 1.0, rise[1:])
        slope[1:-1] = np.where(turns, 0.0, (left + right) / (left / safe_before + right / safe_after))
        slope[0] = _end_slope(width[0], width[1], rise[0], rise[1])
        slope[-1] = _end_slope(width[-1], width[-2], rise[-1], rise[-2])
    place = np.clip(np.searchsorted(x, at, side="right") - 1, 0, len(width) - 1)
    h, t = width[place], (at - x[place]) / width[place]
    start, end = y[place], y[place + 1]
    return np.asarray(
        start * (1 + 2 * t) * (1 - t) ** 2
        + end * t**2 * (3 - 2 * t)
        + h * t * (1 - t) * (slope[place] * (1 - t) - slope[place + 1] * t)
    )


def _end_slope(near: float, next_width: float, rise: float, next_rise: float) -> float:
    slope = ((2 * near + next_width) * rise - near * next_rise) / (near + next_width)
    if slope * rise <= 0:
        return 0.0
    if rise * next_rise <= 0 and abs(slope) > 3 * abs(rise):
        return 3 * rise
    return slope


OnGrid = tuple[Ints, Floats]
"""Points of the grid at or below states of charge, and how far these are beyond them, in steps of the grid."""


def on_grid(soc: Floats) -> OnGrid:
    """Where states of charge lie on the grid that all curves share; the shape of ``soc``, as a share of one.

    Source: our own even grid of ``GRID_POINTS``, straight between its points and beyond its ends.
    """
    return whole_and_rest(soc * (GRID_POINTS - 1), -1, GRID_POINTS - 1)


class CurveBank:
    """Curves stacked for look-up: ``index`` says which curve stands at each place of an array of states of charge, in a
    flight of shape ``(packs, groups, flights)``."""

    def __init__(self, curves: Sequence[SocCurve], index: Ints) -> None:
        padded = [
            np.concatenate(
                [
                    [curve.values[0] - curve.slope_below / (GRID_POINTS - 1)],
                    curve.values,
                    [curve.values[-1] + curve.slope_above / (GRID_POINTS - 1)],
                ]
            )
            for curve in curves
        ]
        self._flat: Any = np.concatenate(padded)
        self._offset: Any = index * (GRID_POINTS + 2) + 1
        self._raised: Any = None

    @classmethod
    def side_by_side(cls, banks: Sequence[CurveBank]) -> CurveBank:
        """Banks one after the other on their first axis."""
        starts = np.cumsum([0, *(len(bank._flat) for bank in banks[:-1])])
        other = object.__new__(cls)
        other._flat = np.concatenate([bank._flat for bank in banks])
        other._offset = np.concatenate([bank._offset + start for bank, start in zip(banks, starts, strict=True)])
        raised = [np.zeros(bank._offset.shape) if bank._raised is None else bank._raised for bank in banks]
        other._raised = np.concatenate(raised) if any(bank._raised is not None for bank in banks) else None
        return other

    def raised(self, by: Floats) -> CurveBank:
        """The same curves, each higher by its own amount; ``by`` broadcasts to the places."""
        other = self[...]
        other._raised = np.broadcast_to(by, self._offset.shape) + (0.0 if self._raised is None else self._raised)
        return other

    def __getitem__(self, places: Any) -> CurveBank:
        """The same curves at some of the places, as numpy picks them."""
        other = object.__new__(CurveBank)
        other._flat, other._offset = self._flat, self._offset[places]
        other._raised = None if self._raised is None else self._raised[places]
        return other

    def plain(self, flight: int) -> CurveBank:
        """The curve of the one pack and group of a flight, or of its two packs, read at plain numbers."""
        start, raised = plain(self._offset, flight), None if self._raised is None else plain(self._raised, flight)
        if start.__class__ is not Two:
            return self._alone(start, raised)
        none = Two(None, None) if raised is None else raised
        return _TwoCurves(self._alone(start.first, none.first), self._alone(start.second, none.second))

    def _alone(self, start: int, raised: float | None) -> CurveBank:
        """One curve, of plain numbers."""
        other = object.__new__(CurveBank)
        # What a view of the bare memory gives is a float.
        other._flat, other._offset = self._flat[start - 1 : start + GRID_POINTS + 1].data, 1
        other._raised = raised
        return other

    def __call__(self, soc: Floats) -> Floats:
        """Value of the curve at each place at its state of charge; straight on beyond 0 and 1. ``soc`` has the shape of
        the index, or one that it broadcasts to."""
        return self.at(on_grid(soc))

    def slope(self, place: OnGrid) -> Floats:
        """Rise of the curve with each unit of charge where :func:`on_grid` has found the state of charge."""
        low = place[0] + self._offset
        rise: Floats = (self._flat[low + 1] - self._flat[low]) * (GRID_POINTS - 1)
        return rise

    def at(self, place: OnGrid) -> Floats:
        """Value of the curve where :func:`on_grid` has found the state of charge, for several curves at once."""
        cell, beyond = place
        low = cell + self._offset
        left = self._flat[low]
        found: Floats = left + beyond * (self._flat[low + 1] - left)
        return found if self._raised is None else found + self._raised


class _TwoCurves(CurveBank):
    """A curve of plain numbers for each of two packs."""

    def __init__(self, first: CurveBank, second: CurveBank) -> None:
        self._curves = first, second

    def at(self, place: OnGrid) -> Floats:
        """As of each."""
        found: Floats = self._of_each(CurveBank.at, place)
        return found

    def slope(self, place: OnGrid) -> Floats:
        """As of each."""
        found: Floats = self._of_each(CurveBank.slope, place)
        return found

    def _of_each(self, read: Callable[[CurveBank, OnGrid], Floats], place: Any) -> Any:
        (first, second), (cell, beyond) = self._curves, place
        return Two(read(first, (cell.first, beyond.first)), read(second, (cell.second, beyond.second)))

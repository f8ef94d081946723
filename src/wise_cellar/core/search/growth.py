"""One cell type as its parallel count grows: minutes, their peak, and where handling falls under the margin."""

from __future__ import annotations

from dataclasses import dataclass, replace

import numpy as np

from wise_cellar.core.documents import MOST_PARALLEL, CompleteDesign, LandingBasis
from wise_cellar.core.flight.integrator import fly
from wise_cellar.core.lowering.designs import lower, lower_one
from wise_cellar.core.lowering.space import Space
from wise_cellar.core.physics.arrays import Floats, Ints
from wise_cellar.core.search.flown import Flown, fly_rows
from wise_cellar.core.units import format_grams, format_minutes, format_number, format_significant, format_volts
from wise_cellar.core.words import all_of, lower_first

SHOWN_PARALLEL = 12
"""Counts that are always flown; of a wider pack as many as half of its own beyond it."""


@dataclass(frozen=True)
class Growth:
    """The present design with 1, 2, 3 … cells in parallel, arrays of shape ``(counts,)``."""

    parallel: Ints
    flown: Flown
    series_count: int
    least_margin: float
    margin_over: str
    class_g: float | None = None
    """What the craft may weigh at take-off; none where nothing says so."""
    peak_left: tuple[tuple[str, float], ...] = ()
    """Every pack of the longest flight by its name, and the share of its charge that is left in it."""
    rule: str = ""
    """How it is landed, in words."""
    alone: Flown | None = None
    """One row: the craft with its own battery alone, where the pack is an auxiliary beside it."""

    @property
    def takeoff_g(self) -> Floats:
        """Take-off mass of each."""
        return self.flown.takeoff_g

    @property
    def minutes(self) -> Floats:
        """In the air."""
        return np.asarray(self.flown.duration_s / 60)

    @property
    def peak(self) -> int:
        """Place of the longest flight."""
        return int(np.argmax(self.flown.duration_s))

    @property
    def marginal_s(self) -> Floats:
        """(counts − 1,) What each further count in parallel adds, in seconds for each cell."""
        return np.asarray(np.diff(self.flown.duration_s) / (np.diff(self.parallel) * self.series_count))

    @property
    def handles(self) -> int | None:
        """Place of the last count whose late thrust keeps the margin; none where none does."""
        enough = np.flatnonzero(self.flown.late_margin >= self.least_margin)
        return int(enough[-1]) if len(enough) else None

    def sentences(self, parallel: int) -> tuple[str, ...]:
        """The curve in words, seen from a count in parallel."""
        peak = self.peak
        words = [f"Longest at {self.parallel[peak]}P: {format_minutes(float(self.flown.duration_s[peak]))}."]
        if peak == len(self.parallel) - 1:
            words[0] = f"Still rising at {self.parallel[peak]}P, the most that is searched."
        words += self._left_words()
        words += self._class_words()
        at = int(np.searchsorted(self.parallel, parallel))
        if at < len(self.marginal_s):
            gain = float(self.marginal_s[at])
            words.append(
                f"From {self.parallel[at]}P to {self.parallel[at + 1]}P every added cell"
                f" {'brings' if gain >= 0 else 'costs'} {format_number(abs(gain), 0)} s"
                f" and weighs {format_grams(self._cell_g(at))} with its share of the pack."
            )
        words += self._without_words(at)
        handles = self.handles
        if handles is None:
            words.append(
                f"No count keeps {format_significant(self.least_margin)} times {self.margin_over} late in the pack."
            )
        elif handles < len(self.parallel) - 1:
            words.append(
                f"Beyond {self.parallel[handles]}P late full throttle is under"
                f" {format_significant(self.least_margin)} times {self.margin_over}."
            )
        return tuple(words)

    def _left_words(self) -> list[str]:
        """What the landing rule leaves in which pack, at the peak."""
        if not self.peak_left:
            return []
        shares = [(lower_first(name), f"{format_number(100 * max(share, 0), 0)} %") for name, share in self.peak_left]
        if len(shares) == 1:
            return [f"There it is landed {self.rule}, with {shares[0][1]} of the charge left."]
        left = all_of([f"{share} in the {name}" for name, share in shares])
        return [f"There it is landed {self.rule}, with charge left: {left}."]

    def _without_words(self, at: int) -> list[str]:
        """What the auxiliary brings at all."""
        if self.alone is None:
            return []
        alone = float(self.alone.duration_s[0])
        gain = float(self.flown.duration_s[min(at, len(self.parallel) - 1)]) - alone
        return [
            f"With its own battery alone it flies {format_minutes(alone)} at {format_grams(self.alone.takeoff_g[0])}:"
            " the"
            f" auxiliary {'brings' if gain >= 0 else 'costs'} {format_minutes(abs(gain))}."
        ]

    def _class_words(self) -> list[str]:
        """How many stay in the mass class, where the peak lies beyond it."""
        if self.class_g is None or self.takeoff_g[self.peak] <= self.class_g:
            return []
        within = np.flatnonzero(self.takeoff_g <= self.class_g)
        if not len(within):
            return [f"No count stays within {format_grams(self.class_g)}."]
        last = int(within[np.argmax(self.flown.duration_s[within])])
        longest = format_minutes(float(self.flown.duration_s[last]))
        return [
            f"That is over the {format_grams(self.class_g)} it may weigh; within them {self.parallel[last]}P:"
            f" {longest}."
        ]

    def _cell_g(self, at: int) -> float:
        return float(self.takeoff_g[at + 1] - self.takeoff_g[at]) / self.series_count


def growth(complete: CompleteDesign, factor: float) -> Growth:
    """Fly the design with every count in parallel."""
    most = min(max(SHOWN_PARALLEL, 3 * complete.pack.recipe.parallel_count // 2), MOST_PARALLEL)
    space = Space.around(complete, parallel=range(1, most + 1))
    flown = fly_rows(space, space.rows, factor)
    bare = complete.without_auxiliary
    alone = None
    if bare is not None:
        only = Space.around(bare)
        alone = fly_rows(only, only.rows, factor)
    found = Growth(
        np.array(space.parallel), flown, complete.pack.recipe.series_count, complete.design.landing.least_margin,
        complete.craft.margin_over, complete.craft.max_takeoff_mass_g, rule=_rule(complete), alone=alone,
    )  # fmt: skip
    return replace(found, peak_left=_left(space.design(found.peak), factor))


def _rule(complete: CompleteDesign) -> str:
    rule = complete.design.landing
    if rule.basis is not LandingBasis.LOADED:
        return f"by {rule.basis}"
    return f"by the {rule.policy} rule" if rule.reserve is not None else f"at {format_volts(rule.own_voltage_v)} a cell"


def _left(complete: CompleteDesign, factor: float) -> tuple[tuple[str, float], ...]:
    batch = lower([lower_one(complete, factor)])
    soc, held = fly(batch).end_state.soc, batch.cell.charge_c * batch.group_share
    left = (soc * held).sum(axis=1)[:, 0] / held.sum(axis=1)[:, 0]
    return tuple((pack.name, float(share)) for pack, share in zip(complete.packs, left, strict=True))

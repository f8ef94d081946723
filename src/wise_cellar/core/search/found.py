"""What a search found, in words: a design's name and figures, and the whole of it in one line."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wise_cellar.core.documents import Wishes
from wise_cellar.core.lowering.space import Space
from wise_cellar.core.search.flown import Flown
from wise_cellar.core.search.limits import Judged, judge
from wise_cellar.core.units import format_grams, format_minutes, format_number, format_volts


@dataclass(frozen=True)
class Found:
    """The rows that were flown, held against limits and wishes; designs are named by their place among them."""

    space: Space
    flown: Flown
    wishes: Wishes
    judged: Judged

    @classmethod
    def judged_by(cls, space: Space, flown: Flown, wishes: Wishes) -> Found:
        """Hold rows against every limit."""
        return cls(space, flown, wishes, judge(space, flown, wishes))

    def name(self, place: int) -> str:
        """What it is, by the choices that were searched: "4S 3P of Fell 21-45P, 12 AWG"."""
        space = self.space
        design = space.design(int(self.flown.row[place]))
        recipe = design.pack.recipe
        name = f"{recipe.series_count}S {recipe.parallel_count}P of {design.pack.cell.name}"
        if len(space.joints) > 1:
            name += f", {recipe.joint}"
        if len(space.gauges) > 1:
            name += f", {recipe.leads.gauge_awg} AWG"
        return name + (f", landing {design.design.landing.policy}" if len(space.policies) > 1 else "")

    def figures(self, place: int) -> str:
        """Minutes, mass, a late punch and the price."""
        flown = self.flown
        price = "" if np.isnan(flown.price[place]) else f", cells for {format_number(flown.price[place], 2)}"
        return (
            f"{format_minutes(float(flown.duration_s[place]))}, {format_grams(flown.takeoff_g[place])},"
            f" {format_volts(flown.late_v[place])} a cell and {format_number(flown.late_margin[place], 1)} times"
            f" {self.space.complete.craft.margin_over} in a late punch{price}"
        )

    def headline(self) -> str:
        """How many keep to every limit, and the longest flight among them."""
        flown, passes = self.flown, self.judged.passes
        total, passing = format_number(len(flown), 0), int(passes.sum())
        if not passing:
            return f"All {total} designs break a limit: their reasons are in the table and at each dot"
        best = int(np.argmax(np.where(passes, flown.duration_s, -np.inf)))
        return (
            f"{format_number(passing, 0)} of {total} designs keep to every limit; the longest flies"
            f" {format_minutes(float(flown.duration_s[best]))} at {format_grams(flown.takeoff_g[best])}"
        )

"""What plots say to whoever does not see them: a sentence for each thing that is named, and points to walk along."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.course import course
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.words import upper_first
from wise_cellar.ui.widgets.plot import Plot
from wise_cellar.ui.widgets.plot_parts import Curve, Dots, Level, Moment

MOST_STOPS = 60
"""Along one line."""


@dataclass(frozen=True, eq=False)
class Walked:
    """A line or dots of a plot that can be walked, ``(stops,)`` each, from left to right."""

    plot: Plot
    name: str
    x: Floats
    y: Floats

    def read(self, stop: int) -> str:
        """What is read at a stop."""
        x, y = self.plot.across_words(float(self.x[stop])), self.plot.up_words(float(self.y[stop]))
        return f"{upper_first(self.name)}: {y} at {x}"


def walked_lines(plots: Sequence[Plot]) -> list[Walked]:
    """All that can be walked, plot by plot."""
    found = []
    for plot in plots:
        parts: list[Curve | Dots] = [*plot.parts(Curve), *plot.parts(Dots)]
        for part in parts:
            there = np.flatnonzero(np.isfinite(part.x) & np.isfinite(part.y))
            if not part.name or not len(there):
                continue
            some = there[np.unique(np.linspace(0, len(there) - 1, min(MOST_STOPS, len(there))).round().astype(int))]
            some = some[np.argsort(part.x[some], kind="stable")] if isinstance(part, Dots) else some
            found.append(Walked(plot, part.name, part.x[some], part.y[some]))
    return found


def told(plots: Sequence[Plot]) -> str:
    """All that plots show, in sentences."""
    words = []
    for plot in plots:
        sentences = _sentences(plot)
        heading = [plot.heading] if sentences and plot.heading else []
        words += [f"{upper_first(sentence)}." for sentence in (*heading, *sentences)]
    return " ".join(words)


def _sentences(plot: Plot) -> list[str]:
    across, up = plot.across_words, plot.up_words
    said = []
    for curve in plot.parts(Curve):
        words = course(curve.x, curve.y, across, up) if curve.name else ""
        said += [f"{curve.name} {words}"] if words else []
    for dots in plot.parts(Dots):
        there = np.isfinite(dots.x) & np.isfinite(dots.y)
        x, y = dots.x[there], dots.y[there]
        if not dots.name or not len(x):
            continue
        if len(x) == 1:
            said.append(f"{dots.name}: {up(float(y[0]))} at {across(float(x[0]))}")
        else:
            wide, high = (f"{write(float(v.min()))} to {write(float(v.max()))}" for write, v in ((across, x), (up, y)))
            said.append(f"{dots.name}: {len(x)} from {wide}, {high}")
    said += [f"{level.name}: {up(level.y)}" for level in plot.parts(Level) if level.name]
    said += [f"{moment.name}: {across(moment.x)}" for moment in plot.parts(Moment) if moment.name]
    return said

"""What was measured of a finished pack, held against what was predicted, and where the difference may come from."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.build.finished import as_it_was, cells_mohm, group_capacities, resting_at
from wise_cellar.core.build.making import cells_in
from wise_cellar.core.cells import resistance_mohm
from wise_cellar.core.documents import (
    BuiltPack,
    CellType,
    NumberedCell,
    PackCheck,
)
from wise_cellar.core.pack import PackBuild, build_pack
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import (
    format_celsius,
    format_grams,
    format_mah,
    format_number,
    format_share,
    format_significant,
    format_volts,
)
from wise_cellar.core.words import lower_first

NEARLY = 2.0
"""Times the doubts of the likeliest part within which a second one is told."""
FAR_DOUBTS = 6.0
"""So many of its usual doubts off, no part alone is an explanation."""
GROUP_APART_V = 0.020
PART_DOUBTS = {
    "Cells": 0.005, "cells": 0.005, "Strips": 0.1, "Balance lead": 0.15, "Solder": 0.5, "Heat-shrink": 0.3,
    "End insulation": 0.3, "Leads": 0.08, "Connector": 0.15, "Adaptors": 0.1, "Fuse": 0.2, "Frames": 0.2, "Straps": 0.3,
    "Mount": 0.2, "Spring holder": 0.2, "Other": 0.3,
}  # fmt: skip
"""By which share each part of a pack's mass may usually be off: our estimates."""
UNCOUNTED_G_A_CELL = 0.8
"""Glue and tape, which nobody counts, grams a cell: an estimate."""
OHM_DOUBTS = {"Cells": 0.15, "Joints": 0.5, "Strips": 0.1, "Uneven sharing": 0.3, "Leads": 0.05, "Connector": 0.5,
              "Fuse": 0.3, "Adaptors": 0.3, "Adaptor leads": 0.05}  # fmt: skip
"""And each part of its resistance: our estimates."""
MEASURED_CELLS = 0.05
"""The share of the cells' where they were measured one by one."""


@dataclass(frozen=True)
class Compared:
    """One line: what was predicted, what was measured."""

    name: str
    predicted: float
    measured: float | None
    unit: str
    """g, mΩ or V."""

    @property
    def apart(self) -> float | None:
        """Measured less predicted."""
        return None if self.measured is None else self.measured - self.predicted


@dataclass(frozen=True)
class Inspection:
    """A finished pack, its latest readings against the prediction, and what they say."""

    lines: tuple[Compared, ...]
    sentences: tuple[str, ...]
    """The gravest first."""


def inspect(pack: BuiltPack, cell_type: CellType, cells: Sequence[NumberedCell]) -> Inspection:
    """The latest readings of a pack against what its recipe and its cells say, and what explains the difference."""
    build = build_pack(pack.recipe, cell_type)
    held, ohm = as_it_was(pack, cell_type, cells)
    check = max(pack.checks, key=lambda one: one.day, default=None)
    lines = [Compared("Mass", build.parts_g, pack.recipe.weighed_g, "g")]
    celsius = check.temperature_c if check is not None else 25.0
    cells_part = cells_mohm(pack.recipe, cell_type, celsius) * float(ohm.mean())
    predicted = cells_part + 1e3 * build.wiring_ohm
    measured = check.resistance_mohm if check is not None else None
    lines.append(Compared(f"Resistance at {format_celsius(celsius)}", predicted, measured, "mΩ"))
    told: list[str] = []
    if measured is not None:
        known = any(cell.dcir_mohm is not None for group in cells_in(pack, cells) for cell in group)
        told += _of_resistance(build, cells_part, predicted, measured, measured_cells=known)
    if check is not None and check.group_v:
        used = check.used_mah or 0.0
        rest = [resting_at(cell_type, max(1.0 - used / charge, 0.0)) for charge in held]
        lines += [
            Compared(f"Group {place + 1} at rest", volts, read, "V")
            for place, (volts, read) in enumerate(zip(rest, check.group_v, strict=True))
        ]
        told = [*_of_groups(cell_type, check, held), *told]
    told += _of_mass(build, pack.recipe.weighed_g)
    if not told:
        told.append("Nothing was measured of it yet: weigh it, and read its groups an hour after a charge or a flight.")
    return Inspection(tuple(lines), tuple(told))


def _of_mass(build: PackBuild, weighed_g: float | None) -> Iterator[str]:
    if weighed_g is None:
        return
    apart = weighed_g - build.parts_g
    if abs(apart) < max(0.003 * build.parts_g, 0.5):
        yield f"It weighs what its parts do, within {format_grams(abs(apart), 1)}."
        return
    found = []
    for entry in build.parts:
        doubt = next((share for name, share in PART_DOUBTS.items() if entry.name.endswith(name)), 0.2)
        if entry.mass_g and doubt:
            found.append((abs(apart) / (doubt * entry.mass_g), entry.name, apart / entry.mass_g))
    more = "more" if apart > 0 else "less"
    words = [f"{format_grams(abs(apart), 1)} {more} than its parts."]
    glue = UNCOUNTED_G_A_CELL * len(build.layout.cells)
    if 0 < apart <= 2 * glue and not build.recipe.fittings.other_g:
        words.append("Glue and tape are not counted and would come to about as much; write them as other grams.")
    else:
        likely = _likeliest(found)
        if likely[0][0] > FAR_DOUBTS:
            words.append(
                "No part is usually so far off: weigh it again, or look for something that the recipe does not have."
            )
            yield " ".join(words)
            return
        words.append(
            "Likeliest: "
            + ", or ".join(f"{lower_first(name)} {format_share(abs(share))} {'heavier' if apart > 0 else 'lighter'}"
                           for _, name, share in likely)
            + " than reckoned."
        )  # fmt: skip
    yield " ".join(words)


def _likeliest(parts: Sequence[tuple[float, str, float]]) -> list[tuple[float, str, float]]:
    """Parts by how many of their doubts they would be off: the least, and one more that is nearly as likely."""
    first, *others = sorted(parts)
    return [first, *(one for one in others[:1] if one[0] <= NEARLY * first[0])]


def _of_resistance(
    build: PackBuild, cells_part: float, predicted: float, measured: float, *, measured_cells: bool
) -> Iterator[str]:
    apart = measured - predicted
    cells_doubt = MEASURED_CELLS if measured_cells else OHM_DOUBTS["Cells"]
    if abs(apart) <= cells_doubt * cells_part + 0.02 * measured:
        yield "Its resistance is what its cells and its wiring say, within what those are known to."
        return
    parts = [("cells", cells_part, cells_doubt)]
    parts += [
        (lower_first(one.name), 1e3 * one.ohm, OHM_DOUBTS.get(one.name, 0.3)) for one in build.resistances if one.ohm
    ]
    likely = _likeliest([(abs(apart) / (doubt * mohm), name, apart / mohm) for name, mohm, doubt in parts])
    more = "more" if apart > 0 else "less"
    first = f"{format_number(abs(apart), 1)} mΩ {more} than predicted. Likeliest: " + ", or ".join(
        f"{name} {format_share(abs(share))} {'higher' if apart > 0 else 'lower'}" for _, name, share in likely
    )
    yield first + "."
    if apart > 0:
        joint = one_joint_mohm(build, apart)
        if joint is None:
            yield "No single open joint comes to as much: look at the plug, the leads and how it was measured."
        else:
            yield (
                f"One joint alone would have to resist {format_significant(joint, 2)} mΩ: pull at that strip, or read"
                " the volts across each joint under load."
            )


def one_joint_mohm(build: PackBuild, extra_mohm: float) -> float | None:
    """What a single joint would have to resist beyond the others for the pack to resist ``extra_mohm`` more; none where
    not even an open joint does.

    Of P branches of r side by side one has r + x: 1 ÷ ((P − 1)/r + 1/(r + x)) − r/P = ΔR. Source: parallel
    conductances. Not modelled: current that goes round through the strips of the group.
    """
    parallel, branch = build.recipe.parallel_count, resistance_mohm(build.cell)
    if parallel == 1:
        return extra_mohm
    with_it = branch / parallel + extra_mohm
    rest = 1.0 / with_it - (parallel - 1) / branch
    return 1.0 / rest - branch if rest > 0 else None


def _of_groups(cell_type: CellType, check: PackCheck, built: Floats) -> Iterator[str]:
    read = np.array(check.group_v)
    low = int(read.argmin())
    apart = float(read.max() - read.min())
    capacities = group_capacities(cell_type, check)
    if capacities is not None:
        held, doubt = capacities
        weak = int(held.argmin())
        others = np.delete(held, weak).mean() if len(held) > 1 else held[weak]
        behind = float(others - held[weak])
        if behind > 2 * float(doubt[weak]) and behind > 0.02 * float(others):
            yield (
                f"Group {weak + 1} holds {format_mah(float(held[weak]))}, {format_mah(behind)} less than the others: it"
                f" ends every flight first (± {format_mah(float(doubt[weak]))})."
            )
        yield (
            f"It holds {format_mah(float(held.mean()))}, {format_share(float(held.mean() / built.mean()))} of when it"
            f" was built, by {format_mah(check.used_mah or 0.0)} used and where it rests."
        )
        return
    if apart > GROUP_APART_V:
        yield (
            f"Group {low + 1} rests {format_number(1000 * apart, 0)} mV under the highest, at"
            f" {format_volts(float(read[low]), 3)}: balance it; if it falls behind again in days, it loses charge."
        )
    else:
        yield f"Its groups rest within {format_number(1000 * apart, 0)} mV."

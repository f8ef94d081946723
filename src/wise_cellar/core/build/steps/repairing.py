"""The steps of a repair: a pack taken apart as far as one group, its cells changed, and closed again.

Source: the craft; volts are those of its groups as they were read.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import replace

import numpy as np

from wise_cellar.core.build.steps.common import closing_steps
from wise_cellar.core.build.steps.expected import Expected, GroupRest, of_pins, of_segments
from wise_cellar.core.build.steps.joined import sides_of
from wise_cellar.core.build.steps.step import Bench, Scene, Side, Step
from wise_cellar.core.cells import resting_curve
from wise_cellar.core.documents import NumberedCell, PackRepair
from wise_cellar.core.pack import SCHOOLS
from wise_cellar.core.pack.cautions import WITHIN_MV
from wise_cellar.core.units import format_volts

REPAIR_KEY = "repair-"
"""What the keys of its steps begin with."""
LOW_CHARGE, LOW_WITHIN_V = 1 / 3, 0.25
"""How far a pack is brought down before it is opened, and how far its groups may rest from there."""


def repair_steps(bench_of: Bench, repair: PackRepair, coming: Sequence[NumberedCell]) -> tuple[Step, ...]:
    """Take the pack apart as far as one group, change its cells, and close it again.

    ``bench_of`` is the pack as it is, with what its groups rest at; ``coming`` are the cells that go in.
    """
    steps = (*_opened(bench_of, repair), *_changed(bench_of, repair, coming))
    return tuple(replace(step, key=REPAIR_KEY + step.key) for step in steps)


def _scene(bench_of: Bench, **changes: object) -> Scene:
    series = bench_of.build.recipe.series_count
    whole = Scene(
        numbered=True, ringed=bench_of.build.cell.form_factor.cylindrical, joined=frozenset(range(series + 1)),
        leads=(True, True), taps=bench_of.build.recipe.balance.fitted,
    )  # fmt: skip
    return replace(whole, **changes)  # type: ignore[arg-type]


def _nodes(repair: PackRepair) -> frozenset[int]:
    return frozenset({repair.group - 1, repair.group})


def _sides(bench_of: Bench, nodes: frozenset[int]) -> frozenset[Side]:
    return frozenset(side for side, lying in sides_of(bench_of.build.layout).items() if lying & nodes)


def _opened(bench_of: Bench, repair: PackRepair) -> Iterator[Step]:
    series = bench_of.build.recipe.series_count
    nodes, number = _nodes(repair), repair.group
    joint = SCHOOLS[bench_of.build.recipe.joint]
    yield Step(
        "low", "Bring it down, and read it",
        (
            "Discharge the pack to about a third: less can burn. Unplug it from everything.",
            "Read every group at the balance plug.",
        ),
        _scene(bench_of, wrapped=True), ("a meter",), (), "",
        ("A swollen, wet, dented or warm pack is not opened: outdoors, an hour's watch, then handed in.",),
        of_segments(_low(bench_of), range(series + 1))[: series if series > 1 else 1],
    )  # fmt: skip
    yield Step(
        "unwrap", "Take the wrap off",
        (
            "Cut the sleeve along an edge where no cell is, with a blunt hook, never a knife towards a cell.",
            "Cap the plug; tape the balance plug shut; cover both faces.",
        ),
        _scene(bench_of), ("a blunt hook",),
    )  # fmt: skip
    yield Step(
        "apart", f"Part group {number} from its neighbours",
        (
            "One strip at a time, the other face covered: cut it between two cells, where nothing lies under it.",
            f"First towards group {number + 1 if number < series else number - 1}, then the other side, then the"
            " balance wires of the group; each end is taped before the next cut.",
            f"It is {joint.apart}: what holds stays on the old cells, nothing is torn from a can that stays.",
        ),
        _scene(bench_of, joined=frozenset(range(series + 1)) - nodes, open=_sides(bench_of, nodes)),
        ("side cutters with taped jaws", "tape"),
    )  # fmt: skip
    yield Step(
        "out", f"Take the cells of group {number} out",
        (
            "Loosen the glue along their sides; turn each out, no lever on an end.",
            f"Mark {', '.join(str(cell) for cell in repair.taken_out) or 'them'} as taken out; insulate both ends; hand"
            " in what must not be used.",
        ),
        _scene(bench_of, joined=frozenset(range(series + 1)) - nodes, open=_sides(bench_of, nodes)),
    )  # fmt: skip


def _low(bench_of: Bench) -> tuple[GroupRest, ...]:
    """What the groups of a pack that was brought down rest at."""
    values = resting_curve(bench_of.build.cell).values
    rest = float(np.interp(LOW_CHARGE, np.linspace(0.0, 1.0, len(values)), values))
    return (GroupRest(rest, LOW_WITHIN_V, read=False),) * bench_of.build.recipe.series_count


def _changed(bench_of: Bench, repair: PackRepair, coming: Sequence[NumberedCell]) -> Iterator[Step]:
    series, number = bench_of.build.recipe.series_count, repair.group
    nodes = _nodes(repair)
    open_nodes = frozenset(range(series + 1)) - nodes
    rests = bench_of.rests
    fellows = float(np.mean([rest.volts for place, rest in enumerate(rests) if place != number - 1]))
    told = tuple(
        Expected(f"cell-{cell.number}", f"Cell {cell.number}, brought to the others", fellows, WITHIN_MV / 1000)
        for cell in coming
    )
    yield Step(
        "level", "Bring the new cells to the others' volts",
        (
            f"The other groups rest at {format_volts(fellows, 3)}: charge or discharge each new cell alone until it"
            f" rests within {WITHIN_MV} mV of that, an hour after.",
            "Number them, ring on every positive end.",
        ),
        _scene(bench_of, joined=open_nodes), ("a charger for single cells", "a meter"), (), "", (), told,
    )  # fmt: skip
    one = GroupRest(fellows, WITHIN_MV / 1000)
    together = tuple(one if place == number - 1 else rest for place, rest in enumerate(rests))
    joint = SCHOOLS[bench_of.build.recipe.joint]
    yield Step(
        "in", f"Put group {number} in and join it again",
        (
            "Polarity as the picture shows it; read every cell where it stands before any strip.",
            "One face at a time, the other covered, from the more negative side up. New strip laps the old by its own"
            " width, on a cell's end and not between two.",
        ),
        _scene(bench_of, joined=open_nodes, joining=nodes, open=_sides(bench_of, nodes)), (joint.tools,), (), "",
        (joint.caution,), of_segments(together, range(series + 1)),
    )  # fmt: skip
    if bench_of.build.recipe.balance.fitted:
        yield Step(
            "taps", "Its balance wires again",
            ("The more negative one first, the other insulated. Then read them all against wire 1.",),
            _scene(bench_of, tapping=True, open=_sides(bench_of, nodes)), ("a fine soldering iron", "a meter"), (), "",
            (), of_pins(together),
        )  # fmt: skip
    yield from closing_steps(bench_of.with_rests(together), _scene(bench_of))

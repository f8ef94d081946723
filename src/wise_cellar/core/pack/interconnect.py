"""The interconnect of a pack as a circuit: who carries how much of the pack's current.

Points: one on the strips at each end of each cell. Resistors: runs of strip, and each cell with its two joints. All
cells are alike and equally charged, so the solution is in proportion to the pack's current. In a flight cells that
carry more fall behind in charge and the shares even out within some minutes: these shares hold at the start of a
flight and in every burst.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import cached_property

import numpy as np

from wise_cellar.core.cells import electrical
from wise_cellar.core.documents import CellType, PackRecipe
from wise_cellar.core.pack.joining import joint_ohm, strip_conductor
from wise_cellar.core.pack.layout import PackLayout, RunKind, StripRun, Terminal, node_of
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.physics.conductor import Conductor, stranded_lead
from wise_cellar.core.physics.network import Network


@dataclass(frozen=True)
class Interconnect:
    """The solved circuit for one ampere of the pack."""

    network: Network
    """First one resistor a run, then one a cell."""
    conductors: tuple[Conductor, ...]
    """(runs,)"""
    run_a: Floats
    """(runs,) From start to end, A for each ampere of the pack; negative flows back."""
    cell_a: Floats
    """(cells,) Out of the positive end, A for each ampere of the pack."""
    potentials_v: Floats
    """(points,) For one ampere: negative end of every cell, then positive."""
    ohm: float
    """Between the leads, cells and joints included."""
    joint_ohm: float
    """All joints, at pack level: their loss over the pack's current squared."""
    strip_ohm: float
    """All strips, likewise."""
    uneven_ohm: float
    """What the cells lose more than if each carried the same."""
    parallel_count: int

    @cached_property
    def shares(self) -> Floats:
        """(cells,) Current of each over the mean of its group; 1 where all carry the same."""
        return self.cell_a * self.parallel_count

    @property
    def worst_share(self) -> float:
        """Of the cell that carries most."""
        return float(self.shares.max())


def solve_interconnect(recipe: PackRecipe, cell: CellType, layout: PackLayout) -> Interconnect:
    """Solve the interconnect of a layout that has leads, for one ampere of the pack; ohms, volts, amps.

    Source and what is not modelled: :func:`solve_alike`, of which this is one circuit.
    """
    inner, joint = electrical(cell)["r0_ohm"], joint_ohm(recipe)
    solved = solve_alike(recipe, layout, np.array([inner]), np.array([joint]))
    return Interconnect(
        network=solved.network,
        conductors=solved.conductors,
        run_a=solved.run_a[0],
        cell_a=solved.cell_a[0],
        potentials_v=solved.potentials_v[0],
        ohm=float(solved.ohm[0]),
        joint_ohm=float(solved.joint_ohm[0]),
        strip_ohm=float(solved.strip_ohm[0]),
        uneven_ohm=float(solved.uneven_ohm[0]),
        parallel_count=recipe.parallel_count,
    )


@dataclass(frozen=True)
class AlikeCircuits:
    """Circuits of one layout that differ in their cells and joints only: :class:`Interconnect` with a leading axis."""

    network: Network
    conductors: tuple[Conductor, ...]
    run_a: Floats
    cell_a: Floats
    potentials_v: Floats
    ohm: Floats
    joint_ohm: Floats
    strip_ohm: Floats
    uneven_ohm: Floats


def solve_alike(recipe: PackRecipe, layout: PackLayout, cell_ohm: Floats, joints_ohm: Floats) -> AlikeCircuits:
    """Solve a layout that has leads for several cells and joints, both of shape ``(circuits,)``, ohms of one.

    Source: nodal analysis (`physics/network.py`), all cells of one resistance and strips cold; the pack's ohms by
    Tellegen, ΣR·I² for one ampere. Not modelled: that a cell which carries more rests lower later; warm strips.
    """
    cells, parallel = len(layout.cells), recipe.parallel_count
    assert layout.negative is not None
    assert layout.positive is not None
    conductors = run_conductors(recipe, layout.strips)

    def point(terminal: Terminal) -> int:
        return terminal.cell + cells * terminal.positive

    places, circuits = np.arange(cells), len(cell_ohm)
    strips = np.array([part.cold_ohm for part in conductors])
    each = np.repeat((cell_ohm + 2 * joints_ohm)[:, None], cells, axis=1)
    network = Network(
        level=np.array(
            [node_of(place, False) for place in layout.cells] + [node_of(place, True) for place in layout.cells]
        ),
        start=np.concatenate([[point(run.start) for run in layout.strips], places]).astype(np.intp),
        end=np.concatenate([[point(run.end) for run in layout.strips], places + cells]).astype(np.intp),
        ohm=np.concatenate([np.broadcast_to(strips, (circuits, len(strips))), each], axis=1),
    )
    # The pack's current enters at the negative lead, and leaves at the positive one.
    injected = np.zeros((2 * cells, 1))
    injected[point(layout.negative)] += 1.0
    injected[point(layout.positive)] -= 1.0
    potentials = network.potentials(injected)
    volts, amps = potentials[..., 0], network.currents(potentials)[..., 0]
    run_a, cell_a = amps[:, : len(conductors)], amps[:, len(conductors) :]
    squares = np.sum(cell_a**2, axis=1)
    return AlikeCircuits(
        network=network,
        conductors=conductors,
        run_a=run_a,
        cell_a=cell_a,
        potentials_v=volts,
        ohm=volts[:, point(layout.negative)] - volts[:, point(layout.positive)],
        joint_ohm=2 * joints_ohm * squares,
        strip_ohm=run_a**2 @ strips,
        uneven_ohm=cell_ohm * (squares - recipe.series_count / parallel),
    )


def run_conductors(recipe: PackRecipe, runs: tuple[StripRun, ...]) -> tuple[Conductor, ...]:
    """The metal of every run; runs that are alike share one."""
    alike: dict[tuple[bool, int, float], Conductor] = {}
    found = []
    layers_at = [recipe.layers_at(node) for node in range(recipe.series_count + 1)]
    for run in runs:
        wire, layers = run.kind is RunKind.WIRE, layers_at[run.node]
        key = (wire, layers, round(run.length_mm, 6))
        if key not in alike:
            alike[key] = (
                stranded_lead(recipe.leads.gauge_awg, run.length_mm * 1e-3, wrapped=True)
                if wire
                else strip_conductor(recipe.strip, layers, run.length_mm)
            )
        found.append(alike[key])
    return tuple(found)

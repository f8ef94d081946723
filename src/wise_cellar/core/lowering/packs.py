"""Packs as arrays: the cells of their groups at take-off, for a table of flights.

Every array belongs to one place on the bus and has the shape ``(1, groups, flights)``; :func:`stacked` puts the places
on their axis.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields
from functools import lru_cache
from typing import Any

import numpy as np

from wise_cellar.core.cells import (
    burst_s,
    electrical,
    heat_capacity_j_k,
    lasting_limit_a,
    resistance_shape,
    resting_curve,
)
from wise_cellar.core.documents import CellType, CompletePack, Cooling, PackState
from wise_cellar.core.pack import PackBuild
from wise_cellar.core.pack.rating import carriers_of
from wise_cellar.core.physics.arrays import ZERO_CELSIUS_K, Floats, Ints
from wise_cellar.core.physics.cell import CellParameters, CellState
from wise_cellar.core.physics.curve_bank import CurveBank, SocCurve

COOLING_W_M2_K = {Cooling.WASH: 35.0, Cooling.SLEEVED: 20.0, Cooling.CLOSED: 8.0}


@dataclass(frozen=True)
class LoweredPack:
    """One of the packs on the bus, worked out."""

    complete: CompletePack
    build: PackBuild

    @property
    def groups(self) -> tuple[Group, ...]:
        """Its series groups, those that are alike together."""
        return groups_of(self.complete.state, self.build.recipe.series_count)

    def hottest_c(self, mean_k: float) -> float:
        """The cell that carries most, where the mean cell reached ``mean_k``."""
        return float(hottest_c(np.array(mean_k), self.complete.air_temperature_c, np.array(self.build.worst_share)))


def hottest_c(mean_k: Floats, air_c: float, worst_share: Floats) -> Floats:
    """°C of the cell that carries ``worst_share`` times the mean of its group, where the mean cell reached ``mean_k``.

    It warms with the square of its share: an upper bound, as shares even out in flight. Our estimate.
    """
    return np.asarray(air_c + (mean_k - ZERO_CELSIUS_K - air_c) * worst_share**2)


@dataclass(frozen=True)
class Group:
    """Series groups of a pack that are alike: which, and what they have of the pack's capacity and resistance."""

    members: tuple[int, ...]
    """Counted from 0, the negative end."""
    capacity: float
    resistance: float
    soc: float | None
    """At take-off; none: as the pack."""
    temperature_c: float | None


def group_words(members: Sequence[int]) -> str:
    """Groups counted as people do: "group 2", "groups 1, 3 and 4"."""
    numbers = [str(member + 1) for member in members]
    return f"group {numbers[0]}" if len(numbers) == 1 else f"groups {', '.join(numbers[:-1])} and {numbers[-1]}"


@lru_cache(maxsize=4096)
def groups_of(state: PackState, series_count: int) -> tuple[Group, ...]:
    """The series groups of a pack, those that are alike together; one where all are."""
    unlike = {one.group - 1: one for one in state.groups if one.group <= series_count}
    alike: dict[tuple[float, float, float | None, float | None], list[int]] = {}
    for number in range(series_count):
        one = unlike.get(number)
        key = (1.0, 1.0, None, None) if one is None else (
            one.capacity_percent / 100, one.resistance_percent / 100,
            None if one.start_charge_percent is None else one.start_charge_percent / 100, one.temperature_c,
        )  # fmt: skip
        alike.setdefault(key, []).append(number)
    return tuple(Group(tuple(members), *key) for key, members in alike.items())


def cell_values(pack: CompletePack, cell: CellType) -> dict[str, float]:
    """Parameters of a cell in a pack of its age and air, by their names in :class:`CellParameters`, cooling aside."""
    values = electrical(cell)
    values["charge_c"] *= pack.state.capacity_percent / 100
    for name in ("r0_ohm", "r1_ohm"):
        values[name] *= pack.state.resistance_percent / 100
    values["lag_gain_s"] *= pack.state.lag_share
    return {
        **values,
        "heat_capacity_j_k": heat_capacity_j_k(cell),
        "air_k": pack.air_temperature_c + ZERO_CELSIUS_K,
    }


@dataclass(frozen=True)
class PackColumns:
    """One place on the bus of every flight: which of ``kinds`` is there, each with its cell type, and how it is built.
    Arrays of shape ``(flights,)``."""

    kinds: Sequence[CompletePack]
    which: Ints
    series: Floats
    parallel: Floats
    """0 where none is there."""
    wiring_ohm: Floats
    outer_m2: Floats
    """Outer surface of the whole pack."""
    worst_share: Floats
    """Of the cell that carries most of its group, over the mean."""
    carrier_s: Floats
    """(flights, carriers) Time constants."""

    @classmethod
    def of(cls, packs: Sequence[LoweredPack]) -> PackColumns:
        """Of packs that are worked out, one of each flight."""
        recipes = [pack.build.recipe for pack in packs]
        return cls(
            [pack.complete for pack in packs],
            np.arange(len(packs)),
            np.array([recipe.series_count for recipe in recipes], float),
            np.array([recipe.parallel_count for recipe in recipes], float),
            np.array([pack.build.wiring_ohm for pack in packs]),
            np.array([pack.build.outer_area_m2 for pack in packs]),
            np.array([pack.build.worst_share for pack in packs]),
            np.concatenate([carriers_of(pack.build).time_s for pack in packs]),
        )

    def repeated(self, count: int) -> PackColumns:
        """The one flight's pack in so many."""
        arrays = {field.name: np.repeat(getattr(self, field.name), count, axis=0) for field in fields(self)[1:]}
        return PackColumns(self.kinds, **arrays)


def pack_arrays(columns: PackColumns) -> dict[str, Any]:
    """One place on the bus of every flight, by the names in :class:`~wise_cellar.core.flight.FlightBatch`."""
    kinds, which = columns.kinds, columns.which
    values = [cell_values(kind, kind.cell) for kind in kinds]
    cells = {name: np.array([value[name] for value in values])[which] for name in values[0]}
    cooling = np.array([COOLING_W_M2_K[kind.of.cooling] * kind.state.cooling_share for kind in kinds])[which]
    cells["cooling_w_k"] = cooling * (columns.outer_m2 / (columns.series * np.maximum(columns.parallel, 1.0)))
    ocv, shape = [resting_curve(kind.cell) for kind in kinds], [resistance_shape(kind.cell) for kind in kinds]
    soc = np.array([kind.state.start_charge_percent / 100 for kind in kinds])[which]
    kelvin = np.array([kind.temperature_c + ZERO_CELSIUS_K for kind in kinds])[which]
    groups = _groups(columns)
    cells["charge_c"] = cells["charge_c"] * groups.capacity
    for name in ("r0_ohm", "r1_ohm"):
        cells[name] = cells[name] * groups.resistance
    wide = groups.share.shape
    soc, kelvin = (np.where(np.isnan(own), pack, own) for own, pack in ((groups.soc, soc), (groups.kelvin, kelvin)))
    there = (columns.parallel > 0) & (groups.share > 0)
    cut_off, lasting_a, bursts = (
        np.array([value(kind.cell) for kind in kinds])[which]
        for value in (lambda cell: cell.min_voltage_v, lasting_limit_a, burst_s)
    )
    place = np.broadcast_to(which, wide)
    return {
        "cell": CellParameters(
            **{name: np.ascontiguousarray(np.broadcast_to(value, wide)) for name, value in cells.items()},
            ocv=curve_bank(ocv)[place],
            shape=curve_bank(shape)[place],
        ),
        "start": CellState(soc, np.zeros(wide), np.zeros(wide), kelvin),
        "group_share": groups.share,
        "parallel": columns.parallel[None, None],
        "wiring_ohm": columns.wiring_ohm[None, None],
        "cut_off_v": np.where(there, cut_off, -np.inf),
        "carrier_s": np.ascontiguousarray(columns.carrier_s.T)[None],
        "lasting_a": (lasting_a / columns.worst_share)[None, None],
        "burst_s": bursts[None, None],
    }


@dataclass(frozen=True)
class _Groups:
    """(1, groups, flights) Not a number where a group is as its pack."""

    share: Floats
    capacity: Floats
    resistance: Floats
    soc: Floats
    kelvin: Floats


def _groups(columns: PackColumns) -> _Groups:
    """The groups of every flight's pack; those that a pack does not have are like its first, and have no share."""
    count = len(columns.which)
    if not any(kind.state.groups for kind in columns.kinds):
        one, none = np.ones((1, 1, count)), np.full((1, 1, count), np.nan)
        return _Groups(one, one, one, none, none)
    every = [
        groups_of(columns.kinds[kind].state, round(series))
        for kind, series in zip(columns.which.tolist(), columns.series.tolist(), strict=True)
    ]
    shape = (1, max(len(groups) for groups in every), count)
    share, capacity, resistance, soc, kelvin = np.zeros((5, *shape))
    for flight, groups in enumerate(every):
        series = columns.series[flight]
        for place in range(shape[1]):
            group = groups[place] if place < len(groups) else groups[0]
            share[0, place, flight] = len(group.members) / series if place < len(groups) else 0.0
            capacity[0, place, flight], resistance[0, place, flight] = group.capacity, group.resistance
            soc[0, place, flight] = np.nan if group.soc is None else group.soc
            warm = group.temperature_c
            kelvin[0, place, flight] = np.nan if warm is None else warm + ZERO_CELSIUS_K
    return _Groups(share, capacity, resistance, soc, kelvin)


def curve_bank(curves: Sequence[SocCurve]) -> CurveBank:
    """A bank in which those that share a curve share its place, of shape ``(curves,)``."""
    places: dict[int, int] = {}
    distinct: list[SocCurve] = []
    for curve in curves:
        if id(curve) not in places:
            places[id(curve)] = len(distinct)
            distinct.append(curve)
    return CurveBank(distinct, np.array([places[id(curve)] for curve in curves], np.intp))


def stacked(places: Sequence[dict[str, Any]]) -> dict[str, Any]:
    """Places on the bus one beside the other on the axis of packs; groups that a pack does not have are filled up."""
    if len(places) == 1:
        return places[0]
    groups = max(place["group_share"].shape[1] for place in places)
    filled = [_filled(place, groups) for place in places]
    found: dict[str, Any] = {}
    for name, first in filled[0].items():
        values = [place[name] for place in filled]
        if isinstance(first, np.ndarray):
            found[name] = np.concatenate(values)
            continue
        parts = {part.name: [getattr(value, part.name) for value in values] for part in fields(first)}
        found[name] = type(first)(**{
            part: CurveBank.side_by_side(of) if isinstance(of[0], CurveBank) else np.concatenate(of)
            for part, of in parts.items()
        })  # fmt: skip
    return found


def _filled(place: dict[str, Any], groups: int) -> dict[str, Any]:
    """With so many groups, those it does not have like its first, without a share."""
    missing = groups - place["group_share"].shape[1]
    if not missing:
        return place
    order = [*range(groups - missing), *[0] * missing]
    found = dict(place)
    for name in ("cell", "start"):
        value = place[name]
        found[name] = type(value)(**{part.name: getattr(value, part.name)[:, order] for part in fields(value)})
    for name, filling in (("group_share", 0.0), ("cut_off_v", -np.inf)):
        found[name] = np.pad(place[name], [(0, 0), (0, missing), (0, 0)], constant_values=filling)
    return found

"""What lies under a point of the pack's drawing, and its numbers in words."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

from PyQt6.QtCore import QPointF

from wise_cellar.core.pack import Face, PackBuild, PackCurrents, RunHeat, RunKind
from wise_cellar.core.physics.conductor import STRIP_RISE_K
from wise_cellar.core.units import counted, format_amps, format_number, format_rise, format_significant, format_watts
from wise_cellar.ui.widgets.faces import FaceView


@dataclass(frozen=True)
class Spot:
    """A cell of a view, and the run of strip over it where there is one."""

    view: FaceView
    cell: int
    run: int | None


def spot_at(build: PackBuild, views: Sequence[FaceView], point: QPointF) -> Spot | None:
    """What lies at a screen point. The middle of a cell is the cell, though a strip covers it."""
    layout = build.layout
    for view in views:
        inside = [
            place
            for place, cell in enumerate(layout.cells)
            if cell.tier == view.tier and view.body(layout, cell).contains(point)
        ]
        reach = build.recipe.strip.width_mm * view.scale / 2
        runs = [
            place
            for place, run in enumerate(layout.strips)
            if view.shows(layout, run) and _away(point, view.at(run.start_mm), view.at(run.end_mm)) <= max(reach, 3.0)
        ]
        if not inside and not runs:
            continue
        cell = inside[0] if inside else layout.strips[runs[0]].start.cell
        if not runs or (inside and _near_middle(point, view, build, cell)):
            return Spot(view, cell, None)
        nearest = min(runs, key=lambda r: _away(point, *(view.at(p) for p in _ends(build, r))))
        return Spot(view, cell, nearest)
    return None


def cell_words(build: PackBuild, cell: int, view: FaceView | None, currents: PackCurrents) -> str:
    """Cell, group, the end that is seen, and what it carries."""
    layout, place = build.layout, build.layout.cells[cell]
    if build.cell.whole_pack:
        return f"{build.cell.name}, pack {place.group + 1} of {len(layout.cells)}"
    words = f"Cell {cell + 1}, group {place.group + 1} of {build.recipe.series_count}"
    if view is not None and not layout.any_way_up:
        words += f", {'positive' if place.positive_up == (view.face is Face.TOP) else 'negative'} end"
    circuit = build.interconnect
    if circuit is None:
        return words
    amps = float(circuit.cell_a[cell])
    share = (
        f"{format_number(100 * amps, 0)} % of the pack's current"
        if build.recipe.parallel_count > 1
        else "all of the current"
    )
    return (
        f"{words}\n{share}: {format_amps(amps * currents.cruise_a)} at cruise,"
        f" {format_amps(amps * currents.punch_a, 0)} in a punch"
    )


def run_words(build: PackBuild, run: int, heat: RunHeat, punch_s: float) -> str:
    """What a run of strip joins, carries, loses and how warm it gets."""
    strip, series = build.layout.strips[run], build.recipe.series_count
    if strip.kind is RunKind.WIRE:
        what = f"Wire at link {strip.node}, because no strip reaches"
    elif strip.between_groups:
        what = f"Strip from group {strip.node} to group {strip.node + 1}"
    else:
        what = f"Bar at {'−' if strip.node == 0 else '+' if strip.node == series else f'link {strip.node}'}"
    layers = build.recipe.layers_at(strip.node)
    return (
        f"{what}, {counted(layers, 'layer')}\n{format_amps(heat.cruise_a)} at"
        f" cruise, {format_amps(heat.punch_a, 0)} in a punch; {format_number(1e3 * heat.ohm, 2)}"
        f" mΩ\n{format_number(1e3 * heat.cruise_drop_v, 0)} mV and {format_watts(heat.cruise_w, 2)} at"
        f" cruise\n+{format_rise(heat.cruise_rise_k)} at cruise, +{format_rise(heat.punch_rise_k)} after"
        f" {format_significant(punch_s)} s of punch; {format_rise(STRIP_RISE_K)} allowed"
    )


def _ends(build: PackBuild, run: int) -> tuple[tuple[float, float], tuple[float, float]]:
    strip = build.layout.strips[run]
    return strip.start_mm, strip.end_mm


def _near_middle(point: QPointF, view: FaceView, build: PackBuild, cell: int) -> bool:
    body = view.body(build.layout, build.layout.cells[cell])
    off = point - body.center()
    return math.hypot(off.x(), off.y()) < 0.3 * min(body.width(), body.height())


def _away(point: QPointF, start: QPointF, end: QPointF) -> float:
    """Distance of a point from a stretch."""
    along, off = end - start, point - start
    length = along.x() ** 2 + along.y() ** 2
    share = (off.x() * along.x() + off.y() * along.y()) / length if length else 0.0
    gap = off - along * min(max(share, 0.0), 1.0)
    return math.hypot(gap.x(), gap.y())

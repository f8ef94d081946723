"""What full throttle, and loads that start, do to the volts."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from wise_cellar.core.answer.limits import stopped
from wise_cellar.core.answer.result import Answer, Finding, caution, over
from wise_cellar.core.answer.switch_on import switch_on_v
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.units import format_minutes, format_number, format_significant, format_volts, format_watts
from wise_cellar.core.words import upper_first


def burst_findings(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """A first and a late burst, the loads that they stop, switching on, and the thrust margin."""
    first = "a first punch" if complete.craft.wing is None else "the launch"
    for word, punch in ((first, answer.early_punch), ("a late punch", answer.late_punch)):
        if punch.collapsed:
            yield over(
                f"In {word} motors and loads ask for more than these cells can supply at any current: everything on"
                " board restarts.",
                "design.packs.0.cell_type_id",
            )
            continue
        for place in np.flatnonzero(stopped(complete.craft, np.array([punch.bus_v]))[:, 0]).tolist():
            load = complete.craft.loads[place]
            yield over(
                f"Cells sag to {format_volts(punch.volts_a_cell)} in {word}: the pack gives"
                f" {format_volts(punch.bus_v, 1)} and {load.name} (min {format_number(load.least_bus_v, 1)}"
                " V) restarts.",
                f"craft.loads.{place}.min_input_v",
            )
    yield from _switch_on(complete, answer)
    for pack in answer.packs:
        least = pack.complete.cell.min_voltage_v
        if pack.dip_s > 0:
            yield caution(
                f"Bursts pull the {pack.cells} under their minimum of {format_volts(least)} for"
                f" {format_number(max(pack.dip_s, 0.1), 1)} s in all, down to {format_volts(pack.dip_v)}:"
                " it is flown through, and costs them some of their life.",
                "design.landing.strict_minimum",
            )
        bursts = ((first, pack.early_cell_v, "design.packs.0.cell_type_id"),
                  ("a late punch", pack.late_cell_v, "design.landing.policy"))  # fmt: skip
        for word, volts, field in bursts:
            if volts < least:
                yield caution(
                    f"{upper_first(word)} pulls the {pack.cells} to {format_volts(volts)}, under their minimum of"
                    f" {format_volts(least)}.",
                    field,
                )
    margin, wanted = answer.late_punch.thrust_margin, complete.design.landing.least_margin
    if margin < wanted:
        told = format_number(margin, 1 if round(margin, 1) < wanted else 2)
        harm = "a dive is pulled out too low" if complete.craft.wing is None else "it hardly climbs any more"
        until = f"until {format_minutes(answer.margin_until_s)}" if answer.margin_until_s > 0 else "at no time"
        yield caution(
            f"Late in the pack full throttle gives {told} times {complete.craft.margin_over}, less than the"
            f" {format_significant(wanted)} wanted: {harm}. It gives as much {until}.",
            "design.packs.0.recipe.series_count",
        )


def _switch_on(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """Loads that draw more while they start, before take-off: the volts must keep all of them up."""
    started = switch_on_v(complete.craft, answer.at_rest)[:, 0].tolist()
    for place, (load, volts) in enumerate(zip(complete.craft.loads, started, strict=True)):
        down = np.flatnonzero(stopped(complete.craft, np.array([volts]))[:, 0])
        if len(down):
            first = complete.craft.loads[int(down[0])]
            yield over(
                f"{load.name} draws {format_watts(load.startup_w)} at switch-on: the pack gives"
                f" {format_volts(volts, 1)} then, and {first.name} (min {format_number(first.least_bus_v, 1)}"
                " V) restarts.",
                f"craft.loads.{place}.startup_w",
            )

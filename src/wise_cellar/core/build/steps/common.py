"""Steps that all ways of building share. Source: the craft; sizes are the layout's, volts those of its cells."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from wise_cellar.core.build.steps.expected import (
    Expected,
    at_plug,
    full,
    last_v,
)
from wise_cellar.core.build.steps.step import Bench, Scene, Step
from wise_cellar.core.cells import one_hour_a
from wise_cellar.core.charge.allowed import FIRST_RATE
from wise_cellar.core.documents import OcvFamily
from wise_cellar.core.pack.cautions import FITTINGS, LABEL, LEADS, STAY_WITH_IT, WITHIN_MV
from wise_cellar.core.units import (
    format_amps,
    format_mm,
    format_number,
    format_volts,
)

SHRINKS_ALONG = 0.10
"""By which heat-shrink also shortens: an estimate of its class."""
WATER = FITTINGS[1].sentence
SHRINK_HEAT = "Warm air, always moving, no hotter than shrinks it: the cells stay no warmer than a hand bears."


def number_step(bench: Bench) -> Step:
    """Cells get their numbers and marks; the lowest and the highest of them are read again."""
    do = [
        "Write its number on every cell and mark its positive end, on the wrap and not on the metal.",
        "Read each against what the tray says; one that reads otherwise goes back.",
    ]
    do += [f"Group {place + 1}: cells {', '.join(str(cell.number) for cell in group)}."
           for place, group in enumerate(bench.groups)]  # fmt: skip
    cautions, expected = [], []
    told = [(volts, cell.number) for group in bench.groups for cell in group if (volts := last_v(cell)) is not None]
    for name, (volts, number) in {"lowest": min(told), "highest": max(told)}.items() if told else ():
        expected.append(Expected(f"cell-{number}", f"Cell {number}, the {name} of them", volts, 0.015))
    for place, group in enumerate(bench.groups):
        read = [(volts, cell.number) for cell in group if (volts := last_v(cell)) is not None]
        if read and 1000 * (max(read)[0] - min(read)[0]) > WITHIN_MV:
            cautions.append(
                f"Cells {min(read)[1]} and {max(read)[1]} of group {place + 1} rest"
                f" {format_number(1000 * (max(read)[0] - min(read)[0]), 0)} mV apart: bring them within {WITHIN_MV} mV"
                " before they are joined."
            )
    first = expected[:1] if len(told) == 1 else expected
    return Step(
        "number", "Number the cells, mark their polarity", tuple(do), Scene(placed=False),
        ("a fine felt pen", "a meter"), (), "", tuple(cautions), tuple(first),
    )  # fmt: skip


def label_step(bench: Bench, scene: Scene) -> Step:
    """The label, with what a carrier and a charger must know."""
    full_v = format_volts(bench.build.recipe.series_count * bench.build.cell.max_voltage_v, 1)
    do = (
        "Stick the label on: name, cells, energy, volts full and at landing, greatest amps, the day.",
        f"It says {full_v} full, so that nobody charges it as another.",
    )
    return Step("label", "Put the label on", do, scene, (), ("Label: see On paper",), "", (LABEL[0].sentence,))


def first_charge_step(bench: Bench, scene: Scene) -> Step:
    """The first charge, slow and watched."""
    build = bench.build
    series, cell = build.recipe.series_count, build.cell
    amps = FIRST_RATE * one_hour_a(cell) * build.recipe.parallel_count
    mode = "iron phosphate" if cell.ocv_family is OcvFamily.LFP else f"{format_volts(cell.max_voltage_v)} a cell"
    do = (
        f"Balance charge, {series}S, {mode}, at {format_amps(amps)}: a fifth of 1C.",
        "Look at the groups every ten minutes; stop where one runs ahead by 50 mV, or anything is warm.",
        "Then an hour of rest, and the groups again.",
    )
    cautions = (STAY_WITH_IT,)
    expected = full(cell, series)
    return Step("first-charge", "First charge", do, scene, ("a charger that balances",), (), "", cautions, expected)


def measure_step(scene: Scene) -> Step:
    """What is measured of the finished pack."""
    do = (
        "Weigh it as it will fly.",
        "An hour after the charge read every group at the balance plug, and the resistance if your charger tells it.",
        "Write both down under Packs: they are held against what was predicted.",
    )
    return Step("measure", "Weigh and measure it", do, scene, ("a scale", "a meter"), (), "", (WATER,))


def plug_step(bench: Bench, scene: Scene) -> Step:
    """Leads and plug are joined while no cell is near."""
    build = bench.build
    fuse = build.recipe.leads.fuse_a
    do = [
        f"Solder both leads to the {build.recipe.leads.connector} plug on the bench, while no cell is near it.",
        "Meter on resistance: red lead to positive half nothing, red to black open.",
    ]
    if fuse is not None:
        do.append(f"The fuse, {format_number(fuse, 0)} A, goes into the red lead at the pack's end.")
    do.append("Cap the plug, insulate both free ends.")
    return Step(
        "plug", "Leads to the plug, away from the pack", tuple(do), scene,
        ("a soldering iron of 60 W or more", "a plug of the other half, to hold the poles straight"),
        bench.pieces("Leads, red and black", "Connector", "Fuse", "Adaptors"), "", (LEADS[0].sentence,),
    )  # fmt: skip


def closing_steps(bench: Bench, wired: Scene) -> Iterator[Step]:
    """Insulation, strain relief, wrap, label, and the first charge."""
    fittings = bench.build.recipe.fittings
    yield Step(
        "insulate", "Insulate between the wires and over the ends",
        (
            "Heat-proof tape under and over every wire that crosses a strip of another group.",
            "A sheet over each face, to the edge of the pack.",
        ),
        wired, ("scissors",), bench.pieces("End sheet", "Heat-proof tape"), "",
        () if fittings.end_sheet_mm or fittings.shrink_mm
        else ("No insulation: sheet on both faces and a sleeve, or a crash shorts it.",),
    )  # fmt: skip
    yield Step(
        "relief", "Strain relief",
        (
            "Lead and wires run along the pack for three fingers' breadth and are tied there: a pull ends in the tie,"
            " not in the joint.",
            "Pull each one by hand, then read the plug again.",
        ),
        wired, ("tape or thread that bears a pull",), (), "", (), (at_plug(bench.rests),),
    )  # fmt: skip
    scene = replace(wired, wrapped=True)
    if fittings.shrink_mm:
        yield _wrap(bench, wired)
    yield label_step(bench, scene)
    yield first_charge_step(bench, scene)
    yield measure_step(scene)


def _wrap(bench: Bench, scene: Scene) -> Step:
    build = bench.build
    flat, long = build.sleeve
    longest = max(build.layout.length_mm, build.layout.width_mm, build.layout.height_mm)
    over = ((1 - SHRINKS_ALONG) * long - longest) / 2
    reach = (
        f"It shortens by about a tenth and then reaches {format_mm(over)} over each end." if over >= 1.0
        else "It shortens by about a tenth and leaves the ends open: they need their sheet."
    )  # fmt: skip
    do = (
        f"Cut {format_mm(long)} of sleeve that lies {format_mm(flat)} flat, and slip it on without force.",
        f"Warm it from the middle outwards. {reach}",
        "Leads leave it together, on the side that they were tied to.",
    )
    pieces = bench.pieces("Heat-shrink", "Straps", "Mount")
    return Step("wrap", "Wrap it", do, scene, ("warm air",), pieces, SHRINK_HEAT)

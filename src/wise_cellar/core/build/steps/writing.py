"""The steps of every way to build: joined by strips, held by springs, or bought whole with another plug."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from wise_cellar.core.build.steps.common import (
    WATER,
    closing_steps,
    first_charge_step,
    label_step,
    measure_step,
    number_step,
    plug_step,
)
from wise_cellar.core.build.steps.expected import (
    at_plug,
    nothing_yet,
    of_pins,
    of_segments,
)
from wise_cellar.core.build.steps.joined import joined_steps
from wise_cellar.core.build.steps.step import Bench, Scene, Step
from wise_cellar.core.documents import Joint
from wise_cellar.core.pack import SCHOOLS
from wise_cellar.core.pack.cautions import LEADS, joining_advice


def write_steps(bench: Bench) -> tuple[Step, ...]:
    """Every step in its order."""
    if bench.build.cell.whole_pack:
        return tuple(_bought(bench))
    if bench.build.recipe.joint is Joint.SPRING_HOLDER:
        return tuple(_held_by_springs(bench))
    return tuple(joined_steps(bench))


# Springs: wires first, cells last


def _held_by_springs(bench: Bench) -> Iterator[Step]:
    build = bench.build
    series = build.recipe.series_count
    empty = Scene(placed=False)
    single = series * build.recipe.parallel_count == 1
    caution = SCHOOLS[Joint.SPRING_HOLDER].caution
    yield number_step(bench)
    yield Step(
        "ends", "Clean the ends", ("Wipe every end and every spring with alcohol.",), replace(empty, numbered=True),
        ("alcohol, a cloth",),
    )  # fmt: skip
    yield replace(plug_step(bench, empty), title="Leads to the plug, before any cell is in")
    yield Step(
        "holder", "Wire the empty holder",
        (
            "Mark plus and minus of every place in the holder.",
            "Solder strips, leads and balance wires to its contacts while it is empty: nothing is live.",
            "Meter on resistance: no contact is joined to its neighbour of another group.",
        ),
        empty, ("a soldering iron of 60 W or more", "a meter"),
        bench.pieces("Spring holder", "Balance wires", "Balance plug"), "", (caution,),
    )  # fmt: skip
    everything = frozenset(range(series + 1))
    placed = Scene(numbered=True, joined=everything, leads=(True, True), taps=build.recipe.balance.fitted)
    pins = of_pins(bench.rests) if build.recipe.balance.fitted and series > 1 else ()
    yield Step(
        "insert", "Put the cell in" if single else "Put the cells in, from the most negative up",
        (
            "The plug's cap stays on. Look at the mark in the holder, then press the cell in.",
            "The wrong way round a cell is a short circuit through its fellows: read each before it goes in."
            if build.recipe.parallel_count > 1
            else "The wrong way round it reads backwards: take it out again at once.",
        ),
        replace(placed, joined=frozenset(), joining=everything), (), (), "",
        tuple(one.sentence for one in joining_advice(build) if "within" in one.sentence),
        (*pins, at_plug(bench.rests)),
    )  # fmt: skip
    yield from closing_steps(bench, placed)


# Packs that were bought whole


def _bought(bench: Bench) -> Iterator[Step]:
    build = bench.build
    series, count = build.recipe.series_count, round(build.units)
    whole = Scene(numbered=True, wrapped=True)
    groups = tuple(
        replace(one, words=f"Group {place + 1}, at its balance plug")
        for place, one in enumerate(of_segments(bench.rests, range(series + 1))[:series])
    )
    yield Step(
        "look", "Look it over and read it",
        (
            "No dent, no swelling, no smell, no torn wrap; else it goes back, outdoors.",
            "Read every group at its balance plug, and the plug: they lie within 50 mV of each other.",
            "A pack bought whole is not opened.",
        ),
        whole, ("a meter",), (), "", (WATER,), (*groups, at_plug(bench.rests)) if series > 1 else groups,
    )  # fmt: skip
    for place, (name, colour) in enumerate((("negative", "black"), ("positive", "red"))):
        expected = at_plug(bench.rests) if place else nothing_yet("At the plug: its red lead is still free")
        yield Step(
            f"lead-{name}", f"The {name} lead, where the plug has to be another",
            (
                f"Cut the {colour} lead alone: never both at once, the jaws short the pack.",
                f"Slip the shrink on first, tin lead and pole of the {build.recipe.leads.connector} plug, solder the"
                f" {colour} one.",
                "Shrink it over the joint before the next wire is bared.",
            ),
            replace(whole, leads=(place == 1, False), lead=place),
            ("side cutters", "a soldering iron of 60 W or more"),
            bench.pieces("Connector", "Fuse") if place == 0 else (),
            "Five seconds a pole; the other half of a plug in it keeps the poles straight.", (LEADS[0].sentence,),
            (expected,),
        )  # fmt: skip
    if count > 1:
        yield Step(
            "adaptor", f"Join the {count} packs",
            (
                "Read each at its plug with the same meter: never more than 50 mV a cell apart.",
                "Check the polarity of both plugs before you join them; their balance plugs stay apart.",
            ),
            replace(whole, leads=(True, True)), ("a meter",), bench.pieces("Adaptor leads", "Adaptor connectors"),
        )  # fmt: skip
    finished = replace(whole, leads=(True, True))
    yield label_step(bench, finished)
    yield first_charge_step(bench, finished)
    yield measure_step(finished)

"""The steps of a pack whose strips are welded or soldered, in an order that leaves least metal bare at any time.

Source: the craft; sizes are the layout's, volts those of its cells.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import replace

from wise_cellar.core.build.materials import TAB_WIDTHS, gathered
from wise_cellar.core.build.steps.common import closing_steps, number_step, plug_step
from wise_cellar.core.build.steps.expected import (
    at_plug,
    nothing_yet,
    of_pins,
    of_segments,
    segments,
    standing,
)
from wise_cellar.core.build.steps.step import Bench, Scene, Side, Step
from wise_cellar.core.documents import Joint, Spacer, Underlay
from wise_cellar.core.pack import SCHOOLS, Face, PackBuild, PackLayout, RunKind, Terminal
from wise_cellar.core.pack.cautions import LEADS, joining_advice
from wise_cellar.core.pack.layout import node_of
from wise_cellar.core.units import (
    format_mm,
    format_section,
)

WELD_HEAT = (
    "A pulse is over in milliseconds. An end that is too warm to touch rests before the next; no spot is welded twice."
)
SOLDER_HEAT = (
    "The iron stays two seconds on an end at most. Then another cell, and back when this one is cold to the touch."
)
TAB_HEAT = "Three seconds on the strip, beside the cell and never over it: strip carries heat to the seal."


def sides_of(layout: PackLayout) -> dict[Side, frozenset[int]]:
    """The faces that are worked on, in their order, each with the nodes that lie on it.

    Faces between two layers come first; of the others those without an end of the pack, so that its whole voltage is
    bare as late as can be.
    """
    nodes: dict[Side, set[int]] = {}
    for place, cell in enumerate(layout.cells):
        for positive in (False, True):
            side = layout.face_of(Terminal(place, positive))
            nodes.setdefault(side, set()).add(node_of(cell, positive))
    series = 1 + max(cell.group for cell in layout.cells)

    def late(side: Side) -> tuple[bool, int, str]:
        inner = layout.tiers > 1 and not layout.lying and (side[0] == 0) == (side[1] is Face.TOP)
        ends = len(nodes[side] & {0, series})
        return not inner, ends, str(side)

    return {side: frozenset(nodes[side]) for side in sorted(nodes, key=late)}


def joined_steps(bench: Bench) -> Iterator[Step]:
    """Every step of a pack that is welded or soldered."""
    build = bench.build
    recipe, cell, layout = build.recipe, build.cell, build.layout
    soldered, pouch = recipe.joint is Joint.SOLDERED, not cell.form_factor.cylindrical
    advice = [one.sentence for one in joining_advice(build)]
    ring = () if pouch else (advice[0],)
    alike = tuple(sentence for sentence in advice if "within" in sentence)
    weld = SCHOOLS[Joint.SPOT_WELD].caution  # says of one way to join what every bare face says
    joint = tuple(one for one in advice if one not in (*ring, *alike, weld))
    numbered = Scene(numbered=True, placed=False)
    yield number_step(bench)
    yield Step(
        "ends", "Clean the tabs" if pouch else "Clean the ends",
        (
            "Wipe every end with alcohol and let it dry.",
            "Roughen where the iron goes, a few strokes, and wipe again." if soldered
            else "No grease, no ink, no glue where a weld goes.",
        ),
        numbered, ("alcohol, a cloth", "fine abrasive paper") if soldered else ("alcohol, a cloth",),
    )  # fmt: skip
    if not pouch:
        yield Step(
            "rings", "Insulating rings on the positive ends",
            ("One ring on every positive end, pressed flat over the rim; a second one where the first is not flat.",),
            replace(numbered, ringed=True), (), bench.pieces("Insulating rings"), "", ring,
        )  # fmt: skip
    laid = Scene(numbered=True, ringed=not pouch)
    sides = sides_of(layout)
    yield _lay(bench, replace(laid, open=frozenset(list(sides)[-1:])))
    if soldered:
        yield _tin(bench, replace(laid, open=frozenset(list(sides)[-1:])), joint)
    joined: frozenset[int] = frozenset()
    for number, (side, nodes) in enumerate(sides.items()):
        scene = replace(laid, joined=joined, joining=nodes - joined, open=frozenset({side}))
        yield _face(bench, number, side, scene, joint, alike)
        joined |= nodes
    yield from _wired(bench, replace(laid, joined=joined), sides)


def _lay(bench: Bench, scene: Scene) -> Step:
    build = bench.build
    layout, recipe = build.layout, build.recipe
    first = {cell.group: cell.positive_up for cell in reversed(layout.cells)}
    do = ["Lay the cells on the faces on paper, 1 : 1: number on number, plus on plus."]
    if recipe.fittings.spacer is Spacer.FRAME:
        do.append("Press the frames on, both ends.")
    else:
        do.append("Glue cell to cell along their sides; no glue on an end or a vent.")
    do.append("Read every cell where it stands before any strip: one the wrong way up shorts its group.")
    volts = () if layout.any_way_up or layout.lying else standing(bench.rests, [first[g] for g in sorted(first)])
    return Step(
        "lay", "Lay the pack out", tuple(do), scene, ("the faces on paper, 1 : 1", "a meter"),
        bench.pieces("Frames"), "", (), volts,
    )  # fmt: skip


def _tin(bench: Bench, scene: Scene, cautions: tuple[str, ...]) -> Step:
    return Step(
        "tin", "Tin cells and strips apart",
        (
            "Tin each end: flux, a hot and heavy tip, a spot of solder as large as the strip is wide.",
            "Tin the strips on the bench, at the places that meet a cell.",
        ),
        scene, ("a soldering iron of 80 W or more with a broad tip", "flux"), bench.pieces("Solder"), SOLDER_HEAT,
        cautions,
    )  # fmt: skip


def _face(bench: Bench, number: int, side: Side, scene: Scene, joint: tuple[str, ...], alike: tuple[str, ...]) -> Step:
    build = bench.build
    soldered = build.recipe.joint is Joint.SOLDERED
    names = ("First", "Second", "Third", "Fourth")
    where = face_words(build.layout, side)
    many = len(sides_of(build.layout)) > 1
    title = f"{names[number]} face: {where}" if many else "Join the cells, from the most negative end up"
    do = []
    if many:
        do.append("Cover the other face with paper board and tape, then turn this one up.")
    do.append(
        "Lay the strips from the most negative group up; press each down while the iron leaves it." if soldered
        else f"Lay the strips from the most negative group up; {build.recipe.welds} spots on every end."
    )  # fmt: skip
    if many:
        do.append(f"On this face: {_nodes_words(scene.joining, build.recipe.series_count)}.")
    do.append("Cover it again before you read: one spot left free for each probe.")
    tools = ("a soldering iron of 80 W or more with a broad tip",) if soldered else (
        f"a welder ({build.recipe.welder})", "a test joint, pulled until the strip tears")  # fmt: skip
    last = scene.joined | scene.joining
    risky = alike if len(segments(build.recipe.series_count, last)) == 1 else ()
    return Step(
        f"face-{side[0]}-{side[1]}", title, tuple(do), scene, tools, _strip_words(build, scene.joining),
        SOLDER_HEAT if soldered else WELD_HEAT, (*risky, *joint), of_segments(bench.rests, last),
    )  # fmt: skip


def face_words(layout: PackLayout, side: Side) -> str:
    """What a face is called."""
    name = "the top" if side[1] is Face.TOP else "the underside"
    if layout.tiers == 1:
        return name
    return f"{name} of the {'upper' if side[0] else 'lower'} layer"


def _nodes_words(nodes: frozenset[int], series: int) -> str:
    told = []
    for node in sorted(nodes):
        if node in (0, series):
            told.append(f"the {'negative' if node == 0 else 'positive'} end, for its lead")
        else:
            told.append(f"group {node} to group {node + 1}")
    return ", ".join(told)


def _strip_words(build: PackBuild, nodes: frozenset[int]) -> tuple[str, ...]:
    """Pieces of strip of some nodes, with their lengths; as many as there are layers."""
    recipe, strip = build.recipe, build.recipe.strip
    pieces: dict[int, float] = {}
    layers: dict[int, int] = {}
    for run in build.layout.strips:
        if run.node in nodes and run.kind is not RunKind.WIRE:
            pieces[run.piece] = pieces.get(run.piece, strip.width_mm) + run.length_mm
            layers[run.piece] = recipe.layers_at(run.node)
    lengths = [length for piece, length in pieces.items() for _ in range(layers[piece])]
    if recipe.parallel_count == 1:
        lengths += [TAB_WIDTHS * strip.width_mm for node in nodes & {0, recipe.series_count}
                    for _ in range(recipe.layers_at(node))]  # fmt: skip
    if not lengths:
        return ()
    cut = ", ".join(f"{one.count} × {format_mm(one.length_mm)}" for one in gathered(lengths))
    found = [f"{strip.metal.value.capitalize()} strip {format_section(strip.width_mm, strip.thickness_mm)}: {cut}"]
    if strip.underlay is not Underlay.NONE:
        size = format_section(strip.underlay_width_mm, strip.underlay_thickness_mm)
        found.append(f"{str(strip.underlay).capitalize()} {size} under each")
    return tuple(found)


def _wired(bench: Bench, joined: Scene, sides: dict[Side, frozenset[int]]) -> Iterator[Step]:
    """Leads, balance wires, and all that covers them."""
    build = bench.build
    layout = build.layout
    yield from _leads(bench, joined, layout)
    wired = replace(joined, leads=(True, True))
    if build.recipe.balance.fitted:
        yield _taps(bench, replace(wired, tapping=True, open=frozenset(sides)))
        wired = replace(wired, taps=True)
    yield from closing_steps(bench, wired)


def _leads(bench: Bench, joined: Scene, layout: PackLayout) -> Iterator[Step]:
    yield plug_step(bench, joined)
    for place, (name, terminal) in enumerate((("negative", layout.negative), ("positive", layout.positive))):
        colour, other = ("black", "red") if place == 0 else ("red", "black")
        done = (place == 1, False)
        side = frozenset() if terminal is None else frozenset({layout.face_of(terminal)})
        expected = at_plug(bench.rests) if place else nothing_yet("At the plug: its other lead is still free")
        yield Step(
            f"lead-{name}", f"The {name} lead",
            (
                f"The free end of the {other} one stays insulated." if place == 0
                else "From now on the plug is live: its cap stays on.",
                f"Tin the tab of the {'first' if place == 0 else 'last'} group, lay the {colour} lead along it and"
                " solder.",
                "Cover the joint before anything else.",
            ),
            replace(joined, leads=done, lead=place, open=side),
            ("a soldering iron of 80 W or more with a broad tip",), (), TAB_HEAT, (LEADS[0].sentence,), (expected,),
        )  # fmt: skip


def _taps(bench: Bench, scene: Scene) -> Step:
    series = bench.build.recipe.series_count
    do = (
        "Every wire is insulated but the one in your hand; the plug's body comes last.",
        f"From the most negative up: wire 1 to the negative end, then one after each group, to wire {series + 1}.",
        "After each wire read it against wire 1; go on when it is right.",
        "One face at a time: the other stays covered.",
    )
    return Step(
        "taps", "Balance wires, from the most negative up", do, scene, ("a fine soldering iron", "a meter"),
        bench.pieces("Balance wires", "Balance plug"), TAB_HEAT, (LEADS[1].sentence,), of_pins(bench.rests),
    )  # fmt: skip

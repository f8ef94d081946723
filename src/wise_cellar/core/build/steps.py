"""The steps of building a pack, written from its recipe, its layout and the way its cells are joined.

Their order leaves least metal bare at any time. What is to be read of each is in ``expected.py``, what a reading says
in ``readings.py``. Source: the craft; the sizes are the layout's, the volts those of its cells.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field, replace

from wise_cellar.core.build.expected import (
    Expected,
    GroupRest,
    at_plug,
    full,
    group_rests,
    last_v,
    nothing_yet,
    of_pins,
    of_segments,
    segments,
    standing,
)
from wise_cellar.core.build.materials import TAB_WIDTHS, Material, gathered, materials
from wise_cellar.core.cells import one_hour_a
from wise_cellar.core.charge.allowed import FIRST_RATE
from wise_cellar.core.documents import Joint, NumberedCell, OcvFamily, Spacer, Underlay
from wise_cellar.core.pack import SCHOOLS, Face, PackBuild, PackLayout, RunKind, Terminal
from wise_cellar.core.pack.cautions import FITTINGS, LABEL, LEADS, WITHIN_MV, joining_advice
from wise_cellar.core.pack.layout import node_of
from wise_cellar.core.units import (
    format_amps,
    format_mm,
    format_number,
    format_section,
    format_volts,
)

Side = tuple[int, Face]
"""A face of a layer of cells."""
SHRINKS_ALONG = 0.10
"""By which heat-shrink also shortens: an estimate of its class."""
BARE = FITTINGS[0].sentence
WATER = FITTINGS[1].sentence
WELD_HEAT = (
    "A pulse is over in milliseconds. An end that is too warm to touch rests before the next; no spot is welded twice."
)
SOLDER_HEAT = (
    "The iron stays two seconds on an end at most. Then another cell, and back when this one is cold to the touch."
)
TAB_HEAT = "Three seconds on the strip, beside the cell and never over it: strip carries heat to the seal."
SHRINK_HEAT = "Warm air, always moving, no hotter than shrinks it: the cells stay no warmer than a hand bears."


@dataclass(frozen=True)
class Scene:
    """What stands of a pack while a step is made: for its picture, and for what is bare."""

    numbered: bool = False
    ringed: bool = False
    placed: bool = True
    joined: frozenset[int] = frozenset()
    """Nodes whose strips are on."""
    joining: frozenset[int] = frozenset()
    """Nodes whose strips come on now."""
    open: frozenset[Side] = frozenset()
    """Faces whose ends are bare while it is made; all others are covered."""
    leads: tuple[bool, bool] = (False, False)
    """Whether the negative and the positive lead are on."""
    lead: int | None = None
    """Which of the two comes on now."""
    taps: bool = False
    tapping: bool = False
    wrapped: bool = False


@dataclass(frozen=True)
class Step:
    """One thing to do."""

    key: str
    title: str
    do: tuple[str, ...]
    scene: Scene
    tools: tuple[str, ...] = ()
    pieces: tuple[str, ...] = ()
    heat: str = ""
    cautions: tuple[str, ...] = ()
    expected: tuple[Expected, ...] = ()

    @property
    def told(self) -> tuple[str, ...]:
        """Its cautions, that of bare ends the first."""
        return ((BARE,) if self.scene.open else ()) + self.cautions


@dataclass(frozen=True)
class Bench:
    """What a pack is built of: its recipe worked out, its cells by groups from the negative end, what they rest at."""

    build: PackBuild
    groups: tuple[tuple[NumberedCell, ...], ...]
    rests: tuple[GroupRest, ...]
    listed: dict[str, Material] = field(default_factory=dict)

    @classmethod
    def of(
        cls, build: PackBuild, groups: Sequence[Sequence[NumberedCell]], others: Sequence[NumberedCell] = ()
    ) -> Bench:
        """Of a recipe and the cells chosen for it; ``others`` are those that speak for cells not read."""
        rests = group_rests(build.cell, groups, build.recipe.series_count, others)
        listed = {one.name: one for one in materials(build)}
        return cls(build, tuple(tuple(group) for group in groups), rests, listed)

    def with_rests(self, rests: Sequence[GroupRest]) -> Bench:
        """The same with groups that were read since."""
        return replace(self, rests=tuple(rests))

    def pieces(self, *names: str) -> tuple[str, ...]:
        """Pieces of the list of materials, each with its size."""
        return tuple(_piece(self.listed[name]) for name in names if name in self.listed)


def _piece(one: Material) -> str:
    size = f", {one.size}" if one.size else ""
    cut = f": {one.cut_words}" if one.pieces else ""
    count = f"{one.count} " if one.count > 1 and not one.pieces else ""
    return f"{count}{one.name.lower() if count else one.name}{size}{cut}"


def write_steps(bench: Bench) -> tuple[Step, ...]:
    """Every step in its order."""
    if bench.build.cell.whole_pack:
        return tuple(_bought(bench))
    if bench.build.recipe.joint is Joint.SPRING_HOLDER:
        return tuple(_held_by_springs(bench))
    return tuple(_joined(bench))


# What all ways share


def _number(bench: Bench) -> Step:
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


def _label(bench: Bench, scene: Scene) -> Step:
    full_v = format_volts(bench.build.recipe.series_count * bench.build.cell.max_voltage_v, 1)
    do = (
        "Stick the label on: name, cells, energy, volts full and at landing, greatest amps, the day.",
        f"It says {full_v} full, so that nobody charges it as another.",
    )
    return Step("label", "Put the label on", do, scene, (), ("Label: see Sheets",), "", (LABEL[0].sentence,))


def _first_charge(bench: Bench, scene: Scene) -> Step:
    build = bench.build
    series, cell = build.recipe.series_count, build.cell
    amps = FIRST_RATE * one_hour_a(cell) * build.recipe.parallel_count
    mode = "iron phosphate" if cell.ocv_family is OcvFamily.LFP else f"{format_volts(cell.max_voltage_v)} a cell"
    do = (
        f"Balance charge, {series}S, {mode}, at {format_amps(amps)}: a fifth of 1C.",
        "Look at the groups every ten minutes; stop where one runs ahead by 50 mV, or anything is warm.",
        "Then an hour of rest, and the groups again.",
    )
    cautions = ("Stay with it, on a ground that cannot burn, away from what can.",)
    expected = full(cell, series)
    return Step("first-charge", "First charge", do, scene, ("a charger that balances",), (), "", cautions, expected)


def _measure(scene: Scene) -> Step:
    do = (
        "Weigh it as it will fly.",
        "An hour after the charge read every group at the balance plug, and the resistance if your charger tells it.",
        "Write both down under Packs: they are held against what was predicted.",
    )
    return Step("measure", "Weigh and measure it", do, scene, ("a scale", "a meter"), (), "", (WATER,))


# Strips that are welded or soldered


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


def _joined(bench: Bench) -> Iterator[Step]:
    build = bench.build
    recipe, cell, layout = build.recipe, build.cell, build.layout
    soldered, pouch = recipe.joint is Joint.SOLDERED, not cell.form_factor.cylindrical
    advice = [one.sentence for one in joining_advice(build)]
    ring = () if pouch else (advice[0],)
    alike = tuple(sentence for sentence in advice if "within" in sentence)
    joint = tuple(one for one in advice if one not in (*ring, *alike))
    numbered = Scene(numbered=True, placed=False)
    yield _number(bench)
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
        "lay", "Lay the pack out", tuple(do), scene, ("the faces on paper, see Sheets", "a meter"),
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
    yield from _closed(bench, wired)


def _plug(bench: Bench, scene: Scene) -> Step:
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


def _leads(bench: Bench, joined: Scene, layout: PackLayout) -> Iterator[Step]:
    yield _plug(bench, joined)
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


def _closed(bench: Bench, wired: Scene) -> Iterator[Step]:
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
    yield _label(bench, scene)
    yield _first_charge(bench, scene)
    yield _measure(scene)


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


# Springs: wires first, cells last


def _held_by_springs(bench: Bench) -> Iterator[Step]:
    build = bench.build
    series = build.recipe.series_count
    empty = Scene(placed=False)
    single = series * build.recipe.parallel_count == 1
    caution = SCHOOLS[Joint.SPRING_HOLDER].caution
    yield _number(bench)
    yield Step(
        "ends", "Clean the ends", ("Wipe every end and every spring with alcohol.",), replace(empty, numbered=True),
        ("alcohol, a cloth",),
    )  # fmt: skip
    yield replace(_plug(bench, empty), title="Leads to the plug, before any cell is in")
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
            "The plug's cap stays on. Look at the mark, then press the cell in: the wrong way round it shorts nothing,"
            " and its group reads backwards.",
        ),
        replace(placed, joined=frozenset(), joining=everything), (), (), "",
        tuple(one.sentence for one in joining_advice(build) if "within" in one.sentence),
        (*pins, at_plug(bench.rests)),
    )  # fmt: skip
    yield from _closed(bench, placed)


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
            ("side cutters", "a soldering iron of 60 W or more"), bench.pieces("Connector", "Fuse") if place == 0 else (),
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
    yield _label(bench, finished)
    yield _first_charge(bench, finished)
    yield _measure(finished)

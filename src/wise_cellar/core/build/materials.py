"""What is bought and cut for a pack: pieces of strip, braid and wire laid into stock lengths, coverings, small parts.

Masses are those of the pack's ledger, entry by entry; where an entry is cut out of pieces, they are reckoned from the
pieces, and both agree.
"""

from __future__ import annotations

import math
from collections import Counter
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from wise_cellar.core.csv_text import csv_text
from wise_cellar.core.documents import Underlay
from wise_cellar.core.pack import PackBuild
from wise_cellar.core.pack.joining import BRAID_COPPER
from wise_cellar.core.pack.layout import RunKind
from wise_cellar.core.physics.conductor import METALS, stranded_lead
from wise_cellar.core.units import TOLD, counted, format_metres, format_mm, format_section

TAB_WIDTHS = 1.5
"""Length of a tab for a lead, in widths of the strip."""
SOLDER_G_PER_MM = 6.6e-3
"""Of solder wire 1 mm thick: 8.4 g/cm³, tin with lead or copper, times its section."""
TAPE_TURNS = 2.2
"""Girths of tape round the whole pack."""
ALIKE_MM = 0.05
"""Pieces so near in length are cut alike."""


@dataclass(frozen=True)
class Piece:
    """So many pieces of a length."""

    length_mm: float
    count: int


@dataclass(frozen=True)
class Stock:
    """Stock lengths that hold the pieces."""

    length_mm: float
    count: int
    waste_mm: float


@dataclass(frozen=True)
class Material:
    """One line of the list. ``grams`` are nought for what is not counted in the pack's mass."""

    name: str
    size: str
    count: int
    pieces: tuple[Piece, ...]
    grams: float
    field: str
    stock: Stock | None = None
    price: float | None = None
    """Of all of it, in the currency of the cell's price; none where nothing tells one."""

    @property
    def length_mm(self) -> float:
        """Of all pieces."""
        return sum(piece.length_mm * piece.count for piece in self.pieces)

    @property
    def cut_words(self) -> str:
        """The pieces, longest first: "6 × 63 mm, 2 × 21 mm"."""
        return ", ".join(f"{piece.count} × {format_mm(piece.length_mm)}" for piece in self.pieces)

    @property
    def stock_words(self) -> str:
        """What to buy, and what is left over."""
        if self.stock is None:
            return f"{format_mm(self.length_mm)} in all" if len(self.pieces) else ""
        return (
            f"{counted(self.stock.count, 'piece')} of {format_mm(self.stock.length_mm)},"
            f" {format_mm(self.stock.waste_mm)} left over"
        )


def laid_into(pieces: Sequence[Piece], stock_mm: float) -> Stock | None:
    """Pieces laid into stock lengths, the longest first, each where it leaves least; none where one is too long.

    Source: best fit decreasing, at most 11/9 of the fewest and one more (Johnson, 1973). Not modelled: the saw's width.
    """
    lengths = sorted((piece.length_mm for piece in pieces for _ in range(piece.count)), reverse=True)
    if not lengths or lengths[0] > stock_mm + ALIKE_MM:
        return None
    left: list[float] = []
    for length in lengths:
        fits = [place for place, room in enumerate(left) if room + ALIKE_MM >= length]
        if fits:
            best = min(fits, key=lambda place: left[place])
            left[best] -= length
        else:
            left.append(stock_mm - length)
    return Stock(stock_mm, len(left), max(sum(left), 0.0))


def materials(build: PackBuild) -> tuple[Material, ...]:
    """Everything of a pack, in order of building."""
    ledger = {entry.name: entry.mass_g for entry in build.parts}
    found: list[Material] = []
    if not build.cell.whole_pack:
        cells = len(build.layout.cells)
        grams = _of(ledger, "cells", "1 cell")
        found.append(
            Material("Cells", build.cell.name, cells, (), grams, "cell.mass_g", price=_price(build.cell.price, cells))
        )
        found += _strips(build)
        found += _balance(build, ledger)
        found += _coverings(build, ledger)
    found += _leads(build, ledger)
    return tuple(found)


def _price(each: float | None, count: float) -> float | None:
    return None if each is None else each * count


def _of(ledger: dict[str, float], *names: str) -> float:
    """Grams of the entries whose names end so."""
    return sum(grams for name, grams in ledger.items() if any(name.endswith(one) for one in names))


def gathered(lengths: Sequence[float]) -> tuple[Piece, ...]:
    """Pieces that are cut alike, the longest first."""
    counted = Counter(round(length / ALIKE_MM) for length in lengths)
    return tuple(Piece(key * ALIKE_MM, count) for key, count in sorted(counted.items(), reverse=True))


def _strips(build: PackBuild) -> Iterator[Material]:
    """Strip and what lies under it, by the number of layers a link has; bridging wires; tabs for the leads."""
    recipe, strip = build.recipe, build.recipe.strip
    cut: dict[int, dict[int, float]] = {}
    wires: list[float] = []
    for run in build.layout.strips:
        if run.kind is RunKind.WIRE:
            wires.append(run.length_mm)
            continue
        pieces = cut.setdefault(recipe.layers_at(run.node), {})
        pieces[run.piece] = pieces.get(run.piece, strip.width_mm) + run.length_mm
    lengths = [length for layers, pieces in cut.items() for length in pieces.values() for _ in range(layers)]
    under = [length for pieces in cut.values() for length in pieces.values()]
    if recipe.parallel_count == 1 and build.layout.strips:
        layers = recipe.layers_at(build.layout.strips[0].node)
        lengths += [TAB_WIDTHS * strip.width_mm] * (2 * layers)
        under += [TAB_WIDTHS * strip.width_mm] * 2
    if lengths:
        kg_per_m = METALS[strip.metal.value].density * strip.width_mm * strip.thickness_mm * 1e-6
        yield _cut(
            f"{strip.metal.value.capitalize()} strip",
            format_section(strip.width_mm, strip.thickness_mm),
            lengths,
            kg_per_m,
            "recipe.strip.width_mm",
            strip.piece_mm,
        )
    if under and strip.underlay is not Underlay.NONE:
        fill = BRAID_COPPER if strip.underlay is Underlay.BRAID else 1.0
        kg_per_m = METALS["copper"].density * strip.underlay_width_mm * strip.underlay_thickness_mm * fill * 1e-6
        size = format_section(strip.underlay_width_mm, strip.underlay_thickness_mm)
        yield _cut(str(strip.underlay).capitalize(), size, under, kg_per_m, "recipe.strip.underlay", strip.piece_mm)
    if wires:
        yield _cut(
            "Bridging wire",
            f"{recipe.leads.gauge_awg} AWG",
            wires,
            stranded_lead(recipe.leads.gauge_awg, 1.0).mass_per_m,
            "recipe.leads.gauge_awg",
            None,
        )


def _cut(
    name: str, size: str, lengths: Sequence[float], kg_per_m: float, field: str, stock_mm: float | None
) -> Material:
    pieces = gathered(lengths)
    stock = laid_into(pieces, stock_mm) if stock_mm is not None else None
    return Material(name, size, len(lengths), pieces, kg_per_m * sum(lengths), field, stock)


def _balance(build: PackBuild, ledger: dict[str, float]) -> Iterator[Material]:
    balance = build.recipe.balance
    if balance.fitted:
        length = balance.length_mm + build.layout.length_mm / 2
        count = build.recipe.series_count + 1
        yield Material(
            "Balance wires",
            f"{balance.gauge_awg} AWG",
            count,
            (Piece(length, count),),
            ledger.get("Balance lead", 0.0),
            "recipe.balance.length_mm",
        )
        yield Material(
            "Balance plug", f"{build.recipe.series_count}S, {count} pins", 1, (), 0.0, "recipe.balance.fitted"
        )


def _coverings(build: PackBuild, ledger: dict[str, float]) -> Iterator[Material]:
    fittings, layout, cell = build.recipe.fittings, build.layout, build.cell
    if cell.form_factor.cylindrical:
        yield Material(
            "Insulating rings",
            (f"for {format_mm(cell.diameter_mm or 0.0, TOLD)}"),
            len(layout.cells),
            (),
            0.0,
            "recipe.fittings.end_sheet_mm",
        )
    if fittings.end_sheet_mm:
        sides = (layout.width_mm, layout.height_mm) if layout.lying else (layout.length_mm, layout.width_mm)
        faces = 2 if layout.lying or layout.any_way_up else 2 * layout.tiers
        yield Material(
            "End sheet",
            f"{format_section(sides[0], sides[1])}, {format_mm(fittings.end_sheet_mm, TOLD)} thick",
            faces,
            (),
            ledger.get("End insulation", 0.0),
            "recipe.fittings.end_sheet_mm",
        )
    girth = 2 * (layout.length_mm + layout.width_mm)
    yield Material(
        "Heat-proof tape", "round the pack", 1, (Piece(TAPE_TURNS * girth, 1),), 0.0, "recipe.fittings.shrink_mm"
    )
    if fittings.shrink_mm:
        flat, long = build.sleeve
        yield Material(
            "Heat-shrink",
            f"{format_mm(flat)} flat, {format_mm(fittings.shrink_mm, TOLD)} wall",
            1,
            (Piece(long, 1),),
            ledger.get("Heat-shrink", 0.0),
            "recipe.fittings.shrink_mm",
        )
    for name, count, field in (
        ("Frames", 2 * len(layout.cells), "recipe.fittings.spacer"),
        ("Straps", fittings.straps, "recipe.fittings.straps"),
        ("Solder", 2 * len(layout.cells), "recipe.joint"),
        ("Spring holder", len(layout.cells), "recipe.joint"),
    ):
        if ledger.get(name):
            metres = format_metres(1e-3 * ledger[name] / SOLDER_G_PER_MM, 1)
            size = f"joints, {metres} of wire {format_mm(1.0)} thick" if name == "Solder" else ""
            yield Material(name, size, count, (), ledger[name], field)
    for name, field in (("Mount", "recipe.fittings.mount_g"), ("Other", "recipe.fittings.other_g")):
        if ledger.get(name):
            yield Material(name, "", 1, (), ledger[name], field)


def _leads(build: PackBuild, ledger: dict[str, float]) -> Iterator[Material]:
    leads = build.recipe.leads
    gauge = f"{leads.gauge_awg} AWG"
    if "Leads" in ledger:
        yield Material(
            "Leads, red and black", gauge, 2, (Piece(leads.length_mm, 2),), ledger["Leads"], "recipe.leads.length_mm"
        )
    for name, words in (
        ("Connector", str(leads.connector)),
        ("Adaptors", ""),
        ("Adaptor leads", gauge),
        ("Adaptor connectors", str(leads.connector)),
        ("Fuse", ""),
    ):
        if ledger.get(name):
            count = leads.adaptors if name == "Adaptors" else 1
            yield Material(name, words, count, (), ledger[name], "recipe.leads.connector")
    bought = _of(ledger, "packs", "1 pack, with leads")
    if bought:
        count = math.ceil(build.units)
        yield Material("Packs bought whole", build.cell.name, count, (), bought, "cell.mass_g",
                       price=_price(build.cell.price, count))  # fmt: skip


def materials_csv(found: Sequence[Material]) -> str:
    """The list as a table, units in the column names."""
    rows = [
        [
            one.name,
            one.size,
            str(one.count),
            f"{one.length_mm:.1f}" if one.pieces else "",
            "; ".join(f"{piece.count}x{piece.length_mm:.1f}" for piece in one.pieces),
            "" if one.stock is None else str(one.stock.count),
            "" if one.stock is None else f"{one.stock.waste_mm:.1f}",
            f"{one.grams:.2f}",
            "" if one.price is None else f"{one.price:.2f}",
        ]
        for one in found
    ]
    head = ["name", "size", "count", "length_mm", "pieces_mm", "stock_pieces", "waste_mm", "mass_g", "price"]
    return csv_text([head, *rows])

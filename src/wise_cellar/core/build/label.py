"""What a pack's label says, and the code on it that opens its design."""

from __future__ import annotations

from dataclasses import dataclass

from wise_cellar.core.answer import Answer, alarm_card
from wise_cellar.core.build.making import Making, recipe_to_keep
from wise_cellar.core.documents import BuiltPack, CompleteDesign, Design, OcvFamily, pack_words
from wise_cellar.core.units import format_amps, format_grams, format_mah, format_number, format_volts

CODE_STEM = "WISE-CELLAR"
CAUTION = "Home-built: charged watched and balanced. Not used again once dented, wet or swollen."
KINDS: dict[type[BuiltPack] | type[Design], str] = {BuiltPack: "PACK", Design: "DESIGN"}


def code_of(document: BuiltPack | Design) -> str:
    """The text of a document's code: capitals, digits and marks that a small code holds; Find knows it again."""
    return f"{CODE_STEM}/{KINDS[type(document)]}/{document.id.upper()}"


@dataclass(frozen=True)
class LabelText:
    """The lines of a label, and its code."""

    name: str
    lines: tuple[str, ...]
    caution: str
    code: str


def label_text(making: Making, complete: CompleteDesign, answer: Answer, today: str) -> LabelText:
    """The label of a pack, or of a design whose pack is not begun.

    Greatest amps and landing volts are those of the design at hand where that flies this pack, else to be written by
    hand.
    """
    build, pack = making.bench.build, making.pack
    recipe, cell = build.recipe, build.cell
    series = recipe.series_count
    mine = recipe_to_keep(answer.build).as_built == recipe_to_keep(build).as_built and answer.build.cell.id == cell.id
    full = format_volts(series * cell.max_voltage_v, 1)
    empty = format_volts(series * cell.min_voltage_v, 1)
    iron = ", iron phosphate" if cell.ocv_family is OcvFamily.LFP else ""
    held = format_mah(recipe.parallel_count * cell.capacity_mah)
    lines = [
        f"{pack_words(recipe, cell)}{iron}",
        f"{held}, {format_number(build.label_wh, 0)} Wh",
        f"full {full}, never under {empty}",
    ]
    if mine:
        land_v = alarm_card(complete, answer).land_v
        most = max(answer.currents.cruise_a, answer.currents.punch_a)
        lines.append(f"land at {format_volts(series * land_v, 1)} under load, {format_volts(land_v)} a cell")
        lines.append(f"most {format_amps(most, 0)}, {format_amps(answer.currents.cruise_a, 0)} for long")
    else:
        lines.append("land at ________ most ________")
    weighed = recipe.weighed_g
    day = today if pack is None else str(pack.finished_on or pack.begun_on)
    lines.append(day + (f", {format_grams(weighed)}" if weighed is not None else ""))
    document = complete.design if pack is None else pack
    return LabelText(document.name, tuple(lines), CAUTION, code_of(document))

"""The list of materials: what is cut weighs what the ledger says, and pieces go into stock."""

from __future__ import annotations

import csv
import io
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import cell_type, whole_pack
from wise_cellar.core.build.materials import Piece, laid_into, materials, materials_csv
from wise_cellar.core.documents import Joint, PackRecipe, replaced
from wise_cellar.core.pack import build_pack
from wise_cellar.demo import complete_sample

PACKS: list[tuple[str, dict[str, Any]]] = [
    ("as it is", {}),
    ("one cell a group", {"parallel_count": 1}),
    ("two layers and copper", {"strip.layers": 2, "strip.underlay": "copper strip"}),
    ("braid", {"strip.underlay": "copper braid"}),
    ("more layers on one link", {"more_layers": [{"node": 2, "layers": 3}]}),
    ("soldered", {"joint": "soldered"}),
    ("in springs", {"joint": "held by springs"}),
    ("with all fittings", {"fittings.straps": 2, "fittings.mount_g": 12, "fittings.spacer": "plastic frames, both ends",
                           "leads.fuse_a": 60, "leads.adaptors": 1}),
    ("bare", {"balance.fitted": False, "fittings.end_sheet_mm": 0, "fittings.shrink_mm": 0}),
]  # fmt: skip


def recipe(changes: dict[str, Any]) -> PackRecipe:
    made = PackRecipe(series_count=4, parallel_count=3)
    for path, value in changes.items():
        made = replaced(made, path, value)
    return made


@pytest.mark.parametrize("changes", [changes for _, changes in PACKS], ids=[name for name, _ in PACKS])
def test_the_list_weighs_what_the_ledger_says(changes: dict[str, Any]) -> None:
    build = build_pack(recipe(changes), cell_type())
    found = materials(build)
    assert sum(one.grams for one in found) == pytest.approx(build.parts_g, rel=1e-6)


@pytest.mark.parametrize("design", ["whimbrel-transect", "dunlin-scout", "dunlin-own", "turnstone-shoreline"])
def test_so_do_the_lists_of_the_sample_packs(design: str) -> None:
    complete = complete_sample(design)
    build = build_pack(complete.pack.recipe, complete.pack.cell, complete.bay)
    assert sum(one.grams for one in materials(build)) == pytest.approx(build.parts_g, rel=1e-6)


def test_strip_is_cut_once_a_layer_with_its_tails() -> None:
    one, two = (materials(build_pack(recipe({"strip.layers": layers}), cell_type())) for layers in (1, 2))
    strips = [next(item for item in found if "strip" in item.name) for found in (one, two)]
    assert strips[1].count == 2 * strips[0].count
    layout = build_pack(recipe({}), cell_type()).layout
    pieces = {run.piece for run in layout.strips}
    assert strips[0].count == len(pieces)
    assert strips[0].length_mm == pytest.approx(layout.strip_mm + 8 * len(pieces), abs=0.05 * len(pieces))


def test_a_bought_pack_takes_nothing_to_cut() -> None:
    found = materials(build_pack(PackRecipe(series_count=2, parallel_count=1), whole_pack()))
    assert [one.name for one in found] == ["Packs bought whole"]


@given(
    st.lists(st.tuples(st.floats(5, 100), st.integers(1, 6)), min_size=1, max_size=8),
    st.floats(100, 400),
)
def test_pieces_laid_into_stock_are_all_there(told: list[tuple[float, int]], stock_mm: float) -> None:
    pieces = [Piece(length, count) for length, count in told]
    whole = sum(piece.length_mm * piece.count for piece in pieces)
    found = laid_into(pieces, stock_mm)
    assert found is not None
    assert found.count * stock_mm - whole == pytest.approx(found.waste_mm, abs=0.06 * len(pieces) * 6)
    assert found.count <= 11 / 9 * -(-whole // stock_mm) * 2 + 1
    assert found.count >= whole / stock_mm - 0.01


def test_a_piece_longer_than_the_stock_cannot_be_cut() -> None:
    assert laid_into([Piece(120, 1)], 100) is None


def test_pieces_share_a_stock_length() -> None:
    found = laid_into([Piece(60, 2), Piece(40, 2)], 100)
    assert found is not None
    assert (found.count, found.waste_mm) == (2, 0)


def test_the_list_goes_out_as_a_table_with_units_in_its_names() -> None:
    build = build_pack(recipe({"strip.piece_mm": 100, "joint": Joint.SPOT_WELD}), cell_type())
    rows = list(csv.DictReader(io.StringIO(materials_csv(materials(build)))))
    assert sum(float(row["mass_g"]) for row in rows) == pytest.approx(build.parts_g, abs=0.1)
    strip = next(row for row in rows if "strip" in row["name"])
    assert int(strip["stock_pieces"]) >= 1
    assert float(strip["waste_mm"]) >= 0


def test_cells_have_the_price_of_their_type_and_solder_a_length() -> None:
    build = build_pack(recipe({"joint": "soldered"}), cell_type(price=6.5))
    by = {one.name: one for one in materials(build)}
    assert by["Cells"].price == pytest.approx(12 * 6.5)
    assert by["Nickel strip"].price is None
    wire = by["Solder"].grams / (8.4e-3 * 3.14159 / 4)  # g/mm³ times the section of 1 mm
    assert by["Solder"].size == f"joints, {wire / 1000:.1f} m of wire 1 mm thick"
    assert next(csv.DictReader(io.StringIO(materials_csv(materials(build)))))["price"] == "78.00"

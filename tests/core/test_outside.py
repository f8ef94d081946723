"""Text that comes from outside: what is read of it, what is refused, and how much a sentence quotes."""

from __future__ import annotations

import json
import math
import time
from collections.abc import Callable

import pytest
from hypothesis import given
from hypothesis import strategies as st

from tests.builders import cell_type, complete, craft, mission
from wise_cellar.core.csv_text import csv_text, guarded, unguarded
from wise_cellar.core.documents import (
    CellType,
    CompleteDesign,
    Craft,
    Document,
    DocumentError,
    cell_types_from_csv,
    cell_types_to_csv,
    import_text,
    replaced,
)
from wise_cellar.core.documents.outside import MOST_DIGITS, plain_data
from wise_cellar.core.units import QuantityError, parse_quantity, unit_of_field
from wise_cellar.core.words import LONGEST_SENTENCE, one_line, split_lines

DEEP = "[" * 100_000 + "]" * 100_000
TEXTS: dict[str, str] = {
    "nested deeply": DEEP,
    "nested a little too deeply": "[" * 50 + "]" * 50,
    "an integer of 5000 digits": '{"mass_g": ' + "9" * 5000 + "}",
    "1e999": '{"mass_g": 1e999}',
    "NaN": '{"mass_g": NaN}',
    "Infinity": '{"mass_g": -Infinity}',
    "half of it": '{"name": "Whim',
    "nothing": "",
    "a byte order mark in it": '{"a": \ufeff1}',
}


@pytest.mark.parametrize("text", TEXTS.values(), ids=TEXTS.keys())
@pytest.mark.parametrize("read", [Craft.from_json, CompleteDesign.from_json, import_text])
def test_json_that_nothing_can_be_done_with_is_a_sentence(text: str, read: Callable[[str], object]) -> None:
    with pytest.raises(DocumentError) as refusal:
        read(text)
    said = str(refusal.value)
    assert len(said) <= LONGEST_SENTENCE
    assert said.endswith(".")
    assert "\n" not in said


JSON_NUMBERS = st.from_regex(r"-?(0|[1-9][0-9]{0,22})(\.[0-9]{1,22})?([eE][+-]?0{0,2}[0-9]{1,4})?", fullmatch=True)


@given(JSON_NUMBERS)
def test_a_number_is_finite_and_of_few_digits_or_refused(digits: str) -> None:
    means = json.loads(digits)
    sound = len(digits) <= MOST_DIGITS if isinstance(means, int) else math.isfinite(means)
    try:
        assert plain_data(f'{{"mass_g": {digits}}}')["mass_g"] == means
        assert sound
    except DocumentError:
        assert not sound


@pytest.mark.parametrize(
    ("path", "value"),
    [
        ("craft.parts.0.mass_g", 10**400),
        ("craft.parts.0.mass_g", float("inf")),
        ("craft.parts.0.mass_g", "x" * 100_000),
        ("craft.parts.0.mass_g", ["x" * 1000] * 1000),
        ("craft.parts.0.name", "a\nb\x07"),
        ("craft.name", "\ud800"),
        ("craft.name", "Whimbrel \u202egnp.exe"),
        ("design.packs.0.recipe.series_count", 10**400),
        ("design.packs.0.recipe.series_count", 1e300),
        ("design.packs.0.recipe.joint", "glued\n" * 1000),
        ("design.packs.0.recipe.leads.gauge_awg", 99),
        ("design.search.parallel", "1" * 70),
        ("cells.0.source_day", "yesterday\n" * 100),
    ],
)
def test_a_refused_value_is_quoted_on_one_line_and_no_path_is_shown(path: str, value: object) -> None:
    with pytest.raises(DocumentError) as refusal:
        replaced(complete(), path, value)
    said = str(refusal.value)
    assert len(said) <= LONGEST_SENTENCE
    assert "\n" not in said
    said.encode("utf-8")  # nothing that could not be written down
    for part in path.split("."):
        assert "_" not in part or part not in said, "a field is told by its title, not by its path"


def test_names_and_notes_have_a_greatest_length() -> None:
    long = "Fell " * 30
    with pytest.raises(DocumentError, match=r"has 149 letters; at most 80 fit here"):
        cell_type(name=long.strip())
    with pytest.raises(DocumentError, match="at most 4000 fit here"):
        cell_type(notes="x" * 4001)
    assert cell_type(name="x" * 80, notes="line\n\tline " + "x" * 3900)


@pytest.mark.parametrize("hidden", ["\x00", "\x1b", "\u202e", "\u2066", "\u2028", "\u200f", "\x85"])
def test_names_hold_nothing_that_cannot_be_seen(hidden: str) -> None:
    with pytest.raises(DocumentError, match="holds characters that cannot be seen"):
        cell_type(name=f"Fell{hidden}21")


def test_longer_names_of_older_files_are_cut_with_a_word() -> None:
    data = craft().model_dump(mode="json") | {"name": "W" * 200, "notes": "a\x07b\n" + "n" * 5000}
    data["parts"][0]["name"] = "frame\u202e" + "x" * 100
    body = {"format": "wise-cellar", "kind": "craft", "document": data}
    found = import_text(json.dumps(body))
    assert isinstance(found.document, Craft)
    assert found.document.name == "W" * 80
    assert len(found.document.notes) == 4000
    assert found.document.notes.startswith("ab\n")
    assert len(found.document.parts[0].name) == 80
    assert len(found.mended) == 3
    assert all("is cut" in said for said in found.mended)


def test_lists_have_a_greatest_length() -> None:
    data = craft().model_dump() | {"parts": [{"name": "screw", "mass_g": 1}] * 401}
    with pytest.raises(DocumentError, match="Parts may hold at most 400; 401 are too many"):
        Craft.from_data(data)


ANYTHING = st.recursive(
    st.none() | st.booleans() | st.integers() | st.floats() | st.text(max_size=60),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=10), inner, max_size=4),
    max_leaves=8,
)


@pytest.mark.parametrize("document", [complete(), craft(), cell_type(), mission()], ids=lambda d: type(d).__name__)
@given(data=st.data())
def test_changed_documents_are_read_or_refused_in_a_sentence(document: Document, data: st.DataObject) -> None:
    """Any part of a document replaced by anything that JSON can hold."""
    whole = json.loads(document.to_json())
    target = whole
    for _ in range(data.draw(st.integers(0, 4))):
        inner = target[data.draw(st.sampled_from(sorted(target)))] if isinstance(target, dict) and target else None
        if isinstance(inner, list) and inner:
            inner = inner[data.draw(st.integers(0, len(inner) - 1))]
        if not isinstance(inner, dict) or not inner:
            break
        target = inner
    target[data.draw(st.sampled_from(sorted(target)))] = data.draw(ANYTHING)
    try:
        type(document).from_data(whole)
    except DocumentError as error:
        said = str(error)
        assert 0 < len(said) <= LONGEST_SENTENCE
        assert "\n" not in said


# Lines and rows


def test_lines_end_where_every_reader_says() -> None:
    text = "a\fb\x0bc\x1cd\x85e\u2028f\r\ng\rh\ni"
    assert split_lines(text) == ["a\fb\x0bc\x1cd\x85e\u2028f", "g", "h", "i"]
    assert split_lines("a\n") == ["a"]
    assert split_lines("") == []
    assert split_lines("a\n\nb") == ["a", "", "b"]


def test_one_line_is_one_line_however_long_it_was() -> None:
    assert one_line("a\n  b\tc") == "a b c"
    assert len(one_line("x" * 10_000)) == LONGEST_SENTENCE
    assert one_line("3\u00a0mm") == "3\u00a0mm", "a hard space keeps a number with its unit"


@pytest.mark.parametrize("text", ["=SUM(A1)", "+1+1", "-2+3", "@cell", "−3 V below", "\tx", "-"])
def test_what_a_spreadsheet_would_carry_out_is_guarded(text: str) -> None:
    assert guarded(text) == "'" + text
    assert unguarded(guarded(text)) == text


@pytest.mark.parametrize("text", ["Fell", "-0.5", "+3", "1e-3", "-1.5e+3", "", "'quoted'", "a=b"])
def test_numbers_and_words_are_left_as_they_are(text: str) -> None:
    assert guarded(text) == text
    assert unguarded(text) == text


def test_a_table_that_we_write_begins_no_cell_with_a_formula_and_comes_back() -> None:
    cell = cell_type(name="=HYPERLINK(1)", notes="@import, -1")
    text = cell_types_to_csv({cell.id: cell})
    assert "\n'=HYPERLINK(1)" in text or ",'=HYPERLINK(1)" in text
    assert cell_types_from_csv(text).rows == (cell,)
    assert csv_text([["a", -1.5], ["=b", "-2"]]) == "a,-1.5\n'=b,-2\n"


def test_two_rows_of_one_name_are_told() -> None:
    first = cell_type(id="fell-21-45p", capacity_mah=3250)
    rows = cell_types_to_csv({"a": first, "b": first.model_copy(update={"capacity_mah": 1900.0})})
    table = cell_types_from_csv(rows)
    assert [cell.capacity_mah for cell in table.rows] == [3250]
    assert table.refusals == ("Line 3: “Fell 21-45P” stands in line 2 already; give one of the two another name.",)


def test_every_line_of_a_table_is_taken_or_told() -> None:
    """Marks that other programs take for the end of a line stand inside the rows of real files."""
    row = "Fell {n},21700,21,70,70,4500,15,35,liion_energy_nmc_siox,energy cylinder{mark}"
    head = "name,form_factor,diameter_mm,length_mm,mass_g,capacity_mah,dcir_mohm,continuous_current_a,ocv_family," \
        "kinetic_class"  # fmt: skip
    for mark in ("\f", "\x0b", "\x1c", "\x85", "\u2028"):
        text = "\n".join([head, *(row.format(n=n, mark=mark) for n in range(5))])
        table = cell_types_from_csv(text)
        assert len(table.rows) + len(table.refusals) == 5, repr(mark)


def test_a_cell_of_60_000_digits_is_refused_at_once() -> None:
    head = "name,form_factor,mass_g,capacity_mah\n"
    began = time.process_time()
    for text in ("9" * 60_000, "9" * 60_000 + "x", " " * 60_000 + "9", "a=" + " " * 60_000):
        assert cell_types_from_csv(f"{head}Fell,21700,{text},4500\n").refusals
        with pytest.raises(QuantityError):
            parse_quantity(text + "x", unit_of_field("mass_g"))
    # Quadratic patterns took minutes here.
    assert time.process_time() - began < 5


@pytest.mark.parametrize("text", ["1e999", "-1e999", "9" * 190])
def test_numbers_beyond_all_numbers_are_refused_in_whole_number_columns_too(text: str) -> None:
    table = cell_types_from_csv(f"name,form_factor,mass_g,capacity_mah,cells_in_series\nFell,21700,70,4500,{text}\n")
    assert not table.rows
    assert len(table.refusals) == 1


# Commas


@pytest.mark.parametrize(
    ("typed", "value"),
    [("1,5", 1.5), ("0,125", 0.125), ("1,234.5", 1234.5), ("1,234,567", 1234567), ("12,34", 12.34), ("1 200", 1200)],
)
def test_a_comma_that_can_only_mean_one_thing_is_understood(typed: str, value: float) -> None:
    assert parse_quantity(typed, unit_of_field("mass_g")) == pytest.approx(value)


@pytest.mark.parametrize("typed", ["1,200", "1,200 kg", "-12,345", "999,000"])
def test_a_comma_before_three_digits_is_refused_with_both_readings(typed: str) -> None:
    with pytest.raises(QuantityError, match=r"may be -?[\d.]+ or -?\d+; write it without the comma"):
        parse_quantity(typed, unit_of_field("mass_g"))


def test_a_table_with_decimal_commas_is_read_as_one() -> None:
    head = "name;form_factor;diameter_mm;length_mm;mass_g;capacity_mah;dcir_mohm;continuous_current_a;ocv_family;" \
        "kinetic_class\n"  # fmt: skip
    row = "Fell;21700;21,2;70,125;70;4500;15;35;liion_energy_nmc_siox;energy cylinder\n"
    (cell,) = cell_types_from_csv(head + row).rows
    assert (cell.length_mm, cell.diameter_mm) == (70.125, 21.2)
    ambiguous = cell_types_from_csv((head + row).replace("21,2", "21"))
    assert "may be 70.125 or 70125" in ambiguous.refusals[0]
    assert isinstance(cell, CellType)

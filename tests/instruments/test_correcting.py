"""Profiles that are corrected by saying what the pieces of a line are."""

from __future__ import annotations

from pathlib import Path

import pytest

from wise_cellar.core.documents import DocumentError
from wise_cellar.instruments import Reading, Understanding, profile_from_toml, profile_to_toml, shipped_profiles
from wise_cellar.instruments.correcting import CHOICES, Piece, asked_with, corrected, parted, pieces
from wise_cellar.instruments.profile import Form, Mode, Profile
from wise_cellar.instruments.quantities import quantity_of

PAIRS, STREAM, LOAD = (shipped_profiles()[name] for name in ("pairs", "csv-stream", "scpi-load"))
PATTERN = profile_from_toml(
    'name = "p"\n[lines]\nform = "pattern"\npattern = "(?P<v>[0-9.]+)V"\n'
    '[[lines.channels]]\nquantity = "volts"\nsource = "v"\nunit = "V"\n'
)


@pytest.mark.parametrize(("profile", "line", "heads", "found"), [
    (PAIRS, "V=3.512 R=15.1 mohm", (), [("V", "3.512"), ("R", "15.1 mohm")]),
    (LOAD, "3.5121; 2.0003", (), [("1", "3.5121"), ("2", "2.0003")]),
    (PATTERN, "it has 3.5V", (), [("v", "3.5")]), (PATTERN, "nothing", (), []),
    (STREAM, "1, 3.5,2", (), [("1", "1"), ("2", "3.5"), ("3", "2")]),
    (STREAM, "1,3.5,2", ("time_s", "voltage_v", "x"), [("time_s", "1"), ("voltage_v", "3.5"), ("x", "2")]),
    (STREAM, "1,3.5", ("time_s", "voltage_v", "x"), [("1", "1"), ("2", "3.5")]),
    (STREAM, "1,3.5", ("a", "b"), [("1", "1"), ("2", "3.5")]),
])  # fmt: skip
def test_a_line_comes_apart_by_its_form(
    profile: Profile, line: str, heads: tuple[str, ...], found: list[tuple[str, str]]
) -> None:
    assert pieces(profile, line, heads) == [Piece(*each) for each in found]


def test_what_was_said_of_the_pieces_is_how_the_next_line_is_read() -> None:
    line = "12:04;3,512;15,1"
    again = parted(PAIRS, Form.COLUMNS, ";", ",")
    assert [piece.source for piece in pieces(again, line)] == ["1", "2", "3"]
    done = corrected(again, {"2": ("volts", "V"), "3": ("resistance", "Ω")}, "bench meter", 9600)
    read = Understanding(done).read(line, 1.0)
    assert isinstance(read, Reading)
    assert read.values == {"volts": 3.512, "resistance": 15100.0}
    assert done.talk.baud == 9600
    assert profile_from_toml(profile_to_toml(done)) == done


def test_every_shipped_profile_goes_out_and_comes_back() -> None:
    for profile in (*shipped_profiles().values(), PATTERN):
        assert profile_from_toml(profile_to_toml(profile)) == profile


def test_what_may_be_chosen_are_quantities() -> None:
    assert [quantity_of(name).unit for name in CHOICES].count("V") == 1 + 24


@pytest.mark.parametrize(("meanings", "name", "baud", "says"), [
    ({}, "mine", 9600, "Nothing of the line is read"),
    ({"1": ("volts", "V"), "2": ("volts", "V")}, "mine", 9600, "told by two channels"),
    ({"1": ("volts", "A")}, "mine", 9600, "“A” is no unit of volts"),
    ({"1": ("volts", "V")}, "", 9600, "Name must be some text"),
    ({"1": ("volts", "V")}, "mine", 1, "Baud rate must be"),
])  # fmt: skip
def test_what_is_no_way_of_talking_is_refused(
    meanings: dict[str, tuple[str, str]], name: str, baud: int, says: str
) -> None:
    with pytest.raises(DocumentError) as refused:
        corrected(STREAM, meanings, name, baud)
    assert says in str(refused.value)
    with pytest.raises(DocumentError, match="A comma cannot both part columns"):
        parted(STREAM, Form.COLUMNS, ",", ",")


def test_a_profile_file_is_read_by_name(tmp_path: Path) -> None:
    from wise_cellar.instruments import read_profile

    path = tmp_path / "mine.toml"
    path.write_text(profile_to_toml(corrected(STREAM, {"1": ("mass", "g")}, "scale ö", 9600)), encoding="utf-8")
    assert read_profile(path).name == "scale ö"


def test_a_pattern_is_made_of_what_comes() -> None:
    made = parted(PAIRS, Form.PATTERN, ",", ".", r"U (?P<volts>[0-9.]+) I (?P<flow>[0-9.]+)")
    line = "U 3.512 I 1.25"
    assert pieces(made, line) == [Piece("volts", "3.512"), Piece("flow", "1.25")]
    assert [channel.source for channel in made.lines.channels] == ["volts"], "what is called by a quantity is one"
    done = corrected(made, {"volts": ("volts", "V"), "flow": ("amps", "A")}, "mine", 9600, "OUT 0")
    read = Understanding(done).read(line, 1.0)
    assert isinstance(read, Reading)
    assert read.values == {"volts": 3.512, "amps": 1.25}
    assert done.told.off == "OUT 0"
    assert parted(PAIRS, Form.PATTERN, ",", ".", r"(?P<x>\d+)").lines.channels[0].quantity == "volts"


def test_a_device_that_is_asked_is_made_of_its_questions() -> None:
    made = parted(PAIRS, Form.ANSWERS, ",", ".", ask=asked_with("VOLT? ; CURR?;"))
    assert made.talk.ask == ("VOLT?", "CURR?")
    assert made.talk.mode is Mode.ASK
    done = corrected(made, {"1": ("volts", "V"), "2": ("amps", "A")}, "mine", 9600)
    assert isinstance(Understanding(done).read("1.25", 1.0, 2), Reading)
    listens = parted(done, Form.PAIRS, ",", ".")
    assert listens.talk.mode is Mode.LISTEN
    assert not listens.talk.ask


@pytest.mark.parametrize(("form", "pattern", "says"), [
    (Form.PATTERN, "(", "cannot be read"), (Form.PATTERN, "U", "has no group with a name"),
    (Form.PATTERN, "", "has no group with a name"), (Form.ANSWERS, "", "write what it is asked with"),
])  # fmt: skip
def test_what_is_no_way_of_talking_is_a_sentence(form: Form, pattern: str, says: str) -> None:
    with pytest.raises(DocumentError, match=says):
        parted(PAIRS, form, ",", ".", pattern)

"""What lines of devices say: understood, refused in a sentence, whatever the pieces they come in."""

from __future__ import annotations

from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from wise_cellar.core.documents import DocumentError
from wise_cellar.instruments import Profile, Reading, Refusal, Settling, Understanding, shipped_profiles
from wise_cellar.instruments.lines import LONGEST_LINE, Splitter
from wise_cellar.instruments.profile import profile_from_toml
from wise_cellar.instruments.quantities import QUANTITIES, converted


def profile(form: str = "columns", channels: list[tuple[str, str, str]] | None = None, **lines: Any) -> Profile:
    told = channels or [("volts", "1", "V"), ("amps", "2", "A")]
    return Profile.from_data({
        "name": "made up", "talk": {"mode": "ask", "ask": ["A?", "B?"]} if form == "answers" else {},
        "lines": {"form": form, "channels": [{"quantity": q, "source": s, "unit": u} for q, s, u in told], **lines},
    })  # fmt: skip


def read(text: str, how: Profile) -> Reading | Refusal | None:
    return Understanding(how).read(text, 1.0, 1)


PAIRS = shipped_profiles()["pairs"]


@pytest.mark.parametrize(("text", "values"), [
    ("V=3.512 R=15.1", {"volts": 3.512, "resistance": 15.1}),
    ("V=3512mV", {"volts": 3.512}),
    ("V: 3.512 V, R: 0.0151 ohm", {"volts": 3.512, "resistance": 15.1}),
    ("M=2.45oz", {"mass": 69.456}),
    ("x=1 V=-0.001", {"volts": -0.001}),
    ("V=3.5e0", {"volts": 3.5}),
    ("Q=0 V=3.5 M1=7 R=2", {"volts": 3.5, "resistance": 2.0}),
])  # fmt: skip
def test_pairs_are_read_with_their_units(text: str, values: dict[str, float]) -> None:
    found = read(text, PAIRS)
    assert isinstance(found, Reading), found
    assert dict(found.values) == pytest.approx(values, rel=1e-4)


@pytest.mark.parametrize(("text", "how", "words"), [
    ("V=nan", PAIRS, "“nan” is no number of volts"),
    ("V=3,512", PAIRS, "has a decimal comma; say so in the profile"),
    ("V=3.512 furlong", PAIRS, "“furlong” is no unit of volts: one of V, mV, uV"),
    ("hello", PAIRS, "holds no pair such as V=3.512"),
    ("T=20", PAIRS, "has none of what this profile reads"),
    ("ERR 7", PAIRS, "It answers an error: “ERR 7”"),
    ('-113,"Undefined header"', PAIRS, "It answers an error"),
    ("3.5", profile(), "has 1 columns, and column 2 is wanted: half a line?"),
    ("3.5,x", profile(), "“x” is no number of amps"),
    ("3.5,1", profile(channels=[("volts", "voltage", "V")]), "No line has named a column “voltage” yet"),
    ("V 3.5", profile("pattern", [("volts", "v", "V")], pattern=r"U (?P<v>\S+)"), "is not what the pattern expects"),
])  # fmt: skip
def test_what_is_not_understood_is_a_sentence(text: str, how: Profile, words: str) -> None:
    found = read(text, how)
    assert isinstance(found, Refusal)
    assert words in found.sentence


def test_columns_are_found_by_their_names_and_by_their_numbers() -> None:
    named = Understanding(profile(channels=[("amps", "current_a", "A"), ("volts", "voltage_v", "mV")]))
    assert named.read("time_s,voltage_v,current_a", 0.0) is None
    found = named.read("0.5,3512,1.25", 1.0)
    assert isinstance(found, Reading)
    assert dict(found.values) == pytest.approx({"amps": 1.25, "volts": 3.512})
    numbered = read("3.5;1,25", profile(separator=";", decimal=","))
    assert isinstance(numbered, Reading)
    assert numbered.values["amps"] == 1.25
    pattern = profile("pattern", [("volts", "v", "V")], pattern=r"U\s+(?P<v>\S+)")
    assert isinstance(read("noise U 3.9", pattern), Reading)
    assert isinstance(read("+3.91234E+00", profile("answers", [("volts", "1", "V")])), Reading)


GROUPS = [("volts", "U", "V"), ("group-*", "G*_v", "mV")]


def test_groups_are_as_many_as_there_are() -> None:
    pairs = profile("pairs", GROUPS)
    found = read("U=12.6 G1_v=4201 G2_v=4199 G12_v=4200 G0_v=1 Gx_v=2", pairs)
    assert isinstance(found, Reading), found
    assert dict(found.values) == pytest.approx({"volts": 12.6, "group-1": 4.201, "group-2": 4.199, "group-12": 4.2})
    told = [channel.quantity for channel in pairs.recorded(found.values)]
    assert told == ["volts", "group-1", "group-2", "group-12"]
    named = Understanding(profile(channels=GROUPS))
    assert named.read("G2_v,U,other,G1_v", 0.0) is None
    row = named.read("4100,8.3,9,4200", 1.0)
    assert isinstance(row, Reading)
    assert dict(row.values) == pytest.approx({"volts": 8.3, "group-1": 4.2, "group-2": 4.1})
    pattern = profile("pattern", [("group-*", "g*", "V")], pattern=r"(?P<g1>\S+) (?P<g2>\S+)")
    assert isinstance(read("4.1 4.2", pattern), Reading)
    assert [channel.quantity for channel in PAIRS.recorded(["volts"])] == ["volts", "resistance", "mass"]


def toml(head: str, channel: str = 'quantity = "volts"\nsource = "1"\nunit = "V"') -> str:
    return f'name = "x"\n{head}\n[[lines.channels]]\n{channel}\n'


@pytest.mark.parametrize(("text", "words"), [
    ("name = ", "is no TOML that can be read"),
    (toml("[lines]", 'quantity = "love"\nsource = "L"\nunit = "V"'), "“love” is no quantity"),
    (toml("[lines]", 'quantity = "volts"\nsource = "L"\nunit = "A"'), "“A” is no unit of volts"),
    (toml('[talk]\nmode = "ask"\n[lines]'), "needs a line to be asked with"),
    (toml('[lines]\nform = "pattern"\npattern = "("'), "cannot be read"),
    (toml("[lines]", 'quantity = "group-*"\nsource = "G"\nunit = "V"'), "has to hold one \\*"),
    (toml('[lines]\nseparator = ","\ndecimal = ","'), "cannot both part columns"),
])  # fmt: skip
def test_a_profile_that_cannot_be_is_refused_in_a_sentence(text: str, words: str) -> None:
    with pytest.raises(DocumentError, match=words):
        profile_from_toml(text)


@given(st.binary(max_size=400), st.lists(st.integers(0, 400), max_size=6))
def test_lines_are_the_same_in_whatever_pieces_they_come(data: bytes, cuts: list[int]) -> None:
    whole = Splitter().feed(data + b"\n")
    parts, splitter = [], Splitter()
    for start, end in zip([0, *sorted(cuts)], [*sorted(cuts), len(data) + 1], strict=True):
        parts += splitter.feed((data + b"\n")[start:end])
    assert parts == whole


@given(st.text(max_size=200))
def test_nonsense_is_refused_or_read_and_never_more(text: str) -> None:
    for how in shipped_profiles().values():
        found = read(text, how)
        if isinstance(found, Reading):
            assert all(value == value and abs(value) != float("inf") for value in found.values.values())


def test_a_line_without_end_is_told_once_and_bounded() -> None:
    splitter = Splitter()
    lines = [line for _ in range(50) for line in splitter.feed(b"x" * 1000)]
    assert len(lines) == 1
    assert len(lines[0]) <= LONGEST_LINE
    assert splitter.feed(b"tail\nV=3.5\n") == ["V=3.5"]


@pytest.mark.parametrize(("quantity", "value", "unit", "kept"), [
    ("temperature", 77.0, "°F", 25.0), ("temperature", 298.15, "K", 25.0), ("charge", 4.4, "Ah", 4400.0),
    ("resistance", 0.015, "ohm", 15.0), ("mass", 1.0, "oz", 28.349523125), ("speed", 36.0, "km/h", 10.0),
])  # fmt: skip
def test_units_are_brought_to_the_one_that_is_kept(quantity: str, value: float, unit: str, kept: float) -> None:
    assert converted(quantity, value, unit) == pytest.approx(kept)
    assert quantity in QUANTITIES


def test_a_reading_settles_once_each_time_it_is_put_on() -> None:
    settling = Settling(within=0.003, least=0.1)
    given = []
    stream = [0.0, 0.001, 1.2, 3.40, 3.511, 3.512, 3.511, 3.512, 3.511, 3.511, 0.0, 0.0, 3.498, 3.499, 3.498, 3.499]
    for place, volts in enumerate(stream):
        value = settling.add(0.2 * place, volts)
        if value is not None:
            given.append(value)
    assert given == pytest.approx([3.5115, 3.4985], abs=1e-3)
    swinging = Settling(within=0.05, least=1.0)
    grams = [69.5 + 3 * 0.5**n * (-1) ** n for n in range(12)]
    settled = [swinging.add(0.2 * n, value) for n, value in enumerate(grams)]
    assert next(value for value in settled if value is not None) == pytest.approx(69.5, abs=0.05)
    assert sum(value is not None for value in settled) == 1
    back = Settling(within=0.003, least=0.1)
    assert all(back.add(at, 3.5) is None for at in (5.0, 5.2, 1.0, 1.2, 1.4)), "a clock that goes back begins anew"


@pytest.mark.parametrize(("end", "sent"), [("LF", "\n"), ("CR", "\r"), ("CRLF", "\r\n")])
def test_a_profile_says_how_lines_end_that_are_sent(end: str, sent: str) -> None:
    how = profile_from_toml(toml(f'[talk]\nend = "{end}"\n[lines]'))
    assert how.talk.end.text == sent
    assert how.changed(talk=how.talk.changed(baud=9600)).talk.end is how.talk.end

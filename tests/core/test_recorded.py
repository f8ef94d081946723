"""Recordings as tables: what is written is read again, what is no recording is a sentence."""

from __future__ import annotations

import math
from datetime import datetime
from pathlib import Path
from typing import Any

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from wise_cellar.core.documents import DocumentError, RecordedChannel, Recording
from wise_cellar.core.growing import GrowingRows
from wise_cellar.core.recorded import heading, recording_from_csv, recording_to_csv
from wise_cellar.store.recording_tables import read_recording, write_recording

UNITS = {"volts": "V", "amps": "A", "temperature": "°C", "resistance": "mΩ", "throttle": "%", "group-3": "V"}
GIVEN: dict[str, Any] = {
    "id": "one", "name": "from a file", "cell_type_id": "fell-21-49e", "series_key": "k", "least_v": 2.5,
    "begun_at": datetime(2026, 2, 3, 4, 5),
}  # fmt: skip


def recording(*quantities: str, **more: Any) -> Recording:
    channels = tuple(RecordedChannel(quantity=name, unit=UNITS[name]) for name in quantities)
    return Recording(**{**GIVEN, "amps": 1.5, **more}, channels=channels)


RUN = {
    "kind": "bench run",
    "series_count": 4,
    "returned_mah": 7975.0,
    "steps": ({"seconds": 5.0, "amps": 3.0, "name": "first"}, {"seconds": 2.0}),
}
numbers = st.just(math.nan) | st.floats(-1e20, 1e20)


@given(st.lists(st.lists(numbers, min_size=6, max_size=6), min_size=1, max_size=20), st.text(max_size=40))
def test_what_is_written_is_read_again(values: list[list[float]], name: str) -> None:
    name = " ".join("".join(c for c in name if c.isprintable() and c not in "\u2028\u2029\x85").split()) or "x"
    try:
        one = recording(*UNITS, name=name, device="SCPI load", ended="2.50 V is reached", **RUN)
    except ValueError:
        one = recording(*UNITS, device="SCPI load", ended="2.50 V is reached")
    rows = np.array([[0.1 * place, *row] for place, row in enumerate(values)])
    again, back = recording_from_csv(recording_to_csv(one, rows), {**GIVEN, "amps": 9.0})
    assert again == one
    assert np.array_equal(back, rows, equal_nan=True)


def test_a_table_that_tells_nothing_but_readings_is_taken_with_what_flowed() -> None:
    again, rows = recording_from_csv("time_s,volts_V,amps_A\r\n0,4.1,1.99\r\n1,4.0,2.01\r\n2,,2.00\r\n", GIVEN)
    assert again.amps == 2.0
    assert again.name == "from a file"
    assert math.isnan(rows[2, 1])


@pytest.mark.parametrize(("text", "says"), [
    ("", "its columns are"), ("volts_V,amps_A\n4,1\n", "a recording has time_s first"),
    ("time_s,volts\n0,4\n", "“volts” tells no unit"), ("time_s,volts_V\n", "it holds no readings"),
    ("time_s,volts_V\n0,4\n1\n", "line 3 holds 1 figure where 2 are wanted"),
    ("# ended: so\ntime_s,volts_V\n0,4\n1,four\n", "line 4: “four” is not a number"),
    ("time_s,volts_V\n5,4\n3,4\n", "its clock goes back, from 5 s to 3 s"),
    ("time_s,volts_V\n,4\n", "its clock goes back"), ("time_s,volts_V\n0,\"4,1\"\n", "“4,1” is not a number"),
    ("# begun_at: soon\ntime_s,volts_V,amps_A\n0,4,1\n",
     "Begun at must be a day and a time such as 2026-03-14T09:30; “soon” is not."),
    ("time_s,volts_V\n0,1e300\n", "“1e300” is not a number"), ("time_s,volts_V\n0,inf\n", "“inf” is not a number"),
])  # fmt: skip
def test_what_is_no_recording_is_a_sentence(tmp_path: Path, text: str, says: str) -> None:
    path = tmp_path / "night.csv"
    path.write_text(text)
    with pytest.raises(DocumentError, match=r"^night\.csv: ") as refused:
        read_recording(path, GIVEN)
    assert says in str(refused.value)


def test_units_in_headings_are_plain_letters() -> None:
    assert heading(recording("volts", "temperature", "resistance", "throttle").channels) == (
        "time_s,volts_V,temperature_C,resistance_mohm,throttle_percent"
    )


def test_eight_hours_of_twelve_channels_stay_small() -> None:
    rows = GrowingRows(13)
    for place in range(288_000):
        rows.append([0.1 * place] * 13)
    assert rows._body.nbytes < 2 * 288_000 * 13 * 8
    assert rows.rows[-1].tolist() == [28_799.9] * 13
    with pytest.raises(ValueError, match="could not broadcast"):
        rows.append([1.0, 2.0])


def test_a_file_holds_what_was_recorded(tmp_path: Path) -> None:
    one = recording("volts", "amps")
    rows = np.random.default_rng(5).uniform(0, 5, (2000, 3))
    rows[:, 0] = np.arange(2000) / 7
    write_recording(tmp_path / "long.csv", one, rows)
    again, back = read_recording(tmp_path / "long.csv", GIVEN)
    assert again == one
    assert np.array_equal(back, rows)

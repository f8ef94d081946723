"""Thrust-stand tables in the forms in which people have them, and in those that cannot be read."""

from __future__ import annotations

from pathlib import Path

import pytest

from wise_cellar.core.documents import DocumentError
from wise_cellar.store.stand_files import read_stand

HEAD = "Throttle (%),Thrust (g),Current (A),Voltage (V),RPM"
ROWS = [
    "0,0,0,16.2,0",
    "25,180,1.4,16.1,3900",
    "50,520,5.2,15.9,6400",
    "75,940,12.4,15.5,8500",
    "100,1330,22.1,15,9900",
]


def written(tmp_path: Path, text: str) -> Path:
    path = tmp_path / "stand.csv"
    path.write_text(text, encoding="utf-8")
    return path


def test_a_plain_table_is_read_and_rest_is_left_out(tmp_path: Path) -> None:
    stand = read_stand(written(tmp_path, "\n".join(["A stand in the shed", HEAD, *ROWS])))
    assert stand.name == "stand"
    assert [point.throttle_percent for point in stand.points] == [25, 50, 75, 100]
    last = stand.points[-1]
    assert (last.thrust_g, last.current_a, last.voltage_v, last.speed_rpm) == (1330, 22.1, 15, 9900)


@pytest.mark.parametrize(
    ("head", "row", "thrust", "throttle"),
    [
        ("throttle;thrust [N];volts;amps", "{t};{n};15,5;{a}", 1000 / 9.80665, 1),
        ("PWM\tpull kg\tVoltage\tCurrent", "1{t}0\t{k}\t15.5\t{a}", 1000.0, 1),
    ],
)
def test_units_separators_and_pulses(tmp_path: Path, head: str, row: str, thrust: float, throttle: float) -> None:
    """25 to 85 % as a figure, or as pulses of 1250 to 1850 µs."""
    lines = [head]
    for percent in (25, 45, 65, 85):
        lines.append(row.format(t=percent, n=f"{percent / 10:.1f}".replace(".", ","), k=percent / 1000, a=percent // 5))
    stand = read_stand(written(tmp_path, "\n".join(lines)))
    assert [point.throttle_percent for point in stand.points] == [25, 45, 65, 85]
    given = 2.5 if ";" in head else 0.025
    assert stand.points[0].thrust_g == pytest.approx(given * thrust)
    assert stand.points[0].voltage_v == 15.5
    assert stand.points[0].speed_rpm is None


@pytest.mark.parametrize(
    ("text", "sentence"),
    [
        ("", "stand.csv is empty; a thrust stand's table needs columns"),
        ("\n".join([HEAD.replace("Thrust (g)", "Torque"), *ROWS]), "no column of thrust"),
        ("\n".join([HEAD, *ROWS[:3], "60,,8.1,15.8,7300", *ROWS[3:]]), "line 5: thrust is missing, it is empty"),
        ("\n".join([HEAD, *ROWS, "90,1100,n/a,15.2,9300"]), "line 7: current is missing, “n/a” is no number"),
        ("\n".join([HEAD, *ROWS, "90,1100,-3,15.2,9300"]), "line 7: current is −3; it must be 0 or more"),
        ("\n".join([HEAD, *ROWS[:3]]), "2 rows with thrust"),
        ("\n".join([HEAD, *ROWS * 1000]), "stand.csv is too long; one row for each step"),
        ("throttle thrust\nnone at all", "no rows of figures"),
    ],
)
def test_a_table_with_holes_gets_a_sentence(tmp_path: Path, text: str, sentence: str) -> None:
    with pytest.raises(DocumentError) as caught:
        read_stand(written(tmp_path, text))
    assert sentence in str(caught.value)

"""Logs in open formats, written by the libraries themselves: what they tell is what was flown."""

from __future__ import annotations

import struct
from datetime import UTC, datetime
from pathlib import Path

import numpy as np
import pytest
from pymavlink.DFReader import FORMAT_TO_STRUCT
from pymavlink.dialects.v20 import common
from pyulog import ULog

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.logbook import flights_in
from wise_cellar.core.logbook.joining import Piece, Track
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.store.curve_files import CancelledError
from wise_cellar.store.logs import read_flights, read_piece

TOOK_OFF, LANDED, ENDS = 30.0, 150.0, 200.0
EPOCH = datetime(2026, 5, 2, 9, 30, tzinfo=UTC).timestamp()


def flown(hz: float = 5.0) -> dict[str, Floats]:
    """A short flight: on the ground, at 12 A and 9 m/s, at rest."""
    time_s = np.arange(0.0, ENDS, 1 / hz)
    flies = (time_s >= TOOK_OFF) & (time_s < LANDED)
    return {
        "time_s": time_s, "volts": 16.4 - 0.004 * time_s - 0.4 * flies, "amps": np.where(flies, 12.0, 0.8),
        "speed": np.where(flies, 9.0, 0.0), "throttle": np.where(flies, 0.55, 0.0),
        "height": np.where(flies, 40.0, 0.0),
    }  # fmt: skip


def check(piece: Piece | Track, *, dated: bool = False) -> None:
    assert isinstance(piece, Piece)
    ((began, over),) = flights_in(piece.log)
    assert (began, over) == pytest.approx((TOOK_OFF, LANDED), abs=1.5)
    air = piece.log.between(TOOK_OFF + 5, LANDED - 5)
    assert air.amps == pytest.approx(12.0, abs=0.05)
    assert air.volts == pytest.approx(16.0 - 0.004 * air.time_s, abs=0.02)
    assert air.speed_m_s == pytest.approx(9.0, abs=0.1)
    assert air.throttle == pytest.approx(0.55, abs=0.01)
    assert air.height_m == pytest.approx(40.0, abs=0.2)
    if dated:
        assert piece.begun_at is not None
        assert abs((piece.begun_at - datetime(2026, 5, 2, 9, 30)).total_seconds()) < 2


# ULog

_TOPICS = {
    "battery_status": [("uint64_t", "timestamp"), ("float", "voltage_v"), ("float", "current_a")],
    "airspeed_validated": [("uint64_t", "timestamp"), ("float", "true_airspeed_m_s")],
    "vehicle_local_position": [("uint64_t", "timestamp"), ("float", "vx"), ("float", "vy"), ("float", "z")],
    "vehicle_thrust_setpoint": [("uint64_t", "timestamp"), ("float[3]", "xyz")],
    "vehicle_gps_position": [("uint64_t", "timestamp"), ("uint64_t", "time_utc_usec")],
}
_CODES = {"uint64_t": "Q", "float": "f", "float[3]": "3f"}


def ulog_bytes(batteries: int = 1) -> bytes:
    """As the format's own description has it: header, formats, subscriptions, data; read and written again by the
    library."""

    def message(kind: str, body: bytes) -> bytes:
        return struct.pack("<HB", len(body), ord(kind)) + body

    out = b"ULog\x01\x12\x35\x01" + struct.pack("<Q", 0) + message("B", bytes(40))
    for name, fields in _TOPICS.items():
        out += message("F", f"{name}:{''.join(f'{kind} {field};' for kind, field in fields)}".encode())
    ids = [("battery_status", number) for number in range(batteries)]
    ids += [(name, 0) for name in _TOPICS if name != "battery_status"]
    for place, (name, number) in enumerate(ids):
        out += message("A", struct.pack("<BH", number, place) + name.encode())
    told = flown()
    for row, second in enumerate(told["time_s"]):
        stamp = int(1e6 * second) + 1_000_000
        for place, (name, number) in enumerate(ids):
            values: list[float | int] = {
                "battery_status": [told["volts"][row] - number, told["amps"][row]],
                "airspeed_validated": [told["speed"][row]],
                "vehicle_local_position": [told["speed"][row], 0.0, -told["height"][row]],
                "vehicle_thrust_setpoint": [0.0, 0.0, -told["throttle"][row]],
                "vehicle_gps_position": [int(1e6 * (EPOCH + second))],
            }[name]
            codes = "<HQ" + "".join(_CODES[kind] for kind, _ in _TOPICS[name][1:])
            out += message("D", struct.pack(codes, place, stamp, *values))
    return out


@pytest.fixture
def ulog(tmp_path: Path) -> Path:
    path, again = tmp_path / "raw.ulg", tmp_path / "flight.ulg"
    path.write_bytes(ulog_bytes())
    ULog(str(path)).write_ulog(str(again))
    return again


def test_a_ulog_is_read(ulog: Path) -> None:
    check(read_piece(ulog), dated=True)


def test_of_two_batteries_the_first_is_taken_and_that_is_told(tmp_path: Path) -> None:
    path = tmp_path / "two.ulg"
    path.write_bytes(ulog_bytes(batteries=2))
    piece = read_piece(path)
    check(piece)
    assert isinstance(piece, Piece)
    assert piece.remarks == ("The log tells of 2 batteries; the first is taken.",)


# DataFlash


class DataFlash:
    """Writes messages by the library's own table of formats."""

    def __init__(self) -> None:
        self.body = b""
        self._kinds: dict[str, tuple[int, str]] = {}
        self._describe("FMT", 128, "BBnNZ", "Type,Length,Name,Format,Columns")

    def _describe(self, name: str, kind: int, form: str, columns: str) -> None:
        codes = "<" + "".join(FORMAT_TO_STRUCT[letter][0] for letter in form)
        self._kinds[name] = (kind, codes)
        told = (kind, struct.calcsize(codes) + 3, name.encode(), form.encode(), columns.encode())
        self.body += bytes([0xA3, 0x95, 128]) + struct.pack("<BB4s16s64s", *told)

    def add(self, name: str, form: str, columns: str, *values: float) -> None:
        if name not in self._kinds:
            self._describe(name, len(self._kinds) + 129, form, columns)
        kind, codes = self._kinds[name]
        self.body += bytes([0xA3, 0x95, kind]) + struct.pack(codes, *values)


def dataflash_bytes() -> bytes:
    log, told = DataFlash(), flown()
    for row, second in enumerate(told["time_s"]):
        stamp = int(1e6 * second) + 5_000_000
        milliseconds = int(1e3 * (EPOCH + second + 18 - 315964800))
        log.add("GPS", "QBIHf", "TimeUS,Status,GMS,GWk,Spd", stamp, 3, milliseconds % 604_800_000,
                milliseconds // 604_800_000, told["speed"][row])  # fmt: skip
        log.add("BAT", "QBfff", "TimeUS,Inst,Volt,Curr,CurrTot", stamp, 0, told["volts"][row], told["amps"][row], 0.0)
        log.add("BARO", "Qf", "TimeUS,Alt", stamp, told["height"][row])
        log.add("CTUN", "Qf", "TimeUS,ThO", stamp, told["throttle"][row])
    return log.body


def test_a_dataflash_log_is_read(tmp_path: Path) -> None:
    path = tmp_path / "flight.bin"
    path.write_bytes(dataflash_bytes())
    check(read_piece(path), dated=True)


# Telemetry


def telemetry_bytes() -> bytes:
    link, told, out = common.MAVLink(None, srcSystem=7), flown(), b""
    for row, second in enumerate(told["time_s"]):
        status = link.sys_status_encode(0, 0, 0, 500, round(1e3 * told["volts"][row]), round(1e2 * told["amps"][row]),
                                        -1, 0, 0, 0, 0, 0, 0)  # fmt: skip
        hud = link.vfr_hud_encode(told["speed"][row], told["speed"][row], 0, round(100 * told["throttle"][row]),
                                  told["height"][row], 0.0)  # fmt: skip
        for message in (status, hud):
            out += struct.pack(">Q", int(1e6 * (EPOCH + second))) + message.pack(link)
    return out


def test_a_telemetry_log_is_read(tmp_path: Path) -> None:
    path = tmp_path / "flight.tlog"
    path.write_bytes(telemetry_bytes())
    check(read_piece(path), dated=True)


# Tracks, pieces, and what is wrong


def gpx_text(begins: float = EPOCH) -> str:
    told, metres = flown(1.0), 111_194.93
    north = np.cumsum(told["speed"]) / metres
    points = "".join(
        f'<trkpt lat="{54 + lat:.8f}" lon="1.0"><ele>{height}</ele>'
        f"<time>{datetime.fromtimestamp(begins + second, UTC):%Y-%m-%dT%H:%M:%S}Z</time></trkpt>"
        for second, lat, height in zip(told["time_s"], north, told["height"], strict=True)
    )
    return f'<gpx xmlns="http://www.topografix.com/GPX/1/1"><trk><trkseg>{points}</trkseg></trk></gpx>'


def dated_csv(path: Path, rows: slice = slice(None)) -> Path:
    told = flown()
    lines = [
        f"{datetime.fromtimestamp(EPOCH + second, UTC):%Y-%m-%dT%H:%M:%S.%f},{volts:.3f},{amps:.2f}"
        for second, volts, amps in list(zip(told["time_s"], told["volts"], told["amps"], strict=True))[rows]
    ]
    path.write_text("time,volts,amps\n" + "\n".join(lines) + "\n")
    return path


def test_a_track_gives_a_log_its_speed_by_their_clocks(tmp_path: Path) -> None:
    track = tmp_path / "walk.gpx"
    track.write_text(gpx_text())
    (piece,) = read_flights([dated_csv(tmp_path / "log.csv"), track])
    air = piece.log.between(TOOK_OFF + 10, LANDED - 10)
    assert air.ground_speed_m_s == pytest.approx(9.0, abs=0.1)
    assert air.height_m == pytest.approx(40.0)
    assert "Speed over ground by walk.gpx." in piece.remarks
    track.write_text(gpx_text(EPOCH + 90_000))
    with pytest.raises(DocumentError, match="apart by their clocks"):
        read_flights([tmp_path / "log.csv", track])
    with pytest.raises(DocumentError, match="A track alone tells no volts"):
        read_flights([track])


def test_places_in_a_table_tell_the_speed_over_ground(tmp_path: Path) -> None:
    told, path = flown(), tmp_path / "places.csv"
    north = 54 + np.cumsum(told["speed"]) / 5 / 111_194.93
    rows = zip(told["time_s"], told["volts"], told["amps"], north, strict=True)
    path.write_text("time (s),volts,amps,GPS lat,GPS lon\n" + "\n".join(
        f"{second},{volts:.3f},{amps},{lat:.8f},1.0" for second, volts, amps, lat in rows
    ))  # fmt: skip
    piece = read_piece(path)
    assert isinstance(piece, Piece)
    air = piece.log.between(TOOK_OFF + 10, LANDED - 10)
    assert air.ground_speed_m_s == pytest.approx(9.0, abs=0.1)
    lines = [f"{n},16,{8 if 20 < n < 80 else 1},0,0" for n in range(100)]
    path.write_text("time (s),volts,amps,lat,lon\n" + "\n".join(lines))
    without = read_piece(path)
    assert isinstance(without, Piece)
    assert not np.isfinite(without.log.ground_speed_m_s).any()


def test_pieces_of_one_flight_are_joined_and_two_flights_are_not(tmp_path: Path) -> None:
    whole = len(flown()["time_s"])
    first = dated_csv(tmp_path / "a.csv", slice(0, whole // 2))
    second = dated_csv(tmp_path / "b.csv", slice(whole // 2 + 20, whole))
    (piece,) = read_flights([second, first])
    ((began, over),) = flights_in(piece.log)
    assert (began, over) == pytest.approx((TOOK_OFF, LANDED), abs=1.5)
    assert piece.remarks == ("b goes on where it ends.",)
    apart = tmp_path / "c.csv"
    apart.write_text(first.read_text().replace("2026-05-02", "2026-05-03"))
    assert len(read_flights([first, apart])) == 2


@pytest.mark.parametrize(("name", "body", "says"), [
    ("flight.ulg", b"nothing of the kind", "is no ULog log"), ("flight.ulg", b"", "is no ULog log"),
    ("flight.bin", b"x" * 3000, "is no DataFlash log"),
    ("flight.bin", b"\xa3\x95\x80", "no DataFlash log|tells of no battery"), ("flight.bin", b"", "is no DataFlash log"),
    ("flight.tlog", b"x" * 3000, "tells of no battery"), ("walk.gpx", b"<gpx><trk>", "is no GPX track"),
    ("walk.gpx", b"<gpx></gpx>", "a track needs at least 5"),
    ("walk.gpx", b"<!DOCTYPE a><gpx></gpx>", "declares things of its own"),
    ("walk.gpx", b"<gpx><trkpt lat='a' lon='1'><time>2026-05-02T09:30:00Z</time></trkpt></gpx>", "point 1"),
])  # fmt: skip
def test_what_is_no_log_is_told_in_a_sentence(tmp_path: Path, name: str, body: bytes, says: str) -> None:
    path = tmp_path / name
    path.write_bytes(body)
    with pytest.raises(DocumentError, match=says) as refused:
        read_piece(path)
    assert str(refused.value).endswith(".")


@pytest.mark.parametrize("share", [0.3, 0.71, 0.95])
@pytest.mark.parametrize("kind", ["ulg", "bin", "tlog"])
def test_of_a_log_that_is_cut_off_what_there_is_is_read(tmp_path: Path, kind: str, share: float) -> None:
    body = {"ulg": ulog_bytes, "bin": dataflash_bytes, "tlog": telemetry_bytes}[kind]()
    path = tmp_path / f"flight.{kind}"
    path.write_bytes(body[: int(share * len(body)) + 3])
    piece = read_piece(path)
    assert isinstance(piece, Piece)
    assert float(piece.log.time_s[-1]) == pytest.approx(share * ENDS, abs=8.0)


@pytest.mark.parametrize("kind", ["csv", "ulg", "bin", "tlog"])
def test_a_reading_that_nobody_waits_for_ends(tmp_path: Path, kind: str) -> None:
    path = tmp_path / f"flight.{kind}"
    if kind == "csv":
        dated_csv(path)
    else:
        path.write_bytes({"ulg": ulog_bytes, "bin": dataflash_bytes, "tlog": telemetry_bytes}[kind]() * 3)
    with pytest.raises(CancelledError):
        read_piece(path, lambda _share: False)

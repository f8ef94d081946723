"""Devices over real links: pseudo-terminals, TCP on loopback, files that grow; unplugged, silent, mad."""

from __future__ import annotations

import os
import random
import signal
import socket
import subprocess
import sys
import threading
import time
from collections.abc import Callable, Iterator
from pathlib import Path

import pytest

from tests.builders import complete
from wise_cellar.core.documents import DocumentError
from wise_cellar.instruments import (
    Event,
    EventKind,
    Link,
    LinkError,
    Listener,
    link_to,
    needs_asking,
    shipped_profiles,
)
from wise_cellar.instruments.stand_ins import Served, made

PAIRS = shipped_profiles()["pairs"]
ON = complete()


def until(events: Callable[[], bool], seconds: float = 15.0) -> None:
    end = time.monotonic() + seconds
    while not events():
        assert time.monotonic() < end, "it did not come in time"
        time.sleep(0.01)


class Heard:
    """All that a listener has brought."""

    def __init__(self, listener: Listener) -> None:
        self.listener = listener
        self.events: list[Event] = []

    def now(self) -> list[Event]:
        self.events += self.listener.take()
        return self.events

    def kinds(self, kind: EventKind) -> list[Event]:
        return [event for event in self.now() if event.kind is kind]

    @property
    def said(self) -> str:
        return " ".join(event.sentence for event in self.now())


@pytest.fixture
def started() -> Iterator[Callable[..., Heard]]:
    made_ones: list[Listener] = []

    def start(profile_name: str, make: Callable[[], Link]) -> Heard:
        listener = Listener(shipped_profiles()[profile_name], make)
        listener.start()
        made_ones.append(listener)
        return Heard(listener)

    yield start
    for listener in made_ones:
        listener.stop()


@pytest.fixture
def served() -> Iterator[Callable[..., Served]]:
    made_ones: list[Served] = []

    def serve(kind: str, speed: float = 10.0) -> Served:
        one = Served(made(kind, ON, 3), speed)
        one.start()
        made_ones.append(one)
        return one

    yield serve
    for one in made_ones:
        one.stop()


@pytest.mark.parametrize(
    ("kind", "quantity"),
    [
        ("meter", "volts"),
        ("scale", "mass"),
        ("load", "volts"),
        ("pack-load", "amps"),
        ("charger", "group-4"),
    ],
)
def test_each_stand_in_is_read_by_its_profile(
    started: Callable[..., Heard], served: Callable[..., Served], kind: str, quantity: str
) -> None:
    one = served(kind)
    heard = started(one.stand_in.profile, lambda: link_to(one.address))
    until(lambda: len(heard.kinds(EventKind.READ)) >= 3)
    readings = [event.reading for event in heard.kinds(EventKind.READ)]
    assert all(reading is not None and quantity in reading.values for reading in readings)
    times = [reading.at_s for reading in readings if reading is not None]
    assert times == sorted(times)
    assert not heard.kinds(EventKind.ODD), heard.said


def test_a_load_is_told_what_to_draw_and_to_stop(started: Callable[..., Heard], served: Callable[..., Served]) -> None:
    one = served("load", 60.0)
    heard = started("scpi-load", lambda: link_to(one.address))
    until(lambda: bool(heard.kinds(EventKind.READ)))
    told = shipped_profiles()["scpi-load"].told
    heard.listener.send(told.amps.format(amps=4.0))
    heard.listener.send(told.on)

    def last(name: str) -> float:
        reading = heard.kinds(EventKind.READ)[-1].reading
        return reading.values[name] if reading is not None else 0.0

    until(lambda: abs(last("amps") - 4.0) < 0.05)
    loaded = last("volts")
    heard.listener.send(told.off)
    until(lambda: abs(last("amps")) < 0.05)
    assert last("volts") > loaded + 0.04


class Wire(Link):
    """Takes what is sent while it is plugged in, and says nothing."""

    def __init__(self) -> None:
        self.name, self.plugged = "wire", True
        self.sent: list[str] = []

    def open(self) -> None:
        if not self.plugged:
            raise LinkError("wire cannot be opened.")

    def read(self) -> bytes:
        time.sleep(0.005)
        self.open()
        return b""

    def write(self, data: bytes) -> None:
        self.open()
        self.sent.append(data.decode().strip())

    def close(self) -> None:
        return


def test_of_orders_that_wait_while_a_link_is_lost_only_the_last_word_is_sent_later(
    started: Callable[..., Heard], monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr("wise_cellar.instruments.listening.AGAIN_S", 0.05)
    wire = Wire()
    heard = started("pairs", lambda: wire)
    until(lambda: bool(heard.kinds(EventKind.OPENED)))
    wire.plugged = False
    until(lambda: bool(heard.kinds(EventKind.LOST)))
    heard.listener.send("INP ON")
    heard.listener.send("INP OFF", last_word=True)
    time.sleep(0.2)
    heard.listener.send("CURR 3")
    wire.plugged = True
    until(lambda: len(heard.kinds(EventKind.OPENED)) == 2)
    until(lambda: bool(wire.sent))
    time.sleep(0.05)
    assert wire.sent == ["INP OFF"], "nothing is switched on late, and it is switched off whenever that can be"


def test_what_is_said_last_before_the_end_is_sent(started: Callable[..., Heard]) -> None:
    wire = Wire()
    heard = started("pairs", lambda: wire)
    until(lambda: bool(heard.kinds(EventKind.OPENED)))
    heard.listener.send("INP OFF", last_word=True)
    heard.listener.stop()
    assert wire.sent == ["INP OFF"], "what was said last before the end is sent"


def test_a_device_that_is_unplugged_is_told_and_taken_up_again(started: Callable[..., Heard], tmp_path: Path) -> None:
    port = tmp_path / "port"
    heard = started("pairs", lambda: link_to(f"serial:{port}"))
    until(lambda: bool(heard.kinds(EventKind.LOST)))
    assert "cannot be opened" in heard.said
    for turn in (1, 2):
        master, slave = os.openpty()
        port.unlink(missing_ok=True)
        port.symlink_to(os.ttyname(slave))
        until(lambda turn=turn: len(heard.kinds(EventKind.OPENED)) == turn)  # type: ignore[misc]
        os.write(master, b"V=3.5\nV=3")  # half a line is none
        until(lambda turn=turn: len(heard.kinds(EventKind.READ)) == turn)  # type: ignore[misc]
        os.close(slave)
        os.close(master)
        until(lambda turn=turn: len(heard.kinds(EventKind.LOST)) == turn + 1)  # type: ignore[misc]
    assert [event.reading.values["volts"] for event in heard.kinds(EventKind.READ) if event.reading] == [3.5, 3.5]


class Torn(Link):
    """Sends numbered lines in random pieces, and is unplugged at random."""

    def __init__(self, plan: random.Random, counter: list[int]) -> None:
        self.name, self._plan, self._counter = "torn", plan, counter
        self._waiting = b""

    def open(self) -> None:
        if self._plan.random() < 0.2:
            raise LinkError("torn cannot be opened.")

    def read(self) -> bytes:
        if self._plan.random() < 0.05:
            raise LinkError("torn was unplugged.")
        while len(self._waiting) < 40:
            self._counter[0] += 1
            self._waiting += f"V={self._counter[0]}\r\n".encode()
        size = self._plan.randint(1, 40)
        piece, self._waiting = self._waiting[:size], self._waiting[size:]
        return piece

    def write(self, data: bytes) -> None:
        raise LinkError("torn takes nothing.")

    def close(self) -> None:
        self._waiting = b""


def test_unplugged_two_hundred_times_nothing_is_invented_or_out_of_order(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("wise_cellar.instruments.listening.AGAIN_S", 0.0)
    monkeypatch.setattr("wise_cellar.instruments.listening.LONGEST_AGAIN_S", 0.0)
    counter, plan = [0], random.Random(4)
    listener = Listener(PAIRS, lambda: Torn(plan, counter))
    heard = Heard(listener)
    listener.start()
    until(lambda: len(heard.kinds(EventKind.LOST)) >= 200, 30.0)
    listener.stop()
    values = [event.reading.values["volts"] for event in heard.kinds(EventKind.READ) if event.reading]
    assert values == sorted(set(values)), "each once, in its order"
    assert all(value == int(value) and 1 <= value <= counter[0] for value in values)
    assert len(values) > 500


def test_tcp_on_loopback_is_read_and_its_end_told(started: Callable[..., Heard]) -> None:
    server = socket.create_server(("127.0.0.1", 0))
    port = server.getsockname()[1]

    def serve() -> None:
        for _ in range(2):
            peer, _ = server.accept()
            peer.sendall(b"V=3.5 R=15\nV=3.6\n")
            peer.close()

    thread = threading.Thread(target=serve, daemon=True)
    thread.start()
    heard = started("pairs", lambda: link_to(f"tcp:127.0.0.1:{port}"))
    until(lambda: len(heard.kinds(EventKind.READ)) >= 4)
    assert "closed the link" in heard.said
    heard.listener.stop()
    server.close()


def test_a_file_is_read_as_it_grows_and_anew_when_it_is_made_anew(
    started: Callable[..., Heard], tmp_path: Path
) -> None:
    path = tmp_path / "log.txt"
    path.write_text("V=1\nV=2\nV=", encoding="utf-8")
    heard = started("pairs", lambda: link_to(f"file:{path}"))
    until(lambda: len(heard.kinds(EventKind.READ)) == 2)
    with path.open("a", encoding="utf-8") as file:
        file.write("3\n")
    until(lambda: len(heard.kinds(EventKind.READ)) == 3)
    path.write_text("V=4\n", encoding="utf-8")
    until(lambda: len(heard.kinds(EventKind.READ)) == 4)
    assert [event.reading.values["volts"] for event in heard.kinds(EventKind.READ) if event.reading] == [1, 2, 3, 4]


class Says(Link):
    """Sends given pieces, then nothing."""

    def __init__(self, *pieces: bytes) -> None:
        self.name, self._pieces = "says", list(pieces)

    def open(self) -> None:
        return

    def read(self) -> bytes:
        if self._pieces:
            return self._pieces.pop(0)
        time.sleep(0.01)
        return b""

    def write(self, data: bytes) -> None:
        return

    def close(self) -> None:
        return


def test_doubled_lines_are_passed_over_and_told_once(started: Callable[..., Heard]) -> None:
    heard = started("pairs", lambda: Says(b"".join(b"V=%d\nV=%d\n" % (n, n) for n in range(8))))
    until(lambda: len(heard.kinds(EventKind.READ)) == 8)
    assert [event.sentence for event in heard.kinds(EventKind.ODD)] == [
        "It sends lines twice: the second of two that are the same is passed over."
    ]


def test_like_lines_that_come_at_once_are_not_told_as_doubled(started: Callable[..., Heard]) -> None:
    alike = b"M=69.48\n" * 20 + b"M=69.49\nM=69.49\nM=69.48\nM=69.50\n" * 20 + b"M=1\n"
    heard = started("pairs", lambda: Says(alike))
    until(lambda: any(event.line == "M=1" for event in heard.kinds(EventKind.READ)))
    assert not heard.kinds(EventKind.ODD), heard.said


def test_a_wrong_baud_rate_is_told_and_not_for_every_line(started: Callable[..., Heard]) -> None:
    heard = started("pairs", lambda: Says(*[b"\xfe\x80\xc0x%d\n" % number for number in range(400)]))
    until(lambda: "another baud rate, or another profile?" in heard.said)
    time.sleep(0.2)
    assert len(heard.kinds(EventKind.ODD)) == 50


def test_a_hundred_thousand_lines_a_second_are_survived(started: Callable[..., Heard]) -> None:
    flood = b"".join(b"V=%d\n" % number for number in range(60_000))
    heard = started("pairs", lambda: Says(flood, *[b"V=7\n"] * 3))
    until(lambda: len(heard.kinds(EventKind.READ)) >= 5000)
    until(lambda: len(heard.now()) > 5000)
    assert len(heard.kinds(EventKind.READ)) < 20_000


def test_silence_and_no_answer_are_told(started: Callable[..., Heard], monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("wise_cellar.instruments.listening.QUIET_S", 0.3)
    monkeypatch.setattr("wise_cellar.instruments.listening.ANSWER_S", 0.3)
    heard = started("pairs", Says)
    until(lambda: "It has been silent" in heard.said)
    asked = started("scpi-meter", Says)
    until(lambda: "It did not answer MEAS:VOLT:DC?" in asked.said)


@pytest.mark.parametrize(("address", "asks"), [
    ("tcp:127.0.0.1:5025", False), ("tcp:localhost:5025", False), ("tcp:[::1]:5025", False),
    ("tcp:192.168.0.9:5025", True), ("tcp:meter.local:5025", True), ("serial:/dev/ttyUSB0", False),
])  # fmt: skip
def test_an_address_outside_of_this_computer_is_asked_for(address: str, asks: bool) -> None:
    assert needs_asking(address) is asks


@pytest.mark.parametrize("address", ["", "usb", "tcp:nowhere", "tcp:host:99999", "serial:", "ftp:x"])
def test_what_is_no_address_is_refused(address: str) -> None:
    with pytest.raises(DocumentError, match="is no address of a device; write serial:"):
        link_to(address)


# The commands


def command(*words: str, **more: object) -> subprocess.Popen[str]:
    return subprocess.Popen(
        [sys.executable, "-m", "wise_cellar", *words], stdout=subprocess.PIPE, stderr=subprocess.PIPE, text=True, **more  # type: ignore[call-overload]
    )  # fmt: skip


def test_a_stand_in_in_a_process_of_its_own_is_recorded(tmp_path: Path) -> None:
    with command("stand-in", "meter", "--speed", "20", "--truths") as device:
        assert device.stdout is not None
        address, rest = device.stdout.readline().split(maxsplit=1)
        assert rest.strip() == "talks by the profile pairs"
        out = tmp_path / "meter.csv"
        with command("record", "pairs", address, "--out", str(out), "--seconds", "1.5") as record:
            assert record.wait(30) == 0
        device.send_signal(signal.SIGTERM)
        told = device.stdout.read()
        device.wait(10)
    lines = out.read_text(encoding="utf-8").splitlines()
    assert lines[0] == "time_s,volts_V,resistance_mohm,mass_g"
    assert len(lines) > 20
    assert "cell 10:" in told
    again = subprocess.run(
        [sys.executable, "-m", "wise_cellar", "record", "pairs", address, "--out", str(out)],
        capture_output=True, text=True, check=False,
    )  # fmt: skip
    assert again.returncode == 2
    assert "cannot be made: File exists" in again.stderr


STEP_S = 0.004


def recording_killed(folder: Path, plan: random.Random) -> str:
    """Kill ``record`` at some moment of a file that grows; what is wrong with what it had written, or nothing."""
    source, out = folder / "source.txt", folder / "out.csv"
    source.write_text("V=0\n")
    with command("record", "pairs", f"file:{source}", "--out", str(out)) as recorder:
        until(lambda: out.is_file() and out.read_text().count("\n") >= 1, 30.0)
        end, sent = time.monotonic() + plan.uniform(1.2, 2.0), 0
        with source.open("a", encoding="utf-8") as file:
            while time.monotonic() < end:
                sent += 1
                file.write(f"V={sent}\n")
                file.flush()
                time.sleep(STEP_S)
        recorder.kill()
    head, *rows = out.read_text(encoding="utf-8").split("\n")
    rest = rows.pop()
    values = [float(row.split(",")[1]) for row in rows]
    if head != "time_s,volts_V,resistance_mohm,mass_g" or rest.count(",") > 3:
        return f"{head}, {rest}"
    first = values[0] if values else 0.0
    if values != [first + place for place in range(len(values))]:
        return f"not in their order: {values}"
    return "" if values and values[-1] >= sent - 1.0 / STEP_S else f"{values[-1:]} of {sent}"


@pytest.mark.parametrize("number", range(2))
def test_a_kill_while_recording_leaves_all_up_to_the_last_second(tmp_path: Path, number: int) -> None:
    assert recording_killed(tmp_path, random.Random(number)) == ""

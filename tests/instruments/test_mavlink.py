"""Telemetry: messages become lines whatever the pieces they come in, what is unknown is none, over serial and UDP."""

from __future__ import annotations

import itertools
import socket
import time
from collections.abc import Callable
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st
from pymavlink.dialects.v10 import common as first
from pymavlink.dialects.v20 import common

from tests.builders import beside, cell_type, complete
from tests.instruments.test_listening import Heard, served, started, until  # noqa: F401  (fixtures)
from wise_cellar.core.answer import answer
from wise_cellar.core.documents import DocumentError
from wise_cellar.instruments import EventKind, Reading, Understanding, link_to, needs_asking, shipped_profiles
from wise_cellar.instruments.correcting import corrected, pieces
from wise_cellar.instruments.mavlink import MessageSplitter
from wise_cellar.instruments.stand_ins import Served
from wise_cellar.instruments.stand_ins.craft import GROUND_S, FlyingCraft

PROFILE = shipped_profiles()["mavlink"]
SENDS = common.MAVLink(None, srcSystem=1, srcComponent=1)
NONE = 0xFFFF


def status(millivolts: int = 15230, centiamps: int = 1850, of: Any = SENDS) -> bytes:
    return bytes(of.sys_status_encode(0, 0, 0, 0, millivolts, centiamps, -1, 0, 0, 0, 0, 0, 0).pack(of))


def battery(voltages: list[int], number: int = 0, celsius: int = 2345) -> bytes:
    cells = [*voltages, *[NONE] * (10 - len(voltages))]
    return bytes(SENDS.battery_status_encode(number, 0, 0, celsius, cells, 1850, 640, -1, -1).pack(SENDS))


def heartbeat() -> bytes:
    return bytes(SENDS.heartbeat_encode(2, 3, 0, 0, 4).pack(SENDS))


def read(data: bytes) -> list[Reading]:
    reads = Understanding(PROFILE)
    found = [reads.read(line, 0.0) for line in MessageSplitter(PROFILE).feed(data)]
    assert all(isinstance(one, Reading) for one in found), found
    return found  # type: ignore[return-value]


def test_messages_are_read_in_the_units_that_are_kept() -> None:
    one, two = read(status() + heartbeat() + battery([4105, 4098, 4101]))
    assert dict(one.values) == pytest.approx({"volts": 15.23, "amps": 18.5})
    assert dict(two.values) == pytest.approx(
        {"temperature": 23.45, "charge": 640, "group-1": 4.105, "group-2": 4.098, "group-3": 4.101}
    )
    earlier = first.MAVLink(None, srcSystem=1, srcComponent=1)
    assert read(status(of=earlier))[0].values["volts"] == pytest.approx(15.23), "of the protocol's first version too"


def test_what_is_not_known_is_none() -> None:
    (one,) = read(status(NONE, 1850))
    assert dict(one.values) == {"amps": 18.5}
    (two,) = read(battery([15230], celsius=0x7FFF))
    assert dict(two.values) == {"charge": 640}, "a pack's volts at the place of a cell's are no group"
    assert not read(battery([4100], number=1)), "a second battery is not this one"


def test_bytes_that_are_no_message_are_told() -> None:
    splitter = MessageSplitter(PROFILE)
    lines = splitter.feed(bytes(range(1, 200)))
    assert lines
    assert (
        "bytes that are no message: another baud rate, or no MAVLink?"
        in Understanding(PROFILE).read(lines[0], 0).sentence
    )  # type: ignore[union-attr]
    assert [line.split("=")[0] for line in splitter.feed(status())] == ["SYS_STATUS.voltage_battery"]


@given(st.lists(st.integers(0, 300), max_size=8), st.integers(0, 30), st.binary(max_size=20))
def test_messages_are_the_same_in_whatever_pieces_they_come(cuts: list[int], lost: int, noise: bytes) -> None:
    data = status() + battery([4100, 4101]) + status(14000)
    whole = MessageSplitter(PROFILE).feed(data)
    assert len(whole) == 3
    places = sorted({0, len(data), *(cut for cut in cuts if cut < len(data))})
    splitter = MessageSplitter(PROFILE)
    found = [line for low, high in itertools.pairwise(places) for line in splitter.feed(data[low:high])]
    assert found == whole
    splitter.feed(status()[: min(lost, len(status()) - 1)])
    splitter.forget()
    assert splitter.feed(status() + status(14000))[-1:] == whole[-1:], "after half a message"
    MessageSplitter(PROFILE).feed(noise + data + noise)


def test_a_message_is_corrected_and_the_others_stay() -> None:
    (line,) = MessageSplitter(PROFILE).feed(battery([4100, 4101]))
    known = {piece.source: piece.text for piece in pieces(PROFILE, line)}
    assert known["BATTERY_STATUS.voltages.2"] == "4101"
    mine = corrected(PROFILE, {"BATTERY_STATUS.temperature": ("temperature", "c°C")}, "mine", 57600)
    sources = [channel.source for channel in mine.lines.channels]
    assert "SYS_STATUS.voltage_battery" in sources
    assert "BATTERY_STATUS.voltages.*" not in sources


def test_udp_on_this_computer_is_listened_to(started: Callable[..., Heard]) -> None:  # noqa: F811
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as free:
        free.bind(("127.0.0.1", 0))
        port = free.getsockname()[1]
    heard = started("mavlink", lambda: link_to(f"udp:127.0.0.1:{port}"))
    until(lambda: bool(heard.kinds(EventKind.OPENED)))
    with socket.socket(socket.AF_INET, socket.SOCK_DGRAM) as sends:
        for millivolts in (15000, 15010, 15020):
            sends.sendto(status(millivolts), ("127.0.0.1", port))
            time.sleep(0.01)
    until(lambda: len(heard.kinds(EventKind.READ)) == 3)
    assert not needs_asking(f"udp:127.0.0.1:{port}")
    assert needs_asking("udp:0.0.0.0:14550"), "what others can reach is asked for"
    heard.listener.send("anything")
    until(lambda: any("is only listened to" in event.sentence for event in heard.kinds(EventKind.LOST)))


def test_a_craft_flies_with_a_factor_that_nobody_tells() -> None:
    design = complete()
    craft = FlyingCraft(design, 3)
    expected = answer(design)
    assert craft.power != 1.0
    assert (craft.duration_s > expected.duration_s) == (craft.power < 1.0)
    watts = []
    for line in MessageSplitter(PROFILE).feed(craft.data(GROUND_S + 320.0)):
        found = Understanding(PROFILE).read(line, 0.0)
        if isinstance(found, Reading) and {"volts", "amps"} <= set(found.values):
            watts.append(found.values["volts"] * found.values["amps"])
    series = expected.series
    usual = series.at(series.loaded_v * series.pack_a, 300.0) * 4
    late = sum(watts[-300:]) / 300
    assert late / usual == pytest.approx(craft.power, rel=0.02)
    assert any(f"{100 * craft.power:.1f} %" in truth for truth in craft.truths())


def test_each_stand_in_by_each_profile_is_read_or_told() -> None:
    """Nothing is invented, and nothing breaks, where a device is listened to by a way in which it does not talk."""
    from wise_cellar.instruments.listening import Listener
    from wise_cellar.instruments.stand_ins import KINDS, made

    ready: list[tuple[str, str, Served, Listener]] = []
    for kind in KINDS:
        for name, profile in shipped_profiles().items():
            one = Served(made(kind, complete(), 3), 20.0)
            one.start()
            listener = Listener(profile, lambda one=one: link_to(one.address))  # type: ignore[misc]
            listener.start()
            ready.append((kind, name, one, listener))
    heard: dict[tuple[str, str], list[Any]] = {}
    end = time.monotonic() + 60.0

    def told(kind: str, name: str) -> bool:
        return any(event.kind in (EventKind.READ, EventKind.ODD) for event in heard.get((kind, name), []))

    while time.monotonic() < end and not all(told(kind, name) for kind, name, _, _ in ready):
        time.sleep(0.05)
        for kind, name, _, listener in ready:
            heard.setdefault((kind, name), []).extend(listener.take())
    for kind, name, one, listener in ready:
        listener.stop()
        one.stop()
        assert told(kind, name), f"{kind} by {name} says nothing"
        reads = any(event.kind is EventKind.READ for event in heard[kind, name])
        if one.stand_in.profile == name:
            assert reads, f"{kind} is not read by its own profile {name}"
        elif "mavlink" in (one.stand_in.profile, name):
            assert not reads, f"{kind} by {name} reads what nobody said"


def test_what_cannot_be_stood_in_for_is_a_sentence() -> None:
    from wise_cellar.instruments.stand_ins import made

    with pytest.raises(DocumentError, match="is no kind of stand-in"):
        made("kettle", complete(), 1)
    cold = complete().with_design(charge=complete().design.charge.changed(temperature_c=-10.0))
    with pytest.raises(DocumentError, match="Nothing is charged by this plan"):
        made("charger", cold, 1)
    assert made("craft", beside(complete(), (cell_type(id="other"), {})), 1).truths()

"""Eight hours of twelve channels, ten times a second: what a reading and a picture cost at the end, memory, and disk.

Run by ``script/benchmark``; alone with ``python -m benchmarks.live``. The readings are put in as fast as they are
taken; a picture is what the window draws once in half a second, or once a second.
"""

from __future__ import annotations

import os
import resource
import statistics
import time
from collections.abc import Callable

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
from PyQt6.QtWidgets import QApplication

from benchmarks.painted import Say, window_on_samples
from wise_cellar.instruments import Event, EventKind, Listener, Profile, Reading, link_to
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state.desk import Device
from wise_cellar.ui.state.live_charge import ChargeRecorder
from wise_cellar.ui.state.live_run import FlightRecorder
from wise_cellar.ui.state.recorder import Recorder
from wise_cellar.ui.state.recording_edits import recorded_rows
from wise_cellar.ui.stations.charge.station import ChargeStation
from wise_cellar.ui.stations.logbook.station import BENCH, LogbookStation

HOURS, RATE, GROUPS = 8.0, 10.0, 6
PICTURES = 15
TITLES = {"flight": "a flight in the Logbook", "charge": "a charge that is watched"}


def measure(say: Say) -> None:
    """All of it, a row each."""
    for name in TITLES:
        with window_on_samples() as window:
            _measure(window, name, say)


def _profile() -> Profile:
    channels = [
        ("volts", "V"),
        ("amps", "A"),
        ("temperature", "°C"),
        ("charge", "mAh"),
        ("throttle", "%"),
        ("speed", "m/s"),
    ]
    told = [{"quantity": name, "source": name, "unit": unit} for name, unit in channels]
    told.append({"quantity": "group-*", "source": "g*", "unit": "V"})
    return Profile.from_data({"name": "twelve channels", "lines": {"form": "pairs", "channels": told}})


def _values(at_s: float, amps: float) -> dict[str, float]:
    volts = 3.6 + 0.5 * at_s / (HOURS * 3600)
    found = {"volts": 4 * volts, "amps": amps, "temperature": 24.0, "charge": at_s, "throttle": 40.0, "speed": 9.0}
    return found | {f"group-{place}": volts for place in range(1, GROUPS + 1)}


def _measure(window: MainWindow, name: str, say: Say) -> None:
    session = window.session
    profile = _profile()
    device = Device(profile, "file:none", Listener(profile, lambda: link_to("file:none")))
    first = _values(0.0, 1.0)
    device.last, device.latest = Reading(0.0, first, ""), dict(first)
    before = _resident_mb()
    recorder, show = _started(window, device, name)
    count = int(HOURS * 3600 * RATE)
    clock = time.perf_counter
    costs = []
    for place in range(count):
        at_s = recorder._told_s + place / RATE + 1.0
        event = Event(EventKind.READ, at_s, reading=Reading(at_s, _values(place / RATE, 1.0), ""))
        begun = clock()
        recorder._hear(event)
        costs.append(clock() - begun)
        if place % int(RATE) == 0:
            recorder._keep()
        if place % int(600 * RATE) == 0:
            show()
    drawn = []
    for _ in range(PICTURES):
        begun = clock()
        show()
        QApplication.processEvents()
        drawn.append(clock() - begun)
    recorder.stop("it is done")
    begun = clock()
    rows = recorded_rows(session, recorder.recording)  # type: ignore[arg-type]
    back = clock() - begun
    assert len(rows) == count
    late = statistics.median(costs[-1000:])
    what = f"{TITLES[name]}, {round(HOURS)} h of 12 channels at {round(RATE)} Hz"
    say(
        f"{what}: a reading at its end",
        f"{1e3 * late:.2f} ms (first hour {1e3 * statistics.median(costs[:36000]):.2f})",
        "",
    )
    say(
        f"{what}: a picture at its end",
        f"{1e3 * statistics.median(drawn):.0f} ms, longest {1e3 * max(drawn):.0f}",
        "100 ms",
    )
    say(f"{what}: memory more", f"{_resident_mb() - before:.0f} MB", "")
    say(f"{what}: rows read back from disk", f"{1e3 * back:.0f} ms", "")


def _started(window: MainWindow, device: Device, name: str) -> tuple[Recorder, Callable[[], None]]:
    session = window.session
    place = [station.title for station in window.stations].index("Charge" if name == "charge" else "Logbook")
    window.show_station(place)
    if name == "flight":
        window.station(LogbookStation).pages.choose(BENCH)
        logbook = window.station(LogbookStation).bench
        _until(lambda: logbook.settled and logbook.planned is not None)
        flight = FlightRecorder(session, device, 0.5, session.desk)
        flight.begin("eight hours")
        logbook.run._follow(flight)
        return flight, logbook.run._show_now
    station = window.station(ChargeStation)
    _until(lambda: station.settled and station.planned is not None)
    assert station.planned is not None
    charge = ChargeRecorder(session, device, station.planned.plan, session.desk)
    charge.stops_at_alarm = False
    charge.begin("eight hours")
    station.live._follow(charge)
    return charge, station.live._show_now


def _until(come: Callable[[], bool]) -> None:
    end = time.monotonic() + 30.0
    while not come() and time.monotonic() < end:
        QApplication.processEvents()
        time.sleep(0.005)


def _resident_mb() -> float:
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024


if __name__ == "__main__":
    np.seterr(all="ignore")
    measure(lambda what, seen, wanted: print(f"{what:80} {seen:40} {wanted}"))

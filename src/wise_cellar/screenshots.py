"""Pictures of the views, made from the sample workspace without a display."""

from __future__ import annotations

import tempfile
import time
from collections.abc import Callable, Iterator
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from PyQt6 import sip
from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QApplication, QWidget

from wise_cellar.core.begin import read_description
from wise_cellar.core.bench import total_seconds
from wise_cellar.core.documents import DocumentError
from wise_cellar.demo import EXTENDED_DESIGN_ID, sample_workspace
from wise_cellar.demo.sample_packs import HALF_BUILT_ID, OLD_PACK_ID
from wise_cellar.store.reading import write_picture
from wise_cellar.ui.application import make_application
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state.live_run import RunRecorder
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.build.station import BuildStation
from wise_cellar.ui.stations.cells.pictures import LOAD, OWN
from wise_cellar.ui.stations.cells.station import CellsStation
from wise_cellar.ui.stations.charge.station import DAY, ChargeStation
from wise_cellar.ui.stations.craft.station import CraftStation
from wise_cellar.ui.stations.extend.station import ExtendStation
from wise_cellar.ui.stations.flight.station import VIEWS as FLIGHT_VIEWS
from wise_cellar.ui.stations.flight.station import FlightStation
from wise_cellar.ui.stations.logbook.bench_work import BenchWork
from wise_cellar.ui.stations.logbook.station import BENCH, LogbookStation
from wise_cellar.ui.theme import Appearance
from wise_cellar.ui.widgets.segments import SEGMENTS

SIZE = (1280, 800)
SANDPIPER: dict[str, Any] = {
    "name": "Sandpiper", "rotor_count": 4, "propeller_mm": 127.0, "mass_g": 330.0,
    "battery": read_description("4S 850 mAh polymer, 95 g"), "flown_min": 8.0, "charge_mah": 700.0,
    "onto": read_description("21700 4200 mAh 45 A"),
}  # fmt: skip
"""What is told of a craft in the pictures of its beginning."""
BEGUN = "sandpiper-4s-1p-of-21700-4200-power"
LOGGED_FLIGHT, OLD_PACK = "spring-05", "whimbrel-1"
"""That the Logbook shows in its pictures."""
RUN_SPEED, RUN_SHARE, LONGEST_S = 120.0, 0.6, 60.0
"""How many seconds of a bench run pass in one, how much of it is shown, and how long that may take."""
_OF_EXTENDED = ("Extend", "Charge")
"""Stations that are pictured with the design that has an auxiliary."""


@dataclass(frozen=True)
class View:
    """What a picture must show: the station, the design in the recipe line, and the pages that are chosen."""

    station: str
    design: str
    pages: frozenset[str] = frozenset()
    dialog: str = ""
    """Title of the panel over the window, where the picture is of one."""


def _view(station: str, design: str, *pages: str, dialog: str = "") -> View:
    return View(station, design, frozenset(pages), dialog)


_FIRST, _WING = "whimbrel-transect", "turnstone-shoreline"
VIEWS = {
    "cellar": _view("Cellar", _FIRST, "Designs"),
    "begin": _view("Cellar", BEGUN),
    "craft": _view("Craft", _FIRST, "Against take-off mass"),
    "cells": _view("Cells", _FIRST, "At this load", "Claims"),
    "pack": _view("Pack", _FIRST, "Placement"),
    "flight": _view("Flight", _FIRST, "Mission"),
    "compare": _view("Compare", _FIRST, "Every pack"),
    "extend": _view("Extend", EXTENDED_DESIGN_ID, "On the bus"),
    "charge": _view("Charge", EXTENDED_DESIGN_ID, "One pack"),
    "discharges": _view("Cells", "whimbrel-energy", "Its own discharges"),
    "build": _view("Build", _FIRST, "Tray"),
    "match": _view("Build", _FIRST, "Match"),
    "steps": _view("Build", _FIRST, "Steps"),
    "packs": _view("Build", _FIRST, "Packs"),
    "landing": _view("Flight", _FIRST, "Landing"),
    "wing": _view("Craft", _WING, "Against airspeed"),
    "logbook": _view("Logbook", _FIRST, "Flights"),
    "field-day": _view("Charge", EXTENDED_DESIGN_ID, "Field day"),
    "flight-lamplight": _view("Flight", "dunlin-scout"),
}


def save_screenshots(folder: Path, *, every_view: bool) -> Iterator[Path]:
    """Save one PNG a station, or every main view; yields each path. Raises :class:`DocumentError` with a sentence."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise DocumentError(f"{folder} cannot be made: {error.strerror}.") from error
    application = make_application(Appearance.LIMESTONE)
    with tempfile.TemporaryDirectory() as scratch:
        settings = QSettings(str(Path(scratch) / "settings.ini"), QSettings.Format.IniFormat)
        window = MainWindow(Session(sample_workspace(Path(scratch) / "sample.cellar")), settings)
        window.resize(*SIZE)
        window.show()
        for place, station in enumerate(window.stations):
            if station.title in _OF_EXTENDED and every_view:
                continue
            window.show_station(place)
            if every_view and isinstance(station, LogbookStation):
                station.flights.choose(LOGGED_FLIGHT)
            yield _save(application, window, folder / f"{station.title.lower()}.png", checked=every_view)
        if every_view:
            yield from _more_views(application, window, folder)
        window.close()
        sip.delete(window)  # as at the end of the application: see there


def run_on_a_load(window: MainWindow) -> BenchWork:
    """The design's mission on the load that stands in, as far as :data:`RUN_SHARE` of it.

    Raises ``TimeoutError`` where it does not come so far.
    """
    station = window.station(LogbookStation)
    station.pages.choose(BENCH)
    logbook = station.bench
    desk = window.session.desk
    device = desk.open_stand_in("pack-load", window.session.complete, seed=5, speed=RUN_SPEED)
    device.profile = device.profile.changed(talk=device.profile.talk.changed(every_s=0.02))
    desk.talk_by(device, device.profile)
    until(lambda: device.last is not None and logbook.settled and logbook.planned is not None)
    logbook.run.start.click()
    run = logbook.run.recorder
    assert isinstance(run, RunRecorder), logbook.run.attempt.text()
    until(lambda: not run.running or run.scheduled_s > RUN_SHARE * total_seconds(run.steps))
    run.pause()
    return logbook


def until(come: Callable[[], bool]) -> None:
    """Raises ``TimeoutError`` where it does not come within :data:`LONGEST_S`."""
    end = time.monotonic() + LONGEST_S
    while not come():
        QApplication.processEvents()
        if time.monotonic() > end:
            raise TimeoutError


def _more_views(application: QApplication, window: MainWindow, folder: Path) -> Iterator[Path]:
    session, cells = window.session, window.station(CellsStation)
    build = window.station(BuildStation)
    window.show_station(window.stations.index(build))
    build.show_page("Match")
    yield _save(application, window, folder / "match.png")
    build.show_page("Packs")
    build.packs.choose(OLD_PACK_ID)
    build.packs.refresh()
    yield _save(application, window, folder / "packs.png")
    build.show_page("Steps")
    build.steps.choose(HALF_BUILT_ID)
    yield _save(application, window, folder / "steps.png")
    yield _begun(application, window, folder / "begin.png")
    session.open_design("whimbrel-energy")
    session.compared.toggle_pin()
    session.compared.toggle_pin()
    window.show_station(window.stations.index(cells))
    window.notice.hide()
    cells.pictures.which.choose(OWN)
    yield _save(application, window, folder / "discharges.png")
    cells.pictures.which.choose(LOAD)
    yield from _flights(application, window, folder)
    yield from _extended(application, window, folder)
    window.looks.show_appearance(Appearance.LAMPLIGHT)
    session.open_design("dunlin-scout")
    window.show_station(window.stations.index(window.station(FlightStation)))
    yield _save(application, window, folder / "flight-lamplight.png")


def _begun(application: QApplication, window: MainWindow, path: Path) -> Path:
    """A craft that is being begun, as far as somebody knows it."""
    window.begin()
    window.notice.hide()
    window.session.draft.fill(**SANDPIPER)
    saved = _save(application, window, path)
    window.session.draft.begin_anew()
    window.session.set_aside()
    return saved


def _flights(application: QApplication, window: MainWindow, folder: Path) -> Iterator[Path]:
    """Landing policies and alarm card, and power against airspeed on a wing."""
    window.session.open_design("whimbrel-transect")
    flight, craft = window.station(FlightStation), window.station(CraftStation)
    window.show_station(window.stations.index(flight))
    window.notice.hide()
    flight.views.choose(FLIGHT_VIEWS.index("Landing"))
    flight.show_top(flight.views)
    yield _save(application, window, folder / "landing.png")
    flight.views.choose(0)
    flight.show_top(None)
    window.show_station(window.stations.index(craft))
    craft.which.choose(1)
    window.session.open_design("turnstone-shoreline")
    yield _save(application, window, folder / "wing.png")
    craft.which.choose(0)


def _extended(application: QApplication, window: MainWindow, folder: Path) -> Iterator[Path]:
    """Packs on one bus, the charge of one, and a day in the field."""
    session, extend, charge = window.session, window.station(ExtendStation), window.station(ChargeStation)
    session.open_design(EXTENDED_DESIGN_ID)
    window.show_station(window.stations.index(extend))
    window.notice.hide()
    yield _save(application, window, folder / "extend.png")
    window.show_station(window.stations.index(charge))
    yield _save(application, window, folder / "charge.png")
    charge.pages.choose(DAY)
    yield _save(application, window, folder / "field-day.png")


def settled(application: QApplication, window: MainWindow) -> None:
    """Wait until nothing is computed beside the window any more."""
    waiting = True
    while waiting:
        application.processEvents()
        waiting = not window.session.settled or not all(station.settled for station in window.stack.made)
    for _ in range(3):
        application.processEvents()


def _shown(window: MainWindow, widget: QWidget | None) -> View:
    """What a picture taken now would show."""
    station = window.stack.currentWidget()
    assert isinstance(station, Station)
    pages = frozenset(each.word for each in SEGMENTS.within(station) if each.isVisible())
    return View(
        station.title, window.session.complete.design.id, pages, widget.windowTitle().split(":")[0] if widget else ""
    )


def check_view(name: str, window: MainWindow, widget: QWidget | None = None) -> None:
    """Refuse a picture that would not show what its name says; raises :class:`DocumentError`."""
    wanted, shown = VIEWS.get(name), _shown(window, widget)
    if wanted is None or replace(shown, pages=shown.pages & wanted.pages) != wanted:
        raise DocumentError(
            f"{name}.png would show {shown.station}, {shown.design}, {', '.join(sorted(shown.pages))}"
            f"{', ' + shown.dialog if shown.dialog else ''}; it must show {wanted}."
        )


def _save(
    application: QApplication, window: MainWindow, path: Path, widget: QWidget | None = None, *, checked: bool = True
) -> Path:
    """Save the window, or another widget, once nothing is computed beside it any more."""
    settled(application, window)
    if checked:
        check_view(path.stem, window, widget)
    write_picture(path, lambda part: (widget or window).grab().save(part, "PNG"))
    return path

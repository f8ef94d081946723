"""The handbook's pictures: parts of the stations, made from the sample world without a display."""

from __future__ import annotations

import tempfile
from collections.abc import Callable, Iterator
from pathlib import Path

from PyQt6 import sip
from PyQt6.QtCore import QSettings, Qt
from PyQt6.QtGui import QColor, QImage, QPainter
from PyQt6.QtWidgets import QApplication, QWidget

from wise_cellar.core.build.wiring import Fault, read_as
from wise_cellar.demo import EXTENDED_DESIGN_ID, sample_workspace
from wise_cellar.demo.sample_packs import HALF_BUILT_ID
from wise_cellar.instruments import shipped_profiles
from wise_cellar.instruments.stand_ins import Served, made
from wise_cellar.screenshots import LOGGED_FLIGHT, OLD_PACK, SANDPIPER, run_on_a_load, settled, until
from wise_cellar.store.reading import write_picture
from wise_cellar.ui.application import make_application
from wise_cellar.ui.shell.instruments_sheet import InstrumentsSheet
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.build.station import BuildStation
from wise_cellar.ui.stations.cells.station import CellsStation
from wise_cellar.ui.stations.charge.station import ChargeStation
from wise_cellar.ui.stations.logbook.station import LogbookStation
from wise_cellar.ui.theme import Appearance, colours_of

LAID_OUT = 5
"""Turns of the loop after which what came is in its place."""
WIDTH, NARROW = 600, (1100, 760)
"""In pixels: a page of the handbook is not much wider, and so is a picture in a window of such a size."""
LIVE_SPEED, LIVE_SHARE = 4000.0, 0.7
"""How many seconds of a discharge pass in one, and how much of it is shown."""
CHARGE_SPEED, CHARGED_SHARE = 400.0, 0.95
FIRST = "whimbrel-transect"


def _part(name: str) -> Callable[[MainWindow], QWidget]:
    """A widget of the station in view, by the way to it from the station."""

    def found(window: MainWindow) -> QWidget:
        widget = window.stack.currentWidget()
        for step in name.split("."):
            widget = getattr(widget, step)
        assert isinstance(widget, QWidget)
        return widget

    return found


def _swapped(window: MainWindow) -> QWidget:
    """The taps of a lead whose second and third wire are swapped."""
    page = window.station(BuildStation).taps
    fault = Fault("swap", 1, 2)
    page.show_readings(read_as(page.group_v, [fault]))
    return page


def _half_built(window: MainWindow) -> QWidget:
    """The half built pack at its next step."""
    build = window.station(BuildStation)
    build.steps.choose(HALF_BUILT_ID)
    return build.steps.page.picture


def _instruments(window: MainWindow) -> QWidget:
    """A meter and a load that are listened to."""
    desk = window.session.desk
    for kind in ("meter", "load"):
        desk.open_stand_in(kind, window.session.complete)
    wanted = {"resistance", "amps"}
    until(lambda: wanted <= {name for device in desk.devices if device.last for name in device.last.values})
    return InstrumentsSheet(window, desk, lambda: window.session.complete)


def _live(window: MainWindow) -> QWidget:
    """A discharge in its second half."""
    cell = window.session.complete.pack.cell
    served = Served(made("load", window.session.complete, 9), LIVE_SPEED)
    served.start()
    profile = shipped_profiles()[served.stand_in.profile]
    window.session.desk.close_all()
    device = window.session.desk.open(profile.changed(talk=profile.talk.changed(every_s=0.02)), served.address, served)
    until(lambda: device.last is not None)
    cells = window.station(CellsStation)
    cells.curves.live_button.click()
    sheet = cells.live
    assert sheet is not None
    sheet.start.click()
    until(lambda: len(sheet.plot.mah) > 0 and sheet.plot.mah[-1] > LIVE_SHARE * cell.capacity_mah)
    return sheet


def _run(window: MainWindow) -> QWidget:
    """A mission that is run on a load."""
    window.session.desk.close_all()
    return run_on_a_load(window).picture


def _old_pack(window: MainWindow) -> QWidget:
    """The life of a pack that is a year old."""
    packs = window.station(LogbookStation).packs
    packs.choose(OLD_PACK)
    until(lambda: packs.settled and packs.life is not None)
    return packs.picture


def _logged(window: MainWindow) -> QWidget:
    """A flight as logged over the same flight as expected."""
    flights = window.station(LogbookStation).flights
    flights.choose(LOGGED_FLIGHT)
    until(lambda: flights.settled and flights.shown is not None)
    for _ in range(LAID_OUT):
        QApplication.processEvents()
    return flights.traces


def _watched(window: MainWindow) -> QWidget:
    """A charge in its second half."""
    desk, station = window.session.desk, window.station(ChargeStation)
    desk.close_all()
    device = desk.open_stand_in("charger", window.session.complete, seed=4, speed=CHARGE_SPEED)
    until(lambda: device.last is not None and station.planned is not None)
    station.live.watch.click()
    recorder = station.live.recorder
    assert recorder is not None, station.live.attempt.text()
    until(
        lambda: (
            recorder.came.seconds > CHARGED_SHARE * recorder.plan.charged.seconds
            and recorder.expected is not recorder.plan.charged
        )
    )
    recorder.stop("it is shown")
    desk.close_all()
    return station.picture


PICTURES: tuple[tuple[str, str, str, str, Callable[[MainWindow], QWidget]], ...] = (
    ("range", FIRST, "Flight", "Range", _part("range.widget")),
    ("alarm", FIRST, "Flight", "Landing", _part("landing")),
    ("discharges", "whimbrel-energy", "Cells", "Its own discharges", _part("pictures")),
    ("compare", FIRST, "Compare", "Every pack", _part("cloud")),
    ("chain", FIRST, "Pack", "Placement", _part("chain")),
    ("extend", EXTENDED_DESIGN_ID, "Extend", "On the bus", _part("confluence")),
    ("charge", FIRST, "Charge", "One pack", _part("picture")),
    ("match", FIRST, "Build", "Match", _part("on_match.page.picture")),
    ("taps", FIRST, "Build", "Taps", _swapped),
    ("steps", FIRST, "Build", "Steps", _half_built),
    ("instruments", FIRST, "Build", "Tray", _instruments),
    ("run", FIRST, "Logbook", "Bench", _run),
    ("old-pack", FIRST, "Logbook", "Packs", _old_pack),
    ("flight", FIRST, "Logbook", "Flights", _logged),
    ("watched", FIRST, "Charge", "One pack", _watched),
    ("live", "whimbrel-energy", "Cells", "Its own discharges", _live),
)
"""Name, design, station, page, and which part of it."""


def save_handbook_pictures(folder: Path) -> Iterator[Path]:
    """Save every picture of the handbook into ``folder``; yields each path."""
    application = make_application(Appearance.LIMESTONE)
    with tempfile.TemporaryDirectory() as scratch:
        settings = QSettings(str(Path(scratch) / "settings.ini"), QSettings.Format.IniFormat)
        window = MainWindow(Session(sample_workspace(Path(scratch) / "sample.cellar")), settings)
        window.resize(*NARROW)
        window.show()
        for name, design, station, page, part in PICTURES:
            window.session.open_design(design)
            window.go_to_page(station, page)
            yield _save(application, window, folder / f"{name}.png", part)
        window.begin()
        window.session.draft.fill(**SANDPIPER)
        yield _save(application, window, folder / "begin.png", _part("begin.picture"))
        window.close()
        sip.delete(window)  # as at the end of the application: see there


def _save(application: QApplication, window: MainWindow, path: Path, part: Callable[[MainWindow], QWidget]) -> Path:
    settled(application, window)
    shown = part(window)
    taken = shown.grab().toImage()
    # What lets the sheet behind it shine through would let the page of the handbook, in other colours.
    picture = QImage(taken.size(), QImage.Format.Format_RGB32)
    picture.setDevicePixelRatio(taken.devicePixelRatio())
    picture.fill(QColor(colours_of(shown).sheet))
    painter = QPainter(picture)
    painter.drawImage(0, 0, taken)
    painter.end()
    if picture.width() > WIDTH:
        picture = picture.scaledToWidth(WIDTH, Qt.TransformationMode.SmoothTransformation)
    write_picture(path, lambda target: picture.save(target, "PNG"))
    return path

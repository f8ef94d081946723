"""Pictures of the views, made from the sample workspace without a display."""

from __future__ import annotations

import tempfile
from collections.abc import Iterator
from importlib import resources
from pathlib import Path

import numpy as np
from PyQt6 import sip
from PyQt6.QtCore import QSettings
from PyQt6.QtWidgets import QApplication, QWidget

from wise_cellar.core.documents import DocumentError, TracedChart
from wise_cellar.demo import EXTENDED_DESIGN_ID
from wise_cellar.store import Workspace
from wise_cellar.ui import pack_edits
from wise_cellar.ui.application import make_application
from wise_cellar.ui.session import Session
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.stations.cells.station import CLAIMS, LOAD, OWN
from wise_cellar.ui.stations.charge.station import DAY
from wise_cellar.ui.stations.extend.station import JOIN
from wise_cellar.ui.stations.flight.station import VIEWS
from wise_cellar.ui.stations.pack.controls import JOINING, PLACEMENT
from wise_cellar.ui.theme import Appearance

SIZE = (1280, 800)


def save_screenshots(folder: Path, *, every_view: bool) -> Iterator[Path]:
    """Save one PNG a station, or every main view; yields each path. Raises :class:`DocumentError` with a sentence."""
    try:
        folder.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise DocumentError(f"{folder} cannot be made: {error.strerror}.") from error
    application = make_application(Appearance.LIMESTONE)
    with tempfile.TemporaryDirectory() as scratch:
        settings = QSettings(str(Path(scratch) / "settings.ini"), QSettings.Format.IniFormat)
        window = MainWindow(Session(Workspace.open(Path(scratch) / "sample.cellar")), settings)
        window.resize(*SIZE)
        window.show()
        for place, station in enumerate(window.stations):
            window.show_station(place)
            yield _save(application, window, folder / f"{station.title.lower()}.png")
        if every_view:
            yield from _more_views(application, window, folder)
        window.close()
        sip.delete(window)  # as at the end of the application: see there


def _more_views(application: QApplication, window: MainWindow, folder: Path) -> Iterator[Path]:
    session, cells = window.session, window.cells
    yield from _packs(application, window, folder)
    session.open_design("whimbrel-energy")
    session.toggle_pin()
    session.toggle_pin()
    session.edit("design.cell_type_id", "fell-21-50e")
    window.show_station(window.stations.index(cells))
    window.notice.hide()
    cells.which.choose(OWN)
    yield _save(application, window, folder / "discharges.png")
    cells.which.choose(LOAD)
    yield _import_panel(application, window, folder / "import.png")
    chart = next(iter(session.all(TracedChart).values()))
    session.edit("design.cell_type_id", chart.cell_type_id)
    trace = cells.open_trace(chart)
    if trace is not None:
        yield _save(application, window, folder / "trace.png", trace)
        trace.reject()
    yield from _flights(application, window, folder)
    yield _beside(application, window, folder / "beside.png")
    yield from _extended(application, window, folder)
    window.show_appearance(Appearance.LAMPLIGHT)
    session.open_design("dunlin-scout")
    cells.views.choose(CLAIMS)
    cells.table.clearSelection()
    yield _save(application, window, folder / "cells-lamplight.png")
    window.show_station(3)
    yield _save(application, window, folder / "flight-lamplight.png")


def _flights(application: QApplication, window: MainWindow, folder: Path) -> Iterator[Path]:
    """Landing policies and alarm card, and power against airspeed on a wing."""
    window.session.open_design("whimbrel-transect")
    flight, craft = window.flight, window.craft
    window.show_station(window.stations.index(flight))
    window.notice.hide()
    flight.views.choose(VIEWS.index("Landing"))
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
    """Packs on one bus and joined at unlike volts, the charge of one, and a day in the field."""
    session, extend, charge = window.session, window.extend, window.charge
    session.open_design(EXTENDED_DESIGN_ID)
    window.show_station(window.stations.index(extend))
    window.notice.hide()
    yield _save(application, window, folder / "extend.png")
    session.edit("design.beside.0.start_charge_percent", 80)
    extend.pages.choose(JOIN)
    yield _save(application, window, folder / "joining.png")
    session.undo()
    window.show_station(window.stations.index(charge))
    yield _save(application, window, folder / "charge.png")
    charge.pages.choose(DAY)
    yield _save(application, window, folder / "field-day.png")


def _beside(application: QApplication, window: MainWindow, path: Path) -> Path:
    """The present design beside the longest flight of the search."""
    window.session.open_design("whimbrel-transect")
    compare = window.compare
    window.show_station(window.stations.index(compare))
    _settled(application, window)
    if compare.found is not None:
        passing = np.where(compare.found.judged.passes, compare.found.flown.duration_s, -np.inf)
        compare.cloud.choose(int(np.argmax(passing)))
        compare.put_beside()
    saved = _save(application, window, path)
    compare.pages.choose(0)
    return saved


def _packs(application: QApplication, window: MainWindow, folder: Path) -> Iterator[Path]:
    """The Pack station with thin strips and what would mend them, and with cells placed by hand; then as it was."""
    session, pack = window.session, window.pack
    session.edit("design.recipe.strip.layers", 1)
    pack.controls.groups.choose(JOINING)
    yield _save(application, window, folder / "pack-joining.png")
    session.undo()
    pack_edits.take_recipe(session, session.complete.design.recipe.model_copy(update={"parallel_count": 2}), "Two")
    pack_edits.place_by_hand(session)
    for cell, along, across in ((6, -2, 4), (7, -2, 4)):
        pack_edits.move_cell(session, cell, along, across)
    pack.controls.groups.choose(PLACEMENT)
    yield _save(application, window, folder / "pack-by-hand.png")
    for _ in range(4):
        session.undo()


def _import_panel(application: QApplication, window: MainWindow, path: Path) -> Path:
    curves = resources.files("wise_cellar.demo") / "curves"
    with resources.as_file(curves) as found:
        panel = window.cells.open_import(sorted(found.glob("*.csv")))
        while panel.busy:
            application.processEvents()
        saved = _save(application, window, path, panel)
        panel.reject()
    return saved


def _settled(application: QApplication, window: MainWindow) -> None:
    """Wait until nothing is computed beside the window any more."""
    waiting = True
    while waiting:
        application.processEvents()
        waiting = not window.session.settled or not all(station.settled for station in window.stack.made)
    for _ in range(3):
        application.processEvents()


def _save(application: QApplication, window: MainWindow, path: Path, widget: QWidget | None = None) -> Path:
    """Save the window, or another widget, once nothing is computed beside it any more."""
    _settled(application, window)
    if not (widget or window).grab().save(str(path), "PNG"):
        raise DocumentError(f"{path} cannot be written: check that the folder may be written to and has room.")
    return path

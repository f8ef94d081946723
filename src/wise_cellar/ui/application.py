"""Starting the application."""

from __future__ import annotations

import gc
import os
import sys
from contextlib import suppress
from datetime import date
from pathlib import Path

from platformdirs import user_data_path
from PyQt6 import sip
from PyQt6.QtCore import QPoint, QSettings
from PyQt6.QtGui import QIcon
from PyQt6.QtWidgets import QApplication

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.shown import METRIC, Units, read_units, show_units
from wise_cellar.demo import sample_workspace
from wise_cellar.store import Workspace, WorkspaceError
from wise_cellar.store.workspace_file import explained
from wise_cellar.ui.shell.looks import START_AGAIN
from wise_cellar.ui.shell.window import MainWindow
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.theme import Appearance, apply_appearance, font, load_fonts
from wise_cellar.ui.theme.text_size import chosen_size, draw_at, leave_the_scale
from wise_cellar.ui.unforeseen import Unforeseen

ICON = Path(__file__).parent / "theme" / "wise-cellar.svg"
BAD_INPUT = 2
SAMPLE = "sample.cellar"
OFFSET = QPoint(36, 36)
SWITCH_S = 5e-4
"""A job beside the window gives way this often: Python's own 5 ms would be paid at every matrix of an edit."""


def make_application(appearance: Appearance = Appearance.DESKTOP) -> QApplication:
    """The one application object, dressed."""
    present = QApplication.instance()
    application = present if isinstance(present, QApplication) else QApplication(sys.argv[:1])
    sys.setswitchinterval(SWITCH_S)
    application.setApplicationName("Wise Cellar")
    application.setDesktopFileName("wise-cellar")
    application.setWindowIcon(QIcon(str(ICON)))
    load_fonts()
    application.setStyle("Fusion")
    application.setFont(font())
    apply_appearance(application, appearance)
    return application


def run(workspace: Path | None, *, demo: bool = False, shown_in: Units | None = None) -> int:
    """Show the window until it is closed; 2 and a sentence when the workspace cannot be opened. ``shown_in`` takes the
    place of the units that were chosen last."""
    settings = QSettings("wise-cellar", "wise-cellar")
    show_units(shown_in or chosen_units(settings))
    draw_at(chosen_size(settings))
    application = make_application(Appearance(settings.value("appearance", Appearance.DESKTOP.value)))
    path = workspace or _default_workspace(settings, demo=demo)
    unforeseen = Unforeseen()
    unforeseen.install()
    try:
        if workspace is None:
            with explained(path):
                path.parent.mkdir(parents=True, exist_ok=True)
        sample = demo and workspace is None
        session = Session(sample_workspace(path) if sample else Workspace.open(path, backed_up=date.today()))
    except (DocumentError, WorkspaceError) as error:
        print(error, file=sys.stderr)
        return BAD_INPUT
    window = shown(session, settings)
    gc.freeze()
    gc.enable()
    unforeseen.happened.connect(_tell_unforeseen)
    window.stack.make_when_idle()
    status = application.exec()
    last = window.session.workspace.path
    delete_windows()
    unforeseen.remove()
    if status == START_AGAIN:
        settings.sync()
        start_again(last, shown_in)
    return status


def start_again(workspace: Path, shown_in: Units | None) -> None:
    """This program anew, in place of itself, with the workspace that was open; it does not return."""
    begun_by = sys.orig_argv[: len(sys.orig_argv) - len(sys.argv[1:])]
    told = [str(workspace), *(["--units", shown_in.written()] if shown_in is not None else [])]
    leave_the_scale()
    # A bundle would else take what it unpacked for this process, which goes.
    os.environ["PYINSTALLER_RESET_ENVIRONMENT"] = "1"
    os.execv(sys.executable, [sys.executable, *begun_by[1:], *told])


def shown(session: Session, settings: QSettings) -> MainWindow:
    """A window on a session, which opens the sample world beside it when it is asked to."""
    window = MainWindow(session, settings)
    window.sample_wanted.connect(lambda: show_sample_world(window))
    window.walk_wanted.connect(lambda: show_sample_world(window, walk=True))
    window.show()
    return window


def show_sample_world(beside: MainWindow, *, walk: bool = False) -> None:
    """Another window, on the sample workspace, or the one that shows it already; with a ``walk`` through it."""
    path = user_data_path("wise-cellar") / SAMPLE
    for window in QApplication.topLevelWidgets():
        if isinstance(window, MainWindow) and window.isVisible() and window.session.workspace.path == path:
            window.activateWindow()
            if walk:
                window.walk.go_on()
            elif window is beside:
                window.notice.say("This is the sample world.")
            return
    try:
        with explained(path):
            path.parent.mkdir(parents=True, exist_ok=True)
        session = Session(sample_workspace(path))
    except (DocumentError, WorkspaceError) as error:
        beside.notice.say(str(error), error=True)
        return
    opened = shown(session, beside.settings)
    opened.move(beside.pos() + OFFSET)
    if walk:
        opened.start_walk()


def _tell_unforeseen(sentence: str, details: str) -> None:
    """In whichever window is there: another workspace may have been opened meanwhile."""
    for window in QApplication.topLevelWidgets():
        if isinstance(window, MainWindow) and window.isVisible():
            window.tidings.unforeseen(sentence, details)


def delete_windows() -> None:
    """Delete every window while all else is still there.

    What is left to the end of the process is deleted while the toolkit's binding walks its own list of it, which now
    and then crashes.
    """
    for window in [widget for widget in QApplication.topLevelWidgets() if isinstance(widget, MainWindow)]:
        sip.delete(window)


def chosen_units(settings: QSettings) -> Units:
    """The units that were chosen last."""
    with suppress(ValueError):
        return read_units(str(settings.value("units", METRIC)))
    return Units()


def _default_workspace(settings: QSettings, *, demo: bool) -> Path:
    """The sample workspace, the one that was open last, or the first one."""
    folder = user_data_path("wise-cellar")
    if demo:
        return folder / SAMPLE
    last = settings.value("workspace")
    with suppress(OSError, ValueError):
        if isinstance(last, str) and Path(last).exists():
            return Path(last)
    return folder / "workspace.cellar"

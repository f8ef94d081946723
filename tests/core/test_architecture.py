"""The core stands alone, and the project says nothing of who or what it must not name."""

from __future__ import annotations

import re
import subprocess
import sys
from pathlib import Path

import wise_cellar


def test_the_core_and_the_store_import_without_the_toolkit() -> None:
    """A fresh interpreter in which PyQt6 and pyqtgraph cannot be imported flies a design."""
    program = """
import sys
for name in ("PyQt6", "pyqtgraph"):
    sys.modules[name] = None
from wise_cellar.core.answer import answer
from wise_cellar.demo import complete_sample
import wise_cellar.store
print(answer(complete_sample("dunlin-scout")).duration_s > 300)
"""
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=False)
    assert done.stdout.strip() == "True", done.stderr


def test_a_window_imports_no_station_but_the_one_it_shows() -> None:
    """What is declared at the doors is enough for the rail, the menus and the way to a field."""
    program = """
import sys, tempfile
from pathlib import Path
from PyQt6.QtCore import QSettings
from wise_cellar.demo import sample_workspace
from wise_cellar.ui.application import make_application
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.shell.window import MainWindow
application = make_application()
folder = tempfile.mkdtemp()
window = MainWindow(
    Session(sample_workspace(Path(folder) / "sample.cellar")),
    QSettings(folder + "/settings.ini", QSettings.Format.IniFormat),
)
window.show()
print(sorted(name.split(".")[3] for name in sys.modules if name.startswith("wise_cellar.ui.stations.")
             and name.endswith(".station")))
window.close()
"""
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=False)
    assert done.stdout.strip() == "['flight']", done.stderr


def test_nothing_on_the_screen_moves_by_itself() -> None:
    """What moves cannot be turned off where the desktop does not; the text cursor follows the desktop."""
    moving = re.compile(r"Q\w*Animation|QMovie|QTimeLine|QGraphics\w*Effect|setEffectEnabled|setAnimated\(True")
    source = Path(wise_cellar.__file__).parent
    found = [(path.name, word) for path in source.rglob("*.py") for word in moving.findall(path.read_text("utf-8"))]
    assert found == []

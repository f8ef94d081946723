"""Starting: as a real X client, and offscreen with pictures."""

from __future__ import annotations

import os
import shutil
import subprocess
import sys
import time
from pathlib import Path

import pytest
from PyQt6.QtCore import QSettings
from PyQt6.QtGui import QImage

from wise_cellar.cli import main
from wise_cellar.ui.theme.text_size import chosen_size

START = """
import gc, sys
from PyQt6.QtCore import QTimer
from PyQt6.QtGui import QGuiApplication
from wise_cellar.ui import application

make = application.make_application

def made(*arguments):
    app = make(*arguments)
    def report():
        window = next(w for w in app.topLevelWidgets() if w.isVisible() and w.windowTitle())
        first = window.band.buttons[0].shown.value
        print(QGuiApplication.platformName(), "|", window.windowTitle(), "|", first, "|", gc.isenabled())
        window.close()
    QTimer.singleShot(300, report)
    return app

application.make_application = made
gc.disable()  # as the command does
sys.exit(application.run(None, demo=True))
"""


def told_when_started(tmp_path: Path, **more: str) -> list[str]:
    """Platform, title, minutes, and if garbage is looked for, of a window that was started on the sample world."""
    environment = {
        **os.environ, "XDG_DATA_HOME": str(tmp_path / "data"), "XDG_CONFIG_HOME": str(tmp_path / "config"), **more,
    }  # fmt: skip
    done = subprocess.run(
        [sys.executable, "-c", START], env=environment, capture_output=True, text=True, timeout=60, check=False
    )
    assert done.returncode == 0, done.stderr
    assert (tmp_path / "data" / "wise-cellar" / "sample.cellar").exists()
    return [part.strip() for part in done.stdout.split("|")]


def check_told(told: list[str], platform: str) -> None:
    assert told[:2] == [platform, "Whimbrel, long transect — sample.cellar — Wise Cellar"]
    assert told[2].endswith(" s")
    assert told[3] == "True", "garbage is looked for again"


AGAIN = """
import os, sys
from PyQt6.QtCore import QTimer
from wise_cellar.ui import application

seen = os.environ.get("SEEN", "").split()
make = application.make_application

def made(*arguments):
    app = make(*arguments)
    def report():
        window = next(w for w in app.topLevelWidgets() if w.isVisible() and w.windowTitle())
        os.environ["SEEN"] = " ".join([*seen, str(window.devicePixelRatioF())])
        if not seen:
            window.looks.choose_text_size()
            window.looks.text_size_sheet.sizes.choose(1)
            window.looks.text_size_sheet.start.click()
        else:
            print(os.environ["SEEN"], "|", window.windowTitle(), "|", sys.argv[1])
            window.close()
    QTimer.singleShot(300, report)
    return app

application.make_application = made
sys.exit(application.run(None, demo=True))
"""


def test_another_text_size_is_shown_when_it_starts_again(tmp_path: Path) -> None:
    environment = {
        **os.environ, "XDG_DATA_HOME": str(tmp_path / "data"), "XDG_CONFIG_HOME": str(tmp_path / "config"),
        "QT_SCALE_FACTOR": "1.2",
    }  # fmt: skip
    (tmp_path / "config" / "wise-cellar").mkdir(parents=True)
    (tmp_path / "config" / "wise-cellar" / "wise-cellar.conf").write_text("[General]\ntext_percent=150\n")
    done = subprocess.run(
        [sys.executable, "-c", AGAIN], env=environment, capture_output=True, text=True, timeout=60, check=False
    )
    assert done.returncode == 0, done.stderr
    scales, title, workspace = (part.strip() for part in done.stdout.split("|"))
    assert [float(scale) for scale in scales.split()] == pytest.approx([1.2 * 1.5, 1.2]), "on top of what was asked"
    assert title == "Whimbrel, long transect — sample.cellar — Wise Cellar"
    assert workspace.endswith("sample.cellar")


def test_a_text_size_that_is_none_of_ours_is_the_usual_one(tmp_path: Path) -> None:
    settings = QSettings(str(tmp_path / "settings.ini"), QSettings.Format.IniFormat)
    assert chosen_size(settings) == 100
    for told, taken in (("160", 160), (90, 90), ("161", 100), ("large", 100), ("", 100)):
        settings.setValue("text_percent", told)
        assert chosen_size(settings) == taken


@pytest.mark.screen
@pytest.mark.skipif(shutil.which("Xvfb") is None, reason="Xvfb is not installed")
def test_the_application_starts_as_an_x_client(tmp_path: Path) -> None:
    read, write = os.pipe()
    server = subprocess.Popen(
        ["Xvfb", "-displayfd", str(write), "-screen", "0", "1400x900x24", "-nolisten", "tcp"],
        pass_fds=(write,),
        stderr=subprocess.DEVNULL,
    )
    os.close(write)
    try:
        with os.fdopen(read) as pipe:
            display = pipe.readline().strip()
        told = told_when_started(tmp_path, DISPLAY=f":{display}", QT_QPA_PLATFORM="xcb")
    finally:
        server.terminate()
        server.wait(10)
    check_told(told, "xcb")


@pytest.mark.screen
@pytest.mark.skipif(shutil.which("weston") is None, reason="no Wayland compositor (weston) is installed")
def test_the_application_starts_under_a_wayland_compositor(tmp_path: Path) -> None:
    runtime = tmp_path / "runtime"
    runtime.mkdir(mode=0o700)
    where = {"XDG_RUNTIME_DIR": str(runtime)}
    log = tmp_path / "compositor.log"
    compositor = subprocess.Popen(
        ["weston", "--backend=headless-backend.so", "--socket=cellar", "--no-config", "--idle-time=0", f"--log={log}"],
        env={**os.environ, **where},
        stdout=subprocess.DEVNULL,
        stderr=subprocess.DEVNULL,
    )
    try:
        waited_until = time.monotonic() + 20
        while not (runtime / "cellar").exists():
            assert compositor.poll() is None, log.read_text()
            assert time.monotonic() < waited_until, "the compositor did not come up"
            time.sleep(0.05)
        told = told_when_started(tmp_path, WAYLAND_DISPLAY="cellar", QT_QPA_PLATFORM="wayland", **where)
    finally:
        compositor.terminate()
        compositor.wait(10)
    check_told(told, "wayland")


def test_without_a_display_one_picture_a_station_is_saved(tmp_path: Path) -> None:
    assert main(["screenshots", str(tmp_path / "shots")]) == 0
    saved = sorted(path.name for path in (tmp_path / "shots").iterdir())
    assert saved == [
        f"{name}.png"
        for name in ("build", "cellar", "cells", "charge", "compare", "craft", "extend", "flight", "logbook", "pack")
    ]
    picture = QImage(str(tmp_path / "shots" / "pack.png"))
    assert (picture.width(), picture.height()) == (1280, 800)
    colours = {picture.pixel(x, y) for x in range(0, 1280, 7) for y in range(0, 800, 7)}
    assert len(colours) > 20, "something is drawn"


def test_pictures_that_cannot_be_saved_are_a_sentence(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    blocked = tmp_path / "file"
    blocked.write_text("")
    assert main(["screenshots", str(blocked / "shots")]) == 2
    assert "cannot be made" in capsys.readouterr().err


def test_a_workspace_that_cannot_be_opened_ends_with_2(tmp_path: Path) -> None:
    foreign = tmp_path / "diary.cellar"
    foreign.write_text("Dear diary")
    done = subprocess.run(
        [sys.executable, "-m", "wise_cellar", str(foreign)],
        env={**os.environ, "QT_QPA_PLATFORM": "offscreen"},
        capture_output=True,
        text=True,
        timeout=60,
        check=False,
    )
    assert done.returncode == 2
    assert "is not a Wise Cellar workspace" in done.stderr
    assert foreign.read_text() == "Dear diary"

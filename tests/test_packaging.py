"""What the desktop is told: the entry of the menu, the file type, and where they are installed."""

from __future__ import annotations

import shutil
import subprocess
import tomllib
from pathlib import Path
from xml.etree import ElementTree

import pytest

from wise_cellar.demo import sample_workspace

ROOT = Path(__file__).parents[1]
TYPE = "application/x-wise-cellar"
SPACE = "{http://www.freedesktop.org/standards/shared-mime-info}"


def entry() -> dict[str, str]:
    lines = (ROOT / "packaging" / "wise-cellar.desktop").read_text().splitlines()[1:]
    return dict(line.split("=", 1) for line in lines)


def test_the_menus_entry_opens_files_of_our_type() -> None:
    assert entry()["MimeType"] == f"{TYPE};"
    assert entry()["Exec"] == "wise-cellar %f"


def test_a_workspace_is_told_from_other_databases_by_its_own_number(tmp_path: Path) -> None:
    sample_workspace(tmp_path / "any name").close()
    head = (tmp_path / "any name").read_bytes()[:100]
    (described,) = ElementTree.parse(ROOT / "packaging" / "wise-cellar-mime.xml").getroot()
    assert described.attrib["type"] == TYPE
    outer = described.find(f".//{SPACE}magic/{SPACE}match")
    inner = described.find(f".//{SPACE}match/{SPACE}match")
    assert outer is not None
    assert inner is not None
    text = outer.attrib["value"].encode().decode("unicode_escape").encode()
    assert head[int(outer.attrib["offset"]) :].startswith(text)
    at = int(inner.attrib["offset"])
    assert int.from_bytes(head[at : at + 4], "big") == int(inner.attrib["value"], 16)


def test_the_desktops_own_tool_takes_the_type(tmp_path: Path) -> None:
    tool = shutil.which("update-mime-database")
    if tool is None:
        pytest.skip("update-mime-database is not installed here")
    (tmp_path / "packages").mkdir()
    shutil.copy(ROOT / "packaging" / "wise-cellar-mime.xml", tmp_path / "packages")
    done = subprocess.run([tool, str(tmp_path)], capture_output=True, text=True, check=True)
    assert "wise-cellar" not in done.stderr
    assert f"50:{TYPE}:*.cellar" in (tmp_path / "globs2").read_text().splitlines()


def test_all_of_it_is_installed_with_the_application() -> None:
    files = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["setuptools"]["data-files"]
    listed = {name for names in files.values() for name in names}
    assert listed == {f"packaging/{path.name}" for path in (ROOT / "packaging").iterdir() if path.is_file()}
    assert files["share/mime/packages"] == ["packaging/wise-cellar-mime.xml"]


def test_no_file_of_the_application_is_left_behind() -> None:
    patterns = tomllib.loads((ROOT / "pyproject.toml").read_text())["tool"]["setuptools"]["package-data"]["wise_cellar"]
    package = ROOT / "src" / "wise_cellar"
    taken = {path for pattern in patterns for path in package.glob(pattern)}
    there = {path for path in package.rglob("*") if path.is_file() and path.suffix not in (".py", ".pyc")}
    assert there <= taken, "each is named in package-data"
    assert len(there) > 50


def test_the_bundle_starts_from_an_empty_home() -> None:
    if not (ROOT / "dist" / "wise-cellar").exists():
        pytest.skip("there is no bundle here: script/bundle makes it, and tries it in the same way")
    done = subprocess.run([ROOT / "script" / "bundle", "--try"], capture_output=True, text=True, check=False)
    assert done.returncode == 0, done.stderr
    assert "started from an empty home" in done.stdout

"""Exchange files on disk."""

from __future__ import annotations

from pathlib import Path

import pytest

from tests.builders import complete, craft
from wise_cellar.core.documents import DocumentError
from wise_cellar.store import read_exchange_file, write_exchange_file


def test_a_file_comes_back(tmp_path: Path) -> None:
    path = tmp_path / "design.json"
    write_exchange_file(path, complete())
    found = read_exchange_file(path)
    assert (found.kind, found.document) == ("design", complete())
    assert [p.name for p in tmp_path.iterdir()] == ["design.json"], "no part is left beside it"


def test_a_file_with_a_byte_order_mark_is_read(tmp_path: Path) -> None:
    path = tmp_path / "craft.json"
    write_exchange_file(path, craft())
    path.write_bytes(b"\xef\xbb\xbf" + path.read_bytes())
    assert read_exchange_file(path).document == craft()


def test_a_failed_write_keeps_the_old_file(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "craft.json"
    write_exchange_file(path, craft())
    before = path.read_bytes()

    def full(*_: object) -> None:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr("wise_cellar.store.reading.os.replace", full)
    with pytest.raises(DocumentError, match="cannot be written: No space left on device; nothing was changed"):
        write_exchange_file(path, craft(name="Dunlin"))
    assert path.read_bytes() == before
    assert len(list(tmp_path.iterdir())) == 1


def test_a_folder_that_is_not_there(tmp_path: Path) -> None:
    with pytest.raises(DocumentError, match="cannot be written: No such file or directory"):
        write_exchange_file(tmp_path / "nowhere" / "craft.json", craft())


def test_a_file_too_large_is_not_read(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("wise_cellar.store.exchange_files.LARGEST_MB", 0)
    path = tmp_path / "craft.json"
    write_exchange_file(path, craft())
    with pytest.raises(DocumentError, match="larger than 0 MB"):
        read_exchange_file(path)


def test_the_sentence_names_the_file(tmp_path: Path) -> None:
    path = tmp_path / "odd.json"
    path.write_text("{}")
    with pytest.raises(DocumentError, match=r"^odd\.json: This JSON is not a Wise Cellar file"):
        read_exchange_file(path)

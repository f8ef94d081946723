"""All that a workspace holds as one folder of open files, and a workspace made of such a folder again.

Documents stand as the JSON that the workspace keeps, points of discharges and rows of recordings as CSV with every
digit, pictures as they came. What it held is all there again; how it came about, which undo would take back, is not.
"""

from __future__ import annotations

import json
import re
from collections.abc import Iterable, Iterator
from contextlib import contextmanager, suppress
from dataclasses import dataclass
from pathlib import Path
from typing import Any

import numpy as np

from wise_cellar.core.curves import DischargeCurve
from wise_cellar.core.documents import DischargeRecord, Document, DocumentError, Recording
from wise_cellar.core.documents.outside import plain_data
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.recorded import heading, row_text
from wise_cellar.core.words import one_line, quoted
from wise_cellar.store.contents import KINDS, Broken, document_of
from wise_cellar.store.reading import readable, told, write_whole
from wise_cellar.store.series import pack_curve, series_key, unpack_curve
from wise_cellar.store.workspace import Workspace
from wise_cellar.store.workspace_file import explained, made_whole

FORMAT, VERSION = "wise-cellar-folder", 1
LIST, READ_ME = "contents.json", "README.txt"
CURVE = ("time_s", "voltage_v", "current_a", "temperature_k")
WORDS = """This folder holds all of a Wise Cellar workspace in open files.

documents/   a folder for each kind, a file for each document: JSON, with the unit in each field's name
series/      points of discharges and rows of recordings: CSV, a column each with its unit, every digit;
             pictures of charts as they came
contents.json  which file is what, and the workspace's settings

wise-cellar move-in FOLDER NEW.cellar makes a workspace of it again. What undo would take back is not here.
"""


@dataclass(frozen=True)
class _Table:
    """Numbers with a heading."""

    form: str
    heading: str
    rows: Floats


def move_out(workspace: Workspace, folder: Path) -> int:
    """Write everything into a folder that must be new or empty; how many documents. Raises :class:`DocumentError`."""
    with _written(folder):
        if folder.exists() and any(folder.iterdir()):
            raise DocumentError(f"{told(folder)} is there and not empty; name a folder that is new.")
        folder.mkdir(parents=True, exist_ok=True)
    documents, tables, taken = [], dict[str, _Table](), set[str]()
    for kind, identifier, body, changed in workspace.stored_documents():
        file = _free(f"documents/{_safe(kind)}/{_safe(identifier)}", ".json", taken)
        _write(folder / file, body)
        documents.append({"file": file, "kind": kind, "id": identifier, "changed": changed})
        one = document_of(kind, identifier, body, []) if kind in KINDS else None
        if isinstance(one, Document) and not isinstance(one, Broken):
            tables |= _tables(workspace, one)
    series = []
    for key in workspace.series_names():
        table = tables.get(key)
        form, ending = (table.form, ".csv") if table else ("bytes", ".bin")
        body_of_it = b"" if table else b"".join(workspace.series_parts(key))
        if body_of_it.startswith(b"\x89PNG"):
            ending = ".png"
        file = _free(f"series/{_safe(key)}", ending, taken)
        if table:
            _write(folder / file, "\n".join([table.heading, *map(row_text, table.rows.tolist())]) + "\n")
        else:
            with _written(folder / file):
                (folder / file).parent.mkdir(parents=True, exist_ok=True)
                (folder / file).write_bytes(body_of_it)
        series.append({"file": file, "key": key, "form": form})
    listed = {"format": FORMAT, "version": VERSION, "settings": workspace.settings(), "documents": documents,
              "series": series}  # fmt: skip
    _write(folder / LIST, json.dumps(listed, indent=1, ensure_ascii=False))
    _write(folder / READ_ME, WORDS)
    return len(documents)


def move_in(folder: Path, path: Path) -> int:
    """Make a new workspace at ``path`` of such a folder, whole or not at all; how many documents it has.

    Raises :class:`DocumentError` with the file where something is missing or wrong, and :class:`WorkspaceError`.
    """
    listed = _listed(folder)
    documents = [(one["kind"], one["id"], _text(folder, one), one.get("changed")) for one in listed["documents"]]
    series = dict(_series(folder, one) for one in listed["series"])
    named = {key: name for key, (name, _) in series.items() if key != name}
    with explained(path), made_whole(path, over=False) as part, Workspace.open(part) as fresh:
        for name, body in series.values():
            fresh.grow_series(name, [body])
        fresh.store_documents(_renamed(*document, named) for document in documents)
        for setting, value in listed["settings"].items():
            fresh.remember(str(setting), str(value))
    return len(documents)


def _renamed(
    kind: object, identifier: object, text: str, changed: object, named: dict[str, str]
) -> tuple[str, str, str, float | None]:
    """A document as it is stored, which names series by what they are called now."""
    for key, name in named.items():
        text = text.replace(key, name)
    return str(kind), str(identifier), text, changed if isinstance(changed, float) else None


def _tables(workspace: Workspace, document: Document) -> dict[str, _Table]:
    """What a document's series holds, where these are numbers that can be read."""
    if isinstance(document, DischargeRecord):
        with suppress(DocumentError):
            parts = workspace.series_parts(document.series_key)
            curve = unpack_curve(document.name, b"".join(parts))
            rows = np.stack([getattr(curve, name) for name in CURVE], axis=1)
            if series_key(pack_curve(curve)) == document.series_key:
                return {document.series_key: _Table("curve", ",".join(CURVE), rows)}
    if isinstance(document, Recording):
        wide, body = 1 + len(document.channels), b"".join(workspace.series_parts(document.series_key))
        if body and len(body) % (8 * wide) == 0:
            rows = np.frombuffer(body, "<f8").reshape(-1, wide)
            # One kind of what is no number stands in a table: an empty field.
            if np.array_equal(np.where(np.isnan(rows), np.nan, rows).tobytes(), body):
                return {document.series_key: _Table("rows", heading(document.channels), rows)}
    return {}


def _series(folder: Path, one: dict[str, Any]) -> tuple[str, tuple[str, bytes]]:
    """The key of a series as it was, and what it is called now with its body."""
    key, form = str(one["key"]), one.get("form")
    if form == "bytes":
        path = _inside(folder, one)
        with readable(path, "the file"):
            return key, (key, path.read_bytes())
    rows = _numbers(_text(folder, one), str(one["file"]))
    if form == "rows":
        return key, (key, np.ascontiguousarray(rows, "<f8").tobytes())
    if form != "curve" or rows.shape[1] != len(CURVE):
        raise DocumentError(f"{told(str(one['file']))} must hold {', '.join(CURVE)}.")
    body = pack_curve(DischargeCurve("", *(np.ascontiguousarray(column) for column in rows.T)))
    return key, (series_key(body), body)


def _numbers(text: str, file: str) -> Floats:
    """The rows below the heading; what is empty is no number."""
    head, *lines = text.splitlines() or [""]
    wide = len(head.split(","))
    rows = np.empty((len(lines), wide))
    for place, line in enumerate(lines):
        fields = line.split(",")
        try:
            if len(fields) != wide:
                raise ValueError
            rows[place] = [float(field) if field else np.nan for field in fields]
        except ValueError:
            raise DocumentError(
                f"{told(file)}, line {place + 2}: {quoted(one_line(line, 40))} must be {wide} numbers with commas"
                " between."
            ) from None
    return rows


def _listed(folder: Path) -> dict[str, Any]:
    """The list of what is where, as far as it must be so."""
    with readable(folder / LIST, "the list"):
        text = (folder / LIST).read_text(encoding="utf-8")
    data = plain_data(text)
    sound = (
        isinstance(data, dict) and data.get("format") == FORMAT and isinstance(data.get("settings"), dict)
        and all(_is_list(data.get(name), needed) for name, needed in
                (("documents", ("file", "kind", "id")), ("series", ("file", "key"))))
    )  # fmt: skip
    if not isinstance(data, dict) or not sound:
        raise DocumentError(f"{told(folder / LIST)} is not the list of a folder that Wise Cellar moved out.")
    if data.get("version") != VERSION:
        raise DocumentError(
            f"{told(folder)} was moved out by a newer Wise Cellar (version {one_line(str(data.get('version')), 20)};"
            f" this one reads {VERSION}). Move it in with the newer one."
        )
    return data


def _is_list(value: Any, needed: Iterable[str]) -> bool:
    return isinstance(value, list) and all(isinstance(one, dict) and all(one.get(n) for n in needed) for one in value)


def _inside(folder: Path, one: dict[str, Any]) -> Path:
    """The file that is named, which must lie in the folder."""
    path = folder / str(one["file"])
    if not path.resolve().is_relative_to(folder.resolve()):
        raise DocumentError(
            f"{told(folder / LIST)} names {quoted(str(one['file']))}, which lies outside of the folder."
        )
    return path


def _text(folder: Path, one: dict[str, Any]) -> str:
    path = _inside(folder, one)
    with readable(path, "the file"):
        return path.read_bytes().decode("utf-8")


def _safe(name: str) -> str:
    """As a file may be called on any disk."""
    return re.sub(r"[^A-Za-z0-9._-]", "_", name).strip(".")[:80] or "_"


def _free(stem: str, ending: str, taken: set[str]) -> str:
    """A name that no other file has, whatever its capitals."""
    file, number = stem + ending, 2
    while file.lower() in taken:
        file, number = f"{stem}-{number}{ending}", number + 1
    taken.add(file.lower())
    return file


def _write(path: Path, text: str) -> None:
    with _written(path):
        path.parent.mkdir(parents=True, exist_ok=True)
    write_whole(path, text)


@contextmanager
def _written(path: Path) -> Iterator[None]:
    """Turn what the system says into a :class:`DocumentError`."""
    try:
        yield
    except OSError as error:
        raise DocumentError(f"{told(path)} cannot be written: {error.strerror or error}.") from error

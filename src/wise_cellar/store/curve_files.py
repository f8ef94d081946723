"""Logged tables on disk: any separator, decimal comma or point, lines before the header, large files in pieces."""

from __future__ import annotations

import io
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace
from pathlib import Path

import numpy as np

from wise_cellar.core.curves import (
    TIMES,
    Assembled,
    Circumstances,
    DischargeCurve,
    LogColumn,
    RestingTable,
    Role,
    assemble,
    assemble_resting_table,
    check_columns,
    clock_seconds,
    group_columns,
    guess_columns,
    position_columns,
)
from wise_cellar.core.documents import DocumentError
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import counted, format_number
from wise_cellar.core.words import one_line, quoted, split_lines
from wise_cellar.store.reading import check_name, readable, told
from wise_cellar.store.text_tables import NUMBER, figure_fields, look_at_text, split_line

LARGEST_BYTES = 150_000_000
PIECE_BYTES = 1_500_000
LONGEST_LINE = 200_000
PREVIEW_ROWS = 12
_NEEDS = "a discharge needs rows of time or charge drawn, volts and amps"


class CancelledError(Exception):
    """The user stopped a reading."""


@dataclass(frozen=True)
class TableFile:
    """How a file is laid out, and its columns as understood."""

    path: Path
    encoding: str
    delimiter: str
    decimal: str
    first_line: int
    """Line of the first figures, counted from 1."""
    columns: tuple[LogColumn, ...]
    preview: tuple[tuple[str, ...], ...]

    def with_column(self, place: int, column: LogColumn) -> TableFile:
        """The same file with one column taken for something else."""
        columns = list(self.columns)
        columns[place] = column
        return replace(self, columns=tuple(columns))

    @property
    def words(self) -> str:
        """What was understood of the layout, in a sentence."""
        names = {";": "semicolons", "\t": "tabs", ",": "commas", "|": "bars", " ": "spaces"}
        point = "a decimal comma" if self.decimal == "," else "a decimal point"
        before = f", after {self.first_line - 1} lines of other text" if self.first_line > 2 else ""
        return f"{len(self.columns)} columns between {names[self.delimiter]}, with {point}{before}."


def check_size(path: Path, instead: str) -> None:
    """Refuse a log that is larger than any that is read, with what to do ``instead``; raises :class:`DocumentError`."""
    check_name(path)
    with readable(path, "the log"):
        size = path.stat().st_size
    if size > LARGEST_BYTES:
        raise DocumentError(
            f"{told(path.name)} has {format_number(size / 1e6, 0)} MB; logs up to"
            f" {format_number(LARGEST_BYTES / 1e6, 0)} MB are read. {instead}"
        )


def look_at_table(path: Path) -> TableFile:
    """Layout and columns of a table, guessed from its beginning; raises :class:`DocumentError` with one sentence."""
    check_size(path, "Log at a lower rate, or cut out the discharge.")
    text = look_at_text(path, "the log", _NEEDS)
    columns = guess_columns(text.names, text.rows[:400], text.decimal)
    preview = text.rows[:PREVIEW_ROWS]
    return TableFile(path, text.encoding, text.delimiter, text.decimal, text.first_line, columns, preview)


@dataclass(frozen=True)
class Figures:
    """Figures of every column that has a role, as they stand in the file."""

    values: dict[Role, Floats]
    passed_over: int
    """Lines among the rows without figures."""
    groups_v: Floats | None = None
    """(rows, groups) Volts of single groups, where they were asked for."""
    positions: Floats | None = None
    """(rows, 2) Latitude and longitude, degrees, likewise."""

    @property
    def remarks(self) -> tuple[str, ...]:
        """What to say of them."""
        if not self.passed_over:
            return ()
        lines = counted(self.passed_over, "line")
        return (f"{lines} among the rows could not be understood and {'was' if self.passed_over == 1 else 'were'} left"
                " out.",)  # fmt: skip


def read_figures(
    table: TableFile, progress: Callable[[float], bool] = lambda _share: True, *, of_flight: bool = False
) -> Figures:
    """Figures of every column that has a role, and ``of_flight`` of those that hold volts of single groups, and places.

    ``progress`` hears the share that is read and answers whether to go on; else :class:`CancelledError` is raised.
    Raises :class:`DocumentError` naming line and column of the first text that is no number.
    """
    check_columns(table.columns)
    wanted = [(place, column) for place, column in enumerate(table.columns) if column.role is not Role.IGNORED]
    groups = group_columns(table.columns) if of_flight else []
    places = [(place, table.columns[place]) for place in position_columns(table.columns)] if of_flight else []
    roles, wanted = len(wanted), [*wanted, *groups, *places]
    pieces: list[Floats] = []
    line, passed_over = table.first_line, 0
    for text, share in _pieces(table):
        if not progress(share):
            raise CancelledError
        rows, left_out = _numbers(table, text, line, wanted)
        pieces.append(rows)
        passed_over += left_out
        line += text.count("\n")
    figures = np.concatenate(pieces) if pieces else np.zeros((0, len(wanted)))
    of_groups = figures[:, roles : roles + len(groups)]
    groups_v = of_groups * np.array([column.factor for _, column in groups]) if groups else None
    positions = figures[:, roles + len(groups) :] if places else None
    values = {column.role: figures[:, place] for place, (_, column) in enumerate(wanted[:roles])}
    return Figures(values, passed_over, groups_v, positions)


def read_table(
    table: TableFile, given: Circumstances, cut_off_v: float, progress: Callable[[float], bool] = lambda _share: True
) -> Assembled:
    """The discharge that a table holds; raises what :func:`read_figures` and ``assemble`` raise."""
    figures = read_figures(table, progress)
    found = assemble(table.columns, figures.values, given, cut_off_v)
    return replace(found, remarks=(*found.remarks, *figures.remarks))


def read_resting_table(table: TableFile) -> RestingTable:
    """The resting voltages that a table holds."""
    figures = read_figures(table)
    return RestingTable(assemble_resting_table(table.columns, figures.values, told(table.path.name)), figures.remarks)


def read_discharge_curve(
    path: Path, *, air_temperature_c: float = 25.0, cut_off_v: float = 2.5, current_a: float | None = None
) -> DischargeCurve:
    """Discharge from a log whose columns are all understood by themselves; ``current_a`` where none is logged."""
    given = Circumstances(path.stem, current_a, air_temperature_c)
    return read_table(look_at_table(path), given, cut_off_v).curve


def _pieces(table: TableFile) -> Iterator[tuple[str, float]]:
    """Whole lines of figures, a piece at a time, and the share that is read."""
    with readable(table.path, "the log"):
        size = table.path.stat().st_size
        with table.path.open("rb") as raw, io.TextIOWrapper(raw, encoding=table.encoding, errors="replace") as file:
            for _ in range(table.first_line - 1):
                file.readline()
            while text := file.read(PIECE_BYTES):
                text += file.readline(LONGEST_LINE)
                if len(text) > PIECE_BYTES + LONGEST_LINE - 1:
                    raise DocumentError(
                        f"{told(table.path.name)} has a line of over {LONGEST_LINE} letters; a row has a line each."
                    )
                yield text, min(raw.tell() / size, 1.0)


def _numbers(table: TableFile, text: str, line: int, wanted: Sequence[tuple[int, LogColumn]]) -> tuple[Floats, int]:
    """Figures of the wanted columns, shape ``(rows, wanted)``, and how many lines among them hold none."""
    cleaned = text.replace('"', "")
    if table.decimal == ",":
        cleaned = cleaned.replace(",", ".")
    clocks: dict[int | str, Callable[[str], float]] = {
        place: clock_seconds for place, column in wanted if column.unit in TIMES
    }
    delimiter = None if table.delimiter == " " else table.delimiter
    places = [place for place, _ in wanted]
    try:
        figures = np.loadtxt(
            split_lines(cleaned), float, comments=None, delimiter=delimiter, converters=clocks or None, usecols=places,
            ndmin=2, encoding="utf-8",
        )  # fmt: skip
    except (ValueError, IndexError):
        return _by_line(table, text, line, wanted)
    return figures.reshape(-1, len(wanted)), 0


def _by_line(table: TableFile, text: str, line: int, wanted: Sequence[tuple[int, LogColumn]]) -> tuple[Floats, int]:
    """The same, slowly, to name what is wrong. Lines of text only, such as a repeated header, are passed over."""
    rows, passed_over = [], 0
    for number, raw in enumerate(split_lines(text), line):
        fields = split_line(raw, table.delimiter)
        if not raw.strip() or not figure_fields(fields, table.decimal):
            if any(NUMBER.match(field.replace(table.decimal, ".")) for field in fields):
                _refuse(table, number, fields, wanted)
            passed_over += bool(raw.strip())
            continue
        try:
            rows.append([clock_seconds(fields[place].replace(table.decimal, ".")) for place, _ in wanted])
        except (ValueError, IndexError):
            _refuse(table, number, fields, wanted)
    return np.array(rows, float).reshape(len(rows), len(wanted)), passed_over


def _refuse(table: TableFile, line: int, fields: Sequence[str], wanted: Sequence[tuple[int, LogColumn]]) -> None:
    for place, column in wanted:
        text = fields[place] if place < len(fields) else ""
        try:
            clock_seconds(text.replace(table.decimal, "."))
        except ValueError:
            said = f"{quoted(text)} is not a number" if text else "there is no number"
            raise DocumentError(f"{told(table.path.name)}, line {line}, {one_line(column.name, 40)}: {said}.") from None

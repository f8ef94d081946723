"""The commands of the window, by the menus they stand in; stations add those that they declare."""

# ruff: noqa: D102 (what each of them does stands in the window)

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Protocol

from wise_cellar.ui.shell.bench import Bench
from wise_cellar.ui.shell.commands import Command
from wise_cellar.ui.shell.entries import Entries
from wise_cellar.ui.shell.files import Files
from wise_cellar.ui.shell.guide import Guide
from wise_cellar.ui.shell.looks import Looks
from wise_cellar.ui.shell.recipe_line import RecipeLine
from wise_cellar.ui.shell.recipe_tokens import PARALLEL, SERIES
from wise_cellar.ui.shell.tidings import Tidings
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.travel import Travelled
from wise_cellar.ui.stations import STATIONS
from wise_cellar.ui.stations.doorway import Doorway, StationCommand

UNIT_WORDS = "ounces inches feet fahrenheit knots mph km/h metric imperial decimal comma settings preferences"
SIZE_WORDS = "large small zoom font scale settings preferences"
INSTRUMENT_WORDS = "meter scale load serial port usb stand-in device link record"
UNDO_KEYS, REDO_KEYS = "Ctrl+Z", "Ctrl+Shift+Z"


class Commanded(Protocol):
    """What commands ask of the window."""

    session: Session
    files: Files
    entries: Entries
    guide: Guide
    bench: Bench
    looks: Looks
    tidings: Tidings
    recipe: RecipeLine

    def close(self) -> bool: ...
    def guarded(self, run: Callable[[], object], /) -> Callable[[], None]: ...
    def travel(self, go: Callable[[], Travelled | None], word: str, /) -> None: ...
    def show_station(self, place: int, /) -> None: ...
    def run_at(self, doorway: Doorway, command: StationCommand, /) -> None: ...
    def rename(self, root: str, /) -> None: ...
    def begin(self) -> None: ...
    def open_sample_world(self) -> None: ...
    def start_walk(self) -> None: ...
    def finish_beginning(self) -> None: ...
    def focus_recipe(self) -> None: ...
    def open_finder(self) -> None: ...
    def copy_answer(self) -> None: ...
    def copy_picture(self) -> None: ...


def window_commands(window: Commanded) -> list[Command]:
    """All commands, in the order of the menus."""
    session, guard, taken = window.session, window.guarded, window.entries.once_taken
    open_workspace = taken(window.files.open_workspace)
    stations = [
        Command(
            "&View",
            station.title,
            partial(window.show_station, place),
            f"Ctrl+{place}" if place < 10 else "",
            changes=False,
        )
        for place, station in enumerate(STATIONS)
    ]
    step, whole_copy = window.recipe.ask_step, partial(session.duplicate_craft, whole=True)
    return [
        Command("&File", "New craft…", window.begin, "Ctrl+N", also="begin start battery own drone", changes=False),
        Command("&File", "Open workspace…", open_workspace, "Ctrl+O", separated=True, changes=False),
        Command("&File", "New workspace…", taken(window.files.new_workspace), "Ctrl+Shift+N"),
        Command("&File", "Save a copy…", window.files.save_copy, "Ctrl+Shift+S", changes=False),
        Command("&File", "Backups…", window.files.show_backups, also="restore earlier undo lost days", changes=False),
        Command(
            "&File", "Move all out…", window.files.move_out, also="folder json csv leave export all", changes=False
        ),
        Command("&File", "Move in…", taken(window.files.move_in), also="folder json csv"),
        Command("&File", "What cannot be shown…", window.tidings.show_broken, changes=False),
        Command("&File", "Import…", window.files.import_files, "Ctrl+I", separated=True),
        Command("&File", "Export this design…", partial(window.files.export, "design"), "Ctrl+E", changes=False),
        Command("&File", "Export this craft…", partial(window.files.export, "craft"), changes=False),
        Command("&File", "Export this cell type…", partial(window.files.export, "cells.0"), changes=False),
        Command("&File", "Export this mission…", partial(window.files.export, "mission"), changes=False),
        *_of_stations(window, "&File"),
        Command("&File", "Quit", window.close, "Ctrl+Q", separated=True),
        Command("&Edit", "Undo", guard(partial(window.travel, session.undo, "Taken back")), UNDO_KEYS),
        Command("&Edit", "Redo", guard(partial(window.travel, session.redo, "Made again")), REDO_KEYS),
        Command("&Edit", "Copy the answer as text", window.copy_answer, "Ctrl+Shift+C", separated=True, changes=False),
        Command("&Edit", "Copy the picture", window.copy_picture, "Ctrl+Shift+P", changes=False),
        Command("&Edit", "Find…", window.open_finder, "Ctrl+K", separated=True),
        Command("&Design", "New design…", window.begin, also="begin start", changes=False),
        Command("&Design", "Make what the sentence says", window.finish_beginning, "Ctrl+Return"),
        Command("&Design", "Pin this answer, or let the pin go", guard(session.toggle_pin), "Ctrl+D", separated=True),
        Command("&Design", "Add a parallel cell", partial(step, PARALLEL, 1), "]", separated=True, held=True),
        Command("&Design", "Remove a parallel cell", partial(step, PARALLEL, -1), "[", held=True),
        Command("&Design", "Add a series cell", partial(step, SERIES, 1), "}", held=True),
        Command("&Design", "Remove a series cell", partial(step, SERIES, -1), "{", held=True),
        Command(
            "&Design",
            "Go on with a copy",
            guard(session.duplicate_design),
            "Ctrl+Shift+D",
            separated=True,
        ),
        Command("&Design", "Rename this design…", lambda: window.rename("design")),
        Command("&Design", "Delete this design", guard(session.delete_design)),
        Command("&Design", "Fly a copy of this craft", guard(session.duplicate_craft), separated=True),
        Command("&Design", "Fly a copy with its known flights and limits", guard(whole_copy)),
        Command("&Design", "Rename this craft…", lambda: window.rename("craft")),
        Command("&Design", "Go on with a copy of this cell type", guard(session.duplicate_cell_type)),
        Command("&Design", "Fly a copy of this mission", guard(session.duplicate_mission)),
        Command("&Design", "Rename this mission…", lambda: window.rename("mission")),
        *_of_stations(window, "&Design"),
        *stations,
        Command("&View", "Recipe line", window.focus_recipe, "Ctrl+R", separated=True, changes=False),
        Command("&View", "Units…", window.looks.choose_units, also=UNIT_WORDS, changes=False),
        Command("&View", "Text size…", window.looks.choose_text_size, also=SIZE_WORDS, changes=False),
        Command("&View", "Instruments…", window.bench.show, also=INSTRUMENT_WORDS, changes=False),
        Command("&Edit", "Take the reading of an instrument", window.bench.take, "F8", separated=True),
        Command("&Help", "Handbook", window.guide.open_handbook, "F1", also="help manual explain why", changes=False),
        Command("&Help", "Shortcuts", window.guide.show_shortcuts, also="keys F1", changes=False),
        Command("&Help", "Walk through the sample world", window.start_walk, also="tour learn start", changes=False),
        Command("&Help", "Sample world", window.open_sample_world, changes=False),
        Command("&Help", "How far to trust the answer", window.guide.show_trust, changes=False),
        Command("&Help", "About Wise Cellar", window.guide.show_about, separated=True, changes=False),
    ]


def _of_stations(window: Commanded, menu: str) -> list[Command]:
    """The commands that stations declare for a menu."""
    return [
        Command(
            menu,
            command.text,
            partial(window.run_at, doorway, command),
            separated=command.separated,
            changes=command.changes,
        )
        for doorway in STATIONS
        for command in doorway.commands
        if command.menu == menu
    ]

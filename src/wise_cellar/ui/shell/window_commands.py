"""The commands of the window, by the menus they stand in; stations add those that they declare."""

# ruff: noqa: D102 (what each of them does stands in the window)

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Protocol

from wise_cellar.ui.shell.bench import Bench
from wise_cellar.ui.shell.clipboard import copy_answer, copy_picture
from wise_cellar.ui.shell.commands import Command
from wise_cellar.ui.shell.entries import Entries
from wise_cellar.ui.shell.files import Files
from wise_cellar.ui.shell.guide import Guide
from wise_cellar.ui.shell.looks import Looks
from wise_cellar.ui.shell.notice import NoticeLine
from wise_cellar.ui.shell.recipe_line import RecipeLine
from wise_cellar.ui.shell.recipe_tokens import PARALLEL, SERIES
from wise_cellar.ui.shell.station_stack import StationStack
from wise_cellar.ui.shell.tidings import Tidings
from wise_cellar.ui.state.document_edits import (
    duplicate_cell_type,
    duplicate_craft,
    duplicate_design,
    duplicate_mission,
)
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
    notice: NoticeLine
    tidings: Tidings
    recipe: RecipeLine
    stack: StationStack

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


def window_commands(window: Commanded) -> list[Command]:
    """All commands, in the order of the menus."""
    return [*_of_files(window), *_of_edits(window), *_of_designs(window), *_of_views(window), *_of_help(window)]


def _of_files(window: Commanded) -> list[Command]:
    command, taken, files = partial(Command, "&File"), window.entries.once_taken, window.files
    return [
        command("New craft…", window.begin, "Ctrl+N", also="begin start battery own drone", changes=False),
        command("Open workspace…", taken(files.open_workspace), "Ctrl+O", separated=True, changes=False),
        command("New workspace…", taken(files.new_workspace), "Ctrl+Shift+N"),
        command("Save a copy…", files.save_copy, "Ctrl+Shift+S", changes=False),
        command("Backups…", files.show_backups, also="restore earlier undo lost days", changes=False),
        command("Move all out…", files.move_out, also="folder json csv leave export all", changes=False),
        command("Move in…", taken(files.move_in), also="folder json csv"),
        command("What cannot be shown…", window.tidings.show_broken, changes=False),
        command("Import…", files.import_files, "Ctrl+I", separated=True),
        command("Export this design…", partial(files.export, "design"), "Ctrl+E", changes=False),
        command("Export this craft…", partial(files.export, "craft"), changes=False),
        command("Export this cell type…", partial(files.export, "cells.0"), changes=False),
        command("Export this mission…", partial(files.export, "mission"), changes=False),
        *_of_stations(window, "&File"),
        command("Quit", window.close, "Ctrl+Q", separated=True),
    ]


def _of_edits(window: Commanded) -> list[Command]:
    command, session, guard = partial(Command, "&Edit"), window.session, window.guarded
    answer, picture = partial(copy_answer, session, window.notice), partial(copy_picture, window.stack, window.notice)
    return [
        command("Undo", guard(partial(window.travel, session.undo, "Taken back")), UNDO_KEYS),
        command("Redo", guard(partial(window.travel, session.redo, "Made again")), REDO_KEYS),
        command("Copy the answer as text", answer, "Ctrl+Shift+C", separated=True, changes=False),
        command("Copy the picture", picture, "Ctrl+Shift+P", changes=False),
        command("Find…", window.open_finder, "Ctrl+K", separated=True),
        command("Take the reading of an instrument", window.bench.take, "F8", separated=True),
    ]


def _of_designs(window: Commanded) -> list[Command]:
    command, session, guard = partial(Command, "&Design"), window.session, window.guarded
    step, toggle_pin = window.recipe.ask_step, session.compared.toggle_pin

    def copy(duplicate: Callable[..., None], **how: bool) -> Callable[[], None]:
        return guard(partial(duplicate, session, **how))

    return [
        command("New design…", window.begin, also="begin start", changes=False),
        command("Make what the sentence says", window.finish_beginning, "Ctrl+Return"),
        command("Pin this answer, or let the pin go", guard(toggle_pin), "Ctrl+D", separated=True),
        command("Add a parallel cell", partial(step, PARALLEL, 1), "]", separated=True, held=True),
        command("Remove a parallel cell", partial(step, PARALLEL, -1), "[", held=True),
        command("Add a series cell", partial(step, SERIES, 1), "}", held=True),
        command("Remove a series cell", partial(step, SERIES, -1), "{", held=True),
        command("Go on with a copy", copy(duplicate_design), "Ctrl+Shift+D", separated=True),
        command("Rename this design…", partial(window.rename, "design")),
        command("Delete this design", guard(session.delete_design)),
        command("Fly a copy of this craft", copy(duplicate_craft), separated=True),
        command("Fly a copy with its known flights and limits", copy(duplicate_craft, whole=True)),
        command("Rename this craft…", partial(window.rename, "craft")),
        command("Go on with a copy of this cell type", copy(duplicate_cell_type)),
        command("Fly a copy of this mission", copy(duplicate_mission)),
        command("Rename this mission…", partial(window.rename, "mission")),
        *_of_stations(window, "&Design"),
    ]


def _of_views(window: Commanded) -> list[Command]:
    command = partial(Command, "&View", changes=False)
    return [
        *(
            command(station.title, partial(window.show_station, at), f"Ctrl+{at}" if at < 10 else "")
            for at, station in enumerate(STATIONS)
        ),
        command("Recipe line", window.focus_recipe, "Ctrl+R", separated=True),
        command("Units…", window.looks.choose_units, also=UNIT_WORDS),
        command("Text size…", window.looks.choose_text_size, also=SIZE_WORDS),
        command("Instruments…", window.bench.show, also=INSTRUMENT_WORDS),
    ]


def _of_help(window: Commanded) -> list[Command]:
    command = partial(Command, "&Help", changes=False)
    return [
        command("Handbook", window.guide.open_handbook, "F1", also="help manual explain why"),
        command("Shortcuts", window.guide.show_shortcuts, also="keys F1"),
        command("Walk through the sample world", window.start_walk, also="tour learn start"),
        command("Sample world", window.open_sample_world),
        command("How far to trust the answer", window.guide.show_trust),
        command("About Wise Cellar", window.guide.show_about, separated=True),
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

"""The main window: wires the shell, the stations and the session together."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from pathlib import Path

from PyQt6.QtCore import QSettings, Qt, pyqtSignal
from PyQt6.QtGui import QCloseEvent, QDragEnterEvent, QDropEvent, QResizeEvent, QShowEvent
from PyQt6.QtWidgets import QInputDialog, QMainWindow

from wise_cellar.core.documents import Design, DocumentError
from wise_cellar.core.words import LONGEST_NAME, one_line
from wise_cellar.demo import FIRST_DESIGN_ID
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.shell.answer_band import AnswerBand
from wise_cellar.ui.shell.bench import Bench
from wise_cellar.ui.shell.commands import CommandSet
from wise_cellar.ui.shell.entries import Entries
from wise_cellar.ui.shell.files import Files
from wise_cellar.ui.shell.findables import findable_fields, findables
from wise_cellar.ui.shell.finder import Findable, Finder
from wise_cellar.ui.shell.frame import Frame
from wise_cellar.ui.shell.guide import Guide
from wise_cellar.ui.shell.handbook_window import handbook_findables
from wise_cellar.ui.shell.looks import Looks
from wise_cellar.ui.shell.notice import NoticeLine
from wise_cellar.ui.shell.rail import Rail
from wise_cellar.ui.shell.recipe_line import RecipeLine
from wise_cellar.ui.shell.recipe_tokens import PARALLEL, SERIES
from wise_cellar.ui.shell.remembered import Remembered
from wise_cellar.ui.shell.station_stack import AnyStation, Stations, StationStack
from wise_cellar.ui.shell.tab_order import next_of
from wise_cellar.ui.shell.tidings import Tidings
from wise_cellar.ui.shell.walk_bar import WalkBar
from wise_cellar.ui.shell.why_popover import WhyPopover
from wise_cellar.ui.shell.window_commands import window_commands
from wise_cellar.ui.state.giving_way import InputsFirst, window_first
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.travel import Travelled
from wise_cellar.ui.stations import STATIONS, place_of
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.doorway import Doorway, StationCommand, governing, states
from wise_cellar.ui.stations.walk import Moment
from wise_cellar.ui.theme import dress
from wise_cellar.ui.widgets.panel import reveal
from wise_cellar.ui.widgets.popover import Popover
from wise_cellar.ui.widgets.segments import SEGMENTS

FIRST_STATION = "Flight"
CELLAR, FIRST_GAP = 0, "name"
LEAST_SIZE, LOW_PX = (686, 430), 560
"""The least is a window of 1100 by 700 at the largest text; a lower one than the second has a shorter band."""


class MainWindow(QMainWindow):
    """One window on one workspace. ``sample_wanted`` asks for another one, on the sample world,
    ``walk_wanted`` for a walk through it."""

    _low = False

    sample_wanted = pyqtSignal()
    walk_wanted = pyqtSignal()

    def __init__(self, session: Session, settings: QSettings) -> None:
        super().__init__()
        self.session, self.settings = session, settings
        self._inputs_first = InputsFirst(self)
        self.remembered = Remembered(self, settings)
        self.resize(1280, 800)
        self.setMinimumSize(*LEAST_SIZE)
        self.setAcceptDrops(True)
        self._build()
        self.files = Files(self, session, self.notice, self._take_in_at_a_station)
        self.entries = Entries(self, self.notice, self.go_to_field)
        self.looks = Looks(self, self)
        self.tidings = Tidings(self, session, self.notice, lambda: self.commands.run("Undo")())
        self.commands = CommandSet(self, window_commands(self), self.recipe.held.take)
        self.looks.offer_colours(self.commands.menus["&View"])
        session.changed.connect(self.refresh)
        session.compared.pin_changed.connect(self._pinned)
        session.began.connect(self._show_begun)
        session.took_away.connect(self.tidings.gone)
        session.leaving.connect(self._leave)
        session.opened.connect(self._opened)
        self._behind = set(range(len(STATIONS)))
        self._show_state()
        self._restore()
        self.tidings.opening()

    # Building

    def _build(self) -> None:
        self.recipe = RecipeLine(self.session)
        self.rail = Rail([station.title for station in STATIONS])
        self.stack = StationStack(self.session, STATIONS)
        self.stations = Stations(self.stack)
        self.notice = NoticeLine()
        self.bench = Bench(self, self.session, self.notice)
        self.band = AnswerBand(self.session)
        self.guide = Guide(self, self.session, self.title_in_view, lambda: self.commands.bindings())
        self.walk = WalkBar(STATIONS, self.settings, self._moment)
        self.setCentralWidget(Frame(self.recipe, self.rail, self.stack, self.notice, [self.walk, self.band]))
        dress(self)
        self.stack.field_requested.connect(self.go_to_field)
        self.stack.page_requested.connect(self.go_to_page)
        self.stack.station_made.connect(self.remembered.put_lines)
        self.stack.handbook_requested.connect(self.guide.show_handbook)
        self.walk.wanted.connect(self.go_to_page)
        self.rail.chosen.connect(self.show_station)
        self.recipe.begin_requested.connect(self.begin)
        self.recipe.find_requested.connect(self.open_finder)
        self.recipe.refused.connect(lambda sentence: self.notice.say(sentence, error=True))
        self.band.why_requested.connect(self.show_why)

    def travel(self, go: Callable[[], Travelled | None], word: str) -> None:
        """Undo or redo: show what it changed, and say so."""
        travelled = go()
        if travelled is None:
            return
        if travelled.path:
            self.go_to_field(travelled.path)
        at = f", in {travelled.design}" if travelled.design else ""
        self.notice.say(f"{word}: {travelled.label}{at}.")

    def open_sample_world(self) -> None:
        """Ask for the sample world beside one's own."""
        self.sample_wanted.emit()

    def begin(self) -> None:
        """Go on with the sentence that a craft begins with."""
        self.session.draft.begin()
        self.show_station(CELLAR)
        self.stations[CELLAR].focus_field(FIRST_GAP)

    def finish_beginning(self) -> None:
        """Make what the sentence says."""
        if self.session.sentence is None:
            self.notice.say("No craft is being begun; Ctrl+N begins one.")
        elif self.entries.all_taken():
            self.guarded(self.session.draft.finish)()

    def _show_begun(self, name: str) -> None:
        """A craft was made: its answer, with a way back."""
        self.show_station(place_of(FIRST_STATION))
        self.tidings.made(name)

    def _leave(self) -> None:
        """Another workspace comes: what was refused or is being computed is of the present one."""
        self.entries.forget()
        for station in self.stack.made:
            station.leave_workspace()

    def _opened(self) -> None:
        """Another workspace is shown, which is the one to open with the next time."""
        self.settings.setValue("workspace", str(self.session.workspace.path))
        self.notice.hide()
        self.tidings.opening()

    # Showing

    def refresh(self) -> None:
        """Show the present design everywhere; a craft that is begun, at the Cellar."""
        if self.session.sentence is not None and self.stack.currentIndex() != CELLAR:
            self.show_station(CELLAR)
        self.show_again()
        self._show_state()

    def out_of_view(self) -> list[Station]:
        """The stations that are dressed in other colours only when they come into view."""
        return self.stack.out_of_view()

    def show_again(self) -> None:
        """Draw the station in view anew now, and every other when it is next shown."""
        self._behind = set(range(len(STATIONS)))
        self._bring_up_to_date(self.stack.currentIndex())

    def _show_state(self) -> None:
        """The title, the rail's marks, and what can be undone."""
        complete = self.session.complete
        shown = complete.design.name if self.session.sentence is None else "A craft to begin with"
        self.setWindowTitle(f"{shown} — {self.session.workspace.path.name} — Wise Cellar")
        found = states(STATIONS, self.session.answer.findings)
        for button, (state, sentence) in zip(self.rail.buttons, found, strict=True):
            button.show_state(state, sentence)
        workspace = self.session.workspace
        for text, label in (("Undo", self.session.undo_label), ("Redo", workspace.redo_label())):
            action = self.commands.actions[text]
            action.setEnabled(label is not None)
            # An ampersand would be taken for the mark of an access key.
            action.setText(f"{text}: {one_line(label, LONGEST_NAME)}".replace("&", "&&") if label else text)

    def show_station(self, place: int) -> None:
        """Show a station, brought up to date. A craft that is begun is left for later, or is all that there is."""
        window_first()
        if place != CELLAR and self.session.sentence is not None:
            self.session.set_aside()
            if self.session.sentence is not None:
                place = CELLAR
                self.notice.say("Begin a craft first: fill what you know, and Ctrl+Enter makes it.")
        # Else the focus would fall into the first text field of the station, and take "]" and "[" for itself.
        self.stack.setFocus()
        # Before it is in view, so that its pictures are drawn once.
        self._bring_up_to_date(place)
        self.stack.show_at(place)
        self.rail.show_current(place)
        self.remembered.keep_station(STATIONS[place].title)

    def _bring_up_to_date(self, place: int) -> None:
        """Refresh a station that has not shown the present design and pin yet."""
        if place in self._behind:
            self._behind.discard(place)
            self.stations[place].refresh()

    def go_to_field(self, path: str) -> None:
        """Show the station that governs ``path`` and put the focus on the field or token, or the gap that stands for it
        while a craft is begun."""
        if self.session.sentence is not None:
            self.show_station(CELLAR)
            self.stations[CELLAR].focus_field(path)
            return
        place = governing(STATIONS, path)
        if place is not None:
            self.show_station(place)
            if not self._on_recipe(path) and self.stations[place].focus_field(path):
                return
        self.recipe.focus_field(path)

    def go_to_page(self, title: str, page: str) -> None:
        """Show a page of a station, by both names."""
        place = place_of(title)
        self.show_station(place)
        self.stations[place].show_page(page)

    @staticmethod
    def _on_recipe(path: str) -> bool:
        """Whether the recipe line is the better place to change a field."""
        return path in (SERIES, PARALLEL, "design.packs.0.cell_type_id")

    def focus_recipe(self) -> None:
        """Put the focus on the recipe line, from anywhere."""
        self.recipe.focus_field("design.craft_id")

    def _pinned(self) -> None:
        pinned = self.session.compared.pinned
        self.notice.say("Pinned: every answer now shows its change." if pinned else "The pin is gone.")
        self.show_again()

    # Finding

    def open_finder(self) -> None:
        """Open Find."""
        found = findables(self.session, self.commands, self.recipe, self.guarded, self.go_to_page, self.go_to_field)
        found += handbook_findables(self.guide.show_handbook)
        self.finder = Finder(self, found, self._fields_to_find())
        self.finder.open_over(self)

    def _fields_to_find(self) -> Iterator[list[Findable]]:
        """The fields of each station, which has them only once it has shown the design."""
        for place, station in enumerate(self.stations):
            self._bring_up_to_date(place)
            yield findable_fields(self.session, station, self.go_to_field)

    def focusNextPrevChild(self, forwards: bool) -> bool:
        """Tab goes as one reads, and what it reaches is scrolled into view."""
        wanted = next_of(self, self.focusWidget(), forwards=forwards)
        if wanted is None:
            return super().focusNextPrevChild(forwards)
        wanted.setFocus(Qt.FocusReason.TabFocusReason if forwards else Qt.FocusReason.BacktabFocusReason)
        reveal(wanted)
        return True

    def showEvent(self, event: QShowEvent | None) -> None:
        """From now on it is a window of the desktop, in which somebody may do something."""
        super().showEvent(event)
        handle = self.windowHandle()
        if handle is not None:
            handle.installEventFilter(self._inputs_first)

    def resizeEvent(self, event: QResizeEvent | None) -> None:
        """In a low window recipe line and band leave more to the station."""
        super().resizeEvent(event)
        low = self.height() < LOW_PX
        if low != self._low:
            self._low = low
            self.recipe.show_low(low)
            self.band.show_low(low)

    def dragEnterEvent(self, event: QDragEnterEvent | None) -> None:
        """Take files."""
        data = event.mimeData() if event is not None else None
        if event is not None and data is not None and data.hasUrls():
            event.acceptProposedAction()

    def dropEvent(self, event: QDropEvent | None) -> None:
        """Import the dropped files."""
        data = event.mimeData() if event is not None else None
        if data is not None:
            self.files.take_in_all([Path(url.toLocalFile()) for url in data.urls()])

    def station(self, kind: type[AnyStation]) -> AnyStation:
        """The station of a class."""
        return self.stack.of_kind(kind)

    def run_at(self, doorway: Doorway, command: StationCommand) -> None:
        """Show a station, then do something there."""
        self.show_station(STATIONS.index(doorway))
        command.run(self.stack.currentWidget())

    def _take_in_at_a_station(self, paths: list[Path]) -> bool:
        """Give files to the station that knows them: the one in view is asked first."""
        here = self.stack.currentIndex()
        for place in sorted(range(len(STATIONS)), key=lambda place: place != here):
            takes_in = STATIONS[place].takes_in
            if takes_in is not None:
                self.show_station(place)
                if takes_in(self.stations[place], paths):
                    return True
        return False

    # Smaller commands

    def rename(self, root: str) -> None:
        """Ask for a name."""
        present = str(self.session.value(f"{root}.name"))
        name, accepted = QInputDialog.getText(self, "Rename", f"Name of this {root}", text=present)
        if accepted:
            self.guarded(lambda: self.session.edit(f"{root}.name", name, f"Rename the {root}"))()

    def show_why(self, place: int) -> None:
        """Why an answer of the band is as it is; while a craft is begun, the gap that it hangs on."""
        button = self.band.buttons[place]
        if button.shown is None:
            return
        if self.session.sentence is not None:
            self.go_to_field(button.shown.field)
            return
        WhyPopover(self, self.session, place, button.shown.field, self.go_to_field).open_above(button)

    def title_in_view(self) -> str:
        """What the station in view is called."""
        title: str = STATIONS[self.stack.currentIndex()].title
        return title

    def start_walk(self) -> None:
        """Go on with the walk, here where the sample world is, else beside it."""
        if FIRST_DESIGN_ID in self.session.all(Design):
            self.walk.go_on()
        else:
            self.walk_wanted.emit()

    def _moment(self) -> Moment:
        station = self.stack.currentWidget()
        shown = SEGMENTS.within(station) if station is not None else []
        pages = frozenset(each.word for each in shown if each.isVisible())
        return Moment(self.title_in_view(), pages, self.session.complete, self.session.compared.pinned is not None)

    def say_again(self) -> None:
        """Show and say everything anew: what it is shown in has changed."""
        present = self.stack.currentWidget()
        pages = [each.word for each in SEGMENTS.within(present)] if present is not None else []
        self.stack.remake()
        self.session.say_again()
        for page in pages:
            self.stations[self.stack.currentIndex()].show_page(page)

    def guarded(self, run: Callable[[], object]) -> Callable[[], None]:
        """The same, saying what was refused."""

        def guarded() -> None:
            try:
                run()
            except (DocumentError, WorkspaceError) as error:
                self.notice.say(str(error), error=True)

        return guarded

    # Remembering

    def _restore(self) -> None:
        self.remembered.put_in_place()
        wanted = self.remembered.station([station.title for station in STATIONS], FIRST_STATION)
        self.show_station(place_of(wanted) if self.session.sentence is None else CELLAR)

    def closeEvent(self, event: QCloseEvent | None) -> None:
        """Take what is still being typed, remember the geometry and close the workspace; every edit is kept already."""
        self.recipe.held.take()
        if event is not None and not self.entries.all_taken():
            event.ignore()
            return
        for popover in self.findChildren(Popover):
            popover.close()  # Find would go on gathering
        self.remembered.keep_place()
        for station in self.stack.made:
            station.close_work()
        self.session.close()
        super().closeEvent(event)

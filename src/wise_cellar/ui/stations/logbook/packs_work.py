"""Packs of the Logbook: each one's life by its flights and readings, where that leads, and a verdict."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from functools import partial

from PyQt6.QtCore import QObject, pyqtSignal
from PyQt6.QtWidgets import QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.documents import BuiltPack, CellType, DocumentError, pack_words
from wise_cellar.core.logbook.life import PackLife
from wise_cellar.core.units import counted, format_number
from wise_cellar.ui.state.flight_facts import Facts, live
from wise_cellar.ui.state.logbook_edits import flights, flights_of
from wise_cellar.ui.state.pack_life import fly_as_designed, fly_pack, retire_pack, type_of
from wise_cellar.ui.state.pack_making import built_packs
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.logbook.charges_panel import ChargesPanel
from wise_cellar.ui.stations.logbook.life_picture import LifePicture
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import button_row, heading, note, paragraph, sheet
from wise_cellar.ui.widgets.row_table import ROW_PX, RowTable

HEADS = ("Pack", "Built of", "Flights", "Last flown", "State")
SHARES = (0.22, 0.34, 0.12, 0.18, 0.14)
MOST_FLIGHTS, MOST_ROWS = 40, 6
NONE = "No pack is finished yet: build one at the Build station, and fly it."
MANY_LOOK = "Look every three months; one group falling alone is the end of the pack."


class PacksWork(QObject):
    """Keeps :attr:`page` and :attr:`panels` with the chosen pack."""

    said = pyqtSignal()
    """Its headline is another."""
    card_wanted = pyqtSignal()
    """The alarm card of the design that flies it is asked for."""

    def __init__(self, session: Session, facts: Facts, parent: QObject) -> None:
        super().__init__(parent)
        self.session, self._facts = session, facts
        self.headline = ""
        self.chosen_id = ""
        self.life: PackLife | None = None
        self._worker = Worker(self)
        self._worker.finished.connect(self._take)
        self._worker.failed.connect(lambda error: self._say_verdict(str(error), "error"))
        self.page = QWidget()
        column = QVBoxLayout(self.page)
        column.setContentsMargins(0, 4, 0, 0)
        self.table = RowTable("Built packs", HEADS, SHARES)
        column.addWidget(self.table)
        self.verdict, self.reasons = Lines(paragraph), Lines(paragraph)
        self.picture = LifePicture()
        column.addLayout(self.verdict)
        column.addLayout(self.reasons)
        column.addWidget(self.picture.key)
        column.addWidget(self.picture, 1)
        self.charges = ChargesPanel(session)
        self.panels: tuple[QWidget, ...] = (self._panel(), self.charges)
        self.table.chosen.connect(self._choose_place)

    def _panel(self) -> QWidget:
        panel, inside = sheet(spacing=6)
        inside.addWidget(heading("What becomes of it"))
        self.fly, self.as_new = QPushButton("Fly it as it is today"), QPushButton("Fly it as new")
        self.retire, self.card = QPushButton("Retire it"), QPushButton("Alarm card")
        self.fly.setToolTip("The present design flies this pack, with what was learned and read of it")
        self.as_new.setToolTip("The present design flies its recipe, with cells as their type says")
        for row in ([(self.fly, self._fly)], [(self.as_new, self._as_new)],
                    [(self.retire, self._retire), (self.card, self.card_wanted.emit)]):  # fmt: skip
            inside.addLayout(button_row(*row))
        self.attempt = Attempt()
        inside.addWidget(self.attempt)
        inside.addWidget(heading("What it went through"))
        self.hours = Lines()
        inside.addLayout(self.hours)
        inside.addWidget(note(MANY_LOOK))
        return panel

    @property
    def settled(self) -> bool:
        """Whether the chosen pack's life is known."""
        return not self._worker.busy

    @property
    def pack(self) -> BuiltPack | None:
        """The chosen one."""
        return self.session.all(BuiltPack).get(self.chosen_id)

    def close_work(self) -> None:
        """Stop."""
        self._worker.close()

    def leave_workspace(self) -> None:
        """Choose nothing of the present one."""
        self._worker.forget()
        self.chosen_id, self.life = "", None

    def refresh(self) -> None:
        """Show the packs, and the chosen one's life."""
        packs = [one for one in built_packs(self.session) if one.finished]
        if self.pack is None:
            self.chosen_id = packs[0].id if packs else ""
        self._packs = packs
        by_pack: dict[str, list[date]] = {}
        for entry in flights(self.session):
            by_pack.setdefault(entry.pack_id, []).append(entry.flown_at.date())
        self.table.show_rows([self._row(one, by_pack.get(one.id, [])) for one in packs])
        self.table.setFixedHeight(ROW_PX * (min(max(len(packs), 1), MOST_ROWS) + 1) + 8)
        ids = [one.id for one in packs]
        if self.chosen_id in ids:
            self.table.choose(ids.index(self.chosen_id))
        self._show_chosen()

    def _row(self, pack: BuiltPack, flown: list[date]) -> tuple[Line, ...]:
        cell_type = self.session.all(CellType).get(pack.cell_type_id)
        made = "a cell type that is gone" if cell_type is None else pack_words(pack.recipe, cell_type)
        told = (
            pack.name,
            made,
            str(len(flown)),
            str(max(flown)) if flown else "",
            "retired" if pack.retired else "flies",
        )
        return tuple(Line(text, "faint" if pack.retired else "", 11.5) for text in told)

    def choose(self, pack_id: str) -> None:
        """Look at a pack."""
        self.chosen_id = pack_id
        self.refresh()

    def _choose_place(self, place: int) -> None:
        if 0 <= place < len(self._packs) and self._packs[place].id != self.chosen_id:
            self.chosen_id = self._packs[place].id
            self._show_chosen()

    def _show_chosen(self) -> None:
        pack = self.pack
        self.charges.show_pack(pack)
        for button in (self.fly, self.retire):
            button.setEnabled(pack is not None)
        self.headline = "Packs, and what became of them" if pack is None else f"{pack.name}: its life"
        self.said.emit()
        if pack is None:
            self.life = None
            self._say_verdict(NONE, "faint")
            return
        self.retire.setText("Use it again" if pack.retired else "Retire it")
        try:
            cell_type = type_of(self.session, pack)
            flown = flights_of(self.session, self._facts, pack_id=pack.id, most=MOST_FLIGHTS)
        except DocumentError as error:
            self._say_verdict(str(error), "error")
            return
        if self.life is None:
            self._say_verdict("Looking through its flights…", "faint")
        of = (pack, cell_type, tuple(one.of for one in flown))
        self._worker.run(partial(live, self._facts, flown, pack, cell_type), of=of)

    def _take(self, life: PackLife) -> None:
        self.life = life
        self.verdict.show_lines([Line(f"{life.verdict}.", "", 15, strong=True)])
        self.reasons.show_lines([Line(sentence) for sentence in life.reasons])
        self.picture.show_life(life)
        hours = life.hours
        self.hours.show_lines([
            Line(f"{counted(hours.flights, 'flight')} in the logbook,"
                 f" {format_number(hours.cycles, 1)} times its charge drawn."),
            Line(f"{counted(hours.deep, 'deep landing')}, {format_number(hours.hot_s / 60, 0)} hot minutes,"
                 f" {format_number(hours.under_s, 0)} s under its minimum."),
        ])  # fmt: skip

    def _say_verdict(self, sentence: str, role: str) -> None:
        self.verdict.show_lines([Line(sentence, role)])
        self.reasons.show_lines([])
        self.hours.show_lines([])
        self.picture.show_life(None)

    def _make(self, edit: Callable[[BuiltPack], object]) -> None:
        pack = self.pack
        if pack is not None:
            self.attempt.make(lambda: edit(pack))

    def _fly(self) -> None:
        self._make(lambda pack: fly_pack(self.session, pack))

    def _as_new(self) -> None:
        self.attempt.make(lambda: fly_as_designed(self.session))

    def _retire(self) -> None:
        self._make(lambda pack: retire_pack(self.session, pack, retired=not pack.retired))

"""Groups out of the tray: matched beside the window, flown, put beside the design."""

from __future__ import annotations

from functools import partial

from PyQt6.QtCore import QObject, pyqtSignal

from wise_cellar.core.build import Tray
from wise_cellar.core.documents import DocumentError, NumberedCell
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.tray_edits import fly_as_built
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.build.building import WAYS, Built, as_designed, build_all, read_wanted
from wise_cellar.ui.stations.build.match_page import MatchPage, WantedPanel

BOUGHT_WHOLE = "This battery was bought whole: nothing is built of single cells."


class MatchWork(QObject):
    """Keeps :attr:`page` and :attr:`panel`; ``matched`` tells that groups have come, ``beside_shown`` that they stand
    beside the design."""

    matched = pyqtSignal()
    beside_shown = pyqtSignal()

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self._tray: Tray | None = None
        self._worker = Worker(self)
        self.page, self.panel = MatchPage(), WantedPanel()
        self.panel.changed.connect(self.match)
        self.panel.fly_asked.connect(self._fly)
        self.panel.beside_asked.connect(self._put_beside)
        self.page.way_chosen.connect(self._show_way)
        self._worker.finished.connect(self._take)
        self._worker.failed.connect(lambda error: self.page.show_error(str(error)))

    @property
    def settled(self) -> bool:
        """Whether the tray is matched."""
        return not self._worker.busy

    def close_work(self) -> None:
        """Stop matching."""
        self._worker.close()

    def headline(self) -> str:
        """What is built of what."""
        recipe = self._session.complete.pack.recipe
        cells = len(self._tray.cells) if self._tray is not None else 0
        return f"{recipe.series_count}S {recipe.parallel_count}P out of a tray of {cells}"

    @property
    def groups(self) -> tuple[tuple[NumberedCell, ...], ...]:
        """The matched groups; none where they were of another recipe or another cell type."""
        built = self.page.built
        recipe, cell = self._session.complete.pack.recipe, self._session.complete.pack.cell
        if built is None or (built.ways[0].asked.series, built.ways[0].asked.parallel) != (
            recipe.series_count, recipe.parallel_count,
        ):  # fmt: skip
            return ()
        groups = built.ways[0].groups
        return groups if groups[0][0].cell_type_id == cell.id else ()

    @property
    def in_view(self) -> tuple[tuple[NumberedCell, ...], ...]:
        """The groups of the order that is looked at, of the first pack."""
        shown = self.page.shown
        return shown.pack(0) if shown is not None else self.groups

    def show_tray(self, tray: Tray) -> None:
        """Match this tray for the present design."""
        self._tray = tray
        self.match()

    def match(self) -> None:
        """Match anew, as it is wanted now."""
        if self._tray is None:
            return
        complete, wanted = self._session.complete, self.panel.wanted
        recipe = complete.pack.recipe
        self.panel.words.setText(
            f"{recipe.series_count}S {recipe.parallel_count}P of {self._tray.cell_type.name}, as the recipe line says."
        )
        if complete.pack.cell.whole_pack:
            self._worker.forget()
            self.page.show_error(BOUGHT_WHOLE)
            return
        try:
            asked = read_wanted(complete, wanted)
        except DocumentError as error:
            self.panel.say(str(error))
            return
        self._worker.run(
            partial(build_all, complete, self._tray, asked, apart_too=wanted.apart_too),
            of=(as_designed(complete), self._tray, wanted),
        )

    def _take(self, built: Built) -> None:
        self.page.show_built(built)
        self.matched.emit()

    def _show_way(self) -> None:
        """What the design flies now, against the groups in view."""
        built, way = self.page.built, self.page.ways.current
        state = self._session.complete.pack.state
        flies = built is not None and state == built.state(way)
        plain = state == as_designed(self._session.complete).pack.state
        self.panel.fly.setVisible(built is not None and not flies)
        self.panel.plain.setVisible(not plain)
        self.panel.beside.setVisible(built is not None)
        self.panel.state.setText(
            "This design flies these groups." if flies
            else "This design flies with all groups alike." if plain
            else "This design flies with other groups than these."
        )  # fmt: skip

    def _put_beside(self) -> None:
        """As designed and as built, in Compare."""
        built = self.page.built
        if built is None:
            return
        way = self.page.ways.current
        plain = as_designed(self._session.complete)
        other = (
            ("As designed", plain)
            if self._session.complete.pack.state == built.state(way)
            else (f"As built, {WAYS[way].lower()}", built.designs[way])
        )
        self._session.compared.put_beside([other])
        self.beside_shown.emit()

    def _fly(self, built: bool) -> None:
        found = self.page.built
        if built and found is None:
            return
        state = (
            found.state(self.page.ways.current)
            if built and found is not None
            else as_designed(self._session.complete).pack.state
        )
        self.panel.attempt.make(lambda: fly_as_built(self._session, state))

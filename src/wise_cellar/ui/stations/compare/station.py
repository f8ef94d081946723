"""The Compare station."""

from __future__ import annotations

import json
from collections.abc import Callable
from dataclasses import dataclass
from functools import partial
from pathlib import Path

import numpy as np
from PyQt6.QtCore import QElapsedTimer, QTimer
from PyQt6.QtWidgets import (
    QCheckBox,
    QFileDialog,
    QHBoxLayout,
    QLabel,
    QMenu,
    QPushButton,
    QStackedWidget,
    QVBoxLayout,
    QWidget,
)

from wise_cellar.core.documents import CellType, CompleteDesign, DocumentError
from wise_cellar.core.flight import Answer, answer
from wise_cellar.core.search import (
    FILTER_EXAMPLE,
    Aim,
    Column,
    Flown,
    Growth,
    Judged,
    Reference,
    Slope,
    Space,
    bought,
    columns,
    difference,
    gains,
    growth,
    joined,
    judge,
    matching,
    pareto,
    present,
    sensitivity,
    swaps,
    worst_exclusion,
)
from wise_cellar.core.units import format_minutes, format_number
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.session import Session
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.compare.cloud import Cloud, Shown
from wise_cellar.ui.stations.compare.pages import BesidePage, SlopesPage, Standing, SwapPage
from wise_cellar.ui.stations.compare.panels import ChosenPanel, SaidPanel, SearchPanel, WishesPanel
from wise_cellar.ui.stations.compare.runner import SearchRunner
from wise_cellar.ui.widgets.column_table import ColumnTable
from wise_cellar.ui.widgets.panel import note, scrolling
from wise_cellar.ui.widgets.search_line import SearchLine
from wise_cellar.ui.widgets.segments import Segments
from wise_cellar.ui.work import Worker

SIDE = 348
PAGES = ("Every pack", "Same mass", "Side by side", "A little more")
CLOUD, SWAP, BESIDE, SLOPES = range(4)
KINDS = ("Cell", "Cells in series")
MOST_BESIDE = 3
PAUSE_MS, BETWEEN_MS = 120, 700
SHOWN_COLUMNS = "compare_columns"


@dataclass(frozen=True)
class Aside:
    """What is flown about the present design beside the search."""

    complete: CompleteDesign
    growth: Growth
    slopes: tuple[Slope, ...]
    reference: Reference
    beside: tuple[Standing, ...]


def fly_aside(
    complete: CompleteDesign, answered: Answer, pack: CellType | None,
    beside: tuple[tuple[str, CompleteDesign], ...],
) -> Aside:  # fmt: skip
    """Growth, slopes, what is swapped, and the designs that stand beside this one."""
    factor = answered.factor
    return Aside(
        complete,
        growth(complete, factor),
        sensitivity(complete, factor),
        bought(complete, pack, factor) if pack is not None else present(complete, factor),
        (
            Standing("This design", answered, None),
            *(
                Standing(name, found := answer(other), difference(complete, answered, other, found))
                for name, other in beside
            ),
        ),
    )


class CompareStation(Station):
    """Every combination in one picture and one table; beside them the chosen one, the search and its limits."""

    title = "Compare"
    prefixes = ("design.search",)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.space: Space | None = None
        self.flown: Flown | None = None
        self.judged: Judged | None = None
        self.aside: Aside | None = None
        self._parts: list[Flown] = []
        self._beside: list[tuple[str, CompleteDesign]] = []
        self._columns: tuple[Column, ...] = ()
        column, self._headline, side = self.lay_out(SIDE)
        self.pages = Segments(PAGES, "What is compared")
        column.addWidget(self.pages)
        self._stack = QStackedWidget()
        column.addWidget(self._stack, 1)
        self.swap, self.beside, self.slopes = SwapPage(session), BesidePage(), SlopesPage()
        for page in (self._cloud_page(), self.swap, scrolling(self.beside), scrolling(self.slopes)):
            self._stack.addWidget(page)
        self.chosen, self.search, self.wishes = ChosenPanel(), SearchPanel(session), WishesPanel(session)
        self.exclusion, self.grown = SaidPanel("What excludes most"), SaidPanel("One more in parallel?")
        for panel in (self.chosen, self.exclusion, self.grown, self.search, self.wishes):
            side.addWidget(panel)
        side.addStretch(1)
        self._drawn = QElapsedTimer()
        self.runner, self._worker = SearchRunner(self), Worker(self)
        # Whoever types or steps quickly does not start a search with every key.
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(PAUSE_MS)
        self._connect()

    def _cloud_page(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(4)
        row = QHBoxLayout()
        row.setSpacing(12)
        self.kinds = Segments(KINDS, "Colour and shape by")
        self.price_aim, self.margin_aim = QCheckBox("price"), QCheckBox("margin")
        self.excluded = QCheckBox("excluded too")
        self.price_aim.setToolTip("The edge counts a lower price too")
        self.margin_aim.setToolTip("The edge counts a greater thrust margin too")
        self.excluded.setToolTip("Show designs that break a limit, with their reasons")
        faint = QLabel("the edge counts mass, minutes and")
        faint.setProperty("role", "faint")
        for widget in (self.kinds, faint, self.price_aim, self.margin_aim):
            row.addWidget(widget)
        row.addStretch(1)
        row.addWidget(self.excluded)
        column.addLayout(row)
        self.cloud = Cloud()
        self.cloud.setMinimumHeight(190)
        column.addWidget(self.cloud.key)
        column.addWidget(self.cloud, 9)
        column.addLayout(self._table_bar())
        self.under = note(role="error")
        self.under.hide()
        column.addWidget(self.under)
        self.table = ColumnTable("Designs that were flown")
        self.table.setMinimumHeight(76)
        column.addWidget(self.table, 4)
        return page

    def _table_bar(self) -> QHBoxLayout:
        row = QHBoxLayout()
        row.setSpacing(8)
        self.filter = SearchLine()
        self.filter.setPlaceholderText(f"Filter: {FILTER_EXAMPLE}")
        self.filter.setAccessibleName("Filter the table")
        row.addWidget(self.filter, 1)
        self.columns_button, self.csv_button = QPushButton("Columns…"), QPushButton("CSV…")
        self.columns_button.setToolTip("Which columns are shown")
        self.csv_button.setToolTip("Save the rows shown, with every column")
        self._menu = QMenu(self.columns_button)
        self._menu.aboutToShow.connect(self._fill_menu)
        self.columns_button.setMenu(self._menu)
        row.addWidget(self.columns_button)
        row.addWidget(self.csv_button)
        return row

    def _connect(self) -> None:
        self.pages.chosen.connect(self._show_page)
        self.kinds.chosen.connect(lambda _place: self._draw())
        for box in (self.price_aim, self.margin_aim, self.excluded):
            box.toggled.connect(lambda _on: self._draw())
        self.filter.textChanged.connect(lambda _text: self._fill_table())
        self.csv_button.clicked.connect(self.ask_csv)
        self.cloud.pointed.connect(self._point)
        self.cloud.chosen.connect(self._choose)
        self.cloud.taken.connect(self.take)
        self.table.chosen.connect(self._choose)
        self.table.taken.connect(self.take)
        self.swap.chosen.connect(lambda row: self._choose(self.swap.place_of(row)))
        self.swap.taken.connect(lambda row: self.take(self.swap.place_of(row)))
        self.beside.dropped.connect(self._drop)
        self.slopes.field_requested.connect(self.field_requested)
        self.chosen.taken.connect(lambda: self.take(self.cloud.current))
        self.chosen.beside.connect(self.put_beside)
        self.search.stopped.connect(self._stop)
        self.runner.came.connect(self._take_part)
        self.runner.ended.connect(self._ended)
        self.runner.failed.connect(lambda error: self.search.show_error(str(error)))
        self._worker.finished.connect(self._take_aside)
        self._worker.failed.connect(lambda error: self.search.show_error(str(error)))
        self._pause.timeout.connect(self._start)

    @property
    def settled(self) -> bool:
        """Whether everything has been flown."""
        return not (self.runner.busy or self._worker.busy or self._pause.isActive())

    def close_work(self) -> None:
        """Stop flying."""
        self._pause.stop()
        self.runner.close()
        self._worker.close()

    # Searching

    def refresh(self) -> None:
        """Show the present choice; fly again what the results hang on, if it is another."""
        self.search.refresh()
        self.wishes.refresh()
        self.swap.refresh()
        self._pause.start()
        self._draw()

    def _start(self) -> None:
        complete, answered = self.session.complete, self.session.answer
        pack = self.session.all(CellType).get(complete.design.search.swap_pack_id)
        beside = list(self._beside)
        pinned = self.session.pinned
        if pinned is not None and pinned[0] != complete:
            beside.insert(0, ("Pinned", pinned[0]))
        self._worker.run(partial(fly_aside, complete, answered, pack, tuple(beside[:MOST_BESIDE])))
        try:
            space = Space.searched(complete, list(self.session.all(CellType).values()))
        except DocumentError as error:
            self.runner.stop()
            self.space = None
            self.search.show_error(str(error))
            return
        if self.space is not None and self.space.question == space.question:
            # Being flown, flown already, or stopped by the user.
            self._show_progress()
            return
        self._run(space)

    def _run(self, space: Space) -> None:
        self.space, self._parts, self.flown, self.judged = space, [], None, None
        self.cloud.current = -1
        self.runner.run(space, self.session.answer.factor)
        self._show_progress()

    def _stop(self) -> None:
        """Stop, or fly all of what was stopped."""
        if self.runner.busy or self.space is None:
            self.runner.stop()
            self._show_progress()
            self._draw()
        else:
            self._run(self.space)

    def _take_part(self, part: Flown) -> None:
        kept = self.flown.row[self.cloud.current] if self.flown is not None and self.cloud.current >= 0 else None
        self._parts.append(part)
        self.flown = joined(self._parts)
        self._parts = [self.flown]
        if kept is not None:
            self.cloud.current = int(np.searchsorted(self.flown.row, kept))
        self._show_progress()
        # Of a large search the picture fills in steps, so that the window keeps answering.
        if not self._drawn.isValid() or self._drawn.hasExpired(BETWEEN_MS):
            self._draw()
            self._drawn.start()

    def _ended(self) -> None:
        self._show_progress()
        self._draw()

    def _show_progress(self) -> None:
        if self.space is not None:
            flown = len(self.flown) if self.flown is not None else 0
            self.search.show_progress(flown, len(self.space.rows), busy=self.runner.busy)

    def _take_aside(self, aside: Aside) -> None:
        self.aside = aside
        self.grown.say(" ".join(aside.growth.sentences(aside.complete.design.recipe.parallel_count)))
        self.slopes.show_slopes(aside.slopes)
        self.slopes.show_growth(aside.growth)
        self.beside.show_designs(aside.beside)
        self._draw()

    # Showing

    def _show_page(self, page: int) -> None:
        self._stack.setCurrentIndex(page)
        if page in (CLOUD, SWAP):
            self._draw()

    def _draw(self) -> None:
        """Judge, draw and list what has been flown."""
        space, flown = self.space, self.flown
        if space is None or flown is None or not len(flown):
            self._headline.setText("Nothing is searched" if space is None else "Every combination is flown…")
            self.cloud.redraw()
            self._show_chosen()
            return
        judged = self.judged = judge(space, flown, self.session.complete.design.search.wishes)
        excluded = self.excluded.isChecked() or not judged.passes.any()
        aims = [Aim.MINUTES, Aim.MASS]
        aims += [Aim.PRICE] if self.price_aim.isChecked() else []
        aims += [Aim.MARGIN] if self.margin_aim.isChecked() else []
        place = space.places(flown.row)
        by_cell = self.kinds.current == 0
        names = [cell.name for cell in space.cells] if by_cell else [f"{count}S" for count in space.series]
        pinned = self.session.pinned
        answered = self.session.answer
        aside = self.aside
        self.cloud.show_designs(Shown(
            flown, judged.passes, pareto(gains(flown, aims), judged.passes), len(aims) == 2,
            place.cells if by_cell else place.series, tuple(names), excluded,
            (answered.takeoff_mass_g, answered.duration_s / 60),
            (pinned[1].takeoff_mass_g, pinned[1].duration_s / 60) if pinned is not None else None,
            aside.growth if aside is not None and aside.complete == self.session.complete else None,
        ))  # fmt: skip
        self._headline.setText(self._headline_words(flown, judged))
        exclusion = worst_exclusion(judged, flown)
        self.exclusion.say(exclusion.sentence(len(flown), flown) if exclusion is not None else "")
        self._columns = columns(space, flown, judged)
        self._fill_table()
        self._show_chosen()
        self._fill_swaps()

    def _headline_words(self, flown: Flown, judged: Judged) -> str:
        passing = int(judged.passes.sum())
        if not passing:
            return (
                f"All {format_number(len(flown), 0)} designs break a limit: their reasons are in the table and at each"
                " dot"
            )
        best = int(np.argmax(np.where(judged.passes, flown.duration_s, -np.inf)))
        return (
            f"{format_number(passing, 0)} of {format_number(len(flown), 0)} designs keep to every limit; the longest"
            f" flies {format_minutes(float(flown.duration_s[best]))} at {format_number(flown.takeoff_g[best], 0)} g"
        )

    def _fill_table(self) -> None:
        flown, judged = self.flown, self.judged
        if flown is None or judged is None or len(judged.passes) != len(flown):
            return
        visible = self.cloud.shown.visible if self.cloud.shown is not None else judged.passes
        try:
            wanted = matching(self._columns, self.filter.text())
            self._tell("" if (visible & wanted).any() else "No design shown is left by this filter.")
        except DocumentError as error:
            wanted = np.ones(len(flown), bool)
            self._tell(str(error))
        self.table.show_columns(
            self.visible_columns(), np.flatnonzero(visible & wanted), faint=~judged.passes, sort=("duration_s", True)
        )
        if self.cloud.current >= 0:
            self.table.go_to(self.cloud.current)

    def visible_columns(self) -> list[Column]:
        """Those that the user wants to see."""
        kept = self.session.workspace.setting(SHOWN_COLUMNS)
        wanted = set(json.loads(kept)) if kept else None
        return [c for c in self._columns if (c.usual if wanted is None else c.key in wanted)]

    def _fill_menu(self) -> None:
        self._menu.clear()
        shown = {column.key for column in self.visible_columns()}
        for column in self._columns:
            action = self._menu.addAction(f"{column.head}: {column.meaning.lower()}")
            if action is not None:
                action.setCheckable(True)
                action.setChecked(column.key in shown)
                action.toggled.connect(partial(self.show_column, column.key))

    def show_column(self, key: str, on: bool) -> None:
        """Show a column or hide it, and remember that."""
        keys = [c.key for c in self.visible_columns() if c.key != key] + ([key] if on else [])
        if keys:
            self.session.workspace.remember(SHOWN_COLUMNS, json.dumps(sorted(keys)))
        self._fill_table()

    def _fill_swaps(self) -> None:
        aside, space, flown, judged = self.aside, self.space, self.flown, self.judged
        if aside is None or space is None or flown is None or judged is None:
            return
        share = self.session.complete.design.search.swap_percent / 100
        found = swaps(space, flown, aside.reference, share, np.flatnonzero(judged.passes))
        self.swap.show_swaps(aside.reference, found, space, flown)

    def _point(self, place: int) -> None:
        self.cloud.tell(self._words(place) if place >= 0 else "")

    def _tell(self, words: str) -> None:
        self.under.setText(words)
        self.under.setVisible(bool(words))

    def _name(self, place: int) -> str:
        assert self.space is not None
        assert self.flown is not None
        design = self.space.design(int(self.flown.row[place]))
        recipe = design.design.recipe
        name = f"{recipe.series_count}S {recipe.parallel_count}P of {design.cell_type.name}"
        if len(self.space.joints) > 1:
            name += f", {recipe.joint}"
        if len(self.space.gauges) > 1:
            name += f", {recipe.leads.gauge_awg} AWG"
        return name + (f", landing {design.design.landing.policy}" if len(self.space.policies) > 1 else "")

    def _words(self, place: int) -> str:
        assert self.flown is not None
        return f"{self._name(place)}: {self._figures(place)}"

    def _figures(self, place: int) -> str:
        flown = self.flown
        assert flown is not None
        price = "" if np.isnan(flown.price[place]) else f", cells for {flown.price[place]:.2f}"
        return (
            f"{format_minutes(float(flown.duration_s[place]))}, {format_number(flown.takeoff_g[place], 0)} g,"
            f" {flown.late_v[place]:.2f} V a cell and {flown.late_margin[place]:.1f} times"
            f" {self.session.complete.craft.margin_over} in a late punch{price}"
        )

    # Choosing

    def _choose(self, place: int) -> None:
        self.cloud.choose(place)
        self.table.go_to(place)
        self._show_chosen()

    def _show_chosen(self) -> None:
        place, flown, judged = self.cloud.current, self.flown, self.judged
        if place < 0 or flown is None or judged is None or place >= len(flown):
            self.chosen.show_design("", "", ())
            return
        answered = self.session.answer
        change = (
            f"{_more(flown.duration_s[place] - answered.duration_s)} and"
            f" {flown.takeoff_g[place] - answered.takeoff_mass_g:+.0f} g against this design."
        ).replace("-", "−")
        self.chosen.show_design(self._name(place), f"{self._figures(place)}. {change}", judged.reasons(place))

    def take(self, place: int) -> None:
        """Make a design of the search the present one, in one edit that undo takes back."""
        if self.space is None or self.flown is None or not 0 <= place < len(self.flown):
            return
        found = self.space.design(int(self.flown.row[place])).design
        design = self.session.complete.design.model_copy(
            update={"recipe": found.recipe, "cell_type_id": found.cell_type_id, "landing": found.landing}
        )
        self._try(lambda: self.session.commit(f"Take {self._name(place)}", [design]))

    def put_beside(self) -> None:
        """Put the chosen design beside this one."""
        if self.space is None or self.flown is None or self.cloud.current < 0:
            return
        name = self._name(self.cloud.current)
        found = self.space.design(int(self.flown.row[self.cloud.current]))
        self._beside = [(name, found), *(one for one in self._beside if one[0] != name)][:MOST_BESIDE]
        self._start()
        self.pages.choose(BESIDE)

    def _drop(self, place: int) -> None:
        assert self.aside is not None
        name = self.aside.beside[place].name
        if name == "Pinned" and self.session.pinned is not None:
            self.session.pinned = None
            self.session.pin_changed.emit()
        self._beside = [one for one in self._beside if one[0] != name]
        self._start()

    def ask_csv(self) -> None:
        """Ask where the table goes."""
        name, _ = QFileDialog.getSaveFileName(self, "Save the table", "compare.csv", "Table (*.csv)")
        if name:
            self.save_csv(Path(name))

    def save_csv(self, path: Path) -> None:
        """Save the rows that are shown, every column of them."""
        from wise_cellar.core.search import as_csv

        def write() -> None:
            try:
                path.write_text(as_csv(self._columns, self.table.places), encoding="utf-8")
            except OSError as error:
                raise DocumentError(f"{path} cannot be written: {error.strerror}.") from error

        if self._try(write):
            self.cloud.tell(f"{format_number(len(self.table.places), 0)} rows are in {path.name}.")

    def _try(self, edit: Callable[[], object]) -> bool:
        try:
            edit()
        except (DocumentError, WorkspaceError) as error:
            self._tell(str(error))
            return False
        return True


def _more(seconds: float) -> str:
    return ("+" if seconds >= 0 else "−") + format_minutes(abs(float(seconds)))

"""The Charge station."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache, partial

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from wise_cellar.core.answer import Answer, answer
from wise_cellar.core.charge import (
    Came,
    Charged,
    ChargePlan,
    SetKind,
    Timetable,
    about,
    charge_plan,
    field_day,
    set_kind,
)
from wise_cellar.core.documents import Charger, CompleteDesign, Design, DocumentError
from wise_cellar.core.units import format_significant, format_volts
from wise_cellar.core.words import quoted
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.charge import DOORWAY
from wise_cellar.ui.stations.charge.charge_picture import ChargePicture
from wise_cellar.ui.stations.charge.live_panel import LivePanel
from wise_cellar.ui.stations.charge.panels import ChargerPanel, SetsPanel, SettingsPanel, WishPanel
from wise_cellar.ui.stations.charge.timetable import DayPage, caution_lines
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import paragraph, scrolling
from wise_cellar.ui.widgets.present_page import PresentPage
from wise_cellar.ui.widgets.segments import Segments

SIDE = 336
PAGES = ("One pack", "Field day")
PLAN, DAY = range(2)


@dataclass(frozen=True)
class Planned:
    """What is computed of a design beside the window."""

    complete: CompleteDesign
    sets: tuple[tuple[str, int, CompleteDesign], ...]
    """The designs of the day's sets as they were then: they change without this one."""
    plan: ChargePlan
    day: Timetable | None
    missing: str
    """Why there is no day; empty where there is one."""


def plan_all(
    complete: CompleteDesign, answered: Answer, sets: Sequence[tuple[str, int, CompleteDesign]], missing: str
) -> Planned:
    """The charge of the chosen pack, and the best day with the sets that are here."""
    plan = charge_plan(complete, answered)
    charger = complete.design.charger
    if missing:
        return Planned(complete, tuple(sets), plan, None, missing)
    kinds = [
        replace(
            _kind(
                one.changed(design=one.design.as_flown), charger, one.design.charge.most_c_rate,
                complete.design.day.place_temperature_c,
            ),
            name=name, count=count,
        )
        for name, count, one in sets
    ]  # fmt: skip
    return Planned(complete, tuple(sets), plan, field_day(kinds, complete.design.day, charger), "")


@lru_cache(maxsize=32)
def _kind(complete: CompleteDesign, charger: Charger, most_c_rate: float | None, place_c: float | None) -> SetKind:
    """One set of a design; kept, as most of what is asked of a day leaves the sets as they are."""
    return set_kind(complete.design.name, 1, complete, answer(complete), charger, most_c_rate, place_c)


class ChargeStation(Station):
    """The charge of one pack over time with its cautions, or a day of flying and charging; beside them what is
    asked."""

    doorway = DOORWAY

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.planned: Planned | None = None
        self._worker = Worker(self)
        column, self.headline, side = self.lay_out(SIDE)
        self.pages = Segments(PAGES, "What is planned")
        column.addWidget(self.pages)
        self._stack = PresentPage()
        column.addWidget(self._stack, 1)
        self.picture, self.day = ChargePicture(), DayPage()
        self._stack.addWidget(scrolling(self._plan_page()))
        self._stack.addWidget(scrolling(self.day))
        self.settings, self.wish = SettingsPanel(), WishPanel(session)
        self.live = LivePanel(session)
        self.live.came.connect(self._show_came)
        self.sets, self.charger = SetsPanel(session), ChargerPanel(session)
        for panel in (self.settings, self.live, self.wish, self.sets, self.charger):
            side.addWidget(panel)
        side.addStretch(1)
        self._show_page(PLAN)
        self.pages.chosen.connect(self._show_page)
        self._worker.finished.connect(self._take)
        self._worker.failed.connect(lambda error: self.day.show_error(str(error)))

    def _plan_page(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 4, 10, 0)
        column.setSpacing(6)
        self._sentences, self._cautions = Lines(paragraph), Lines(paragraph)
        self._sentences.setSpacing(2)
        self._cautions.setSpacing(3)
        column.addLayout(self._sentences)
        column.addWidget(self.picture.key)
        column.addWidget(self.picture, 1)
        column.addLayout(self._cautions)
        column.addStretch(0)  # takes what the picture leaves where there is none
        return page

    @property
    def settled(self) -> bool:
        """Whether everything has been planned."""
        return not self._worker.busy and self.live.settled

    def close_work(self) -> None:
        """Stop planning."""
        self._worker.close()
        self.live.close_work()

    def leave_workspace(self) -> None:
        """What was watched belongs to the one that is left."""
        self.live.begin_anew()

    def refresh(self) -> None:
        """Show what is asked, and plan anew."""
        complete, answered = self.session.complete, self.session.answer
        for panel in (self.wish, self.sets, self.charger):
            panel.refresh()
        sets, missing = self._sets(complete)
        known = self.planned
        if known is not None and (known.complete, known.sets, known.missing) == (complete, tuple(sets), missing):
            self._take(known)
            return
        self._worker.run(partial(plan_all, complete, answered, sets, missing), of=(complete, sets, missing))

    def _sets(self, complete: CompleteDesign) -> tuple[list[tuple[str, int, CompleteDesign]], str]:
        """The sets of the day by the designs that fly them; and a sentence where one is not here."""
        found, designs = [], self.session.all(Design)
        for one in complete.design.day.sets:
            if not one.design_id or one.design_id == complete.design.id:
                found.append((complete.design.name, one.count, complete))
            elif one.design_id in designs:
                try:
                    found.append(
                        (designs[one.design_id].name, one.count, self.session.library.assembled(designs[one.design_id]))
                    )
                except DocumentError as error:
                    return [], str(error)
            else:
                return [], (
                    f"The day has a set for a design {quoted(one.design_id)} that is not in this workspace: choose"
                    " another one for it."
                )
        return found, ""

    def _take(self, planned: Planned) -> None:
        self.planned = planned
        if planned.complete != self.session.complete:
            return
        plan = planned.plan
        self.settings.show_plan(plan)
        for widget in (self.picture, self.picture.key):
            widget.setHidden(bool(plan.refused))
        self.live.show_plan(plan)
        if not plan.refused and not self.live.running:
            self.picture.show_plan(plan)
        role = "error" if plan.refused else ""
        self._sentences.show_lines([Line(sentence, role) for sentence in plan.sentences()])
        self._cautions.show_lines(caution_lines(plan.cautions))
        if planned.day is None:
            self.day.show_error(planned.missing)
        else:
            self.day.show_day(f"Field day: {planned.complete.design.name}", planned.day)
        self._show_headline()

    def _show_came(self, live: tuple[ChargePlan, Charged, Came] | None) -> None:
        if live is not None:
            self.picture.show_came(*live)
        elif self.planned is not None and not self.planned.plan.refused:
            self.picture.show_plan(self.planned.plan)

    def _show_page(self, page: int) -> None:
        self._stack.setCurrentIndex(page)
        for panel, mine in ((self.settings, PLAN), (self.live, PLAN), (self.wish, PLAN), (self.sets, DAY)):
            panel.setVisible(page == mine)
        self._show_headline()

    def _show_headline(self) -> None:
        planned = self.planned
        if planned is None:
            self.headline.setText("Planning…")
        elif self.pages.current == DAY and planned.day is not None:
            day = planned.day
            self.headline.setText(
                f"{day.flights_words}, {about(day.air_s)} in the air in {format_significant(day.day_s / 3600, 3)} h"
            )
        else:
            plan = planned.plan
            if plan.refused:
                self.headline.setText(f"{plan.pack.name}, {plan.pack.cell.name}: do not charge it")
                return
            time = about(plan.charged.seconds) if plan.charged.done else "more than two days"
            self.headline.setText(
                f"{plan.pack.name}, {plan.pack.cell.name}: {time} to {format_volts(plan.end_v)} a cell"
            )

    def focus_field(self, path: str) -> bool:
        """Bring the page with the field into view first."""
        self.pages.choose(DAY if path.startswith("design.day") else PLAN)
        return super().focus_field(path)

"""The Extend station."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import partial

import numpy as np
from PyQt6.QtWidgets import QVBoxLayout, QWidget

from wise_cellar.core.answer import Answer, Severity
from wise_cellar.core.documents import CompleteDesign, DocumentError, LandingRule
from wise_cellar.core.extend import CounterOutcome, Equalising, counter_outcomes, equalise
from wise_cellar.core.units import format_mah, format_minutes, format_number
from wise_cellar.core.words import lower_first
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.extend import DOORWAY
from wise_cellar.ui.stations.extend.confluence import Confluence
from wise_cellar.ui.stations.extend.counter_page import CounterPage
from wise_cellar.ui.stations.extend.pack_traces import PackTraces
from wise_cellar.ui.stations.extend.packs_panel import BeginPanel, PacksPanel, WeightPanel
from wise_cellar.ui.stations.extend.plug_page import PlugPage
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import heading, scrolling, sheet
from wise_cellar.ui.widgets.present_page import PresentPage
from wise_cellar.ui.widgets.segments import Segments
from wise_cellar.ui.widgets.why_links import WhyLinks

SIDE = 336
PAGES = ("On the bus", "At the plug", "Own counter")
BUS, PLUG, COUNTER = range(3)
CHARGE = "design.packs.0.state.start_charge_percent"
"""Governed by Flight; what a pack rests at is told here too."""
_OF_THE_BUS = re.compile(r"design\.taken_off|design\.packs$|(design\.packs|cells)\.[1-9]")
"""Fields of packs besides the first, and of what all of them share."""
STEP_SHARE = 0.02
MOST_FINDINGS = 5


@dataclass(frozen=True)
class BusAside:
    """What is flown of a design beside the window."""

    complete: CompleteDesign
    flow: Equalising | None
    outcomes: tuple[CounterOutcome, ...]


def fly_aside(complete: CompleteDesign, factor: float) -> BusAside:
    """The packs on one bus at rest, and every way of being called home."""
    own = complete.own_battery is not None
    return BusAside(complete, equalise(complete), counter_outcomes(complete, factor) if own else ())


class ExtendStation(Station):
    """Streams and traces of every pack; the moment at the plug; the craft's own counter. Beside: the packs and what
    they weigh."""

    doorway = DOORWAY

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.aside: BusAside | None = None
        self.second = 0.0
        self._worker = Worker(self)
        column, self.headline, side = self.lay_out(SIDE)
        self.pages = Segments(PAGES, "What is shown of the packs")
        column.addWidget(self.pages)
        self._stack = PresentPage()
        column.addWidget(self._stack, 1)
        self.begin = BeginPanel(session)
        column.addWidget(self.begin, 1)
        self.confluence, self.traces = Confluence(), PackTraces()
        self.plug, self.counter = PlugPage(session), CounterPage(session)
        for page in (self._bus_page(), self.plug, self.counter):
            self._stack.addWidget(scrolling(page))
        self.packs, self.weight = PacksPanel(session), WeightPanel(session)
        side.addWidget(self._findings_panel())
        side.addWidget(self.packs)
        side.addWidget(self.weight)
        side.addStretch(1)
        self.pages.chosen.connect(self._stack.setCurrentIndex)
        self.confluence.chosen.connect(self.packs.show_place)
        self.confluence.stepped.connect(self._step)
        self.packs.chosen.connect(self.confluence.choose)
        self.traces.cursor_moved.connect(self._show_moment)
        self.weight.field_requested.connect(self.field_requested)
        self.counter.taken.connect(self.take_rule)
        self._worker.finished.connect(self._take_aside)

    def _bus_page(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 4, 10, 0)
        column.setSpacing(6)
        column.addWidget(self.confluence)
        column.addWidget(self.traces.key)
        column.addWidget(self.traces, 1)
        return page

    def _findings_panel(self) -> QWidget:
        self.findings_sheet, column = sheet(spacing=6)
        column.addWidget(heading("Be careful about"))
        self.findings = Lines()
        column.addLayout(self.findings)
        self.why = WhyLinks()
        self.why.wanted.connect(self.handbook_requested)
        column.addWidget(self.why)
        return self.findings_sheet

    @property
    def settled(self) -> bool:
        """Whether everything has been flown."""
        return not self._worker.busy

    def close_work(self) -> None:
        """Stop flying."""
        self._worker.close()

    def refresh(self) -> None:
        """Show the present packs, and fly what hangs on them."""
        complete, answer = self.session.complete, self.session.answer
        several = len(complete.packs) > 1
        self.pages.setVisible(several)
        self._stack.setVisible(several)
        self.begin.setVisible(not several)
        self.packs.setVisible(several)
        self.weight.refresh()
        self.headline.setText(headline(complete, answer))
        self._show_findings(answer)
        if not several:
            self.begin.refresh()
            return
        self.packs.refresh()
        self.confluence.choose(self.packs.place)
        self.second = min(self.second or answer.landing_call_s / 2, float(answer.series.time_s[-1]))
        self.traces.show_answer(answer)
        self._show_moment(self.second)
        if self.aside is None or self.aside.complete != complete:
            self._worker.run(partial(fly_aside, complete, answer.factor), of=complete)
        else:
            self._take_aside(self.aside)

    def _take_aside(self, aside: BusAside) -> None:
        self.aside = aside
        if aside.complete == self.session.complete:
            self.plug.show_flow(aside.flow)
            self.counter.show_outcomes(aside.outcomes)

    def _show_findings(self, answer: Answer) -> None:
        """What hangs on packs beside, on the links of any pack, and on putting them on one bus."""
        mine = [
            finding for finding in answer.findings
            if finding.field == CHARGE or _OF_THE_BUS.match(finding.field)
            or any(finding.sentence.startswith(f"{pack.complete.name}:") for pack in answer.packs)
        ]  # fmt: skip
        self.why.show_fields(finding.field for finding in mine)
        self.findings.show_lines([
            Line(finding.sentence, "error" if finding.severity is Severity.OVER else "caution", 11.5)
            for finding in mine[:MOST_FINDINGS]
        ])  # fmt: skip
        self.findings_sheet.setVisible(bool(mine))

    def _show_moment(self, second: float) -> None:
        self.second = second
        self.confluence.show_moment(self.session.answer, second)
        self.traces.show_cursor(second)

    def _step(self, by: int) -> None:
        last = float(self.session.answer.series.time_s[-1])
        self._show_moment(float(np.clip(self.second + by * STEP_SHARE * last, 0.0, last)))

    def take_rule(self, rule: LandingRule) -> None:
        """Land by a rule from now on, in one edit."""
        try:
            self.session.edit("design.landing", rule, "Land by another rule")
        except (DocumentError, WorkspaceError) as error:
            self.headline.setText(str(error))

    def focus_field(self, path: str) -> bool:
        """Bring the pack that a field belongs to into view first."""
        for place, pack in enumerate(self.session.complete.packs):
            if place and f"{path}.".startswith((f"design.packs.{place}.", f"{pack.path('cell')}.")):
                self.packs.show_place(place)
        if path == "design.packs":
            self.packs.which.setFocus()
            return True
        return super().focus_field(path)


def headline(complete: CompleteDesign, answer: Answer) -> str:
    """What each pack gives, and what is left."""
    if len(complete.packs) == 1:
        return f"One pack has the bus to itself; {complete.craft.name} flies {format_minutes(answer.duration_s)} on it"
    given = ", ".join(
        (
            f"{lower_first(pack.complete.name)} {format_mah(pack.given_mah)}"
            f" ({format_number(100 * max(pack.charge_left, 0), 0)} % left)"
        )
        for pack in answer.packs
    )
    other = f" ({answer.other_end_words})" if answer.other_end is not None else ""
    return f"{format_minutes(answer.duration_s)} in the air{other} on {given}"

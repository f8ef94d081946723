"""The Flight station."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.advice import StepUp, step_up
from wise_cellar.core.answer import Answer, PolicyOutcome, policies
from wise_cellar.core.documents import (
    Block,
    BlockKind,
    CompleteDesign,
    Craft,
    DocumentError,
    Mission,
    Repeat,
    UnlikeGroup,
    with_block_added,
    with_block_removed,
)
from wise_cellar.core.units import format_grams, format_minutes, format_volts
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.flight import DOORWAY
from wise_cellar.ui.stations.flight.bench_panel import BenchPanel
from wise_cellar.ui.stations.flight.explain_panel import ExplainPanel
from wise_cellar.ui.stations.flight.landing_panel import LandingPanel
from wise_cellar.ui.stations.flight.next_panel import NextPanel
from wise_cellar.ui.stations.flight.range_panel import RangePanel
from wise_cellar.ui.stations.flight.readout import Readout
from wise_cellar.ui.stations.flight.traces import Traces
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.field_grids import FieldGrid, SwappedFields
from wise_cellar.ui.widgets.fields import FIELDS, Field, QuantityField, field_for
from wise_cellar.ui.widgets.panel import SideArea, heading, note, sheet
from wise_cellar.ui.widgets.row_list import RowList
from wise_cellar.ui.widgets.segments import Segments
from wise_cellar.ui.widgets.why_links import WhyLinks

SIDE = 336
BLOCK_FIELDS = {
    BlockKind.TAKE_OFF: ("kind", "name", "duration_s", "climb_m_s", "climb_throttle_percent"),
    BlockKind.CRUISE: ("kind", "name", "duration_s", "airspeed_m_s", "ground_speed_m_s", "heading_deg", "out_and_back",
                       "leg_s", "climb_m_s", "climb_throttle_percent"),
    BlockKind.HOVER: ("kind", "name", "duration_s"),
    BlockKind.LOITER: ("kind", "name", "duration_s", "airspeed_m_s", "radius_m"),
    BlockKind.MANUAL: ("kind", "name", "duration_s", "airspeed_m_s", "liveliness", "full_throttle_s"),
    BlockKind.DESCENT: ("kind", "name", "duration_s", "sink_m_s", "airspeed_m_s"),
    BlockKind.PAUSE: ("kind", "name", "duration_s"),
    BlockKind.THROTTLE: ("kind", "name", "duration_s", "throttle_percent", "bench_current_a", "bench_power_w"),
    BlockKind.PUNCH: ("kind", "name", "duration_s"),
    BlockKind.LANDING: ("kind", "name", "duration_s"),
}  # fmt: skip
LANDING, RANGE = "Landing", "Range"
FIRST_FINDINGS = 2
"""So many are told at first, so that the pages under them stay in view."""
VIEWS = ("Mission", "Weather", LANDING, RANGE, "Why")
GROUND_FIELDS = {"heading_deg", "out_and_back", "leg_s"}
UNSET = {"duration_s": "until landing", "ground_speed_m_s": "by airspeed", "radius_m": "wide",
         "climb_throttle_percent": "by rate", "bench_current_a": "none",
         "bench_power_w": "none"}  # fmt: skip


UNLIKE = (
    "Groups that differ from the rest of the pack, in % at take-off; without a charge of its own one begins like it."
)
CONDITIONS = (
    "conditions.air_temperature_c", "packs.0.state.temperature_c", "conditions.altitude_m", "conditions.wind_m_s",
    "conditions.wind_from_deg", "conditions.gust_m_s", "conditions.payload_g", "conditions.throttle_percent",
    "packs.0.state.start_charge_percent",
    "packs.0.state.capacity_percent", "packs.0.state.resistance_percent", "packs.0.cooling",
)  # fmt: skip


class FlightStation(Station):
    """Mission strip and traces; beside them the cursor's values, the landing rule, the block and the conditions."""

    doorway = DOORWAY

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self._flown: CompleteDesign | None = None
        self._step_up: StepUp | None = None
        self._worker = Worker(self)
        column, self.headline, side = self.lay_out(SIDE)
        self.traces = Traces(session)
        column.addWidget(self.traces.key)
        column.addWidget(self.traces, 1)
        self.readout = Readout()
        column.addWidget(self.readout)
        side.addWidget(self._findings_panel())
        self.bench = BenchPanel(session)
        side.addWidget(self.bench.widget)
        self.views = Segments(VIEWS, "Beside the flight")
        side.addWidget(self.views)
        self.landing, self.range, self.explanation = LandingPanel(session), RangePanel(), ExplainPanel(session)
        self.next = NextPanel(session, self)
        self.next.field_requested.connect(self.field_requested)
        self._pages = (
            self._block_panel(), self._weather_panel(), self.landing, self._range_page(), self.explanation
        )  # fmt: skip
        for place, page in enumerate(self._pages):
            side.addWidget(page)
            page.setVisible(place == 0)
        side.addStretch(1)
        self.views.chosen.connect(self._show_page)
        self.range.ledger.field_requested.connect(self.field_requested)
        session.spread_changed.connect(self._show_spread)
        self._worker.finished.connect(self._take_beside)
        self.traces.cursor_moved.connect(self._cursor)
        self.traces.block_chosen.connect(self.select_block)
        self.traces.length_asked.connect(self._set_length)

    @property
    def settled(self) -> bool:
        """Whether the policies have been flown."""
        return not self._worker.busy and self.next.settled

    def close_work(self) -> None:
        """Stop flying policies and what to do next."""
        self._worker.close()
        self.next.close_work()

    def _show_page(self, chosen: int) -> None:
        for place, page in enumerate(self._pages):
            page.setVisible(place == chosen)
        self._say_landing()
        if VIEWS[chosen] == RANGE:
            self.next.ask(self.session.spread)

    def _say_landing(self) -> None:
        if self.views.word == LANDING:
            self.landing.refresh(self.session.answer)

    def show_top(self, widget: QWidget | None) -> None:
        """Scroll the column until ``widget`` stands at its top; without one, to the column's own."""
        area = self.findChild(SideArea)
        bar, inside = area.verticalScrollBar(), area.widget()
        if bar is not None and inside is not None:
            bar.setValue(widget.mapTo(inside, QPoint(0, 0)).y() if widget is not None else 0)

    def _range_page(self) -> QWidget:
        """What would narrow it first, then what it comes from."""
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(12)
        column.addWidget(self.next.widget)
        column.addWidget(self.range.widget)
        return page

    def _weather_panel(self) -> QWidget:
        panel, column = sheet()
        column.addWidget(heading("Weather at take-off"))
        self._conditions = FieldGrid([field_for(self.session, f"design.{name}") for name in CONDITIONS])
        column.addWidget(self._conditions)
        column.addWidget(note(UNLIKE))
        self.unlike = RowList(
            self.session, "design.packs.0.state.groups",
            ("group", "capacity_percent", "resistance_percent", "start_charge_percent"), "group that differs",
            self._next_group, (44, 60, 72, 60), units=False, heads=("Group", "Capacity", "Resistance", "Charge"),
        )  # fmt: skip
        column.addWidget(self.unlike)
        return panel

    def _next_group(self) -> UnlikeGroup:
        """The first group that is not named yet."""
        pack = self.session.complete.pack
        named = {unlike.group for unlike in pack.state.groups}
        free = (number for number in range(1, pack.recipe.series_count + 1) if number not in named)
        return UnlikeGroup(group=next(free, 1))

    def _block_panel(self) -> QWidget:
        panel, column = sheet()
        column.addWidget(heading("Block of the mission"))
        self.blocks = Chooser()
        self.blocks.setAccessibleName("Block of the mission")
        self.blocks.activated.connect(self.select_block)
        column.addWidget(self.blocks)
        self._block_fields = SwappedFields()
        column.addWidget(self._block_fields)
        column.addWidget(
            note("Pull its edge on the strip, or type. Without a duration it lasts until the landing rule calls.")
        )
        self.block_error = note(role="error")
        self.block_error.hide()
        column.addWidget(self.block_error)
        row = QHBoxLayout()
        for text, act in (("Add one before it", self.add_block), ("Remove it", self.remove_block)):
            button = QPushButton(text)
            button.setProperty("role", "quiet")
            button.clicked.connect(act)
            row.addWidget(button)
        row.addStretch(1)
        column.addLayout(row)
        column.addWidget(note("Groups flown again: from block, to block, times; no times, until landing."))
        self.repeats = RowList(
            self.session, "mission.repeats", ("first", "last", "times"), "repeat", self._fresh_repeat, (72, 72, 72),
            units=False,
        )  # fmt: skip
        column.addWidget(self.repeats)
        self.made_for = note()
        column.addWidget(self.made_for)
        self.bind_button = QPushButton()
        self.bind_button.setProperty("role", "quiet")
        self.bind_button.clicked.connect(self._bind_mission)
        column.addWidget(self.bind_button, 0, Qt.AlignmentFlag.AlignLeft)
        return panel

    def _bind_mission(self) -> None:
        """Only for this craft, or for any."""
        craft, mission = self.session.complete.craft, self.session.complete.mission
        bound = "" if mission.craft_id else craft.id
        self._try(lambda: self.session.edit("mission.craft_id", bound, "Say which craft flies a mission"))

    def _fresh_repeat(self) -> Repeat:
        """The block that is chosen, twice."""
        return Repeat(first=self.traces.selected_block + 1, last=self.traces.selected_block + 1, times=2)

    def _findings_panel(self) -> QWidget:
        self.findings_sheet, column = sheet()
        column.addWidget(heading("Be careful about"))
        self.findings = note()
        self.findings.setProperty("role", "")
        column.addWidget(self.findings)
        self.why = WhyLinks()
        self.why.wanted.connect(self.handbook_requested)
        column.addWidget(self.why)
        self.more_findings = QPushButton()
        self.more_findings.clicked.connect(self._toggle_findings)
        column.addWidget(self.more_findings, 0, Qt.AlignmentFlag.AlignLeft)
        self._all_findings = False
        return self.findings_sheet

    def _toggle_findings(self) -> None:
        self._all_findings = not self._all_findings
        self._show_findings()

    def refresh(self) -> None:
        """Show the present flight."""
        complete, answer = self.session.complete, self.session.answer
        self.headline.setText(answer.reason.sentence)
        if self.session.spread is None:
            self.next.ask(None)
        self._conditions.refresh()
        self.unlike.refresh()
        self.readout.show_margin(
            complete.design.landing.least_margin, answer.margin_until_s, float(answer.series.time_s[-1])
        )
        self._say_landing()
        self.bench.refresh()
        if self._flown != complete:
            self._flown = complete
            self._step_up = None
            self._worker.run(partial(_beside, complete, answer), of=complete)
        blocks = complete.mission.blocks
        texts = [f"{place}  {block.label}" for place, block in enumerate(blocks, start=1)]
        if [self.blocks.itemText(i) for i in range(self.blocks.count())] != texts:
            self.blocks.clear()
            self.blocks.addItems(texts)
        self.repeats.refresh()
        self._show_made_for(complete)
        self._show_block(min(self.traces.selected_block, len(blocks) - 1))
        self.traces.redraw()
        self.range.show_spread(self.session.spread, self._left_open())
        self.explanation.refresh()
        self._show_findings()

    def _show_made_for(self, complete: CompleteDesign) -> None:
        bound = complete.mission.craft_id
        crafts = self.session.all(Craft)
        name = crafts[bound].name if bound in crafts else bound
        self.made_for.setText(
            f"{complete.mission.name} is offered to {name} only." if bound else
            f"{complete.mission.name} is offered to every craft."
        )  # fmt: skip
        self.bind_button.setText("Offer it to every craft" if bound else f"Keep it for {complete.craft.name}")

    def _take_beside(self, found: tuple[tuple[PolicyOutcome, ...], StepUp | None]) -> None:
        outcomes, self._step_up = found
        self.landing.show_policies(outcomes)
        self._show_findings()

    def _show_findings(self) -> None:
        sentences = [finding.sentence for finding in self.session.answer.findings]
        if self._step_up is not None:
            gain = format_minutes(self._step_up.gain_s)
            sentences.insert(
                min(1, len(sentences)),
                f"A step-up in front of {self._step_up.load} (+{format_grams(self._step_up.added_g)}) would give"
                f" {'+' if self._step_up.gain_s >= 0 else ''}{gain}; it would then work down to"
                f" {format_volts(self._step_up.least_bus_v, 1)}.",
            )
        shown = sentences if self._all_findings else sentences[:FIRST_FINDINGS]
        self.findings.setText("\n".join(shown))
        self.more_findings.setText("Fewer" if self._all_findings else f"All {len(sentences)}")
        self.more_findings.setVisible(len(sentences) > FIRST_FINDINGS)
        self.findings_sheet.setVisible(bool(sentences))
        self.why.show_fields(finding.field for finding in self.session.answer.findings)

    def _left_open(self) -> tuple[str, ...]:
        """What the fit of the cell does not tell; nothing of a cell flown by its sheet."""
        fitted = self.session.complete.pack.cell.fitted
        return () if fitted is None else fitted.remarks

    def _show_spread(self) -> None:
        self.range.show_spread(self.session.spread, self._left_open())
        self.traces.show_range()
        if self.views.word == RANGE:
            self.next.ask(self.session.spread)

    def select_block(self, block: int) -> None:
        """Show the fields of a block."""
        self._show_block(block)
        self.traces.select_block(block)

    def add_block(self) -> None:
        """Put a short hover before the chosen block."""
        fresh = Block(kind=BlockKind.HOVER, name="Hover", duration_s=30)
        place = self.traces.selected_block
        self._change_mission(lambda mission: with_block_added(mission, place, fresh), "Add a block")

    def remove_block(self) -> None:
        """Take the chosen block out of the mission."""
        place = self.traces.selected_block
        gone = f"Removed block {place + 1}, {self.session.complete.mission.blocks[place].label}."
        self._change_mission(lambda mission: with_block_removed(mission, place), "Remove a block", gone)

    def _change_mission(self, change: Callable[[Mission], Mission], label: str, gone: str = "") -> None:
        self._try(lambda: self.session.edit("mission", change(self.session.complete.mission), label, gone))

    def _try(self, edit: Callable[[], object]) -> None:
        try:
            edit()
        except (DocumentError, WorkspaceError) as error:
            self.block_error.setText(str(error))
            self.block_error.show()
            return
        self.block_error.hide()

    def _show_block(self, block: int) -> None:
        shown = self.session.complete.mission.blocks[block]
        self.blocks.setCurrentIndex(block)
        self.traces.selected_block = block
        self._block_fields.show_for(
            (block, shown.kind),
            lambda: [self._block_field(f"mission.blocks.{block}.{name}") for name in BLOCK_FIELDS[shown.kind]],
        )
        by_air = shown.ground_speed_m_s is None
        for field in self._block_fields.fields:
            name = field.path.rsplit(".", 1)[1]
            field.setVisible(not (by_air and name in GROUND_FIELDS))
            field.setEnabled(by_air or name != "airspeed_m_s")

    def _block_field(self, path: str) -> Field:
        unset = UNSET.get(path.rsplit(".", 1)[1])
        return QuantityField(self.session, path, default=lambda: unset) if unset else field_for(self.session, path)

    def _set_length(self, block: int, seconds: float) -> None:
        """An edge of the strip was pulled."""
        self.select_block(block)
        self._try(lambda: self.session.edit(f"mission.blocks.{block}.duration_s", seconds, "Change a block's length"))

    def _cursor(self, second: float) -> None:
        self.readout.show_at(self.session.answer, second)

    def focus_field(self, path: str) -> bool:
        """Focus a field; its page, and the block of a block's field, come into view first."""
        parts = path.split(".")
        if parts[:2] == ["mission", "blocks"]:
            self.select_block(int(parts[2]) if len(parts) > 2 else 0)
        for place, page in enumerate(self._pages):
            if any(f.path == path or f.path.startswith(path + ".") for f in FIELDS.within(page)):
                self.views.choose(place)
                break
        return super().focus_field(path)


def _beside(complete: CompleteDesign, answer: Answer) -> tuple[tuple[PolicyOutcome, ...], StepUp | None]:
    """What is flown beside the window for one answer."""
    return policies(complete, answer.factor), step_up(complete, answer)

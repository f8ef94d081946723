"""The Pack station."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import replace
from functools import partial

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QVBoxLayout

from wise_cellar.core.advice import Outcome, PackStudy, study_pack
from wise_cellar.core.answer import Severity
from wise_cellar.core.documents import CompleteDesign, DocumentError
from wise_cellar.core.pack import Alternative, stow
from wise_cellar.core.pack.cautions import LABEL
from wise_cellar.core.units import format_grams, format_mm, format_number, format_size
from wise_cellar.core.words import upper_first
from wise_cellar.store import WorkspaceError
from wise_cellar.ui.state import pack_edits
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.pack import DOORWAY
from wise_cellar.ui.stations.pack.advice_panel import AdvicePanel
from wise_cellar.ui.stations.pack.chain_view import ChainView
from wise_cellar.ui.stations.pack.controls import PackControls
from wise_cellar.ui.stations.pack.drawing import PackDrawing
from wise_cellar.ui.stations.pack.ledgers import MASS_COLUMNS, OHM_COLUMNS, mass_rows, resistance_rows
from wise_cellar.ui.widgets.ledger import Ledger
from wise_cellar.ui.widgets.lines import Line, Lines
from wise_cellar.ui.widgets.panel import heading, note, paragraph, sheet
from wise_cellar.ui.widgets.why_links import WhyLinks

SIDE = 424
MOST_FINDINGS = 4
PAUSE_MS = 200


class PackStation(Station):
    """All faces to scale; beside them the chain, what is worth changing, and the ledgers of mass and resistance."""

    doorway = DOORWAY

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        self.study: PackStudy | None = None
        self._studied: CompleteDesign | None = None
        self._worker = Worker(self)
        self._worker.finished.connect(self._take_study)
        # Whoever steps or types quickly is not slowed by proposals that nobody will read.
        self._pause = QTimer(self)
        self._pause.setSingleShot(True)
        self._pause.setInterval(PAUSE_MS)
        self._pause.timeout.connect(self._start_study)
        column, self.headline, side = self.lay_out(SIDE)
        self._lay_middle(column)
        self._lay_side(side)
        self._connect()

    def _lay_middle(self, column: QVBoxLayout) -> None:
        self.fit, self.error = note(), note(role="error")
        self.drawing, self.controls = PackDrawing(self.session), PackControls(self.session)
        self.error.hide()
        column.addWidget(self.fit)
        column.addWidget(self.drawing, 1)
        column.addWidget(self.error)
        column.addWidget(self.controls)

    def _lay_side(self, side: QVBoxLayout) -> None:
        self.findings, self.why = Lines(), WhyLinks()
        self.findings_sheet, inside = sheet(spacing=4)
        inside.addWidget(heading("Look at this"))
        inside.addLayout(self.findings)
        inside.addWidget(self.why)
        self.chain, self.advice = ChainView(), AdvicePanel()
        chained, inside = sheet()
        inside.addWidget(self.chain)
        self.care = Lines(paragraph)
        self.care_sheet, inside = sheet(spacing=4)
        inside.addWidget(heading("With care"))
        inside.addLayout(self.care)
        self.masses = Ledger("Where the mass is", MASS_COLUMNS)
        self.resistances = Ledger("Where the volts go", OHM_COLUMNS)
        ledgers, inside = sheet(spacing=14)
        inside.addWidget(self.masses)
        inside.addWidget(self.resistances)
        self.label_words = note(role="")
        label, inside = sheet(spacing=4)
        inside.addWidget(heading("On the label"))
        inside.addWidget(self.label_words)
        for advice in LABEL:
            inside.addWidget(note(advice.sentence, "caution"))
        for part in (self.findings_sheet, chained, self.advice, self.care_sheet, ledgers, label):
            side.addWidget(part)
        side.addStretch(1)

    def _connect(self) -> None:
        session = self.session
        self.why.wanted.connect(self.handbook_requested)
        for view in (self.chain, self.masses, self.resistances):
            view.field_requested.connect(self.field_requested)
        self.advice.taken.connect(self._take)
        self.controls.groups.chosen.connect(self._show_care)
        self.controls.alternatives.taken.connect(self._take_alternative)
        self.controls.by_hand_asked.connect(lambda: self._try(lambda: pack_edits.place_by_hand(session)))
        self.controls.count_asked.connect(lambda: self._try(lambda: pack_edits.count_the_rest(session)))
        self.drawing.move_asked.connect(lambda *move: self._try(lambda: pack_edits.move_cell(session, *move)))
        self.drawing.turn_asked.connect(lambda cell: self._try(lambda: pack_edits.turn_cell(session, cell)))

    @property
    def settled(self) -> bool:
        """Whether the proposals have been flown."""
        return not self._worker.busy and not self._pause.isActive()

    def close_work(self) -> None:
        """Stop flying proposals."""
        self._pause.stop()
        self._worker.close()

    def leave_workspace(self) -> None:
        """Choose no cell of the drawing."""
        self.drawing.chosen = None

    def _start_study(self) -> None:
        complete = self.session.complete
        self._worker.run(partial(study_pack, complete, self.session.answer), of=complete)

    def refresh(self) -> None:
        """Show the present pack."""
        complete, answer = self.session.complete, self.session.answer
        build, layout = answer.build, answer.build.layout
        self.error.hide()
        if self._studied != complete:
            self._studied, self.study = complete, None
            self.advice.show_waiting()
            self._worker.forget()
            self._pause.start()
        self.headline.setText(
            f"{format_size(layout.length_mm, layout.width_mm, layout.height_mm)}, {format_grams(build.mass_g)},"
            f" {format_number(build.energy_wh, 0)} Wh"
        )
        self.fit.setText(self._fit_words())
        self.fit.setVisible(bool(self.fit.text()))
        self._show_findings()
        self.drawing.refresh()
        self.controls.refresh()
        self._show_care()
        # Of several packs the recipe's is shown here, and needs no name before each link.
        links = tuple(replace(link, name=_plain(link.name)) for link in answer.recipe_links)
        self.chain.show_links(links, answer.punch_s)
        self.masses.show_rows(*mass_rows(answer))
        self.resistances.show_rows(*resistance_rows(answer, self.study))
        capacity = build.recipe.parallel_count * build.cell.capacity_mah / 1000
        short, stored = (format_number(value, 0) for value in (build.short_circuit_a, 3.6 * build.energy_wh))
        self.label_words.setText(
            f"{build.recipe.series_count}S {build.recipe.parallel_count}P, {format_number(capacity, 1)} Ah,"
            f" {format_number(build.label_wh, 0)} Wh as carriers read it (nominal volts × Ah), by the model"
            f" {format_number(build.energy_wh, 0)} Wh and {stored} kJ. Full, it drives {short} A through a short"
            " circuit, and nothing in it stops that: no tool, strip or bare plug near it."
        )

    def _take_study(self, study: PackStudy) -> None:
        self.study = study
        answer = self.session.answer
        self.advice.show_study(study, answer)
        self.resistances.show_rows(*resistance_rows(answer, study))
        self.controls.show_ways(study.alternatives, answer.build.layout, self._ways_words(study))

    def _ways_words(self, study: PackStudy) -> str:
        recipe = self.session.complete.pack.recipe
        if not study.alternatives:
            return "These cells are laid out in one way only."
        fitting = sum(way.fits for way in study.alternatives)
        if self.session.complete.bay is None or fitting:
            return f"{fitting} of {len(study.alternatives)} ways fit. Arrow keys walk them, Enter takes one."
        words = f"{recipe.series_count}S {recipe.parallel_count}P goes into the bay in none of these ways."
        if study.largest is None:
            return f"{words} Not even one of these cells fits: the bay or the cell is too small."
        best = study.largest
        return f"{words} {best.recipe.series_count}S {best.recipe.parallel_count}P would, in {best.words}."

    def _take(self, outcome: Outcome) -> None:
        self._try(lambda: pack_edits.take_recipe(self.session, outcome.proposal.recipe, outcome.proposal.words))

    def _take_alternative(self, way: Alternative) -> None:
        self._try(lambda: pack_edits.take_recipe(self.session, way.recipe, f"Arrange in {way.words}"))

    def _try(self, edit: Callable[[], object]) -> None:
        try:
            edit()
        except (DocumentError, WorkspaceError) as error:
            self.error.setText(str(error))
            self.error.show()

    def focus_field(self, path: str) -> bool:
        """Bring the group with the field into view first."""
        self.controls.show_field(path)
        return super().focus_field(path)

    def _fit_words(self) -> str:
        bay, layout = self.session.complete.bay, self.session.answer.build.layout
        name = self.session.complete.craft.name
        if self.session.complete.own_battery is not None:
            return f"{name}'s bay holds its own battery; this pack sits outside, on a mount of its own."
        if bay is None:
            return f"{name} has no battery bay yet: add its size at Craft to see whether the pack goes in."
        stowed = stow(layout, bay)
        return f"Fits {name}'s bay with {format_mm(stowed.spare_mm)} to spare." if stowed is not None else ""

    def _show_care(self) -> None:
        """What the group of fields in view asks for."""
        lines = self.controls.care
        self.care_sheet.setVisible(bool(lines))
        self.care.show_lines(lines)

    def _show_findings(self) -> None:
        """What the chain does not show already: room, balance, placement, strips."""
        in_chain = tuple(f"{link.name}:" for link in self.session.answer.links)
        found = [
            f for f in self.session.answer.findings
            if f.field.startswith(("design.packs.0.recipe", "craft.bay")) and not f.sentence.startswith(in_chain)
        ]  # fmt: skip
        self.why.show_fields(finding.field for finding in found)
        self.findings.show_lines([
            Line(finding.sentence, "error" if finding.severity is Severity.OVER else "caution")
            for finding in found[:MOST_FINDINGS]
        ])  # fmt: skip
        self.findings_sheet.setVisible(bool(found))


def _plain(name: str) -> str:
    """A link's name without its pack's."""
    own = name.split(": ", 1)[-1]
    return upper_first(own)

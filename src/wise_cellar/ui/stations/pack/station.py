"""The Pack station."""

from __future__ import annotations

from wise_cellar.core.documents import Joint
from wise_cellar.core.flight import Answer
from wise_cellar.core.pack import stow
from wise_cellar.core.units import format_number
from wise_cellar.ui.session import Session
from wise_cellar.ui.stations.base import Station
from wise_cellar.ui.stations.pack.chain_view import ChainView
from wise_cellar.ui.stations.pack.drawing import PackDrawing
from wise_cellar.ui.widgets.fields import FieldGrid, field_for
from wise_cellar.ui.widgets.ledger import Ledger, LedgerRow
from wise_cellar.ui.widgets.panel import note, sheet

SIDE = 424
JOINT_CAUTIONS = {
    Joint.SPOT_WELD: "Before you weld: cover the end you are not working on. A strip across a bare end is a short.",
    Joint.SOLDERED: "Soldering heats the seal of the cell. Use a hot, heavy tip, two seconds at most, and let it cool.",
    Joint.SPRING_HOLDER: "Springs resist much and let go in a hard landing: keep them for the bench.",
}


class PackStation(Station):
    """Both faces to scale; beside them the chain and the ledgers of mass and resistance."""

    title = "Pack"
    prefixes = ("design.recipe",)

    def __init__(self, session: Session) -> None:
        super().__init__(session)
        column, self._headline, side = self.lay_out(SIDE)
        self._fit = note()
        column.addWidget(self._fit)
        self.drawing = PackDrawing(session)
        column.addWidget(self.drawing, 1)
        names = ("arrangement", "joint", "strip.metal", "strip.width_mm", "strip.thickness_mm",
                 "strip.layers", "leads.connector", "leads.gauge_awg", "leads.length_mm")  # fmt: skip
        self._grid = FieldGrid([field_for(session, f"design.recipe.{name}") for name in names], columns=2)
        column.addWidget(self._grid)
        self._caution = note(role="caution")
        column.addWidget(self._caution)
        panel, column = sheet()
        self.chain = ChainView()
        column.addWidget(self.chain)
        side.addWidget(panel)
        panel, column = sheet(spacing=14)
        self.masses = Ledger("Where the grams are")
        self.resistances = Ledger("Where the volts go")
        column.addWidget(self.masses)
        column.addWidget(self.resistances)
        side.addWidget(panel)
        side.addStretch(1)
        for view in (self.chain, self.masses, self.resistances):
            view.field_requested.connect(self.field_requested)

    def refresh(self) -> None:
        """Show the present pack."""
        answer = self.session.answer
        layout = answer.build.layout
        self._headline.setText(
            f"{layout.length_mm:.0f} × {layout.width_mm:.0f} × {layout.height_mm:.0f} mm,"
            f" {format_number(answer.build.mass_g, 0)} g, {format_number(answer.build.energy_wh, 0)} Wh"
        )
        self._fit.setText(self._fit_words())
        self.drawing.refresh()
        self._grid.refresh()
        self._enable_what_applies()
        self._caution.setText(self._caution_words())
        self.chain.show_links(answer.links, answer.punch_s)
        self._show_masses(answer)
        self._show_resistances(answer)

    def _enable_what_applies(self) -> None:
        """Strips and layout are not the user's in a pack bought whole; pouches have one layout only."""
        cell = self.session.complete.cell_type
        for field in self._grid.fields:
            part = field.path.removeprefix("design.recipe.")
            leads = part.startswith("leads.")
            fixed = cell.whole_pack or (part == "arrangement" and not cell.form_factor.cylindrical)
            field.setEnabled(leads or not fixed)

    def _caution_words(self) -> str:
        complete = self.session.complete
        if complete.cell_type.whole_pack:
            return "A pack bought whole is not opened or re-joined; strips, joints and layout here do not apply to it."
        return JOINT_CAUTIONS[complete.design.recipe.joint]

    def _fit_words(self) -> str:
        bay, layout = self.session.complete.craft.bay, self.session.answer.build.layout
        name = self.session.complete.craft.name
        if bay is None:
            return f"{name} has no battery bay yet: add its size at Craft to see whether the pack goes in."
        stowed = stow(layout, bay)
        if stowed is not None:
            spare = stowed.spare_mm
            return (
                f"Fits {name}'s bay with {spare:.0f} mm to spare."
                " Keep the pack away from antennas and check the balance point."
            )
        return f"Does not go into {name}'s bay of {bay.length_mm:.0f} × {bay.width_mm:.0f} × {bay.height_mm:.0f} mm."

    def _show_masses(self, answer: Answer) -> None:
        total = answer.build.mass_g
        rows = [
            LedgerRow(
                e.name,
                e.mass_g / total,
                f"{format_number(e.mass_g, 1)} g",
                f"{format_number(100 * e.mass_g / total, 1)} %",
                e.field,
            )
            for e in answer.build.masses
        ]
        self.masses.show_rows(f"{format_number(total, 0)} g", rows)

    def _show_resistances(self, answer: Answer) -> None:
        """Cells at half charge and 25 °C, wiring at 20 °C, and the drop of each at the greatest cruise current."""
        recipe = self.session.complete.design.recipe
        cells = answer.cell_dcir_ohm * recipe.series_count / recipe.parallel_count
        total = cells + answer.build.wiring_ohm
        amps = answer.links[0].cruise_a * recipe.parallel_count
        entries = [("Cells, 10 s pulse", cells, "design.cell_type_id")]
        entries += [(e.name, e.ohm, e.field) for e in answer.build.resistances]
        rows = [
            LedgerRow(
                name,
                ohm / total,
                f"{format_number(ohm * 1e3, 2)} mΩ",
                f"{format_number(amps * ohm, 2)} V",
                field,
            )
            for name, ohm, field in entries
        ]
        self.resistances.show_rows(f"{format_number(total * 1e3, 1)} mΩ, volts at {amps:.0f} A", rows)

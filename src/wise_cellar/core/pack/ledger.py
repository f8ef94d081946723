"""What a pack weighs and resists, entry by entry. The interconnect is lumped: no cell shares unequally here."""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

from wise_cellar.core.cells import capacity_mah, mean_resting_v
from wise_cellar.core.documents import Bay, CellType, ConnectorClass, Joint, PackRecipe
from wise_cellar.core.pack.arrangement import PackLayout, arrange
from wise_cellar.core.physics.conductor import (
    METALS,
    SURFACE_FREE,
    SURFACE_WRAPPED,
    Conductor,
    flat_strip,
    lead_mass_kg,
    stranded_lead,
)

JOINT_OHM = {Joint.SPOT_WELD: 0.2e-3, Joint.SOLDERED: 0.15e-3, Joint.SPRING_HOLDER: 15e-3}
HOLDER_G_PER_MM = 0.18
"""Spring holder, grams for each millimetre of cell length: an estimate."""

BALANCE_GAUGE_AWG = 24
BALANCE_WIRE_MM = 120.0
BALANCE_PIN_G = 0.25
WRAP_THICKNESS_MM, WRAP_DENSITY = 0.15, 1350.0
SHEET_THICKNESS_MM, SHEET_DENSITY = 0.4, 1000.0


@dataclass(frozen=True)
class Connector:
    """A connector class: resistance of one pole, current limit, mass of the pack's half."""

    pole_ohm: float
    limit_a: float
    mass_g: float


CONNECTORS = {
    ConnectorClass.SMALL: Connector(2.0e-3, 10, 1.5),
    ConnectorClass.A30: Connector(0.8e-3, 30, 3.0),
    ConnectorClass.A60: Connector(0.5e-3, 60, 5.0),
    ConnectorClass.A90: Connector(0.3e-3, 90, 10.0),
}


@dataclass(frozen=True)
class MassEntry:
    """One line of the mass ledger, and the field that governs it."""

    name: str
    mass_g: float
    field: str


@dataclass(frozen=True)
class ResistanceEntry:
    """One line of the resistance ledger outside the cells, at pack level, and the field that governs it."""

    name: str
    ohm: float
    field: str


@dataclass(frozen=True)
class PackBuild:
    """A pack worked out: layout, ledgers, and the conductors whose limits the chain needs."""

    recipe: PackRecipe
    cell: CellType
    layout: PackLayout
    masses: tuple[MassEntry, ...]
    resistances: tuple[ResistanceEntry, ...]
    strip: Conductor
    """One strip over one cell pitch, all its layers."""
    lead: Conductor
    connector: Connector

    @property
    def mass_g(self) -> float:
        """The whole pack."""
        return sum(entry.mass_g for entry in self.masses)

    @property
    def wiring_ohm(self) -> float:
        """Everything between the cells and the craft's side of the connector, at 20 °C."""
        return sum(entry.ohm for entry in self.resistances)

    @property
    def energy_wh(self) -> float:
        """Energy at rest, full to empty: capacity times mean open-circuit voltage, as fitted or by the family."""
        count = self.recipe.series_count * self.recipe.parallel_count
        return count * capacity_mah(self.cell) / 1000 * mean_resting_v(self.cell)

    @property
    def units(self) -> float:
        """How many are bought; not whole where a recipe asks for a part of a pack that is bought whole."""
        return self.recipe.series_count / self.cell.cells_in_series * self.recipe.parallel_count

    @property
    def outer_area_m2(self) -> float:
        """Outer surface of the pack, which is what it cools through."""
        length, width, height = self.layout.length_mm, self.layout.width_mm, self.layout.height_mm
        return 2e-6 * (length * width + length * height + width * height)


@lru_cache(maxsize=512)
def build_pack(recipe: PackRecipe, cell: CellType, bay: Bay | None = None) -> PackBuild:
    """Work a recipe out for one cell type; ``bay`` only guides the folding of the layout."""
    layout = arrange(recipe, cell, bay)
    strip = flat_strip(
        METALS[recipe.strip.metal],
        layout.pitch_mm * 1e-3,
        recipe.strip.width_mm * 1e-3,
        recipe.strip.thickness_mm * recipe.strip.layers * 1e-3,
        SURFACE_WRAPPED,
    )
    lead = stranded_lead(recipe.leads.gauge_awg, recipe.leads.length_mm * 1e-3, SURFACE_FREE)
    connector = CONNECTORS[recipe.leads.connector]
    return PackBuild(
        recipe,
        cell,
        layout,
        _bought_masses(recipe, cell, connector) if cell.whole_pack else _masses(recipe, cell, layout, strip, connector),
        _bought_resistances(recipe, cell, lead, connector)
        if cell.whole_pack
        else _resistances(recipe, layout, strip, lead, connector),
        strip,
        lead,
        connector,
    )


def _masses(
    recipe: PackRecipe, cell: CellType, layout: PackLayout, strip: Conductor, connector: Connector
) -> tuple[MassEntry, ...]:
    count = recipe.series_count * recipe.parallel_count
    per_mm = strip.metal.density * strip.area_m2  # kg/m = g/mm
    # Every weld needs a tail beyond the cell's centre; one strip width a run covers both ends.
    run_mm = sum(run.length_mm + recipe.strip.width_mm for run in layout.strips)
    if recipe.parallel_count == 1:
        run_mm += 2 * 1.5 * recipe.strip.width_mm  # tabs for the leads
    leads_g = 2e3 * lead_mass_kg(recipe.leads.gauge_awg, recipe.leads.length_mm * 1e-3)
    wire_mm = BALANCE_WIRE_MM + layout.length_mm / 2
    balance_g = (recipe.series_count + 1) * (1e3 * lead_mass_kg(BALANCE_GAUGE_AWG, wire_mm * 1e-3) + BALANCE_PIN_G)
    girth_mm = 2 * (layout.width_mm + layout.height_mm)
    wrap_g = girth_mm * (layout.length_mm + layout.height_mm / 2) * WRAP_THICKNESS_MM * WRAP_DENSITY * 1e-6
    sheets_g = 2 * layout.length_mm * layout.width_mm * SHEET_THICKNESS_MM * SHEET_DENSITY * 1e-6
    entries = [
        MassEntry(f"{count} cells" if count > 1 else "1 cell", count * cell.mass_g, "cell_type.mass_g"),
        MassEntry("Strips", run_mm * per_mm, "design.recipe.strip.width_mm"),
        MassEntry("Leads", leads_g, "design.recipe.leads.gauge_awg"),
        MassEntry("Connector", connector.mass_g, "design.recipe.leads.connector"),
        MassEntry("Balance lead", balance_g, "design.recipe.series_count"),
        MassEntry("Wrap and end sheets", wrap_g + sheets_g, "design.recipe.arrangement"),
    ]
    if recipe.joint is Joint.SPRING_HOLDER:
        entries.append(MassEntry("Spring holder", count * HOLDER_G_PER_MM * cell.length_mm, "design.recipe.joint"))
    return tuple(entries)


def _bought_masses(recipe: PackRecipe, cell: CellType, connector: Connector) -> tuple[MassEntry, ...]:
    """Packs with their own leads; an adaptor of the recipe's leads where there are several."""
    units = recipe.series_count / cell.cells_in_series * recipe.parallel_count
    entries = [
        MassEntry(f"{units:g} packs" if units != 1 else "1 pack, with leads", units * cell.mass_g, "cell_type.mass_g")
    ]
    if units > 1:
        leads_g = 2e3 * lead_mass_kg(recipe.leads.gauge_awg, recipe.leads.length_mm * 1e-3)
        entries.append(MassEntry("Adaptor leads", leads_g, "design.recipe.leads.gauge_awg"))
        entries.append(MassEntry("Adaptor connectors", (units + 1) * connector.mass_g, "design.recipe.leads.connector"))
    return tuple(entries)


def _bought_resistances(
    recipe: PackRecipe, cell: CellType, lead: Conductor, connector: Connector
) -> tuple[ResistanceEntry, ...]:
    """A pack's own leads count in its cells' resistance, as a charger reads it at the plug."""
    units = recipe.series_count / cell.cells_in_series * recipe.parallel_count
    entries = [ResistanceEntry("Connector", 2 * connector.pole_ohm, "design.recipe.leads.connector")]
    if units > 1:
        entries.append(ResistanceEntry("Adaptor leads", 2 * lead.resistance_ohm(), "design.recipe.leads.gauge_awg"))
    return tuple(entries)


def _resistances(
    recipe: PackRecipe, layout: PackLayout, strip: Conductor, lead: Conductor, connector: Connector
) -> tuple[ResistanceEntry, ...]:
    series, parallel = recipe.series_count, recipe.parallel_count
    segment = strip.resistance_ohm()
    at_end = segment * _collecting_share(parallel, 0)
    at_lead = segment * _collecting_share(parallel, layout.lead_row)
    links = (series - 1 - layout.folds) * segment / parallel + layout.folds * (segment + 2 * at_end)
    return (
        ResistanceEntry("Joints", 2 * series * JOINT_OHM[recipe.joint] / parallel, "design.recipe.joint"),
        ResistanceEntry("Strips", links + 2 * at_lead, "design.recipe.strip.thickness_mm"),
        ResistanceEntry("Leads", 2 * lead.resistance_ohm(), "design.recipe.leads.gauge_awg"),
        ResistanceEntry("Connector", 2 * connector.pole_ohm, "design.recipe.leads.connector"),
    )


def _collecting_share(parallel: int, row: int) -> float:
    """Resistance of a bar of ``parallel`` evenly fed points taken off at ``row``, over that of one segment.

    Equal loss: each segment carries k/P of the current, k the cells beyond it, so R = r·Σ(k/P)² over both arms.
    """
    arms = (row, parallel - 1 - row)
    return sum(k * k for arm in arms for k in range(1, arm + 1)) / parallel**2

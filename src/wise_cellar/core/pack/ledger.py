"""What a pack weighs and resists, entry by entry."""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import cached_property, lru_cache
from typing import Any

from wise_cellar.core.cells import believed, capacity_mah, electrical, mean_resting_v, resting_curve
from wise_cellar.core.documents import Bay, CellType, ConnectorClass, Joint, Leads, OcvFamily, PackRecipe, Spacer
from wise_cellar.core.pack.arrangement import arrange, shape_of
from wise_cellar.core.pack.interconnect import AlikeCircuits, Interconnect, run_conductors, solve_interconnect
from wise_cellar.core.pack.joining import SCHOOLS
from wise_cellar.core.pack.layout import PackLayout, RunKind
from wise_cellar.core.physics.conductor import (
    LEAD_RISE_K,
    METALS,
    Conductor,
    Heating,
    lead_mass_kg,
    stranded_lead,
)
from wise_cellar.core.units import format_significant

HOLDER_G_PER_MM = 0.18
"""Spring holder, grams for each millimetre of cell length: an estimate."""

BALANCE_PIN_G = 0.25
SHRINK_DENSITY, SHEET_DENSITY = 1350.0, 1000.0
FRAME_G, STRAP_G, ADAPTOR_LEAD_MM = 1.6, 6.0, 80.0
"""Frames at both ends of a cell; a strap with its buckle; the leads of an adaptor: estimates."""
FOR_GOOD, IN_A_BURST = 0.8, 1.5
FUSE_V, FUSE_G, FUSE_TIME_S, FUSE_BURST = 0.09, 9.0, 10.0, 1.35
"""Volts that a blade fuse drops at its rating, grams with its holder, how quickly its link warms, and how many times
its rating it may carry for a moment: estimates of its class (ISO 8820-3 lets it open from 1.35 times on)."""
FUSES_A = (3, 5, 7.5, 10, 15, 20, 25, 30, 40, 50, 60, 80, 100, 125, 150, 200)
"""Ratings that blade and bolted fuses are sold in (ISO 8820)."""
NOMINAL_V, NOMINAL_V_LFP = 3.6, 3.2
"""Volts a cell that labels usually say."""
CONTACT_METAL = 0.25
"""Share of a connector's mass that warms with its contacts in a burst: an estimate."""
SHRINK_SLACK = 1.05
"""A sleeve must slip over the pack before it shrinks."""


@dataclass(frozen=True)
class Connector:
    """A connector by its class: resistance of one pole, the current it is sold for, mass of the pack's half."""

    pole_ohm: float
    limit_a: float
    mass_g: float

    @property
    def good_a(self) -> float:
        """For good: 0.8 of its class, the derating of IEC 60512-5-2."""
        return FOR_GOOD * self.limit_a

    @property
    def burst_a(self) -> float:
        """The most in a burst, however short: 1.5 times its class, an estimate of the craft."""
        return IN_A_BURST * self.limit_a

    @property
    def heating(self) -> Heating:
        """Both halves, as brass that 0.8 of the class warms by 40 K for good: an estimate."""
        loss_w_k = 2 * self.pole_ohm * self.good_a**2 / LEAD_RISE_K
        heat_j_k = 2e-3 * CONTACT_METAL * self.mass_g * METALS["brass"].specific_heat
        return Heating(LEAD_RISE_K / self.good_a**2, heat_j_k / loss_w_k)

    @classmethod
    def of(cls, leads: Leads) -> Connector:
        """As worn as it is: poles of more resistance carry less for the same heat, by its root."""
        new = CONNECTORS[leads.connector]
        return replace(new, pole_ohm=new.pole_ohm * leads.wear, limit_a=new.limit_a / math.sqrt(leads.wear))


def fuse_heating(fuse_a: float) -> tuple[Heating, float]:
    """How a blade fuse warms, its 0.8 being what it carries for good, and the most that it bears for a moment, A.

    Source: ISO 8820-3 (it may open from 1.35 times its rating on); derating and time are our estimates.
    """
    return Heating(LEAD_RISE_K / (FOR_GOOD * fuse_a) ** 2, FUSE_TIME_S), FUSE_BURST * fuse_a


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
    """A pack worked out: layout, circuit, ledgers, and the conductors whose limits the chain needs."""

    recipe: PackRecipe
    cell: CellType
    layout: PackLayout
    lead: Conductor
    connector: Connector

    @cached_property
    def interconnect(self) -> Interconnect | None:
        """The solved circuit; none of packs bought whole."""
        return None if self.cell.whole_pack else solve_interconnect(self.recipe, self.cell, self.layout)

    @cached_property
    def parts(self) -> tuple[MassEntry, ...]:
        """What weighs, in order of building."""
        return _bought_masses(self) if self.cell.whole_pack else _masses(self)

    @cached_property
    def masses(self) -> tuple[MassEntry, ...]:
        """The parts, and what the scale found more than them, or less, where the pack was weighed."""
        weighed = self.recipe.weighed_g
        if weighed is None:
            return self.parts
        return (*self.parts, MassEntry("Found on the scale", weighed - self.parts_g, "recipe.weighed_g"))

    @property
    def parts_g(self) -> float:
        """The whole pack by its parts."""
        return sum(entry.mass_g for entry in self.parts)

    @cached_property
    def resistances(self) -> tuple[ResistanceEntry, ...]:
        """What resists outside the cells, from them outwards."""
        return _resistances(self)

    @property
    def mass_g(self) -> float:
        """The whole pack, as it was weighed where it was."""
        return sum(entry.mass_g for entry in self.masses)

    @property
    def wiring_ohm(self) -> float:
        """Everything between the cells and the craft's side of the connector, at 20 °C."""
        return sum(entry.ohm for entry in self.resistances)

    @property
    def worst_share(self) -> float:
        """Current of the cell that carries most over the mean of its group, at the start and in a burst."""
        return self.interconnect.worst_share if self.interconnect is not None else 1.0

    @property
    def energy_wh(self) -> float:
        """Energy at rest, full to empty: capacity times mean open-circuit voltage, as fitted or by the family."""
        count = self.recipe.series_count * self.recipe.parallel_count
        return count * capacity_mah(self.cell) / 1000 * mean_resting_v(self.cell)

    @property
    def label_wh(self) -> float:
        """As carriers read it: nominal volts, 3.6 a cell (iron phosphate 3.2) where no label says, times the label's
        ampere-hours."""
        count = self.recipe.series_count * self.recipe.parallel_count
        usual = NOMINAL_V_LFP if self.cell.ocv_family is OcvFamily.LFP else NOMINAL_V
        return count * self.cell.capacity_mah / 1000 * (self.cell.nominal_voltage_v or usual)

    @property
    def short_circuit_a(self) -> float:
        """Current of the full pack into a short circuit at its plug, at 25 °C, before anything gives way."""
        parameters, curve = electrical(self.cell), resting_curve(self.cell)
        full_v = self.recipe.series_count * float(curve.values[-1])
        cells = self.recipe.series_count * parameters["r0_ohm"] / self.recipe.parallel_count
        return full_v / (cells + self.wiring_ohm)

    @property
    def units(self) -> float:
        """How many are bought; not whole where a recipe asks for a part of a pack that is bought whole."""
        return self.recipe.series_count / self.cell.cells_in_series * self.recipe.parallel_count

    @property
    def outer_area_m2(self) -> float:
        """Outer surface of the pack, which is what it cools through."""
        length, width, height = self.layout.length_mm, self.layout.width_mm, self.layout.height_mm
        return 2e-6 * (length * width + length * height + width * height)

    @cached_property
    def sleeve(self) -> tuple[float, float]:
        """Heat-shrink to cut: flat width and length, mm; half the girth with slack, and past both ends."""
        sides = sorted((self.layout.length_mm, self.layout.width_mm, self.layout.height_mm))
        return SHRINK_SLACK * (sides[0] + sides[1]), sides[2] + sides[0]


@lru_cache(maxsize=512)
def build_pack(recipe: PackRecipe, cell: CellType, bay: Bay | None = None) -> PackBuild:
    """Work a recipe out for one cell type; ``bay`` only guides the folding of the layout."""
    return build_layout(recipe, cell, arrange(recipe, shape_of(cell), bay))


def build_layout(recipe: PackRecipe, cell: CellType, layout: PackLayout) -> PackBuild:
    """Work a recipe out for a layout of its own."""
    lead = stranded_lead(recipe.leads.gauge_awg, recipe.leads.length_mm * 1e-3)
    connector = Connector.of(recipe.leads)
    return PackBuild(recipe, cell, layout, lead, connector)


def _masses(build: PackBuild) -> tuple[MassEntry, ...]:
    recipe, cell = build.recipe, build.cell
    count = recipe.series_count * recipe.parallel_count
    strips, *body = body_masses(build)
    cells, *joints = cell_masses(cell, count, recipe.joint)
    entries = [cells, strips, *joints, *lead_masses(recipe.leads), *body]
    return tuple(entry for entry in entries if entry.mass_g)


def cell_masses(cell: CellType, count: float, joint: Joint | None) -> list[MassEntry]:
    """Cells, and what joining them adds besides strips; of ``count`` packs bought whole, which nobody joins, these.

    Grams. Source: the cell's sheet, or the median of three specimens or more;
    solder and holders are our estimates (`SCHOOLS`, `HOLDER_G_PER_MM`).
    """
    bench = believed(cell, "mass_g")
    each_g = cell.mass_g if bench is None else bench.median
    if joint is None:
        return [
            MassEntry(
                f"{format_significant(count)} packs" if count != 1 else "1 pack, with leads",
                count * each_g,
                "cell.mass_g",
            )
        ]
    holder = HOLDER_G_PER_MM * cell.length_mm if joint is Joint.SPRING_HOLDER else 0.0
    return [
        MassEntry(f"{format_significant(count)} cells" if count > 1 else "1 cell", count * each_g, "cell.mass_g"),
        MassEntry("Solder", 2 * count * SCHOOLS[joint].joint_g, "recipe.joint"),
        MassEntry("Spring holder", count * holder, "recipe.joint"),
    ]


def body_masses(build: PackBuild) -> list[MassEntry]:
    """What hangs on the layout and on nothing electrical: strips first, balance lead, insulation, what holds it.

    Grams. Source: densities times the sizes of the layout; coverings and fittings are our estimates.
    """
    if build.cell.whole_pack:
        return [MassEntry("Strips", 0.0, "recipe.strip.width_mm"), *_held(build)]
    balance = _balance_g(build) if build.recipe.balance.fitted else 0.0
    return [
        MassEntry("Strips", _strip_g(build), "recipe.strip.width_mm"),
        MassEntry("Balance lead", balance, "recipe.balance.length_mm"),
        *_fitting_masses(build, build.recipe.series_count * build.recipe.parallel_count),
    ]


def _strip_g(build: PackBuild) -> float:
    """Every piece is one strip width longer than its runs: a tail beyond the last cell's centre at both ends."""
    recipe, tails = build.recipe, set[int]()
    conductors = run_conductors(recipe, build.layout.strips)
    grams = 0.0
    for run, conductor in zip(build.layout.strips, conductors, strict=True):
        tail = recipe.strip.width_mm if run.piece not in tails and run.kind is not RunKind.WIRE else 0.0
        tails.add(run.piece)
        grams += conductor.mass_per_m * (run.length_mm + tail)  # kg/m = g/mm
    if recipe.parallel_count == 1 and conductors:
        grams += 2 * 1.5 * recipe.strip.width_mm * conductors[0].mass_per_m  # tabs for the leads
    return grams


def lead_masses(leads: Leads, units: float | None = None) -> list[MassEntry]:
    """Leads, connector and adaptors; of ``units`` packs bought whole, which have their own, what joins several.

    Grams. Source: copper and silicone of the gauge (:func:`lead_mass_kg`); connectors by class, our estimates.
    """
    per_mm, connector = lead_mass_kg(leads.gauge_awg, 1.0), CONNECTORS[leads.connector]
    both_g, field = 2 * leads.length_mm * per_mm, "recipe.leads.gauge_awg"
    if units is not None:
        several = units > 1
        return [
            MassEntry("Adaptor leads", both_g * several, field),
            MassEntry("Adaptor connectors", (units + 1) * connector.mass_g * several, "recipe.leads.connector"),
            *_fuse_g(leads),
        ]
    each = 2 * connector.mass_g + 2 * ADAPTOR_LEAD_MM * per_mm
    return [
        MassEntry("Leads", both_g, field),
        MassEntry("Connector", connector.mass_g, "recipe.leads.connector"),
        MassEntry("Adaptors", leads.adaptors * each, "recipe.leads.adaptors"),
        *_fuse_g(leads),
    ]


def _fuse_g(leads: Leads) -> list[MassEntry]:
    return [MassEntry("Fuse", FUSE_G, "recipe.leads.fuse_a")] if leads.fuse_a is not None else []


def _balance_g(build: PackBuild) -> float:
    """Wires from every node: outside the pack, and half its length inside on the mean."""
    balance = build.recipe.balance
    wire_m = 1e-3 * (balance.length_mm + build.layout.length_mm / 2)
    return (build.recipe.series_count + 1) * (1e3 * lead_mass_kg(balance.gauge_awg, wire_m) + BALANCE_PIN_G)


def _fitting_masses(build: PackBuild, count: int) -> list[MassEntry]:
    fittings, layout = build.recipe.fittings, build.layout
    flat, long = build.sleeve
    faces = 2 * layout.tiers if not layout.any_way_up else 2
    ends = faces * layout.length_mm * layout.width_mm
    if layout.lying:
        ends = 2 * layout.width_mm * layout.height_mm
    frames = fittings.spacer is Spacer.FRAME and build.cell.form_factor.cylindrical
    listed = [
        MassEntry("End insulation", ends * fittings.end_sheet_mm * SHEET_DENSITY * 1e-6,
                  "recipe.fittings.end_sheet_mm"),
        MassEntry("Heat-shrink", 2 * flat * long * fittings.shrink_mm * SHRINK_DENSITY * 1e-6,
                  "recipe.fittings.shrink_mm"),
        MassEntry("Frames", FRAME_G * count if frames else 0.0, "recipe.fittings.spacer"),
        *_held(build),
    ]  # fmt: skip
    return listed


def _held(build: PackBuild) -> list[MassEntry]:
    fittings = build.recipe.fittings
    return [
        MassEntry("Straps", STRAP_G * fittings.straps, "recipe.fittings.straps"),
        MassEntry("Mount", fittings.mount_g, "recipe.fittings.mount_g"),
        MassEntry("Other", fittings.other_g, "recipe.fittings.other_g"),
    ]


def _bought_masses(build: PackBuild) -> tuple[MassEntry, ...]:
    """Packs with their own leads; an adaptor of the recipe's leads where there are several."""
    cells = cell_masses(build.cell, build.units, None)
    entries = [*cells, *lead_masses(build.recipe.leads, build.units), *body_masses(build)]
    return tuple(entry for entry in entries if entry.mass_g)


def lead_resistances(leads: Leads, units: float | None = None) -> list[ResistanceEntry]:
    """Leads, connector and adaptors at pack level; of ``units`` packs bought whole what joins them.

    The own leads of a pack bought whole count in its cells' resistance, as a charger reads it at the plug.
    Ohms at 20 °C. Source: R = ρL/A of both leads, two poles of a connector by class, our estimates.
    Not modelled: worn contacts.
    """
    wire = stranded_lead(leads.gauge_awg, leads.length_mm * 1e-3)
    plug = ResistanceEntry("Connector", 2 * Connector.of(leads).pole_ohm, "recipe.leads.connector")
    wires_ohm, field = 2 * wire.resistance_ohm(), "recipe.leads.gauge_awg"
    fuses = [] if leads.fuse_a is None else [ResistanceEntry("Fuse", FUSE_V / leads.fuse_a, "recipe.leads.fuse_a")]
    if units is not None:
        several = [ResistanceEntry("Adaptor leads", wires_ohm, field)] if units > 1 else []
        return [plug, *several, *fuses]
    entries = [ResistanceEntry("Leads", wires_ohm, field), plug, *fuses]
    if leads.adaptors:
        each = plug.ohm + wires_ohm * ADAPTOR_LEAD_MM / leads.length_mm
        entries.append(ResistanceEntry("Adaptors", leads.adaptors * each, "recipe.leads.adaptors"))
    return entries


def _resistances(build: PackBuild) -> tuple[ResistanceEntry, ...]:
    """The parts of the circuit by their loss, and what follows it outwards."""
    circuit, leads = build.interconnect, build.recipe.leads
    if circuit is None:
        return tuple(lead_resistances(leads, build.units))
    return (
        *(
            ResistanceEntry(name, float(ohm), field)
            for name, ohm, field in circuit_ohms(circuit, circuit.parallel_count)
        ),
        *lead_resistances(leads),
    )


def circuit_ohms(circuit: Interconnect | AlikeCircuits, parallel_count: int) -> list[tuple[str, Any, str]]:
    """What the circuit of a pack, or of several alike, resists beyond its cells at pack level: name, ohms, field.

    Source: the losses of joints, strips and uneven sharing in the solved circuit, over the square of its current.
    """
    found: list[tuple[str, Any, str]] = [
        ("Joints", circuit.joint_ohm, "recipe.joint"),
        ("Strips", circuit.strip_ohm, "recipe.strip.thickness_mm"),
    ]
    if parallel_count > 1:
        found.append(("Uneven sharing", circuit.uneven_ohm, "recipe.leads.exit"))
    return found

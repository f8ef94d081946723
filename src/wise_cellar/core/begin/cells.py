"""A cell type made of what was said of it, and of what is usual for its class; and a pack's recipe for it."""

from __future__ import annotations

from typing import Any

import numpy as np

from wise_cellar.core.begin.description import Chemistry, Description, dimensions_mm
from wise_cellar.core.begin.sizes import rounded
from wise_cellar.core.documents import (
    CellType,
    ConnectorClass,
    FormFactor,
    KineticClass,
    Leads,
    OcvFamily,
    PackRecipe,
    SourceKind,
    ValueSource,
)

_FAMILIES: dict[Chemistry, tuple[OcvFamily, KineticClass]] = {
    Chemistry.POWER: (OcvFamily.POWER_NCA, KineticClass.POWER_CYLINDER),
    Chemistry.ENERGY: (OcvFamily.ENERGY_NMC_SIOX, KineticClass.ENERGY_CYLINDER),
    Chemistry.POLYMER: (OcvFamily.POLYMER, KineticClass.POLYMER_POUCH),
    Chemistry.HIGH_VOLTAGE_POLYMER: (OcvFamily.HIGH_VOLTAGE_POLYMER, KineticClass.POLYMER_POUCH),
    Chemistry.IRON_PHOSPHATE: (OcvFamily.LFP, KineticClass.POWER_CYLINDER),
}
_VOLTS: dict[Chemistry, tuple[float, float]] = {
    Chemistry.POLYMER: (3.0, 4.2),
    Chemistry.HIGH_VOLTAGE_POLYMER: (3.0, 4.35),
    Chemistry.IRON_PHOSPHATE: (2.0, 3.65),
}
MAH_CM3, IRON_MAH_CM3 = 180.0, 105.0
"""Charge in a cylinder of its size."""
OHM_MAH = {
    Chemistry.POWER: 72_000.0, Chemistry.ENERGY: 140_000.0, Chemistry.POLYMER: 20_000.0,
    Chemistry.HIGH_VOLTAGE_POLYMER: 20_000.0, Chemistry.IRON_PHOSPHATE: 60_000.0,
}  # fmt: skip
"""Resistance of a cell times its capacity, mΩ·mAh."""
C_RATES = {
    Chemistry.POWER: 6.0, Chemistry.ENERGY: 2.2, Chemistry.POLYMER: 30.0, Chemistry.HIGH_VOLTAGE_POLYMER: 30.0,
    Chemistry.IRON_PHOSPHATE: 8.0,
}  # fmt: skip
POWER_FROM_C = 4.0
"""A cylinder that is good for so many times its capacity is a power cell."""
CYLINDER_G_CM3, POUCH_G_CM3 = 2.75, 2.45
CYLINDER_WH_KG, CYLINDER_V = 262.0, 3.63
"""Of a cell with much in it: what holds more is packed more densely, and weighs more."""
PACK_WH, PACK_WH_KG = (1.0, 10.0, 40.0, 100.0, 400.0), (105.0, 120.0, 140.0, 155.0, 165.0)
"""Energy in a kilogram of a polymer pack bought whole, by its energy."""
POLYMER_V = 3.7
PROPORTIONS = (3.2, 1.0, 0.65)
"""Length, width and thickness of a pack bought whole."""
LEAD_A, LEAD_AWG = (3.0, 5.5, 9.0, 13.0, 19.0, 27.0, 38.0, 55.0), (24, 22, 20, 18, 16, 14, 12, 10, 8)
PLUGS = ((4.0, ConnectorClass.SMALL), (20.0, ConnectorClass.A30), (40.0, ConnectorClass.A60))


def chemistry_of(said: Description) -> Chemistry:
    """As told, else by what a cylinder is good for, else power cells; a battery bought whole is polymer."""
    if said.chemistry is not None:
        return said.chemistry
    if said.whole_pack:
        return Chemistry.POLYMER
    rate = said.c_rating
    if said.current_a is not None and said.capacity_mah is not None:
        rate = said.current_a / said.capacity_mah * 1000
    return Chemistry.ENERGY if rate is not None and rate < POWER_FROM_C else Chemistry.POWER


def cell_type_of(said: Description, identifier: str, name: str, *, series: int = 1) -> CellType:
    """The cell type, or the pack bought whole of ``series`` cells; what was not said is marked as an estimate.

    Raises :class:`DocumentError` where what was said cannot be. Source: our estimates for the class.
    """
    chemistry = chemistry_of(said)
    family, kinetics = _FAMILIES[chemistry]
    low, full = _VOLTS.get(chemistry, (2.5, 4.2))
    series = said.series_count or series
    shape = _cylinder(said, chemistry) if said.size else _whole(said, series)
    capacity, mass = shape.pop("capacity_mah"), shape.pop("mass_g")
    current = said.current_a
    if current is None and said.c_rating is None:
        current = rounded(C_RATES[chemistry] * capacity / 1000)
    told = ("capacity_mah", "mass_g", "c_rating")
    names = [name for name in told if getattr(said, name) is not None]
    names += ["continuous_current_a"] if said.current_a is not None else []
    names += ["dcir_mohm"] if said.resistance_mohm is not None else []
    return CellType(
        id=identifier, name=name, source=SourceKind.ESTIMATE, mass_g=mass, capacity_mah=capacity,
        dcir_mohm=said.resistance_mohm or max(rounded(OHM_MAH[chemistry] / capacity), 0.6),
        continuous_current_a=current, c_rating=said.c_rating, min_voltage_v=low, max_voltage_v=full,
        min_temperature_c=0.0 if chemistry.pouch else -20.0, ocv_family=family, kinetic_class=kinetics,
        sources=tuple(ValueSource(field=name, kind=SourceKind.MAKERS_SHEET) for name in names), **shape,
    )  # fmt: skip


def _cylinder(said: Description, chemistry: Chemistry) -> dict[str, Any]:
    diameter, length = dimensions_mm(said.size)
    litre = np.pi * (diameter / 20) ** 2 * length / 10
    held = IRON_MAH_CM3 if chemistry is Chemistry.IRON_PHOSPHATE else MAH_CM3
    form = {"18650": FormFactor.C18650, "21700": FormFactor.C21700}.get(said.size, FormFactor.OTHER_CYLINDER)
    capacity = said.capacity_mah or rounded(held * litre)
    energy_g = capacity * 1e-3 * CYLINDER_V / CYLINDER_WH_KG * 1000
    return {
        "form_factor": form, "diameter_mm": diameter + 0.3, "length_mm": length + 0.2,
        "capacity_mah": capacity,
        "mass_g": said.mass_g or rounded(max(CYLINDER_G_CM3 * litre, energy_g)),
    }  # fmt: skip


def _whole(said: Description, series: int) -> dict[str, Any]:
    capacity = said.capacity_mah or 1000.0
    mass = said.mass_g or rounded(pack_mass_g(capacity * 1e-3 * series * POLYMER_V))
    side = (mass / POUCH_G_CM3 * 1000 / float(np.prod(PROPORTIONS))) ** (1 / 3)
    length, width, thick = (round(side * share, 1) for share in PROPORTIONS)
    return {
        "form_factor": FormFactor.WHOLE_PACK, "cells_in_series": series, "capacity_mah": capacity, "mass_g": mass,
        "length_mm": min(max(length, 11.0), 399.0), "width_mm": min(max(width, 6.0), 299.0),
        "thickness_mm": min(max(thick, 3.0), 199.0),
    }  # fmt: skip


def pack_mass_g(energy_wh: float) -> float:
    """Mass of a polymer pack bought whole, g, by its energy. Source: our estimate for the class."""
    return energy_wh / float(np.interp(np.log(energy_wh), np.log(PACK_WH), PACK_WH_KG)) * 1000


def recipe_for(cell: CellType, series: int, parallel: int, lasting_a: float, length_mm: float) -> PackRecipe:
    """A pack of such cells that feeds ``lasting_a`` for good, on leads and a plug that are usual for that.

    Source: our estimates for the class.
    """
    gauge = LEAD_AWG[min(int(np.searchsorted(LEAD_A, lasting_a)), len(LEAD_AWG) - 1)]
    plug = next((plug for limit, plug in PLUGS if lasting_a <= limit), ConnectorClass.A90)
    leads = Leads(gauge_awg=gauge, length_mm=length_mm, connector=plug)
    return PackRecipe(series_count=series, parallel_count=1 if cell.whole_pack else parallel, leads=leads)

"""Documents for tests: invented, complete, and easy to vary."""

from __future__ import annotations

from typing import Any

import numpy as np

from wise_cellar.core.documents import (
    Block,
    CellType,
    CompleteDesign,
    Conditions,
    Cooling,
    Craft,
    Design,
    Esc,
    FittedModel,
    LandingRule,
    Leads,
    Load,
    Mission,
    Motor,
    Pack,
    PackRecipe,
    PackRole,
    PackState,
    Part,
    Rotors,
    Strip,
)
from wise_cellar.core.physics.ocv import ocv_curve


def cell_type(**changes: Any) -> CellType:
    values = {
        "id": "cell",
        "name": "Fell 21-45P",
        "form_factor": "21700",
        "diameter_mm": 21.2,
        "length_mm": 70.2,
        "mass_g": 70,
        "capacity_mah": 4500,
        "dcir_mohm": 15,
        "continuous_current_a": 35,
        "pulse_current_a": 60,
        "ocv_family": "liion_energy_nmc_siox",
        "kinetic_class": "energy cylinder",
    }
    return CellType.from_data(values | changes)


def whole_pack(**changes: Any) -> CellType:
    """A polymer pack of two cells, bought whole."""
    values = {
        "id": "pack",
        "name": "Reed 2S 1900",
        "form_factor": "pack bought whole",
        "diameter_mm": None,
        "width_mm": 34,
        "thickness_mm": 15,
        "length_mm": 74,
        "cells_in_series": 2,
        "mass_g": 95,
        "capacity_mah": 1900,
        "dcir_mohm": 9,
        "continuous_current_a": None,
        "c_rating": 40,
        "pulse_current_a": None,
        "min_voltage_v": 3.0,
        "ocv_family": "lipo_hobby",
        "kinetic_class": "polymer pouch",
    }
    return cell_type(**(values | changes))


def craft(**changes: Any) -> Craft:
    values = {
        "id": "craft",
        "name": "Whimbrel",
        "parts": (Part(name="airframe", mass_g=700), Part(name="motors", mass_g=450)),
        "rotors": Rotors(diameter_mm=254, pitch_mm=114),
        "motor": Motor(kv_rpm_per_v=920, resistance_mohm=90, no_load_current_a=0.6, max_current_a=40),
        "esc": Esc(max_current_a=40, max_voltage_v=26),
        "loads": (Load(name="flight controller", power_w=4, min_input_v=4.5),),
    }
    return Craft(**(values | changes))


def mission(*blocks: Block) -> Mission:
    return Mission(id="mission", name="Transect", blocks=blocks or (Block(kind="cruise", airspeed_m_s=9), LANDING))


TAKE_OFF = Block(kind="take-off", duration_s=20, climb_m_s=2)
PUNCH = Block(kind="punch", duration_s=5)
LANDING = Block(kind="landing", duration_s=30)


def cruise(seconds: float | None = None, airspeed: float = 9) -> Block:
    return Block(kind="cruise", duration_s=seconds, airspeed_m_s=airspeed)


def beside(design: CompleteDesign, *others: tuple[CellType, dict[str, Any]]) -> CompleteDesign:
    """The design with more packs on its bus: each its cell type, and what differs from a pack of the design's
    recipe; ``own`` makes it the craft's own battery, and fields of its state may stand among the others."""
    packs = []
    for number, (cell, changes) in enumerate(others):
        named = {"name": f"pack {number + 2}", "cell_type_id": cell.id, "recipe": design.pack.recipe,
                 "cooling": design.pack.of.cooling} | changes  # fmt: skip
        own = named.pop("own", False)
        state = {name: named.pop(name) for name in PackState.model_fields if name in named}
        role = PackRole.OWN if own else PackRole.AUXILIARY
        packs.append(Pack(role=role, state=PackState(**state), **named))
    cells = {cell.id: cell for cell in (design.pack.cell, *(cell for cell, _ in others))}
    return CompleteDesign(
        design=design.design.with_packs([design.design.packs[0], *packs]),
        craft=design.craft,
        cells=tuple(cells.values()),
        mission=design.mission,
    )


def complete(
    *,
    cell: CellType | None = None,
    carrier: Craft | None = None,
    flown: Mission | None = None,
    landing: LandingRule | None = None,
    conditions: Conditions | None = None,
    state: PackState | None = None,
    cooling: Cooling = Cooling.SLEEVED,
    **recipe: Any,
) -> CompleteDesign:
    values = {
        "series_count": 4,
        "parallel_count": 3,
        "strip": Strip(layers=2),
        "welds": 8,
        "leads": Leads(gauge_awg=12, connector="90 A class"),
    }
    made_of = cell or cell_type()
    pack = Pack(
        cell_type_id=made_of.id, recipe=PackRecipe(**(values | recipe)), state=state or PackState(), cooling=cooling
    )
    return CompleteDesign(
        design=Design(
            id="design",
            name="test",
            craft_id="craft",
            mission_id="mission",
            packs=(pack,),
            conditions=conditions or Conditions(),
            landing=landing or LandingRule(),
        ),
        craft=carrier or craft(),
        cells=(made_of,),
        mission=flown or mission(),
    )


def fitted_model(**changes: Any) -> FittedModel:
    """A fitted model on the energy family's table."""
    curve = ocv_curve("liion_energy_nmc_siox").values[::100]
    soc = np.linspace(0, 1, len(curve))
    values = {
        "capacity_mah": 4500,
        "ocv_soc": tuple(soc.tolist()),
        "ocv_v": tuple(curve.tolist()),
        "resistance_soc": (0.0, 1.0),
        "resistance_mohm": (20.0, 15.0),
        "r1_mohm": 5,
        "tau1_s": 15,
        "lag_gain_s": 100,
        "lag_tau_s": 100,
        "resistance_activation_j_mol": 20e3,
        "lag_activation_j_mol": 25e3,
        "residual_mv": 3,
        "highest_current_a": 20,
        "coldest_c": 20,
        "warmest_c": 40,
    }
    return FittedModel.from_data(values | changes)

"""Cell types to start from: class values, every one marked as an estimate until it is replaced."""

from __future__ import annotations

from typing import Any

from wise_cellar.core.documents.cell_type import CellType, FormFactor, KineticClass, OcvFamily
from wise_cellar.core.documents.provenance import SourceKind

_SIZES: dict[FormFactor, dict[str, Any]] = {
    FormFactor.C18650: {"diameter_mm": 18.4, "length_mm": 65.2},
    FormFactor.C21700: {"diameter_mm": 21.2, "length_mm": 70.2},
    FormFactor.OTHER_CYLINDER: {"diameter_mm": 26.3, "length_mm": 70.0},
    FormFactor.POUCH: {"length_mm": 130.0, "width_mm": 43.0, "thickness_mm": 8.0},
    FormFactor.WHOLE_PACK: {"length_mm": 140.0, "width_mm": 44.0, "thickness_mm": 30.0},
}
_ALL_SIZES = ("diameter_mm", "width_mm", "thickness_mm")
_CYLINDER = {"ocv_family": OcvFamily.POWER_NCA, "kinetic_class": KineticClass.POWER_CYLINDER}
_POLYMER = {
    "ocv_family": OcvFamily.POLYMER, "kinetic_class": KineticClass.POLYMER_POUCH, "min_voltage_v": 3.0,
    "min_temperature_c": 0.0,
}  # fmt: skip
_CLASS_VALUES: dict[FormFactor, dict[str, Any]] = {
    FormFactor.C18650: {"mass_g": 47.0, "capacity_mah": 3000.0, "dcir_mohm": 24.0, "continuous_current_a": 15.0,
                        **_CYLINDER},
    FormFactor.C21700: {"mass_g": 69.0, "capacity_mah": 4500.0, "dcir_mohm": 16.0, "continuous_current_a": 30.0,
                        **_CYLINDER},
    FormFactor.OTHER_CYLINDER: {"mass_g": 100.0, "capacity_mah": 5500.0, "dcir_mohm": 14.0,
                                "continuous_current_a": 30.0, **_CYLINDER},
    FormFactor.POUCH: {"mass_g": 100.0, "capacity_mah": 5000.0, "dcir_mohm": 4.0, "continuous_current_a": 50.0,
                       **_POLYMER},
    FormFactor.WHOLE_PACK: {"mass_g": 480.0, "capacity_mah": 5000.0, "dcir_mohm": 4.0, "c_rating": 40.0,
                            "cells_in_series": 4, **_POLYMER},
}  # fmt: skip


def blank_cell_type(identifier: str, name: str, form: FormFactor) -> CellType:
    """A cell type of the given form with values usual for its class, all estimates."""
    return CellType(
        id=identifier, name=name, form_factor=form, source=SourceKind.ESTIMATE, **_SIZES[form], **_CLASS_VALUES[form]
    )


def with_form(cell: CellType, form: FormFactor) -> CellType:
    """The cell in another form; sizes that the new form needs and the cell lacks start at those of its class."""
    if form is cell.form_factor:
        return cell
    data = cell.model_dump()
    wanted = _SIZES[form]
    for name in _ALL_SIZES:
        data[name] = (data[name] or wanted[name]) if name in wanted else None
    if form in (FormFactor.C18650, FormFactor.C21700):
        data.update(wanted)
    data["form_factor"] = form
    if form is not FormFactor.WHOLE_PACK:
        data["cells_in_series"] = 1
    return CellType.from_data(data)

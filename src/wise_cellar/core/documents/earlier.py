"""Designs as earlier versions wrote them, brought to the present form.

Up to version 4 a design had one recipe with its cell type and its state among the weather, and a list of packs *beside*
it; a complete design named the cell type of the first and those of the others apart. What is not of the form that was
written then is left as it is, so that it is refused with a sentence.
"""

from __future__ import annotations

from typing import Any

_STATE = {
    "start_charge_percent": "start_charge_percent",
    "pack_temperature_c": "temperature_c",
    "capacity_percent": "capacity_percent",
    "resistance_percent": "resistance_percent",
}
LAST_OF_ONE_RECIPE = 4
SEVERAL_COOLED = "inside a closed bay"
"""What the cooling of a pack beside was where none was given."""


def with_packs(data: Any) -> Any:
    """A design of version 4 or earlier with its packs in one list."""
    version = data.get("schema_version") if isinstance(data, dict) else None
    if version not in range(1, LAST_OF_ONE_RECIPE + 1):
        return data
    kept = {name: value for name, value in data.items() if name not in ("recipe", "cell_type_id", "beside")}
    beside, conditions = data.get("beside", ()), data.get("conditions", {})
    first = {name: data[name] for name in ("recipe", "cell_type_id") if name in data}
    if isinstance(conditions, dict):
        first |= _standing(conditions)
        conditions = {name: value for name, value in conditions.items() if name not in (*_STATE, "cooling")}
    packs = beside
    if isinstance(beside, list | tuple):
        packs = [first | {"role": "auxiliary" if beside else "alone"}, *(_beside(one) for one in beside)]
    return kept | {"schema_version": LAST_OF_ONE_RECIPE + 1, "conditions": conditions, "packs": packs}


def _standing(given: dict[str, Any]) -> dict[str, Any]:
    """State and cooling, of those that are given."""
    state = {now: given[then] for then, now in _STATE.items() if then in given}
    return {"state": state} | ({"cooling": given["cooling"]} if "cooling" in given else {})


def _beside(one: Any) -> Any:
    if not isinstance(one, dict):
        return one
    kept = {name: value for name, value in one.items() if name not in (*_STATE, "cooling", "own")}
    role = "own battery" if one.get("own") else "auxiliary"
    return {"cooling": SEVERAL_COOLED, **kept, **_standing(one), "role": role}


def with_cells(data: Any) -> Any:
    """A complete design of version 4 or earlier with its cell types in one list."""
    if not (isinstance(data, dict) and "cell_type" in data and "cells" not in data):
        return data
    kept = {name: value for name, value in data.items() if name not in ("cell_type", "beside_cells")}
    others = data.get("beside_cells", ())
    first = data["cell_type"]
    if not isinstance(others, list | tuple) or not isinstance(first, dict):
        return data
    known = first.get("id")
    rest = [cell for cell in others if not (isinstance(cell, dict) and cell.get("id") == known)]
    return kept | {"cells": [first, *rest]}

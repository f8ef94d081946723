"""A design: which craft carries which pack on which mission, and the whole of it in one piece."""

from __future__ import annotations

from typing import Any, Self

from pydantic import Field, model_validator

from wise_cellar.core.documents.base import Document, as_version
from wise_cellar.core.documents.branch import ALONE, MOST_BESIDE, Branch, Carried
from wise_cellar.core.documents.cell_type import CellType, KineticClass
from wise_cellar.core.documents.charging import Charger, ChargeWish, FieldDay
from wise_cellar.core.documents.conditions import Conditions
from wise_cellar.core.documents.craft import Bay, Craft, Part
from wise_cellar.core.documents.mission import CounterSees, LandingBasis, LandingRule, Mission
from wise_cellar.core.documents.pack_recipe import PackRecipe
from wise_cellar.core.documents.search import SearchChoice
from wise_cellar.core.documents.text import Identifier, Name


class Design(Document):
    """The sentence of the recipe line. Craft, cell type and mission are named by their identifiers.

    Packs ``beside`` share the bus with the one that ``recipe`` builds; where one of them is the craft's own battery,
    the recipe is that of the first auxiliary.
    """

    schema_version: int = Field(4, ge=1, le=4, title="schema version")
    id: Identifier = Field(min_length=1, title="identifier")
    name: Name = Field(min_length=1, title="name")
    sample: bool = Field(False, title="sample data")
    craft_id: Identifier = Field(min_length=1, title="craft")
    cell_type_id: Identifier = Field(min_length=1, title="cell type")
    mission_id: Identifier = Field(min_length=1, title="mission")
    recipe: PackRecipe = Field(default_factory=PackRecipe)
    beside: tuple[Branch, ...] = Field((), max_length=MOST_BESIDE, title="packs beside")
    taken_off: tuple[Part, ...] = Field((), max_length=12, title="taken off the craft")
    conditions: Conditions = Field(default_factory=Conditions)
    landing: LandingRule = Field(default_factory=LandingRule)
    search: SearchChoice = Field(default_factory=SearchChoice)
    charger: Charger = Field(default_factory=Charger)
    charge: ChargeWish = Field(default_factory=ChargeWish)
    day: FieldDay = Field(default_factory=FieldDay)

    @model_validator(mode="before")
    @classmethod
    def _from_version_1(cls, data: Any) -> Any:
        """Version 1 knew fewer fields of a recipe, 2 no search, 3 no packs beside; none of another meaning."""
        return as_version(data, 4)

    @model_validator(mode="after")
    def _one_bus(self) -> Self:
        if sum(branch.own for branch in self.beside) > 1:
            raise ValueError("A craft has one battery of its own; the other packs are auxiliaries.")
        for branch in self.beside:
            mine, others = self.recipe.series_count, branch.recipe.series_count
            if others != mine:
                raise ValueError(
                    f"Packs on one bus need as many cells in series: {branch.name} has {others}S and cannot stand"
                    f" beside {mine}S."
                )
        return self

    @property
    def as_flown(self) -> Design:
        """The same without what does not bear on its flight: what is searched, charged and planned around it."""
        asked = {"search": SearchChoice(), "charger": Charger(), "charge": ChargeWish(), "day": FieldDay()}
        return self.model_copy(update=asked)

    @property
    def own_battery(self) -> Branch | None:
        """The craft's own battery, where the recipe's pack is beside it."""
        return next((branch for branch in self.beside if branch.own), None)

    @property
    def taken_off_g(self) -> float:
        """What was taken off the craft since an auxiliary made it needless."""
        return sum(part.mass_g for part in self.taken_off)


def _check_weight(pack: Carried) -> None:
    """Refuse other grams that take more off a pack than its cells and its mount weigh."""
    recipe, cell = pack.recipe, pack.cell
    cells = recipe.series_count * recipe.parallel_count / cell.cells_in_series * cell.mass_g
    if cells + recipe.fittings.mount_g + recipe.fittings.other_g <= 0:
        raise ValueError(
            f"Other grams of {recipe.fittings.other_g:g} g are more than the whole pack weighs: its cells weigh"
            f" {cells:.0f} g."
        )


class CompleteDesign(Document):
    """A design together with the documents it names: all that a flight needs."""

    design: Design
    craft: Craft
    cell_type: CellType
    mission: Mission
    beside_cells: tuple[CellType, ...] = Field((), max_length=MOST_BESIDE)
    """Cell types of the packs beside, each once."""

    @model_validator(mode="after")
    def _whole(self) -> Self:
        known = {cell.id for cell in self.beside_cells}
        for branch in self.design.beside:
            if branch.cell_type_id not in known:
                raise ValueError(
                    f"{branch.name} is made of a cell type “{branch.cell_type_id}” that is not among beside_cells."
                )
        if self.craft.dry_mass_g <= 0:
            raise ValueError(f"{self.craft.name} weighs nothing: give its parts their grams.")
        for pack in self.carried:
            _check_weight(pack)
        if self.design.taken_off_g >= self.craft.dry_mass_g:
            raise ValueError(
                f"{self.design.taken_off_g:.0f} g cannot be taken off {self.craft.name}, which weighs"
                f" {self.craft.dry_mass_g:.0f} g without a battery."
            )
        return self

    @property
    def dry_mass_g(self) -> float:
        """The craft without a battery and without what was taken off it."""
        return self.craft.dry_mass_g - self.design.taken_off_g

    @property
    def bay(self) -> Bay | None:
        """Room for the recipe's pack; none where the craft has none, or its own battery is in it."""
        return None if self.design.own_battery is not None else self.craft.bay

    @property
    def carried(self) -> tuple[Carried, ...]:
        """Every pack on the bus: first the recipe's, then those beside."""
        design = self.design
        name = ALONE if not design.beside else "Auxiliary" if design.own_battery is not None else "First pack"
        packs = [Carried(name, False, self.cell_type, design.recipe, design.conditions, "design", "cell_type")]
        places = {cell.id: place for place, cell in enumerate(self.beside_cells)}
        for number, branch in enumerate(design.beside):
            place = places[branch.cell_type_id]
            told = branch.name[:1].upper() + branch.name[1:]
            packs.append(
                Carried(
                    told, branch.own, self.beside_cells[place], branch.recipe, branch.conditions(design.conditions),
                    f"design.beside.{number}", f"beside_cells.{place}",
                )
            )  # fmt: skip
        return tuple(packs)

    @property
    def without_auxiliary(self) -> CompleteDesign | None:
        """The craft with its own battery alone, full by its own measure; none where it has none beside another pack."""
        own = next((pack for pack in self.carried if pack.own), None)
        if own is None:
            return None
        changes = {
            "recipe": own.recipe,
            "cell_type_id": own.cell.id,
            "conditions": own.conditions.model_copy(update={"start_charge_percent": 100.0}),
            "beside": (),
            "taken_off": (),
        }
        design = self.design.model_copy(update=changes)
        return self.model_copy(update={"design": design, "cell_type": own.cell, "beside_cells": ()})

    @property
    def counted(self) -> tuple[bool, ...]:
        """Of which packs the landing rule counts the charge, in the order of :attr:`carried`."""
        rule = self.design.landing
        own_only = (
            rule.basis is LandingBasis.COUNTER
            and rule.counter_sees is CounterSees.OWN
            and self.design.own_battery is not None
        )
        return tuple(pack.own or not own_only for pack in self.carried)

    @property
    def landing_charge_mah(self) -> float | None:
        """Charge taken from the packs that are counted at which the landing rule calls; none where it goes by volts."""
        landing = self.design.landing
        labels = [(pack.own, pack.label_mah) for pack in self.carried]
        whole = sum(label for _, label in labels)
        if landing.basis is LandingBasis.CHARGE:
            return whole * landing.charge_percent / 100
        if landing.basis is LandingBasis.COUNTER:
            believed = next((label for own, label in labels if own), whole)
            return (landing.counter_mah or believed) * landing.charge_percent / 100
        return None

    @property
    def landing_voltage_v(self) -> float:
        """Loaded volts a cell at which the landing rule calls: that of polymer where any pack is of it."""
        polymer = any(pack.cell.kinetic_class is KineticClass.POLYMER_POUCH for pack in self.carried)
        return self.design.landing.threshold_v(polymer=polymer)

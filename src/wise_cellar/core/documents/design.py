"""A design: which craft carries which pack on which mission, and the whole of it in one piece."""

from __future__ import annotations

from typing import Any

from pydantic import Field, model_validator

from wise_cellar.core.documents.base import Document, as_version
from wise_cellar.core.documents.cell_type import CellType, KineticClass
from wise_cellar.core.documents.conditions import Conditions
from wise_cellar.core.documents.craft import Craft
from wise_cellar.core.documents.mission import LandingBasis, LandingRule, Mission
from wise_cellar.core.documents.pack_recipe import PackRecipe
from wise_cellar.core.documents.search import SearchChoice


class Design(Document):
    """The sentence of the recipe line. Craft, cell type and mission are named by their identifiers."""

    schema_version: int = Field(3, ge=1, le=3, title="schema version")
    id: str = Field(min_length=1, title="identifier")
    name: str = Field(min_length=1, title="name")
    sample: bool = Field(False, title="sample data")
    craft_id: str = Field(min_length=1, title="craft")
    cell_type_id: str = Field(min_length=1, title="cell type")
    mission_id: str = Field(min_length=1, title="mission")
    recipe: PackRecipe = Field(default_factory=PackRecipe)
    conditions: Conditions = Field(default_factory=Conditions)
    landing: LandingRule = Field(default_factory=LandingRule)
    search: SearchChoice = Field(default_factory=SearchChoice)

    @model_validator(mode="before")
    @classmethod
    def _from_version_1(cls, data: Any) -> Any:
        """Version 1 knew fewer fields of a recipe, version 2 no search; none of another meaning."""
        return as_version(data, 3)


class CompleteDesign(Document):
    """A design together with the documents it names: all that a flight needs."""

    design: Design
    craft: Craft
    cell_type: CellType
    mission: Mission

    @property
    def landing_charge_mah(self) -> float | None:
        """Charge taken from the pack at which the landing rule calls; none where it goes by volts."""
        landing, label = self.design.landing, self.design.recipe.parallel_count * self.cell_type.capacity_mah
        if landing.basis is LandingBasis.CHARGE:
            return label * landing.charge_percent / 100
        if landing.basis is LandingBasis.COUNTER:
            return (landing.counter_mah or label) * landing.charge_percent / 100
        return None

    @property
    def landing_voltage_v(self) -> float:
        """Loaded volts a cell at which the landing rule calls."""
        polymer = self.cell_type.kinetic_class is KineticClass.POLYMER_POUCH
        return self.design.landing.threshold_v(polymer=polymer)

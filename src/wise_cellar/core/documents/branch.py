"""A pack that shares the craft's bus with the one the recipe line builds, and one of them as it stands at take-off."""

from __future__ import annotations

from dataclasses import dataclass

from pydantic import Field

from wise_cellar.core.documents.base import Document
from wise_cellar.core.documents.cell_type import CellType
from wise_cellar.core.documents.conditions import Conditions, Cooling
from wise_cellar.core.documents.pack_recipe import PackRecipe
from wise_cellar.core.documents.text import Identifier, Name

MOST_BESIDE = 4
ALONE = "Pack"
"""Name of a pack that has the bus to itself."""


class Branch(Document):
    """One more pack on the bus: the craft's own battery, or an auxiliary built like any other recipe.

    Its cell type is named by its identifier; a battery bought whole is a type of its own.
    """

    name: Name = Field("second auxiliary", min_length=1, max_length=40, title="name of the pack")
    own: bool = Field(False, title="the craft's own battery", description="The one its counter counts.")
    cell_type_id: Identifier = Field(min_length=1, title="cell type of the pack beside")
    recipe: PackRecipe = Field(default_factory=PackRecipe)
    start_charge_percent: float = Field(100, gt=0, le=100, title="charge of the pack beside")
    pack_temperature_c: float | None = Field(
        None, ge=-30, le=55, title="temperature of the pack beside", description="Empty: as the air."
    )
    capacity_percent: float = Field(
        100, ge=40, le=110, title="capacity for its age, beside", description="Of what it held when it was new."
    )
    resistance_percent: float = Field(
        100, ge=80, le=400, title="resistance for its age, beside", description="Of what it had when it was new."
    )
    cooling: Cooling = Field(Cooling.CLOSED, title="cooling of the pack beside")

    def conditions(self, weather: Conditions) -> Conditions:
        """Weather, and the state of this pack in place of the other's."""
        names = ("start_charge_percent", "pack_temperature_c", "capacity_percent", "resistance_percent", "cooling")
        return weather.model_copy(update={name: getattr(self, name) for name in names})


@dataclass(frozen=True)
class Carried:
    """One of the packs on the bus with all that holds for it, and where its fields stand."""

    name: str
    own: bool
    cell: CellType
    recipe: PackRecipe
    conditions: Conditions
    root: str
    """Path of what holds its recipe: "design", or "design.beside.0"."""
    cell_root: str

    @property
    def alone(self) -> bool:
        """Whether it has the bus to itself."""
        return self.root == "design" and self.name == ALONE

    @property
    def label_mah(self) -> float:
        """Capacity of the pack, new, as its label has it."""
        return self.recipe.parallel_count * self.cell.capacity_mah

    def field(self, path: str) -> str:
        """Path of a field, given as it would be of a design's only pack."""
        if path.startswith("cell_type."):
            return self.cell_root + path.removeprefix("cell_type")
        for part in ("recipe", "conditions"):
            if path.startswith(f"design.{part}.") and self.root != "design":
                inside = path.removeprefix("design.")
                return f"{self.root}.{inside if part == 'recipe' else inside.removeprefix('conditions.')}"
        return path

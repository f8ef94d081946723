"""A pack of a design: its role, the cells and the recipe it is built of, and its state at take-off."""

from __future__ import annotations

import hashlib
import json
from dataclasses import dataclass
from enum import StrEnum
from functools import lru_cache
from typing import Self

from pydantic import Field, model_validator

from wise_cellar.core.documents.base import Document
from wise_cellar.core.documents.cell_type import CellType
from wise_cellar.core.documents.conditions import Cooling
from wise_cellar.core.documents.learned import LearnedOf, LearnedValue
from wise_cellar.core.documents.pack_recipe import MOST_SERIES, PackRecipe
from wise_cellar.core.documents.text import Identifier, Name

MOST_PACKS = 5
COLDEST_PACK_C, WARMEST_PACK_C = -30.0, 55.0


class PackRole(StrEnum):
    """What a pack is to the craft."""

    ALONE = "alone"
    OWN = "own battery"
    """The one that its counter counts."""
    AUXILIARY = "auxiliary"
    """One of several that were built for it."""


class UnlikeGroup(Document):
    """A series group that differs from the others of its pack."""

    group: int = Field(1, ge=1, le=MOST_SERIES, title="group", description="Counted from 1, the negative end.")
    capacity_percent: float = Field(
        100, ge=10, le=200, title="capacity of the group", description="Of what the pack's other groups hold."
    )
    resistance_percent: float = Field(
        100, ge=20, le=1000, title="resistance of the group", description="Of what the pack's other groups have."
    )
    start_charge_percent: float | None = Field(
        None, gt=0, le=100, title="charge of the group", description="Empty: as the pack."
    )
    temperature_c: float | None = Field(
        None, ge=COLDEST_PACK_C, le=WARMEST_PACK_C, title="temperature of the group", description="Empty: as the pack."
    )

    @property
    def name(self) -> str:
        """What it is called in a sentence."""
        return f"group {self.group}"


class PackState(Document):
    """Charge, warmth and age of a pack when the craft takes off."""

    start_charge_percent: float = Field(100, gt=0, le=100, title="charge at take-off")
    temperature_c: float | None = Field(
        None, ge=COLDEST_PACK_C, le=WARMEST_PACK_C, title="pack temperature at start", description="Empty: as the air."
    )
    capacity_percent: float = Field(
        100, ge=40, le=110, title="capacity for its age", description="Of what the cells held when they were new."
    )
    resistance_percent: float = Field(
        100, ge=80, le=400, title="resistance for its age", description="Of what the cells had when they were new."
    )
    capacity_measured_percent: float | None = Field(
        None, ge=40, le=110, title="capacity as it was measured", description="Of this pack, or of its cells."
    )
    resistance_measured_percent: float | None = Field(
        None, ge=80, le=400, title="resistance as it was measured", description="Of this pack, or of its cells."
    )
    learned: tuple[LearnedValue, ...] = Field((), max_length=4, title="learned from flights")
    groups: tuple[UnlikeGroup, ...] = Field(
        (),
        max_length=MOST_SERIES,
        title="groups that differ",
        description="Those that the pack has no longer are idle.",
    )

    @model_validator(mode="after")
    def _groups_once(self) -> Self:
        places = [unlike.group for unlike in self.groups]
        if len(set(places)) < len(places):
            raise ValueError("A group that differs is named once.")
        return self

    @property
    def capacity_measured(self) -> bool:
        """Whether the pack flies with the capacity that was measured of it; not once another was typed."""
        return self.capacity_measured_percent == self.capacity_percent

    @property
    def resistance_measured(self) -> bool:
        """The same of its resistance."""
        return self.resistance_measured_percent == self.resistance_percent

    def taught(self, of: LearnedOf) -> LearnedValue | None:
        """What flights taught of it, where it flies with that value."""
        present = {LearnedOf.CAPACITY: self.capacity_percent, LearnedOf.RESISTANCE: self.resistance_percent}
        return next((one for one in self.learned if one.of is of and one.value == present.get(of, one.value)), None)

    @property
    def cooling_share(self) -> float:
        """How well it is cooled, over what its surroundings usually do."""
        return self._share(LearnedOf.COOLING)

    @property
    def lag_share(self) -> float:
        """How far its cells' surface lags behind, over what their type says."""
        return self._share(LearnedOf.LAG)

    def _share(self, of: LearnedOf) -> float:
        taught = self.taught(of)
        return 1.0 if taught is None else taught.value


class BuiltAs(Document):
    """The built pack that a design flies: its identifier and name, and what it was built by."""

    id: Identifier = Field(min_length=1, title="built pack")
    name: Name = Field(min_length=1, max_length=40, title="name of the built pack")
    fingerprint: Identifier = Field(
        min_length=1,
        max_length=64,
        title="what it was built by",
        description="A design that was changed since flies another pack.",
    )  # fmt: skip


@lru_cache(maxsize=512)
def fingerprint(recipe: PackRecipe, cell_type_id: str) -> str:
    """Equal for recipes of one pack, whatever the scale found of it."""
    told = recipe.as_built.model_dump(mode="json", exclude_defaults=True)
    text = json.dumps([cell_type_id, told], sort_keys=True)
    return hashlib.sha256(text.encode()).hexdigest()[:16]


class Pack(Document):
    """One pack on the craft's bus. Its cell type is named by its identifier; a battery bought whole is a type of its
    own."""

    role: PackRole = Field(PackRole.ALONE, title="role of the pack")
    name: Name = Field("", max_length=40, title="name of the pack", description="Empty: by its role.")
    cell_type_id: Identifier = Field(min_length=1, title="cell type")
    recipe: PackRecipe = Field(default_factory=PackRecipe)
    state: PackState = Field(default_factory=PackState)
    cooling: Cooling = Field(Cooling.SLEEVED, title="cooling of the pack")
    built: BuiltAs | None = Field(None, title="built pack", description="Empty: none that was built.")

    @property
    def flies(self) -> BuiltAs | None:
        """The built pack that this is; none where there is none, or it was changed since."""
        known = self.built
        return known if known is not None and known.fingerprint == fingerprint(self.recipe, self.cell_type_id) else None


def pack_words(recipe: PackRecipe, cell: CellType) -> str:
    """What a pack is made of, in words."""
    bought = cell.whole_pack and recipe.parallel_count == 1 and recipe.series_count <= cell.cells_in_series
    return cell.name if bought else f"{recipe.series_count}S {recipe.parallel_count}P of {cell.name}"


@dataclass(frozen=True)
class CompletePack:
    """A pack of a complete design with its cell type, and where its fields stand."""

    place: int
    """Among the packs of the design."""
    name: str
    of: Pack
    cell: CellType
    cell_place: int
    """Of its cell type among those of the complete design."""
    air_temperature_c: float

    @property
    def words(self) -> str:
        """What it is made of: "4S 3P of Fell 21-45P", or the name of a pack bought whole."""
        return pack_words(self.of.recipe, self.cell)

    @property
    def role(self) -> PackRole:
        """What it is to the craft."""
        return self.of.role

    @property
    def alone(self) -> bool:
        """Whether it has the bus to itself."""
        return self.of.role is PackRole.ALONE

    @property
    def own(self) -> bool:
        """Whether it is the craft's own battery, beside others."""
        return self.of.role is PackRole.OWN

    @property
    def recipe(self) -> PackRecipe:
        """What is built from its cells."""
        return self.of.recipe

    @property
    def state(self) -> PackState:
        """Charge, warmth and age at take-off."""
        return self.of.state

    @property
    def temperature_c(self) -> float:
        """At take-off."""
        given = self.of.state.temperature_c
        return self.air_temperature_c if given is None else given

    @property
    def label_mah(self) -> float:
        """Capacity of the pack, new, as its label has it."""
        return self.of.recipe.parallel_count * self.cell.capacity_mah

    def path(self, field: str) -> str:
        """Path, from a complete design, of a field of this pack (``recipe.joint``, ``cooling``) or of its cell type
        (``cell.mass_g``)."""
        if field == "cell" or field.startswith("cell."):
            return f"cells.{self.cell_place}{field.removeprefix('cell')}"
        return f"design.packs.{self.place}.{field}"

"""A design: which craft carries which packs on which mission, and the whole of it in one piece."""

from __future__ import annotations

from collections.abc import Sequence
from functools import cache, cached_property
from typing import Any, Self

from pydantic import Field, model_validator

from wise_cellar.core.documents.base import Document, as_version
from wise_cellar.core.documents.cell_type import CellType
from wise_cellar.core.documents.charging import Charger, ChargeWish, FieldDay
from wise_cellar.core.documents.conditions import Conditions
from wise_cellar.core.documents.craft import Bay, Craft, Part
from wise_cellar.core.documents.earlier import with_cells, with_packs
from wise_cellar.core.documents.mission import LandingRule, Mission
from wise_cellar.core.documents.pack import MOST_PACKS, CompletePack, Pack, PackRole
from wise_cellar.core.documents.search import SearchChoice
from wise_cellar.core.documents.text import Identifier, Name, Notes
from wise_cellar.core.units import TOLD, format_grams
from wise_cellar.core.words import quoted, upper_first


class Design(Document):
    """The sentence of the recipe line. Craft, cell types and mission are named by their identifiers.

    All ``packs`` share one bus. The first is the one that the recipe line, the shelf and a search vary.
    """

    schema_version: int = Field(6, ge=1, le=6, title="schema version")
    id: Identifier = Field(min_length=1, title="identifier")
    name: Name = Field(min_length=1, title="name")
    sample: bool = Field(False, title="sample data")
    archived: bool = Field(False, title="archived", description="Out of sight, and whole.")
    notes: Notes = Field("", title="notes")
    craft_id: Identifier = Field(min_length=1, title="craft")
    mission_id: Identifier = Field(min_length=1, title="mission")
    packs: tuple[Pack, ...] = Field(min_length=1, max_length=MOST_PACKS, title="packs")
    taken_off: tuple[Part, ...] = Field((), max_length=12, title="taken off the craft")
    conditions: Conditions = Field(default_factory=Conditions)
    landing: LandingRule = Field(default_factory=LandingRule)
    search: SearchChoice = Field(default_factory=SearchChoice)
    charger: Charger = Field(default_factory=Charger)
    charge: ChargeWish = Field(default_factory=ChargeWish)
    day: FieldDay = Field(default_factory=FieldDay)

    @model_validator(mode="before")
    @classmethod
    def _from_earlier(cls, data: Any) -> Any:
        return as_version(with_packs(data), 6)

    @model_validator(mode="after")
    def _one_bus(self) -> Self:
        first, *others = self.packs
        if sum(pack.role is PackRole.OWN for pack in self.packs) > 1:
            raise ValueError("A craft has one battery of its own; the other packs are auxiliaries.")
        if any((pack.role is PackRole.ALONE) == bool(others) for pack in self.packs):
            raise ValueError("A pack is alone where it has the bus to itself, and only there.")
        for place, pack in enumerate(others, 2):
            mine, theirs = first.recipe.series_count, pack.recipe.series_count
            if theirs != mine:
                raise ValueError(
                    f"Packs on one bus need as many cells in series: {pack.name or f'pack {place}'} has {theirs}S and"
                    f" cannot stand beside {mine}S."
                )
        return self

    @property
    def as_flown(self) -> Design:
        """The same without what does not bear on its flight: what is searched, charged and planned around it."""
        return self.changed(
            search=SearchChoice(), charger=Charger(), charge=ChargeWish(), day=FieldDay(), notes="", archived=False
        )

    @property
    def taken_off_g(self) -> float:
        """What was taken off the craft since an auxiliary made it needless."""
        return sum(part.mass_g for part in self.taken_off)

    def with_first(self, **changes: Any) -> Design:
        """The same with other fields of its first pack."""
        first, *others = self.packs
        return self.changed(packs=(first.changed(**changes), *others))

    def with_packs(self, packs: Sequence[Pack]) -> Design:
        """The same with other packs, each alone or one of several as their number has it."""
        return self.changed(packs=roles_for(packs))


def roles_for(packs: Sequence[Pack]) -> tuple[Pack, ...]:
    """The packs with the roles that their number leaves them: one is alone, of several those that were are
    auxiliaries."""
    if len(packs) == 1:
        return (packs[0].changed(role=PackRole.ALONE),)
    return tuple(pack.changed(role=PackRole.AUXILIARY) if pack.role is PackRole.ALONE else pack for pack in packs)


def _name(design: Design, place: int) -> str:
    """What a pack is called: as it was named, else by its role."""
    pack = design.packs[place]
    if pack.flies is not None:
        return pack.flies.name
    if pack.name:
        return upper_first(pack.name)
    if pack.role is PackRole.ALONE:
        return "Pack"
    if pack.role is PackRole.OWN:
        return "Own battery"
    by_own = any(other.role is PackRole.OWN for other in design.packs)
    return "Auxiliary" if by_own else ("First", "Second", "Third", "Fourth", "Fifth")[place] + " pack"


def _check_weight(pack: CompletePack) -> None:
    """Refuse other grams that take more off a pack than its cells and its mount weigh."""
    recipe, cell = pack.recipe, pack.cell
    cells = recipe.series_count * recipe.parallel_count / cell.cells_in_series * cell.mass_g
    if cells + recipe.fittings.mount_g + recipe.fittings.other_g <= 0:
        raise ValueError(
            f"Other grams of {format_grams(recipe.fittings.other_g, TOLD)} are more than the whole pack weighs:"
            f" its cells weigh {format_grams(cells)}."
        )


class CompleteDesign(Document):
    """A design together with the documents it names: all that a flight needs."""

    design: Design
    craft: Craft
    cells: tuple[CellType, ...] = Field(min_length=1, max_length=MOST_PACKS)
    """Cell types of the packs, each once, in the order in which packs name them."""
    mission: Mission

    @model_validator(mode="before")
    @classmethod
    def _from_earlier(cls, data: Any) -> Any:
        return with_cells(data)

    @model_validator(mode="after")
    def _whole(self) -> Self:
        wanted = list(dict.fromkeys(pack.cell_type_id for pack in self.design.packs))
        known = {cell.id: cell for cell in self.cells}
        for number, pack in enumerate(self.design.packs, 1):
            if pack.cell_type_id not in known:
                raise ValueError(
                    f"{pack.name or f'Pack {number}'} is made of a cell type {quoted(pack.cell_type_id)} that is not"
                    " among the cells."
                )
        if [cell.id for cell in self.cells] != wanted:
            object.__setattr__(self, "cells", tuple(known[identifier] for identifier in wanted))
        if self.craft.dry_mass_g <= 0:
            raise ValueError(f"{self.craft.name} weighs nothing: give its parts their grams.")
        for complete in self.packs:
            _check_weight(complete)
        if self.design.taken_off_g >= self.craft.dry_mass_g:
            raise ValueError(
                f"{format_grams(self.design.taken_off_g)} cannot be taken off {self.craft.name}, which weighs"
                f" {format_grams(self.craft.dry_mass_g)} without a battery."
            )
        return self

    @property
    def dry_mass_g(self) -> float:
        """The craft without a battery and without what was taken off it."""
        return self.craft.dry_mass_g - self.design.taken_off_g

    @cached_property
    def packs(self) -> tuple[CompletePack, ...]:
        """Every pack on the bus, in the order of the design."""
        places = {cell.id: place for place, cell in enumerate(self.cells)}
        found = []
        for place, pack in enumerate(self.design.packs):
            cell_place = places[pack.cell_type_id]
            found.append(
                CompletePack(
                    place, _name(self.design, place), pack, self.cells[cell_place], cell_place,
                    self.design.conditions.air_temperature_c,
                )
            )  # fmt: skip
        return tuple(found)

    @property
    def pack(self) -> CompletePack:
        """The first pack: the one that the recipe line, the shelf and a search vary."""
        return self.packs[0]

    @property
    def own_battery(self) -> CompletePack | None:
        """The craft's own battery, where other packs are beside it."""
        return next((pack for pack in self.packs if pack.own), None)

    @property
    def bay(self) -> Bay | None:
        """Room for the first pack; none where the craft has none, or its own battery is in it."""
        return None if self.own_battery is not None else self.craft.bay

    def with_pack(self, cell: CellType | None = None, **changes: Any) -> CompleteDesign:
        """The same with other fields of its first pack, or with another cell type in it."""
        if cell is not None:
            changes["cell_type_id"] = cell.id
        design = self.design.with_first(**changes)
        cells = self.cells if cell is None else (cell, *(one for one in self.cells if one.id != cell.id))
        return self.changed(design=design, cells=cells)

    def with_design(self, **changes: Any) -> CompleteDesign:
        """The same with other fields of its design."""
        return self.changed(design=self.design.changed(**changes))

    @property
    def without_auxiliary(self) -> CompleteDesign | None:
        """The craft with its own battery alone, full by its own measure; none where it has none beside another pack."""
        own = self.own_battery
        if own is None:
            return None
        full = own.of.changed(state=own.state.changed(start_charge_percent=100.0))
        design = self.design.changed(packs=roles_for([full]), taken_off=())
        return self.changed(design=design, cells=(own.cell,))

    @property
    def counted(self) -> tuple[bool, ...]:
        """Of which packs the landing rule counts the charge, in their order."""
        own_only = self.design.landing.counts_own_only and self.own_battery is not None
        return tuple(pack.own or not own_only for pack in self.packs)

    @property
    def landing_charge_mah(self) -> float | None:
        """Charge taken from the packs that are counted at which the landing rule calls; none where it goes by volts."""
        own, whole = self.own_battery, sum(pack.label_mah for pack in self.packs)
        found: float | None = self.design.landing.charge_mah(whole if own is None else own.label_mah, whole)
        return found

    @property
    def landing_voltage_v(self) -> float:
        """Loaded volts a cell at which the landing rule calls: the highest of its packs."""
        return max(self.design.landing.threshold_v(cell.landing_class) for cell in self.cells)


@cache
def holder_of(path: str) -> str:
    """The path of the document that holds the field at ``path`` of a complete design."""
    parts = path.split(".")
    return ".".join(parts[: 2 if parts[0] == "cells" else 1])

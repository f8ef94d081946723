"""A pack that is built, or is being built: its cells by their numbers, what was done and read at each step, what was
measured of it since."""

from __future__ import annotations

from typing import Annotated, Any, Self

from pydantic import Field, model_validator

from wise_cellar.core.documents.base import Document, as_version
from wise_cellar.core.documents.learned import LearnedValue
from wise_cellar.core.documents.pack import BuiltAs, fingerprint
from wise_cellar.core.documents.pack_recipe import MOST_PARALLEL, MOST_SERIES, PackRecipe
from wise_cellar.core.documents.provenance import Day, Moment
from wise_cellar.core.documents.text import Identifier, Name, Notes
from wise_cellar.core.documents.tray import HIGHEST_NUMBER

MOST_STEPS_KEPT, MOST_CHECKS, MOST_REPAIRS, MOST_CHARGES = 100, 500, 50, 2000
CellNumber = Annotated[int, Field(ge=1, le=HIGHEST_NUMBER)]
GroupVolts = Annotated[float, Field(ge=0, le=5)]


class StepReading(Document):
    """One reading of a meter at a step: of what, and its volts."""

    of: Identifier = Field(min_length=1, max_length=40, title="reading")
    volts: float = Field(ge=-150, le=150, title="volts read")


class StepRecord(Document):
    """What became of one step of building: done or left out, when, what was read, and a note."""

    key: Identifier = Field(min_length=1, max_length=40, title="step")
    at: Moment | None = Field(None, title="done at", description="By the clock of the place. Empty: not yet.")
    left_out: bool = Field(False, title="left out")
    readings: tuple[StepReading, ...] = Field((), max_length=3 * MOST_SERIES, title="readings")
    note: Notes = Field("", title="note")

    @model_validator(mode="after")
    def _read_once(self) -> Self:
        named = [reading.of for reading in self.readings]
        if len(set(named)) < len(named):
            raise ValueError("Each reading of a step is kept once, the last one.")
        return self

    @property
    def closed(self) -> bool:
        """Whether it needs nothing more: done, or left out."""
        return self.at is not None


class PackCheck(Document):
    """What was measured of a whole pack on a day; whatever was not is empty."""

    day: Day = Field(title="measured on")
    group_v: tuple[GroupVolts, ...] = Field(
        (), max_length=MOST_SERIES, title="resting volts of the groups",
        description="From the negative end, an hour after use or more.",
    )  # fmt: skip
    used_mah: float | None = Field(
        None, ge=0, le=4_000_000, title="charge used since full", description="Empty: it was not full before."
    )
    resistance_mohm: float | None = Field(None, gt=0, le=5000, title="measured pack resistance")
    temperature_c: float = Field(25, ge=-30, le=70, title="temperature of the pack")
    note: Notes = Field("", title="note")

    @property
    def name(self) -> str:
        """What it is called in a sentence."""
        return f"readings of {self.day}"


class PackCharge(Document):
    """What a charger put into a pack on a day, and the resting volts of its groups before and after."""

    day: Day = Field(title="charged on")
    charge_mah: float = Field(gt=0, le=4_000_000, title="charge put in", description="By the charger's count.")
    before_v: tuple[GroupVolts, ...] = Field((), max_length=MOST_SERIES, title="volts of the groups before")
    after_v: tuple[GroupVolts, ...] = Field((), max_length=MOST_SERIES, title="volts of the groups after")
    note: Notes = Field("", title="note")

    @model_validator(mode="after")
    def _of_one_pack(self) -> Self:
        if self.before_v and self.after_v and len(self.before_v) != len(self.after_v):
            raise ValueError(
                f"{len(self.before_v)} groups were read before the charge and {len(self.after_v)} after it: read all."
            )
        return self

    @property
    def name(self) -> str:
        """What it is called in a sentence."""
        return f"charge of {self.day}"


class PackRepair(Document):
    """A group whose cells were changed, or are being changed."""

    group: int = Field(ge=1, le=MOST_SERIES, title="group", description="Counted from 1, the negative end.")
    taken_out: tuple[CellNumber, ...] = Field((), max_length=MOST_PARALLEL, title="cells taken out")
    put_in: tuple[CellNumber, ...] = Field(min_length=1, max_length=MOST_PARALLEL, title="cells put in")
    begun_on: Day = Field(title="begun on")
    done_on: Day | None = Field(None, title="done on", description="Empty: it is still being made.")


class BuiltPack(Document):
    """One pack with a name of its own. Its recipe is what it was begun by, and stays so; its mass is the recipe's
    ``weighed_g``."""

    schema_version: int = Field(2, ge=1, le=2, title="schema version")
    id: Identifier = Field(min_length=1, title="identifier")
    name: Name = Field(min_length=1, max_length=40, title="name of the pack")
    sample: bool = Field(False, title="sample data", description="Invented for the sample world.")
    cell_type_id: Identifier = Field(min_length=1, title="cell type")
    recipe: PackRecipe = Field(default_factory=PackRecipe)
    groups: tuple[tuple[CellNumber, ...], ...] = Field(
        (), max_length=MOST_SERIES, title="cells of the groups",
        description="Numbers in the tray, from the negative end. Empty: cells without numbers.",
    )  # fmt: skip
    begun_on: Day = Field(title="begun on")
    finished_on: Day | None = Field(None, title="finished on", description="Empty: half built.")
    retired: bool = Field(False, title="retired", description="Taken apart, or handed in: its cells are free again.")
    steps: tuple[StepRecord, ...] = Field((), max_length=MOST_STEPS_KEPT, title="steps")
    checks: tuple[PackCheck, ...] = Field((), max_length=MOST_CHECKS, title="readings of the pack")
    repairs: tuple[PackRepair, ...] = Field((), max_length=MOST_REPAIRS, title="repairs")
    charges: tuple[PackCharge, ...] = Field((), max_length=MOST_CHARGES, title="charges")
    learned: tuple[LearnedValue, ...] = Field((), max_length=MOST_CHECKS, title="learned from flights")
    notes: Notes = Field("", title="notes")

    @model_validator(mode="before")
    @classmethod
    def _from_version_1(cls, data: Any) -> Any:
        """Version 1 learned nothing from flights."""
        return as_version(data, 2)

    @model_validator(mode="after")
    def _whole(self) -> Self:
        numbers = [number for group in self.groups for number in group]
        twice = next((number for number in numbers if numbers.count(number) > 1), None)
        if twice is not None:
            raise ValueError(f"Cell {twice} is in {self.name} twice; every cell has one place.")
        sizes = [len(group) for group in self.groups]
        series, parallel = self.recipe.series_count, self.recipe.parallel_count
        if sizes and sizes != [parallel] * series:
            raise ValueError(f"{self.name} is {series}S {parallel}P: {series} groups of {parallel} cells each.")
        if max(sizes, default=0) > MOST_PARALLEL:
            raise ValueError(f"{self.name} has more than {MOST_PARALLEL} cells in a group.")
        if self.finished_on is not None and self.finished_on < self.begun_on:
            raise ValueError(f"{self.name} was finished on {self.finished_on}, before it was begun.")
        if any(repair.done_on is None for repair in self.repairs[:-1]):
            raise ValueError(f"{self.name} is repaired once at a time: finish the repair that is open.")
        keys = [step.key for step in self.steps]
        if len(set(keys)) < len(keys):
            raise ValueError("Each step of a pack is kept once.")
        for charge in self.charges:
            if any(volts and len(volts) != series for volts in (charge.before_v, charge.after_v)):
                raise ValueError(f"{self.name} has {series} groups: write the volts of all of them for {charge.name}.")
        for check in self.checks:
            if check.group_v and len(check.group_v) != series:
                raise ValueError(
                    f"{self.name} has {series} groups, and {len(check.group_v)} were read on {check.day}: read all."
                )
        return self

    @property
    def numbers(self) -> frozenset[int]:
        """Of all its cells, those that a repair puts in among them."""
        coming = self.repair.put_in if self.repair is not None else ()
        return frozenset((*(number for group in self.groups for number in group), *coming))

    @property
    def spent(self) -> frozenset[int]:
        """Of cells that a repair took out of it."""
        gone = {number for repair in self.repairs if repair.done_on is not None for number in repair.taken_out}
        return frozenset(gone) - self.numbers

    @property
    def repair(self) -> PackRepair | None:
        """The one that is being made."""
        return next((one for one in self.repairs if one.done_on is None), None)

    @property
    def finished(self) -> bool:
        """Whether it is built."""
        return self.finished_on is not None

    @property
    def holds_cells(self) -> bool:
        """Whether its cells are in it, and so in no other pack."""
        return not self.retired

    @property
    def as_flown(self) -> BuiltAs:
        """How a design names it."""
        return BuiltAs(id=self.id, name=self.name, fingerprint=fingerprint(self.recipe, self.cell_type_id))

    def record(self, key: str) -> StepRecord:
        """What is kept of a step; an empty one where nothing is."""
        return next((step for step in self.steps if step.key == key), StepRecord(key=key))

    def with_record(self, record: StepRecord) -> BuiltPack:
        """The same with another record of a step."""
        return self.changed(steps=(*(step for step in self.steps if step.key != record.key), record))

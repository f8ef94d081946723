"""A pack on its way: the steps of its recipe with what became of each, and what its readings say so far."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from itertools import pairwise

from wise_cellar.core.build.steps import (
    Bench,
    Judged,
    Step,
    as_read,
    checked_volts,
    judge_reading,
    together,
    write_steps,
)
from wise_cellar.core.build.steps.repairing import repair_steps
from wise_cellar.core.build.taps import Diagnosis, diagnose
from wise_cellar.core.build.wiring import Readings
from wise_cellar.core.documents import BuiltPack, CellType, NumberedCell, PackRecipe, StepReading, StepRecord
from wise_cellar.core.pack import PackBuild, build_pack

READ_AT = ("lay", "look", "insert", "repair-low")
"""Steps at which groups are read anew: what comes after expects what was read there."""


@dataclass(frozen=True)
class Making:
    """The steps of one pack. Without ``pack`` nothing is begun: they are what is to be done."""

    bench: Bench
    pack: BuiltPack | None = None
    coming: tuple[NumberedCell, ...] = ()
    """Cells that a repair puts in."""

    @cached_property
    def steps(self) -> tuple[Step, ...]:
        """With the volts to expect of each, by the latest readings before it."""
        plain = self._written(self.bench)
        if self.pack is None:
            return plain
        for place, step in enumerate(plain):
            read = {one.key: read for one in step.expected if (read := self.read(step).get(one.key)) is not None}
            good = {key: volts for key, volts in read.items() if self._fits(step, key, volts)}
            if step.key in READ_AT and good:
                anew = self.bench.with_rests(as_read(self.bench.rests, good))
                return (*plain[: place + 1], *self._written(anew)[place + 1 :])
        return plain

    def _written(self, bench: Bench) -> tuple[Step, ...]:
        repair = self.pack.repair if self.pack is not None else None
        return write_steps(bench) if repair is None else repair_steps(bench, repair, self.coming)

    @staticmethod
    def _fits(step: Step, key: str, volts: float) -> bool:
        return next(one for one in step.expected if one.key == key).fits(volts)

    @property
    def numbers(self) -> tuple[tuple[int, ...], ...]:
        """Of its cells, by groups from the negative end; those that a repair puts in stand in their group."""
        if self.pack is None:
            return tuple(tuple(cell.number for cell in group) for group in self.bench.groups)
        repair = self.pack.repair
        return tuple(
            repair.put_in if repair is not None and place == repair.group - 1 else group
            for place, group in enumerate(self.pack.groups)
        )

    def record(self, step: Step) -> StepRecord:
        """What is kept of a step."""
        return self.pack.record(step.key) if self.pack is not None else StepRecord(key=step.key)

    def read(self, step: Step) -> dict[str, float]:
        """What was read at a step, volts by what they are of."""
        return {reading.of: reading.volts for reading in self.record(step).readings}

    @property
    def place(self) -> int:
        """Of the step that comes next; as many as there are where all are closed."""
        return next((place for place, step in enumerate(self.steps) if not self.record(step).closed), len(self.steps))

    def judged(self, step: Step) -> dict[str, Judged]:
        """What every reading of a step says."""
        read = self.read(step)
        return {
            one.key: judge_reading(self.steps, step, one, read[one.key], self.bench.rests)
            for one in step.expected
            if one.key in read
        }

    def together(self, step: Step) -> list[str]:
        """What its readings say together: of a balance lead its diagnosis, of groups how far they are apart."""
        diagnosis = self.diagnosis(step)
        if diagnosis is not None and not diagnosis.best.right:
            return diagnosis.sentences()
        told = together(step, self.read(step))
        return [told] if told else []

    def diagnosis(self, step: Step) -> Diagnosis | None:
        """Which wiring explains all the readings of a balance lead; none before all are there."""
        read = self.read(step)
        pins = [one for one in step.expected if one.key.startswith("pin-")]
        if len(pins) < 2 or any(one.key not in read for one in pins):
            return None
        return diagnose(self.group_v, Readings(tuple(read[one.key] for one in pins), main_v=read.get("plug")))

    @property
    def group_v(self) -> tuple[float, ...]:
        """What its groups rest at, as far as is known."""
        taps = next((step for step in self.steps if any(one.key == "pin-2" for one in step.expected)), None)
        if taps is None:
            return tuple(rest.volts for rest in self.bench.rests)
        pins = [0.0, *(one.volts for one in taps.expected if one.key.startswith("pin-"))]
        return tuple(after - before for before, after in pairwise(pins))

    def wrong(self, step: Step) -> bool:
        """Whether a reading of a step is not as it should be."""
        return any(not judged.fine for judged in self.judged(step).values())


def with_reading(pack: BuiltPack, step: str, of: str, volts: float | None) -> BuiltPack:
    """The pack with a reading at a step, or without it; raises :class:`DocumentError` where it cannot be one."""
    record = pack.record(step)
    kept = tuple(reading for reading in record.readings if reading.of != of)
    if volts is not None:
        kept = (*kept, StepReading(of=of, volts=checked_volts(volts)))
    return pack.with_record(record.changed(readings=kept))


def cells_in(pack: BuiltPack, cells: Sequence[NumberedCell]) -> tuple[tuple[NumberedCell, ...], ...]:
    """Its cells by groups; those that are not in the tray any more are missing."""
    by_number = {cell.number: cell for cell in cells if cell.cell_type_id == pack.cell_type_id}
    return tuple(tuple(by_number[n] for n in group if n in by_number) for group in pack.groups)


def making_of(pack: BuiltPack, cell_type: CellType, cells: Sequence[NumberedCell]) -> Making:
    """The steps of a pack that was begun."""
    bench = Bench.of(build_pack(pack.recipe, cell_type), cells_in(pack, cells), cells)
    numbers = pack.repair.put_in if pack.repair is not None else ()
    coming = tuple(cell for cell in cells if cell.cell_type_id == pack.cell_type_id and cell.number in numbers)
    return Making(bench, pack, coming)


def recipe_to_keep(build: PackBuild) -> PackRecipe:
    """The recipe of a pack that is begun, with its layout settled: no bay folds it otherwise later."""
    recipe = build.recipe
    return recipe.changed(bands=build.layout.bands) if recipe.bands is None and not build.cell.whole_pack else recipe


def taken(packs: Sequence[BuiltPack], cell_type_id: str) -> Mapping[int, BuiltPack]:
    """Numbers of the cells of a type that are in a pack, each with the pack."""
    return {
        number: pack
        for pack in packs
        if pack.holds_cells and pack.cell_type_id == cell_type_id
        for number in pack.numbers
    }


def whereabouts(packs: Sequence[BuiltPack], cell_type_id: str) -> Mapping[int, str]:
    """Where the cells of a type are that are not free: in a pack, or worn out of one."""
    spent = {
        number: f"out of {pack.name}" for pack in packs if pack.cell_type_id == cell_type_id for number in pack.spent
    }
    return spent | {number: f"in {pack.name}" for number, pack in taken(packs, cell_type_id).items()}

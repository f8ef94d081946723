"""A tray of numbered cells judged: each rule with its arithmetic, each cell with what to do with it."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from enum import IntEnum

import numpy as np

from wise_cellar.core.build.robust import FAR_Z, robust_z, two_kinds
from wise_cellar.core.cells import resting_curve
from wise_cellar.core.charge import never_v
from wise_cellar.core.documents import BenchResult, CellType, Look, NumberedCell
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import (
    format_change,
    format_grams,
    format_mah,
    format_number,
    format_share,
    format_significant,
    format_volts,
)

WATCH_V = 2.8
"""A cell that arrived under it was stored too low: it is used after a watched charge, beside its like."""
LEAST_DAYS = 3
"""Between two resting readings that tell a loss."""
READING_V = 0.002
"""What one reading of a meter at rest is good for."""
LOSES_SHARE, WATCH_SHARE = 2.5e-3, 1.0e-3
"""Of the capacity a day: a sound cell loses some per cent in a month at the most, one with a soft short as much in
days."""
MASS_APART, MASS_NEVER = 0.03, 0.08
"""Of the type's mass: lots of one maker keep to a per cent."""
CAPACITY_APART, CAPACITY_NEVER, CAPACITY_OVER = 0.93, 0.8, 1.1
"""Of the label; over 1.1 it is no such cell, or was measured wrongly."""
RESISTANCE_APART, RESISTANCE_NEVER = 1.3, 2.0
"""Of the middle of the lot."""
FINE_V, FINE_CAPACITY, FINE_RESISTANCE, FINE_MASS = 0.002, 0.005, 0.02, 0.003
"""What one reading is good for: volts, and shares of the middle."""
DISPOSAL = "insulate both ends and hand it in where spent batteries are taken, by your local rules"


class Fate(IntEnum):
    """What to do with a cell; the greater counts."""

    USE = 0
    APART = 1
    NEVER = 2

    @property
    def words(self) -> str:
        """As it is shown."""
        return ("use", "use apart", "do not use")[self]


@dataclass(frozen=True)
class Remark:
    """What a rule says of a cell, with the arithmetic behind it and the field that it is about."""

    fate: Fate
    sentence: str
    sum: str
    field: str


@dataclass(frozen=True)
class JudgedCell:
    """A cell with what every rule says of it, the gravest first."""

    cell: NumberedCell
    remarks: tuple[Remark, ...]
    loss_mah_day: float | None
    """What it loses at rest; none where two readings some days apart are missing."""
    whereabouts: str = ""
    """In which pack it is already, or out of which it was taken; empty while it is free."""

    @property
    def fate(self) -> Fate:
        """The gravest."""
        return max((remark.fate for remark in self.remarks), default=Fate.USE)


@dataclass(frozen=True)
class Tray:
    """The numbered cells of one type, in order of their numbers, judged against label and lot."""

    cell_type: CellType
    cells: tuple[JudgedCell, ...]
    of_lot: tuple[str, ...]
    """What there is to be said of all of them."""

    @property
    def usable(self) -> tuple[NumberedCell, ...]:
        """Those that go into a pack, and are in none yet."""
        return tuple(one.cell for one in self.cells if one.fate is Fate.USE and not one.whereabouts)

    def counts(self) -> dict[Fate, int]:
        """How many of each fate."""
        return {fate: sum(one.fate is fate for one in self.cells) for fate in Fate}

    def bench_results(self) -> tuple[BenchResult, ...]:
        """What was measured of the usable cells, as the bench results of their type."""
        return tuple(
            BenchResult(
                label=str(cell.number), day=cell.rested_on or cell.arrived_on, capacity_mah=cell.capacity_mah,
                dcir_mohm=cell.dcir_mohm, mass_g=cell.mass_g,
            )
            for cell in (one.cell for one in self.cells if one.fate is Fate.USE)
            if (cell.capacity_mah, cell.dcir_mohm, cell.mass_g) != (None, None, None)
        )  # fmt: skip


def _read(cells: Sequence[NumberedCell], field: str) -> Floats:
    """(cells,) Not a number where it was not read."""
    return np.array([np.nan if (value := getattr(cell, field)) is None else value for cell in cells], float)


def loss_mah_day(cell_type: CellType, cell: NumberedCell) -> tuple[float, float] | None:
    """Charge that a resting cell loses in a day, mAh, and how far that may be off; none without two readings.

    ΔQ = C·(s(V₁) − s(V₂)) ÷ days, with s the state of charge whose resting voltage is V; the doubt is that of both
    readings through the same slope. Source: the open-circuit voltage as a gauge of charge. Not modelled: the rest after
    a charge or discharge that was not waited for, the temperature of either day.
    """
    days = cell.days_apart
    if days is None or days < LEAST_DAYS or cell.arrival_v is None or cell.rested_v is None:
        return None
    curve = resting_curve(cell_type)
    grid = np.linspace(0.0, 1.0, len(curve.values))
    volts = np.array([cell.arrival_v, cell.rested_v])
    held = np.interp(volts, curve.values, grid)
    above, below = (np.interp(volts + sign * READING_V, curve.values, grid) for sign in (1, -1))
    each = (above - below) / 2
    return (
        cell_type.capacity_mah * float(held[0] - held[1]) / days,
        cell_type.capacity_mah * float(np.hypot(*each)) / days,
    )


def judge(cell_type: CellType, cells: Sequence[NumberedCell], where: Mapping[int, str] | None = None) -> Tray:
    """Judge the numbered cells of a type against its sheet and against each other; ``where`` says, by number,
    which are not free: "in Whimbrel 2"."""
    cells = sorted(cells, key=lambda cell: cell.number)
    volts, capacity, mass = (_read(cells, field) for field in ("arrival_v", "capacity_mah", "mass_g"))
    resistance, which = _resistances(cells)
    far_volts = robust_z(volts, FINE_V)
    far_capacity = robust_z(capacity, FINE_CAPACITY * cell_type.capacity_mah)
    middle_v, middle_ohm = _middle(volts), _middle(resistance)
    far_ohm = robust_z(resistance, FINE_RESISTANCE * middle_ohm)
    found = []
    for place, cell in enumerate(cells):
        lost = loss_mah_day(cell_type, cell)
        remarks = [
            *_of_volts(cell_type, cell, float(far_volts[place]), middle_v),
            *_of_loss(cell_type, cell, lost),
            *_of_mass(cell_type, cell),
            *_of_capacity(cell_type, cell, float(far_capacity[place])),
            *_of_resistance(cell, which, float(resistance[place]), middle_ohm, float(far_ohm[place])),
            *_of_looks(cell),
        ]
        remarks.sort(key=lambda remark: -remark.fate)
        found.append(
            JudgedCell(cell, tuple(remarks), None if lost is None else lost[0], (where or {}).get(cell.number, ""))
        )
    kinds = _of_lot(cell_type, cells, capacity, resistance, mass)
    return Tray(cell_type, tuple(found), tuple(kinds))


def _middle(values: Floats) -> float:
    """Median of what was read; not a number where nothing was."""
    read = values[np.isfinite(values)]
    return float(np.median(read)) if len(read) else np.nan


def _resistances(cells: Sequence[NumberedCell]) -> tuple[Floats, str]:
    """(cells,) What most were measured by, and that field: DC and AC readings are never put beside each other."""
    by = {field: _read(cells, field) for field in ("dcir_mohm", "ac_resistance_mohm")}
    field = max(by, key=lambda name: int(np.isfinite(by[name]).sum()))
    return by[field], field


def _of_volts(cell_type: CellType, cell: NumberedCell, z: float, middle: float) -> Iterator[Remark]:
    volts = cell.arrival_v
    if volts is None:
        return
    never = never_v(cell_type)
    told = format_volts(volts)
    if volts < never:
        yield Remark(
            Fate.NEVER,
            f"Arrived at {told}: never charge it. Copper may have dissolved and comes back as a short circuit;"
            f" {DISPOSAL}.",
            f"{told} is under {format_volts(never, 1)}", "arrival_v",
        )  # fmt: skip
    elif volts < WATCH_V:
        yield Remark(
            Fate.APART,
            f"Arrived at {told}, stored too low: bring it up with a twentieth of 1C under watch, and read it again"
            " three days later.",
            f"{told} is under {format_volts(WATCH_V, 1)}", "arrival_v",
        )  # fmt: skip
    elif abs(z) > FAR_Z:
        side = "lower" if z < 0 else "higher"
        yield Remark(
            Fate.APART,
            (f"Its volts lie {side} than its lot's: it came from elsewhere, or loses charge. Read it again in"
" three days."),
            f"{told} against {format_volts(middle)}, {format_number(abs(z), 1)} spreads of the lot", "arrival_v",
        )  # fmt: skip


def _of_loss(cell_type: CellType, cell: NumberedCell, lost: tuple[float, float] | None) -> Iterator[Remark]:
    if lost is None or cell.arrival_v is None or cell.rested_v is None:
        return
    loss, doubt = lost
    share = (loss - doubt) / cell_type.capacity_mah
    if share < WATCH_SHARE:
        return
    reckoned = (
        f"{format_volts(cell.arrival_v, 3)} to {format_volts(cell.rested_v, 3)} in {cell.days_apart} days:"
        f" {format_number(loss, 0)} ± {format_number(doubt, 0)} mAh a day"
    )
    if share >= LOSES_SHARE:
        yield Remark(
            Fate.NEVER,
            f"It loses {format_number(loss, 0)} mAh a day at rest: a short inside it, which grows. Do not charge it;"
            f" {DISPOSAL}.",
            reckoned, "rested_v",
        )  # fmt: skip
    else:
        yield Remark(
            Fate.APART,
            (f"It loses {format_number(loss, 0)} mAh a day at rest, more than a sound cell. In a group it would"
" empty its fellows."),
            reckoned, "rested_v",
        )  # fmt: skip


def _of_mass(cell_type: CellType, cell: NumberedCell) -> Iterator[Remark]:
    if cell.mass_g is None:
        return
    off = cell.mass_g / cell_type.mass_g - 1
    if abs(off) < MASS_APART:
        return
    side = "light" if off < 0 else "heavy"
    reckoned = f"{format_grams(cell.mass_g, 1)} against {format_grams(cell_type.mass_g, 1)}, {_signed(off)}"
    if abs(off) >= MASS_NEVER:
        words = (
            f"Far too {side} for a {cell_type.name}: it is no such cell, or it has leaked. Do not use it; {DISPOSAL}."
        )
        yield Remark(Fate.NEVER, words, reckoned, "mass_g")
    else:
        words = f"Too {side} for what it says: another lot, or another cell in this wrap. Measure its capacity."
        yield Remark(Fate.APART, words, reckoned, "mass_g")


def _of_capacity(cell_type: CellType, cell: NumberedCell, z: float) -> Iterator[Remark]:
    if cell.capacity_mah is None:
        return
    share = cell.capacity_mah / cell_type.capacity_mah
    reckoned = f"{format_mah(cell.capacity_mah)} of {format_mah(cell_type.capacity_mah)}, {format_share(share)}"
    if share < CAPACITY_NEVER:
        yield Remark(
            Fate.NEVER, f"It holds {format_share(share)} of its label: it is worn, or no such cell.", reckoned,
            "capacity_mah",
        )  # fmt: skip
    elif share > CAPACITY_OVER:
        yield Remark(
            Fate.APART, "It holds more than its label: another cell in this wrap, or a reading in another unit.",
            reckoned, "capacity_mah",
        )  # fmt: skip
    elif share < CAPACITY_APART or z < -FAR_Z:
        beside = f"; {format_number(abs(z), 1)} spreads under its lot" if z < -FAR_Z else ""
        yield Remark(
            Fate.APART, "It holds less than its lot: in series it would end every flight first.", reckoned + beside,
            "capacity_mah",
        )  # fmt: skip


def _of_resistance(
    cell: NumberedCell, field: str, mohm: float, middle: float, z: float
) -> Iterator[Remark]:  # fmt: skip
    if not np.isfinite(mohm):
        return
    share = mohm / middle
    kind = "AC" if field == "ac_resistance_mohm" else "DC"
    reckoned = (
        f"{format_significant(mohm, 3)} mΩ against {format_significant(middle, 3)} mΩ ({kind}),"
        f" {format_number(share, 1)} times"
    )
    if share >= RESISTANCE_NEVER:
        words = "Twice the resistance of its lot: worn, or a bad contact. Measure again; if it stays so, do not use it."
        yield Remark(Fate.NEVER, words, reckoned, field)
    elif share >= RESISTANCE_APART or abs(z) > FAR_Z:
        side = "higher" if share > 1 else "lower"
        words = f"Its resistance is {side} than its lot's: its fellows in a group would carry unequal shares."
        yield Remark(Fate.APART, words, reckoned, field)


def _of_looks(cell: NumberedCell) -> Iterator[Remark]:
    for look in cell.looks:
        if look is Look.DENT:
            words = f"A dent may be a short that waits: do not use it; {DISPOSAL}."
            yield Remark(Fate.NEVER, words, "dented", "looks")
        elif look is Look.RUST:
            words = f"Rust at an end comes from a leak or from water: do not use it; {DISPOSAL}."
            yield Remark(Fate.NEVER, words, "rusty", "looks")
        elif look is Look.TORN_WRAP:
            words = "Under the wrap the whole can is negative: wrap it anew before it lies beside another."
            yield Remark(Fate.APART, words, "torn wrap", "looks")
        else:
            words = "Wrapped anew by somebody: what the wrap says is no evidence. Weigh it and measure its capacity."
            fate = Fate.USE if cell.mass_g is not None and cell.capacity_mah is not None else Fate.APART
            yield Remark(fate, words, "re-wrapped", "looks")


def _of_lot(
    cell_type: CellType, cells: Sequence[NumberedCell], capacity: Floats, resistance: Floats, mass: Floats
) -> Iterator[str]:
    told = (
        ("capacity", capacity, FINE_CAPACITY * cell_type.capacity_mah, format_mah),
        ("resistance", resistance, FINE_RESISTANCE * _middle(resistance),
         lambda value: f"{format_significant(value, 3)} mΩ"),
        ("mass", mass, FINE_MASS * cell_type.mass_g, lambda value: format_grams(value, 1)),
    )  # fmt: skip
    for name, values, fine, words in told:
        kinds = two_kinds(values, fine)
        if kinds is not None:
            of_low = int(np.isfinite(values).sum() - kinds.higher.sum())
            yield (
                f"By {name} this tray is of two kinds: {of_low} about {words(kinds.low)},"
                f" {int(kinds.higher.sum())} about {words(kinds.high)}. Build a pack of one kind only."
            )


def _signed(share: float) -> str:
    return format_change(100 * share, 0, "%")

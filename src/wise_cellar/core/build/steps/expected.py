"""The volts to expect at every stage of a pack: what its cells were last read at, through what is joined by then."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from wise_cellar.core.cells import capacity_mah, mean_resting_v
from wise_cellar.core.documents import CellType, NumberedCell

METER_V = 0.010
"""What a reading, and the one that it is held against, are good for together."""
DRIFT_V = 0.005
"""By which a group may have moved since its cells were read."""
UNREAD_V = 0.40
"""How far a cell that was never read may rest from the middle of its type: from a tenth full to nearly full."""


@dataclass(frozen=True)
class GroupRest:
    """What a group rests at."""

    volts: float
    within_v: float
    """How far a cell of it may be from that, and still be as it was read."""
    read: bool = True
    """Whether any of its cells was."""


@dataclass(frozen=True)
class Expected:
    """One reading of a step: what is to be read, and what it should be."""

    key: str
    words: str
    volts: float
    within_v: float

    def fits(self, volts: float) -> bool:
        """Whether it reads as it should."""
        return abs(volts - self.volts) <= self.within_v


def last_v(cell: NumberedCell) -> float | None:
    """What a cell was last read at, at rest."""
    return cell.rested_v if cell.rested_v is not None else cell.arrival_v


def settled_v(volts: Sequence[float], charge_mah: Sequence[float]) -> float:
    """What cells side by side come to rest at: V = Σ C·V ÷ Σ C.

    Charge flows until all rest alike; what one gives the others take. Source: conservation of charge. Not modelled: the
    bend of the open-circuit voltage between them, a few per cent of how far they are apart.
    """
    held = np.asarray(charge_mah, float)
    return float(np.sum(held * np.asarray(volts, float)) / held.sum())


def group_rests(
    cell_type: CellType, groups: Sequence[Sequence[NumberedCell]], series: int, others: Iterable[NumberedCell] = ()
) -> tuple[GroupRest, ...]:
    """What every group rests at, by what its cells were last read at.

    Cells that were not read count as their fellows; a group of which none was, as the middle of ``others``, else as
    half full. ``groups`` may be empty: then all are so.
    """
    read = [volts for cell in others if (volts := last_v(cell)) is not None]
    # One that is far from its lot says nothing of the others.
    usual = GroupRest(float(np.median(read)), _spread(np.percentile(read, [10, 90]).tolist())) if read else GroupRest(
        mean_resting_v(cell_type), UNREAD_V, read=False
    )  # fmt: skip
    if len(groups) != series:
        return (usual,) * series
    found = []
    for group in groups:
        told = [(each, cell.capacity_mah) for cell in group if (each := last_v(cell)) is not None]
        if not told:
            found.append(usual)
            continue
        rested = [each for each, _ in told]
        held = [capacity_mah(cell_type) if mah is None else mah for _, mah in told]
        found.append(GroupRest(settled_v(rested, held), _spread(rested)))
    return tuple(found)


def _spread(volts: Sequence[float]) -> float:
    return (max(volts) - min(volts)) / 2 + DRIFT_V


def as_read(rests: Sequence[GroupRest], readings: Mapping[str, float]) -> tuple[GroupRest, ...]:
    """The same with groups that were read since, by ``group-1`` and so on from the negative end."""
    return tuple(
        rest if (volts := readings.get(group_key(place))) is None else GroupRest(abs(volts), DRIFT_V)
        for place, rest in enumerate(rests)
    )


def group_key(place: int) -> str:
    """What the reading of a group is kept by; counted from 0."""
    return f"group-{place + 1}"


def segments(series: int, joined: Iterable[int]) -> list[tuple[int, int]]:
    """Runs of groups, first and last counted from 0, that are joined in series by then; ``joined`` are nodes."""
    joined = set(joined)
    found, first = [], 0
    for group in range(series):
        if group == series - 1 or group + 1 not in joined:
            found.append((first, group))
            first = group + 1
    return found


def of_segments(rests: Sequence[GroupRest], joined: Iterable[int]) -> tuple[Expected, ...]:
    """A reading over each run of groups that is joined, and over each group of it where all are joined."""
    runs = segments(len(rests), joined)
    whole = len(runs) == 1 and len(rests) > 1
    found = [_over(rests, group, group) for group in range(len(rests))] if whole else []
    return (*found, *(_over(rests, first, last) for first, last in runs))


def _over(rests: Sequence[GroupRest], first: int, last: int) -> Expected:
    some = rests[first : last + 1]
    within = METER_V + sum(rest.within_v for rest in some)
    if first == last:
        return Expected(group_key(first), f"Group {first + 1}, black on its negative end", some[0].volts, within)
    words = f"From the negative end of group {first + 1} to the positive end of group {last + 1}"
    return Expected(f"groups-{first + 1}-{last + 1}", words, sum(rest.volts for rest in some), within)


def standing(rests: Sequence[GroupRest], positive_up: Sequence[bool]) -> tuple[Expected, ...]:
    """Each cell where it stands, red on the end that looks up: negative where its negative end does."""
    found = []
    for place, (rest, up) in enumerate(zip(rests, positive_up, strict=True)):
        words = f"Every cell of group {place + 1}, red on its upper end"
        volts = rest.volts if up else -rest.volts
        found.append(Expected(group_key(place), words, volts, METER_V + rest.within_v))
    return tuple(found)


def of_pins(rests: Sequence[GroupRest]) -> tuple[Expected, ...]:
    """Every balance wire against the most negative one, as soon as it is joined."""
    found = []
    for place in range(len(rests)):
        one = _over(rests, 0, place)
        found.append(replace(one, key=f"pin-{place + 2}", words=f"Wire {place + 2}, black on wire 1"))
    return tuple(found)


def at_plug(rests: Sequence[GroupRest]) -> Expected:
    """The whole pack at its plug."""
    return replace(_over(rests, 0, len(rests) - 1), key="plug", words="At the plug, red on its positive half")


def nothing_yet(words: str) -> Expected:
    """Where a circuit is still open."""
    return Expected("plug", words, 0.0, 0.05)


def full(cell_type: CellType, series: int) -> tuple[Expected, ...]:
    """Straight after a full charge: every group, and the plug."""
    volts = cell_type.max_voltage_v
    groups = [Expected(group_key(place), f"Group {place + 1}", volts, FULL_WITHIN_V) for place in range(series)]
    return (*groups, Expected("plug", "At the plug", series * volts, series * FULL_WITHIN_V))


FULL_WITHIN_V = 0.03
"""By which a group may miss full when the charger says that it is done: what it rests back by, and the meter."""

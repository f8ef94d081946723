"""A run on the bench that was made: what its charge says of the pack."""

from __future__ import annotations

from wise_cellar.core.answer.answering import answer
from wise_cellar.core.answer.result import Answer
from wise_cellar.core.documents import CompleteDesign, DocumentError, replaced

LEAST_PERCENT, MOST_PERCENT = 40.0, 110.0
PASSES = 3
FIELD = "design.packs.0.state.capacity_percent"


def measured_capacity_percent(complete: CompleteDesign, predicted: Answer, given_mah: float) -> float:
    """Capacity for its age, %, with which the pack would have given ``given_mah`` in this run, mAh.

    The run is flown again with a pack of that capacity until both agree. Raises :class:`DocumentError` where no pack
    of these cells could have given it. Source: our own; not modelled: that an aged pack's resistance has grown too,
    which a run at another current would tell.
    """
    percent, told = complete.pack.state.capacity_percent, predicted
    for _ in range(PASSES):
        percent = percent * given_mah / told.given_mah
        if not LEAST_PERCENT <= percent <= MOST_PERCENT:
            raise DocumentError(
                f"{given_mah:.0f} mAh would make this pack {percent:.0f} % of what its cells held when new; between"
                f" {LEAST_PERCENT:.0f} and {MOST_PERCENT:.0f} % is one that can be. Check the charge, and that the run"
                " was this one.",
                FIELD,
            )
        told = answer(replaced(complete, FIELD, percent))
    return round(percent, 1)

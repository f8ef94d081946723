"""A run on the bench that was made: what its charge says of the pack."""

from __future__ import annotations

from wise_cellar.core.answer.answering import answer
from wise_cellar.core.answer.result import Answer
from wise_cellar.core.documents import CompleteDesign, DocumentError, replaced
from wise_cellar.core.flight.batch import Ending
from wise_cellar.core.units import format_mah, format_number

LEAST_PERCENT, MOST_PERCENT = 40.0, 110.0
PASSES = 3
LEAST_S = 60.0
"""A run that ends sooner tells of the load, not of the charge."""
FIELD = "design.packs.0.state.capacity_percent"


def measured_capacity_percent(complete: CompleteDesign, predicted: Answer, given_mah: float) -> float:
    """Capacity for its age, %, with which the pack would have given ``given_mah`` in this run, mAh.

    The run is flown again with a pack of that capacity until both agree. Raises :class:`DocumentError` where the run
    does not tell it, or no pack of these cells could have given so much. Source: our own; not modelled: that an aged
    pack's resistance has grown too, which a run at another current would tell.
    """
    if len(complete.packs) > 1:
        raise DocumentError("Several packs gave the charge together: run one alone to tell its capacity.", FIELD)
    percent, told = complete.pack.state.capacity_percent, predicted
    for _ in range(PASSES):
        _ends_with_the_pack(told)
        percent = percent * given_mah / told.given_mah
        if not LEAST_PERCENT <= percent <= MOST_PERCENT:
            raise DocumentError(
                f"{format_mah(given_mah)} would make this pack {format_number(percent, 0)} % of what its cells"
                f" held when new; between {format_number(LEAST_PERCENT, 0)} and {format_number(MOST_PERCENT, 0)}"
                " % is one that can be. Check the charge, and that the run was this one.",
                FIELD,
            )
        told = answer(replaced(complete, FIELD, percent))
    return round(percent, 1)


def _ends_with_the_pack(run: Answer) -> None:
    """Raises :class:`DocumentError` where something else ends the run."""
    if run.reason.ending is Ending.MISSION_COMPLETE:
        raise DocumentError(
            "This run ends with its time, whatever the pack still holds: let its last step last until the landing rule"
            " ends it.",
            "mission.blocks",
        )
    if run.duration_s < LEAST_S:
        raise DocumentError(
            "By prediction this run ends at once, under its load: ask for less of it.", "mission.blocks"
        )

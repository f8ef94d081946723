"""What flights taught, put into the documents: with its doubt, where it came from, and what stood there before."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from wise_cellar.core.documents import CompleteDesign, Craft, LearnedOf, LearnedValue, PackState
from wise_cellar.core.documents.provenance import Day
from wise_cellar.core.logbook.entries import Lesson
from wise_cellar.core.logbook.learning import Learned
from wise_cellar.core.logbook.noted import with_shares
from wise_cellar.core.logbook.reflown import carrier_of
from wise_cellar.core.propulsion import calibrate
from wise_cellar.core.propulsion.carrier import RotorPropulsion

OF_CRAFT = {"power": LearnedOf.POWER, "drag": LearnedOf.DRAG}
OF_PACK = {
    "capacity": LearnedOf.CAPACITY, "resistance": LearnedOf.RESISTANCE, "cooling": LearnedOf.COOLING,
    "lag": LearnedOf.LAG,
}  # fmt: skip


SHARES: dict[LearnedOf, Callable[[PackState], float]] = {
    LearnedOf.COOLING: lambda state: state.cooling_share, LearnedOf.LAG: lambda state: state.lag_share,
}  # fmt: skip
"""Of a pack, over what the law says; the others are per cent of new."""


def with_lesson(complete: CompleteDesign, lesson: Lesson, day: Day) -> CompleteDesign:
    """A design with all that flights taught of its craft and of its only pack."""
    for name in (*OF_CRAFT, *OF_PACK):
        one = lesson.of(name)
        if one is None or not one.told:
            continue
        if name in OF_CRAFT:
            complete = complete.changed(craft=craft_with(complete, one, lesson.flights, day))
        elif len(complete.packs) == 1:
            complete = complete.with_pack(state=state_with(complete, one, lesson.flights, day))
    return complete


def craft_with(complete: CompleteDesign, one: Learned, flights: Sequence[str], day: Day) -> Craft:
    """The craft with the power or the drag that flights taught, over what it is thought to have."""
    craft, of = complete.craft, OF_CRAFT[one.name]
    others = tuple(value for value in craft.learned if value.of is not of)
    told = {"of": of, "doubt_percent": doubt_percent(one), "flights": tuple(flights), "learned_on": day}
    if of is LearnedOf.POWER:
        known = calibrate(craft)
        factor = round(one.share * (known.factor if known is not None else 1.0), 4)
        return craft.changed(learned=(*others, LearnedValue(value=factor, **told)))
    carrier = carrier_of(complete)
    if not isinstance(carrier, RotorPropulsion):
        return craft
    area = round(one.share * carrier.drag_area_m2, 6)
    learned = LearnedValue(value=area, before=craft.drag_area_m2, **told)
    return craft.changed(learned=(*others, learned), drag_area_m2=area)


def state_with(complete: CompleteDesign, one: Learned, flights: Sequence[str], day: Day) -> PackState:
    """The first pack with the capacity or the resistance that flights taught, over what it is thought to have."""
    state, of = complete.pack.state, OF_PACK[one.name]
    others = tuple(value for value in state.learned if value.of is not of)
    if of in SHARES:
        known = state.taught(of)
        told = LearnedValue(
            of=of, value=round(one.share * SHARES[of](state), 3), doubt_percent=doubt_percent(one),
            before=None if known is None else known.value, flights=tuple(flights), learned_on=day,
        )  # fmt: skip
        return state.changed(learned=(*others, told))
    field = f"{one.name}_percent"
    shares = (one.share, 1.0) if of is LearnedOf.CAPACITY else (1.0, one.share)
    changed = with_shares(state, *shares)
    learned = LearnedValue(
        of=of, value=getattr(changed, field), before=getattr(state, field), doubt_percent=doubt_percent(one),
        flights=tuple(flights), learned_on=day,
    )  # fmt: skip
    return changed.changed(learned=(*others, learned))


def doubt_percent(one: Learned) -> float:
    """Its doubt as documents keep it."""
    return min(max(round(100 * one.doubt, 2), 0.01), 100.0)

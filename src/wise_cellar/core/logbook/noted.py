"""A flight of which a few numbers were written down: what they say of craft and pack, by the model flown the same way.

The logarithms of power, capacity and resistance are moved until the model, after the same minutes, has drawn the same
charge and has the same volts under load and at rest; least squares with what was known before (Gauss-Newton, two steps:
the model is nearly straight in them). Source: PHYSICS.md, "Learning from a recording"; ours: the doubts of what people
write down.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wise_cellar.core.answer import Answer, answer
from wise_cellar.core.documents import (
    ENDLESS_KINDS,
    Block,
    BlockKind,
    CompleteDesign,
    DocumentError,
    FlightEntry,
    Mission,
    PackState,
)
from wise_cellar.core.logbook.evidence import Evidence, together
from wise_cellar.core.logbook.flying import Along, fly_many
from wise_cellar.core.logbook.learning import BEFORE, CAN_BE, Learned, learned_of, told_words
from wise_cellar.core.logbook.reflown import NO_CALL
from wise_cellar.core.logbook.sensors import COULOMBIC, RETURNED_DOUBT
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.units import format_mah, format_minutes, format_volts

NAMES = ("power", "capacity", "resistance")
STEPS, PASSES = (0.02, 0.02, 0.10), 3
COUNTER_DOUBT, FLOWN_DOUBT, MINUTES_DOUBT = 0.04, 0.04, 0.25
"""Of a counter on board, of how a flight that nobody logged was flown, shares of one; and of minutes by a watch."""
LOADED_V, RESTING_V = 0.03, 0.012
"""Of a cell: a reading under load, which is of a moment, with what the model is off by; and one at rest."""
LEAST_S = 5.0


@dataclass(frozen=True)
class NotedFlight:
    """A flight by its notes over the same flight as the model flies it."""

    entry: FlightEntry
    flies: CompleteDesign
    """The design with the mission as it was flown, for as long as the pack carries it."""
    answered: Answer
    """The model's flight of it."""
    learned: tuple[Learned, ...]
    said: tuple[Evidence, ...]
    remarks: tuple[str, ...]

    @property
    def seconds(self) -> float:
        """In the air: as noted, else until the charge was drawn by the model."""
        if self.entry.duration_min is not None:
            return 60 * self.entry.duration_min
        return float(np.interp(self.drawn_mah, self.answered.series.charge_used_mah, self.answered.series.time_s))

    @property
    def drawn_mah(self) -> float:
        """Charge drawn: by the charger, by the counter, else by the model in the same minutes."""
        drawn = drawn_mah(self.entry, self.flies)
        if drawn is not None:
            return drawn
        series = self.answered.series
        return float(np.interp(60 * (self.entry.duration_min or 0.0), series.time_s, series.charge_used_mah))

    def sentences(self) -> list[str]:
        """What was noted, and what it teaches."""
        entry = self.entry
        parts = [format_minutes(60 * entry.duration_min)] if entry.duration_min is not None else []
        parts += [f"{format_mah(mah)} {what}" for mah, what in
                  ((entry.returned_mah, "put back"), (entry.used_mah, "used")) if mah is not None]  # fmt: skip
        parts += [f"{format_volts(volts)} {what}" for volts, what in
                  ((entry.landing_v, "at landing"), (entry.resting_v, "at rest")) if volts is not None]  # fmt: skip
        told = [f"Written down: {', '.join(parts)}."] if parts else []
        return [*told, *told_words(self.learned), *self.remarks]


def drawn_mah(entry: FlightEntry, complete: CompleteDesign) -> float | None:
    """Charge that a flight drew by what was noted; none where nothing tells it."""
    if entry.returned_mah is not None:
        missing = (1 - entry.start_charge_percent / 100) * complete.pack.label_mah
        return max(COULOMBIC * entry.returned_mah - missing, 1.0)
    return entry.used_mah


def flown_on(mission: Mission) -> Mission:
    """A mission that goes on after its last block, as its longest steady one, until the landing rule calls."""
    blocks = list(mission.blocks)
    landing: list[Block] = []
    while blocks and blocks[-1].kind is BlockKind.LANDING:
        landing.insert(0, blocks.pop())
    endless = any(block.duration_s is None for block in blocks) or any(one.times is None for one in mission.repeats)
    if endless or not blocks:
        return mission
    steady = [block for block in blocks if block.kind in ENDLESS_KINDS]
    usual = max(steady, key=lambda block: block.duration_s or 0.0, default=Block(kind=BlockKind.HOVER))
    return mission.changed(blocks=(*blocks, usual.changed(duration_s=None), *landing))


def lasting(mission: Mission, seconds: float | None) -> Mission:
    """A mission that goes on so long that it has landed after so many seconds; where it cannot be told, or it has
    groups that are repeated, on and on."""
    going = flown_on(mission)
    endless = next((place for place, block in enumerate(going.blocks) if block.duration_s is None), None)
    if seconds is None or endless is None or going.repeats:
        return going
    rest = seconds - sum(block.duration_s or 0.0 for block in going.blocks)
    if rest < LEAST_S:
        return going
    blocks = [block.changed(duration_s=rest) if place == endless else block for place, block in enumerate(going.blocks)]
    return going.changed(blocks=tuple(blocks))


def noted_flight(entry: FlightEntry, complete: CompleteDesign) -> NotedFlight:
    """A flight by its notes; ``complete`` is the design in the weather of the day. Raises :class:`DocumentError` where
    the notes cannot be of one flight of it."""
    flies = complete.changed(mission=flown_on(complete.mission))
    minutes = entry.duration_min
    endless = flies.changed(mission=lasting(complete.mission, None if minutes is None else 60 * minutes))
    endless = endless.with_design(landing=endless.design.landing.changed(**NO_CALL))
    answered = answer(endless)
    remarks: list[str] = []
    said: list[Evidence] = []
    told = _told(entry, complete)
    if len(complete.packs) > 1:
        remarks.append("Several packs flew together: a flight tells of one alone.")
    elif entry.duration_min is None and drawn_mah(entry, complete) is None:
        remarks.append("Neither its minutes nor its charge was written down: it teaches nothing.")
    elif not told:
        remarks.append("Write down what the charger put back, or the volts: minutes alone teach nothing.")
    else:
        said.append(_evidence(entry, endless, told))
    learned: tuple[Learned, ...] = ()
    if said:
        names = [name for name, own in zip(NAMES, np.diag(said[0].information), strict=True) if own > 0]
        learned = learned_of(together(said, BEFORE), {name: BEFORE[name] for name in names})
    return NotedFlight(entry, flies, answered, learned, tuple(said), tuple(remarks))


def _told(entry: FlightEntry, complete: CompleteDesign) -> list[tuple[int, float, float]]:
    """What was noted: which (0 charge, 1 volts under load, 2 at rest), its value, its doubt. Charge as a logarithm."""
    series, found = complete.pack.recipe.series_count, []
    drawn = drawn_mah(entry, complete)
    if drawn is not None and entry.duration_min is not None:
        count = RETURNED_DOUBT if entry.returned_mah is not None else COUNTER_DOUBT
        doubt = float(np.hypot(count, MINUTES_DOUBT / entry.duration_min))
        found.append((0, float(np.log(drawn)), doubt))
    for place, volts, within in ((1, entry.landing_v, LOADED_V), (2, entry.resting_v, RESTING_V)):
        if volts is not None:
            found.append((place, volts / series, within))
    return found


def _evidence(entry: FlightEntry, complete: CompleteDesign, told: list[tuple[int, float, float]]) -> Evidence:
    drawn = drawn_mah(entry, complete)
    places = [place for place, _, _ in told]
    wanted, doubts = np.array([value for _, value, _ in told]), np.array([doubt for _, _, doubt in told])
    before = np.array([BEFORE[name] for name in NAMES])

    x = np.zeros(len(NAMES))
    steps = np.vstack([np.zeros(len(NAMES)), np.diag(STEPS)])
    for _ in range(PASSES):
        flown = _fly_all(complete, x + steps)
        now, *moved = (_at_landing(one, entry.duration_min, drawn)[places] for one in flown)
        slopes = np.array([(one - now) / step for one, step in zip(moved, STEPS, strict=True)]).T
        weighed = slopes / doubts[:, None] ** 2
        whole = slopes.T @ weighed + np.diag(1 / before**2)
        x = np.clip(np.linalg.solve(whole, weighed.T @ (wanted - now + slopes @ x)), -0.8, 0.8)
    information = slopes.T @ weighed
    return _of_the_craft((information + np.diag(1 / before**2)) @ x, information)


def _of_the_craft(vector: Floats, information: Floats) -> Evidence:
    """The say on the craft's own power, where that of the flight was so much of it as :data:`FLOWN_DOUBT` leaves open:
    what was drawn is known far better than how it was flown."""
    across = information[:, :1] / (information[0, 0] + FLOWN_DOUBT**-2)
    return Evidence(NAMES, vector - across[:, 0] * vector[0], information - across @ information[:1])


def _at_landing(one: Along, minutes: float | None, drawn: float | None) -> Floats:
    """(3,) Logarithm of the charge, and volts a cell under load and at rest, after so many minutes, else with so much
    drawn."""
    along, at = (one.drawn_mah, drawn or 0.0) if minutes is None else (one.time_s, 60 * minutes)
    values = (np.log(np.maximum(one.drawn_mah, 1.0)), one.loaded_v, one.resting_v)
    return np.array([float(np.interp(at, along, of)) for of in values])


def _fly_all(complete: CompleteDesign, sets: Floats) -> list[Along]:
    """The design with other power, capacity and resistance, logarithms of shares (flights, 3)."""
    return fly_many([
        (complete.with_pack(state=with_shares(complete.pack.state, capacity, resistance)), power)
        for power, capacity, resistance in np.exp(sets).tolist()
    ])  # fmt: skip


def with_shares(state: PackState, capacity: float, resistance: float) -> PackState:
    """A pack that has so much of what it was thought to have, as far as a pack can."""
    return state.changed(
        capacity_percent=round(float(np.clip(capacity * state.capacity_percent, 40.0, 110.0)), 3),
        resistance_percent=round(float(np.clip(resistance * state.resistance_percent, 80.0, 400.0)), 3),
    )  # fmt: skip


def refuse_what_cannot_be(entry: FlightEntry, complete: CompleteDesign) -> None:
    """Raises :class:`DocumentError` where notes cannot be of a flight with this pack."""
    label, series = complete.pack.label_mah, complete.pack.recipe.series_count
    drawn = drawn_mah(entry, complete)
    if drawn is not None and drawn > CAN_BE["capacity"][1] * 1.1 * label:
        raise DocumentError(
            f"{format_mah(drawn)} are more than the pack's {format_mah(label)}. Did another pack fly, or is the charge"
            " of two flights?"
        )
    full = complete.pack.cell.max_voltage_v * series
    for volts, when in ((entry.landing_v, "at landing"), (entry.resting_v, "at rest")):
        if volts is not None and not 0.45 * full < volts < 1.02 * full:
            raise DocumentError(
                f"{format_volts(volts)} {when} is no voltage of {series} cells in series, which are full at"
                f" {format_volts(full)}. Write the volts of the whole pack."
            )

"""What the Logbook asks of the session: flights written down, put right, forgotten; what they taught, taken or let
go."""

from __future__ import annotations

from contextlib import suppress
from dataclasses import dataclass, replace
from datetime import date, datetime
from operator import is_
from weakref import WeakKeyDictionary

from wise_cellar.core.documents import (
    BuiltPack,
    CompleteDesign,
    Design,
    Document,
    DocumentError,
    FlightEntry,
    LearnedOf,
    LearnedValue,
    Mission,
    Recording,
    RecordingKind,
    SensorFact,
)
from wise_cellar.core.logbook.entries import Fact, Lesson
from wise_cellar.core.logbook.reflown import FlownFlight
from wise_cellar.core.logbook.taking import OF_CRAFT, OF_PACK, SHARES, craft_with, doubt_percent, state_with
from wise_cellar.core.units import format_number
from wise_cellar.store import Removal
from wise_cellar.store.contents import KIND_OF
from wise_cellar.ui.state.flight_facts import Facts, Flown
from wise_cellar.ui.state.pack_life import as_flown, today, with_designs
from wise_cellar.ui.state.recording_edits import recorded_rows
from wise_cellar.ui.state.session import Session


@dataclass
class _Listed:
    """The flights of a session, and the documents that they were made of."""

    of: list[Document]
    flights: list[FlightEntry]


_LISTED: WeakKeyDictionary[Session, _Listed] = WeakKeyDictionary()
"""What was listed last: a page asks for it several times, and a thousand logs without a word take 40 ms."""


def flights(session: Session) -> list[FlightEntry]:
    """All flights, the first one first; a log that nobody wrote a word to is one too."""
    written: list[FlightEntry] = list(session.all(FlightEntry).values())
    logs = [one for one in session.all(Recording).values() if one.kind is RecordingKind.FLIGHT]
    of, listed = [session.complete.design, *written, *logs], _LISTED.get(session)
    if listed is None or len(listed.of) != len(of) or not all(map(is_, listed.of, of)):
        noted = {entry.recording_id for entry in written}
        every = [*written, *(entry_of(session, log) for log in logs if log.id not in noted)]
        listed = _Listed(of, sorted(every, key=lambda entry: (entry.flown_at, entry.of_log, entry.id)))
        _LISTED[session] = listed
    return list(listed.flights)


def entry_of(session: Session, recording: Recording, flight: int = 1) -> FlightEntry:
    """A flight of a log, before anybody wrote a word to it."""
    return FlightEntry(
        id=f"of-{recording.id}" if flight == 1 else f"of-{recording.id}-{flight}", name=recording.name[:60],
        flown_at=recording.begun_at, design_id=recording.design_id or session.complete.design.id,
        recording_id=recording.id, of_log=flight, returned_mah=recording.returned_mah,
    )  # fmt: skip


def new_flight(session: Session, at: datetime) -> FlightEntry:
    """An empty line of the logbook, of the present design and the pack that it flies."""
    design = session.complete.design
    flies = design.packs[0].flies
    name = f"{session.complete.craft.name}, {at:%Y-%m-%d}"
    names = {entry.name for entry in flights(session)}
    name = next(one for number in range(1, len(names) + 2)
                if (one := name if number == 1 else f"{name}, {number}") not in names)  # fmt: skip
    return FlightEntry(
        id=session.free_id(FlightEntry, name), name=name, flown_at=at, design_id=design.id,
        pack_id="" if flies is None else flies.id,
        start_charge_percent=design.packs[0].state.start_charge_percent,
    )  # fmt: skip


def write_flight(session: Session, entry: FlightEntry, what: str = "") -> None:
    """Write a flight down, or put it right."""
    session.commit(f"{entry.name}: {what}" if what else f"Write {entry.name} down", [entry])


def remove_flight(session: Session, entry: FlightEntry) -> None:
    """Forget a flight, and its log where no other flight is in it."""
    gone: list[Document | Removal] = []
    if entry.id in session.all(FlightEntry):
        gone.append(Removal(KIND_OF[FlightEntry], entry.id))
    others = [one for one in flights(session) if one.recording_id == entry.recording_id and one.id != entry.id]
    if entry.recording_id in session.all(Recording) and not others:
        gone.append(Removal(KIND_OF[Recording], entry.recording_id))
    session.commit(f"Remove {entry.name}", gone)
    session.took_away.emit(f"Removed the flight {entry.name}.")


def complete_of(session: Session, entry: FlightEntry) -> CompleteDesign:
    """The design that flew, with the built pack that flew as it is today; raises :class:`DocumentError`."""
    present = session.complete
    design: Design | None = present.design if entry.design_id == present.design.id else None
    design = design or session.all(Design).get(entry.design_id)
    if design is None:
        raise DocumentError(f"The design that {entry.name} flew is not in the workspace any more: choose another.")
    pack: BuiltPack | None = session.all(BuiltPack).get(entry.pack_id)
    if pack is not None:
        first = as_flown(design.packs[0], pack, today(session, pack))
        design = design.changed(packs=(first, *design.packs[1:]))
    return session.library.assembled(design)


def flown_of(session: Session, facts: Facts, entry: FlightEntry) -> Flown:
    """A flight with all that it is held against; raises :class:`DocumentError`."""
    recording: Recording | None = session.all(Recording).get(entry.recording_id)
    mission: Mission | None = session.all(Mission).get(entry.mission_id)
    flown = Flown(entry, complete_of(session, entry), mission, recording)
    known = facts.known(flown)
    if recording is None or known is not None:
        return replace(flown, fact=known)
    return replace(flown, rows=recorded_rows(session, recording))


def flights_of(
    session: Session, facts: Facts, *, craft_id: str = "", pack_id: str = "", most: int | None = None
) -> list[Flown]:
    """The latest flights of a craft or of a built pack; those whose design or whose pack is not whole are left out."""
    designs = session.all(Design)
    found = []
    for entry in flights(session):
        design = designs.get(entry.design_id)
        if design is None or (craft_id and design.craft_id != craft_id) or (pack_id and entry.pack_id != pack_id):
            continue
        found.append(entry)
    told = []
    for entry in found if most is None else found[-most:]:
        with suppress(DocumentError):
            told.append(flown_of(session, facts, entry))
    return told


def keep_mission(session: Session, entry: FlightEntry, fact: Fact) -> Mission:
    """Put what was flown among the missions, so that any design flies it."""
    name = f"As flown: {entry.name}"[:80]
    made: Mission = fact.flies.mission.changed(
        id=session.free_id(Mission, name), name=name, sample=False, craft_id="", archived=False
    )
    session.commit(f"{entry.name} as a mission", [made])
    return made


def take_lesson(session: Session, lesson: Lesson, name: str, pack: BuiltPack | None) -> None:
    """Take one of the values that flights taught into the craft, the design's pack, or the built pack that flew; one
    edit. Raises :class:`DocumentError` where they did not tell it."""
    one = lesson.of(name)
    if one is None or not one.told:
        raise DocumentError(f"These flights do not tell the {name}.")
    complete, day = session.complete, date.today()
    percent = format_number(100 * one.share, 0)
    label = f"Take the {name} that flights taught ({percent} % of what was expected)"
    if name in OF_CRAFT:
        session.commit(label, [craft_with(complete, one, lesson.flights, day)])
        return
    of = OF_PACK[name]
    if pack is None:
        state = state_with(complete, one, lesson.flights, day)
        session.commit(label, [complete.design.with_first(state=state)])
        return
    now = today(session, pack)
    present = {LearnedOf.CAPACITY: now.capacity_percent, LearnedOf.RESISTANCE: now.resistance_percent,
               LearnedOf.COOLING: now.cooling_share, LearnedOf.LAG: now.lag_share}  # fmt: skip
    value = one.share * present[of]
    learned = LearnedValue(
        of=of, value=round(value, 3), doubt_percent=doubt_percent(one), flights=lesson.flights, learned_on=day
    )
    session.commit(label, with_designs(session, pack.changed(learned=(*pack.learned, learned))))


def let_go(session: Session, value: LearnedValue, pack: BuiltPack | None) -> None:
    """Put back what stood in the place of a learned value; one edit."""
    complete, label = session.complete, f"Let the learned {value.of} go"
    if value.of in OF_CRAFT.values():
        kept = tuple(one for one in complete.craft.learned if one != value)
        drag = {"drag_area_m2": value.before} if value.of is LearnedOf.DRAG else {}
        session.commit(label, [complete.craft.changed(learned=kept, **drag)])
        return
    if pack is not None:
        rest = tuple(one for one in pack.learned if one.of is not value.of)
        session.commit(label, with_designs(session, pack.changed(learned=rest)))
        return
    state = complete.pack.state
    kept = tuple(one for one in state.learned if one != value)
    before = {f"{value.of}_percent": value.before if value.before is not None else 100.0}
    back = state.changed(learned=kept, **({} if value.of in SHARES else before))
    session.commit(label, [complete.design.with_first(state=back)])


def remember_sensors(session: Session, fact: FlownFlight, name: str) -> None:
    """Let the craft know how far its sensors are off: they are put right in every log from then on; one edit."""
    sensor, craft = fact.sensor, fact.flies.craft
    if sensor is None:
        raise DocumentError("Nothing was held against the current sensor of this flight: tell what was put back.")
    known = craft.sensor
    offset = known.volts_offset_v if known is not None else 0.0
    if fact.volts_offset is not None and abs(fact.volts_offset[0]) > 2 * fact.volts_offset[1]:
        offset += fact.volts_offset[0]
    told = SensorFact(
        amps_scale=round(sensor.scale, 4), amps_offset_a=round(sensor.offset_a, 3),
        amps_doubt_percent=round(100 * sensor.scale_doubt, 2), volts_offset_v=round(offset, 3), flights=(name,),
    )  # fmt: skip
    session.commit(f"{craft.name} knows its sensors", [craft.changed(sensor=told)])


def let_sensors_go(session: Session) -> None:
    """Take the craft's sensors as right again; one edit."""
    craft = session.complete.craft
    session.commit(f"Take {craft.name}'s sensors as right", [craft.changed(sensor=None)])

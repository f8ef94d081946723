"""What a flight taught, taken into the design's pack and its craft: one edit each."""

from __future__ import annotations

import math

from wise_cellar.core.documents import DocumentError, KnownFlight, Manner, Recording
from wise_cellar.core.logbook import FlownFlight, Phase, PhaseKind
from wise_cellar.ui.state.session import Session

PACK = ("capacity", "resistance")
STEADY = {PhaseKind.CRUISE: Manner.LEVEL, PhaseKind.HOVER: Manner.HOVER}


def take_pack(session: Session, found: FlownFlight, name: str) -> None:
    """Let the design's pack have the capacity and the resistance that a flight told, as measured. Raises
    :class:`DocumentError` where it told neither, or they cannot be a pack's."""
    design = session.complete.design
    state = design.packs[0].state
    changed: dict[str, float] = {}
    for one in found.learned:
        if one.name in PACK and one.told:
            percent = round(one.share * getattr(state, f"{one.name}_percent"), 1)
            changed |= {f"{one.name}_percent": percent, f"{one.name}_measured_percent": percent}
    if not changed:
        raise DocumentError("This flight told neither the capacity nor the resistance of its pack.")
    session.commit(f"Take the pack as {name} told it", [design.with_first(state=state.changed(**changed))])


def take_power(session: Session, found: FlownFlight, recording: Recording) -> None:
    """Make the longest steady phase of a flight a known flight of the craft. Raises :class:`DocumentError` where there
    is none, or the craft has it already."""
    craft, conditions = session.complete.craft, session.complete.design.conditions
    if any(flight.name == recording.name for flight in craft.known_flights):
        raise DocumentError(f"{craft.name} knows {recording.name} already: see Craft › Known flights.")
    steady = [phase for phase in found.phases if _tells_power(found, phase)]
    if not steady:
        raise DocumentError("Nothing steady was flown with a known airspeed: no hover, and no cruise that tells one.")
    phase = max(steady, key=lambda one: one.seconds)
    manner = STEADY[phase.kind]
    flight = KnownFlight(
        name=recording.name, manner=manner, takeoff_mass_g=found.answered.takeoff_mass_g,
        airspeed_m_s=0.0 if manner is Manner.HOVER else round(phase.speed_m_s, 1), wind_m_s=conditions.wind_m_s,
        mean_current_a=round(phase.amps, 2), mean_voltage_v=round(phase.volts, 2),
        air_temperature_c=conditions.air_temperature_c, altitude_m=conditions.altitude_m,
    )  # fmt: skip
    known = craft.changed(known_flights=(*craft.known_flights, flight))
    session.commit(f"{craft.name} knows {recording.name}", [known])


def _tells_power(found: FlownFlight, phase: Phase) -> bool:
    through_air = not all(map(math.isnan, found.log.airspeed_m_s))
    return phase.kind is PhaseKind.HOVER or (phase.kind is PhaseKind.CRUISE and through_air)

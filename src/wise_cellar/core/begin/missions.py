"""What a craft is for, and the mission that stands for it."""

from __future__ import annotations

from enum import StrEnum

from wise_cellar.core.documents import Block, BlockKind, Manner, Mission, Repeat


class Purpose(StrEnum):
    """What a craft is for, as people say it."""

    INDOOR = "flying indoors"
    HOVER = "hovering and looking"
    LIVELY = "lively flying by hand"
    LEGS = "long straight legs"
    LIFT = "carrying loads"
    GLIDE = "gliding, with climbs between"


OF_ROTORS = (Purpose.HOVER, Purpose.INDOOR, Purpose.LIVELY, Purpose.LEGS, Purpose.LIFT)
OF_WINGS = (Purpose.LEGS, Purpose.GLIDE)
INDOORS_TO_MM, LIVELY_TO_MM, LEGS_TO_MM, GLIDE_FROM_MM = 60.0, 150.0, 330.0, 2200.0
"""What is usual by the propeller, and by the span of a wing."""
CLIMB_M_S, WING_CLIMB_M_S, GLIDE_SINK_M_S = 2.0, 2.5, 1.0
_MANNERS = {
    Purpose.INDOOR: Manner.MANUAL, Purpose.LIVELY: Manner.MANUAL, Purpose.HOVER: Manner.HOVER,
    Purpose.LIFT: Manner.HOVER,
}  # fmt: skip


def usual_purpose(propeller_mm: float, span_mm: float | None) -> Purpose:
    """What such a craft is usually for. Source: our estimate."""
    if span_mm is not None:
        return Purpose.GLIDE if span_mm >= GLIDE_FROM_MM else Purpose.LEGS
    if propeller_mm <= INDOORS_TO_MM:
        return Purpose.INDOOR
    if propeller_mm <= LIVELY_TO_MM:
        return Purpose.LIVELY
    return Purpose.LEGS if propeller_mm <= LEGS_TO_MM else Purpose.LIFT


def manner_of(purpose: Purpose) -> Manner:
    """How a known flight was flown in a craft that is for this.

    A glide with climbs between takes on its mean what level flight at its speed takes: the height comes back.
    """
    return _MANNERS.get(purpose, Manner.LEVEL)


def hand_flying(purpose: Purpose) -> tuple[float, float]:
    """Liveliness, and seconds of full throttle a minute, where it is flown by hand. Source: PHYSICS' classes."""
    return (1.1, 0.0) if purpose is Purpose.INDOOR else (1.5, 4.0)


def mission_for(purpose: Purpose, identifier: str, cruise_m_s: float, craft_id: str, *, winged: bool) -> Mission:
    """The mission that stands for a purpose, flown until the landing rule."""
    blocks, repeats = _blocks(purpose, cruise_m_s, winged=winged)
    return Mission(id=identifier, name=str(purpose).capitalize(), craft_id=craft_id, blocks=blocks, repeats=repeats)


def _blocks(purpose: Purpose, cruise: float, *, winged: bool) -> tuple[tuple[Block, ...], tuple[Repeat, ...]]:
    climb = WING_CLIMB_M_S if winged else CLIMB_M_S
    rise = Block(kind=BlockKind.TAKE_OFF, name="Take-off", duration_s=30 if winged else 15, climb_m_s=climb)
    land = Block(kind=BlockKind.LANDING, name="Landing", duration_s=30 if winged else 20)
    if purpose is Purpose.GLIDE:
        up = Block(kind=BlockKind.CRUISE, name="Climb", duration_s=60, airspeed_m_s=cruise, climb_m_s=climb)
        down = Block(kind=BlockKind.DESCENT, name="Glide", duration_s=150, airspeed_m_s=cruise, sink_m_s=GLIDE_SINK_M_S)
        return (up, down, land), (Repeat(first=1, last=2, times=None),)
    if purpose is Purpose.LIFT:
        out = Block(kind=BlockKind.CRUISE, name="Out", duration_s=60, airspeed_m_s=cruise)
        hold = Block(kind=BlockKind.HOVER, name="At the place", duration_s=60)
        back = Block(kind=BlockKind.CRUISE, name="Back", duration_s=60, airspeed_m_s=cruise)
        return (rise, out, hold, back, land), (Repeat(first=2, last=4, times=None),)
    lively, full_s = hand_flying(purpose)
    main = {
        Purpose.INDOOR: Block(kind=BlockKind.MANUAL, name="Round the rooms", airspeed_m_s=cruise, liveliness=lively),
        Purpose.LIVELY: Block(
            kind=BlockKind.MANUAL, name="By hand", airspeed_m_s=cruise, liveliness=lively, full_throttle_s=full_s
        ),
        Purpose.HOVER: Block(kind=BlockKind.HOVER, name="Hover, until landing"),
        Purpose.LEGS: Block(kind=BlockKind.CRUISE, name="Legs, until landing", airspeed_m_s=cruise),
    }[purpose]
    if purpose is Purpose.INDOOR:
        return (main, land.changed(duration_s=5)), ()
    return (rise, main, land), ()

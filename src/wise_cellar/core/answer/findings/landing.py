"""How the flight ends, and what of its mission it does not reach."""

from __future__ import annotations

from collections.abc import Iterator

from wise_cellar.core.answer.hover import LEAST_S
from wise_cellar.core.answer.limits import ends_as_planned
from wise_cellar.core.answer.result import Answer, Finding, caution, over
from wise_cellar.core.documents import BlockKind, CompleteDesign, LandingBasis, LandingPolicy
from wise_cellar.core.flight.batch import Ending
from wise_cellar.core.units import format_number, format_share, format_speed
from wise_cellar.core.words import upper_first

MUCH_LEFT = 1 / 3


def landing_findings(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """A flight that its landing rule does not end, or ends early, and blocks that go backwards or are not reached."""
    if answer.reason.ending is Ending.RESERVE_REACHED and answer.charge_left > MUCH_LEFT:
        yield caution(
            f"The landing rule ends the flight with {format_share(answer.charge_left)} of the charge unused.",
            "design.landing.policy",
        )
    if ends_as_planned(answer.reason.ending):
        yield from _go_around(complete, answer)
    rule = complete.design.landing
    if rule.basis is LandingBasis.BURSTS and not complete.mission.has_bursts:
        yield caution(
            "The landing rule goes by the volts of bursts, and the mission has none: it never calls.",
            "design.landing.basis",
        )
    if not ends_as_planned(answer.reason.ending):
        yield over(answer.reason.sentence, answer.reason.field)
    yield from _mission(complete, answer)


def _go_around(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """Too little left to go round with, and what deep landings cost."""
    rule, left = complete.design.landing, answer.hover_left_s
    if left < LEAST_S:
        way = "hover" if complete.craft.wing is None else "loiter"
        yield caution(
            f"After this landing {format_number(left, 0)} s of {way} are left: nothing to go round with.",
            "design.landing.policy",
        )
    if rule.basis is LandingBasis.LOADED and rule.policy is LandingPolicy.DEEP:
        yield caution("Deep landings cost cycles, and leave little to go round with.", "design.landing.policy")


def _mission(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """Blocks that go backwards, and blocks that the pack does not last for."""
    wind = complete.design.conditions.wind_m_s
    for place, block in enumerate(complete.mission.blocks):
        path = f"mission.blocks.{place}.airspeed_m_s"
        if block.kind is BlockKind.CRUISE and block.ground_speed_m_s is None and block.airspeed_m_s < wind:
            yield caution(
                f"{block.label} flies {format_speed(block.airspeed_m_s, 0)} through the air against"
                f" {format_speed(wind, 0)} of wind and goes backwards.",
                path,
            )
        if block.kind is BlockKind.MANUAL and block.airspeed_m_s < wind:
            yield caution(
                f"{upper_first(block.label)} asks for {format_speed(block.airspeed_m_s, 0)}, less than the wind's"
                f" {format_speed(wind, 0)}: it is computed at the wind's speed, which only holds its place.",
                path,
            )
    flown = set(answer.series.block.tolist())
    blocks = complete.mission.blocks
    missed = [n for n, block in enumerate(blocks) if n not in flown and block.kind is not BlockKind.LANDING]
    if missed:
        yield caution(
            f"{blocks[missed[0]].label}, block {missed[0] + 1} of {len(blocks)}, is not reached: the mission"
            " is longer than the pack.",
            f"mission.blocks.{missed[0]}.duration_s",
        )

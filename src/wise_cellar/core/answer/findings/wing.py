"""What a wing cannot fly as it is asked: blocks under the stall, hovers, circles too tight, a launch without thrust."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from wise_cellar.core.answer.result import Answer, Finding, caution, over
from wise_cellar.core.answer.wing import WingFigures, wing_carrier, wing_figures
from wise_cellar.core.documents import Block, BlockKind, CompleteDesign, Craft
from wise_cellar.core.physics.arrays import GRAVITY_M_S2
from wise_cellar.core.physics.wing import SAFE_OVER_STALL
from wise_cellar.core.units import format_metres, format_number, format_speed

LEAST_LAUNCH = 0.35
"""Static thrust over weight under which a launch by hand is hard: an estimate."""


def wing_findings(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """Blocks that ask for less than the stall, hovers, circles too tight, and a launch without thrust."""
    craft = complete.craft
    figures = wing_figures(complete, answer)
    if craft.wing is None or figures is None:
        return
    carrier = wing_carrier(complete, craft.wing, answer)
    tightest = float(carrier.tightest_m(np.array([answer.takeoff_mass_g * 1e-3 * GRAVITY_M_S2]))[0])
    for place, block in enumerate(complete.mission.blocks):
        yield from _block(craft, block, f"mission.blocks.{place}", figures, tightest)
    if figures.launch_thrust_share < LEAST_LAUNCH:
        yield caution(
            f"At the launch full throttle pulls with {format_number(100 * figures.launch_thrust_share, 0)} % of"
            f" the weight; by hand it takes {format_number(100 * LEAST_LAUNCH, 0)} % or a catapult.",
            "craft.rotors.pitch_mm",
        )


def _block(craft: Craft, block: Block, path: str, figures: WingFigures, tightest_m: float) -> Iterator[Finding]:
    stall = figures.stall_m_s
    asked = block.airspeed_m_s
    if block.kind is BlockKind.HOVER:
        yield caution(
            f"{craft.name} flies on a wing and cannot hover: {block.label} is flown as a loiter at"
            f" {format_speed(figures.holding_m_s)}.",
            f"{path}.kind",
        )
    if block.kind is BlockKind.LOITER and block.radius_m is not None and block.radius_m < tightest_m:
        yield over(
            f"{block.label} circles at {format_metres(block.radius_m)}; {craft.name} at this mass stalls in any"
            f" circle tighter than {format_metres(tightest_m)}, which is flown instead.",
            f"{path}.radius_m",
        )
    by_air = block.kind in (BlockKind.CRUISE, BlockKind.MANUAL) and block.ground_speed_m_s is None
    if not by_air and (block.kind not in (BlockKind.LOITER, BlockKind.DESCENT) or asked == 0):
        return
    if asked < stall:
        yield over(
            f"{block.label} asks for {format_speed(asked)}; {craft.name} at this mass stalls at"
            f" {format_speed(stall)}. It is computed at the stall: ask for"
            f" {format_speed(SAFE_OVER_STALL * stall)} or more.",
            f"{path}.airspeed_m_s",
        )
    elif asked < SAFE_OVER_STALL * stall:
        yield caution(
            f"{block.label} flies only {format_number(100 * (asked / stall - 1), 0)} % over the stall of"
            f" {format_speed(stall)}: a gust or a turn stalls it. {format_speed(SAFE_OVER_STALL * stall)} leave"
            " the usual margin.",
            f"{path}.airspeed_m_s",
        )

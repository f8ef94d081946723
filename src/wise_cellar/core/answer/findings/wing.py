"""What a wing cannot fly as it is asked: blocks under the stall, hovers, circles too tight, a launch without thrust."""

from __future__ import annotations

from collections.abc import Iterator

import numpy as np

from wise_cellar.core.answer.result import Answer, Finding, caution, over
from wise_cellar.core.answer.wing import WingFigures, wing_carrier, wing_figures
from wise_cellar.core.documents import Block, BlockKind, CompleteDesign, Craft
from wise_cellar.core.physics.arrays import GRAVITY_M_S2
from wise_cellar.core.physics.wing import SAFE_OVER_STALL

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
            f"At the launch full throttle pulls with {100 * figures.launch_thrust_share:.0f} % of the weight; by hand"
            f" it takes {100 * LEAST_LAUNCH:.0f} % or a catapult.",
            "craft.rotors.pitch_mm",
        )


def _block(craft: Craft, block: Block, path: str, figures: WingFigures, tightest_m: float) -> Iterator[Finding]:
    stall = figures.stall_m_s
    asked = block.airspeed_m_s
    if block.kind is BlockKind.HOVER:
        yield caution(
            f"{craft.name} flies on a wing and cannot hover: {block.label} is flown as a loiter at"
            f" {figures.holding_m_s:.1f} m/s.",
            f"{path}.kind",
        )
    if block.kind is BlockKind.LOITER and block.radius_m is not None and block.radius_m < tightest_m:
        yield over(
            f"{block.label} circles at {block.radius_m:.0f} m; {craft.name} at this mass stalls in any circle tighter"
            f" than {tightest_m:.0f} m, which is flown instead.",
            f"{path}.radius_m",
        )
    by_air = block.kind in (BlockKind.CRUISE, BlockKind.MANUAL) and block.ground_speed_m_s is None
    if not by_air and (block.kind not in (BlockKind.LOITER, BlockKind.DESCENT) or asked == 0):
        return
    if asked < stall:
        yield over(
            f"{block.label} asks for {asked:.1f} m/s; {craft.name} at this mass stalls at {stall:.1f} m/s. It is"
            f" computed at the stall: ask for {SAFE_OVER_STALL * stall:.1f} m/s or more.",
            f"{path}.airspeed_m_s",
        )
    elif asked < SAFE_OVER_STALL * stall:
        yield caution(
            f"{block.label} flies only {100 * (asked / stall - 1):.0f} % over the stall of {stall:.1f} m/s: a gust or a"
            f" turn stalls it. {SAFE_OVER_STALL * stall:.1f} m/s leave the usual margin.",
            f"{path}.airspeed_m_s",
        )

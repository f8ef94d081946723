"""The chain: every link from cell to ESC, its current at cruise and at punch, each against its limit."""

from __future__ import annotations

import math
from collections.abc import Callable
from dataclasses import dataclass

from wise_cellar.core.documents import Craft
from wise_cellar.core.pack.ledger import PackBuild
from wise_cellar.core.physics.conductor import LEAD_RISE_K, STRIP_RISE_K, Conductor


@dataclass(frozen=True)
class Link:
    """One link: currents and limits in amps through *it*, and the field that governs it."""

    name: str
    cruise_a: float
    punch_a: float
    cruise_limit_a: float
    punch_limit_a: float
    """Current allowed for the length of the punch; 0 where cruise alone is too much."""
    punch_share: float
    """Punch over its limit; for strips and leads the square root of heating over heating allowed."""
    field: str

    @property
    def cruise_share(self) -> float:
        """Cruise current over its limit."""
        return self.cruise_a / self.cruise_limit_a

    @property
    def worst_share(self) -> float:
        """The greater share."""
        return max(self.cruise_share, self.punch_share)


def chain(build: PackBuild, craft: Craft, cruise_a: float, punch_a: float, punch_s: float) -> tuple[Link, ...]:
    """Links from the cell outwards for the pack currents ``cruise_a`` and ``punch_a``, A.

    Strips and leads: the current that warms them by 30 K and 40 K; at a punch the current that does so in
    ``punch_s`` after cruise, by their own heat capacity. Cells, connector and ESC: their ratings; the cell's pulse
    rating at a punch where it has one.
    """
    cell, parallel = build.cell, build.recipe.parallel_count

    def thermal(name: str, conductor: Conductor, share: float, rise_k: float, field: str) -> Link:
        cruise, punch = cruise_a * share, punch_a * share
        return Link(
            name,
            cruise,
            punch,
            conductor.rated_current_a(rise_k),
            conductor.pulse_current_a(rise_k, punch_s, cruise),
            math.sqrt(conductor.pulse_rise_k(punch, punch_s, cruise) / rise_k),
            field,
        )

    def rated(name: str, share: float, limit: float, field: str, punch_limit: float | None = None) -> Link:
        allowed = punch_limit or limit
        return Link(name, cruise_a * share, punch_a * share, limit, allowed, punch_a * share / allowed, field)

    strip_field = "design.recipe.strip.layers"
    links = [
        rated(
            "Cell",
            1 / parallel,
            cell.limit_current_a,
            "cell_type.continuous_current_a" if cell.continuous_current_a is not None else "cell_type.c_rating",
            cell.limit_for(punch_s),
        )
    ]
    if cell.whole_pack:
        links += _outwards(build, craft, thermal, rated)
        return tuple(links)
    stacked = not cell.form_factor.cylindrical
    if build.recipe.series_count > 1 and not stacked:
        links.append(thermal("Strip between groups", build.strip, 1 / parallel, STRIP_RISE_K, strip_field))
    if build.layout.folds:
        links.append(
            thermal(
                "Strip between groups" if stacked else "Strip at the fold", build.strip, 1.0, STRIP_RISE_K, strip_field
            )
        )
    elif parallel > 1:
        longer_arm = max(build.layout.lead_row, parallel - 1 - build.layout.lead_row)
        links.append(thermal("Strip to the lead", build.strip, longer_arm / parallel, STRIP_RISE_K, strip_field))
    links += _outwards(build, craft, thermal, rated)
    return tuple(links)


def _outwards(
    build: PackBuild, craft: Craft, thermal: Callable[..., Link], rated: Callable[..., Link]
) -> tuple[Link, ...]:
    """From the leads to the motors."""
    gauge, connector = build.recipe.leads.gauge_awg, build.recipe.leads.connector
    own_leads = build.cell.whole_pack and build.units <= 1
    leads = () if own_leads else (
        thermal(f"Lead, {gauge} AWG", build.lead, 1.0, LEAD_RISE_K, "design.recipe.leads.gauge_awg"),
    )  # fmt: skip
    return (
        *leads,
        rated(f"Connector, {connector}", 1.0, build.connector.limit_a, "design.recipe.leads.connector"),
        rated("ESC", 1 / craft.rotors.count, craft.esc.max_current_a, "craft.esc.max_current_a"),
        rated("Motor", 1 / craft.rotors.count, craft.motor.max_current_a, "craft.motor.max_current_a"),
    )

"""The words of the recipe line: each part of a design as the sentence says it."""

from __future__ import annotations

from wise_cellar.core.documents import CompleteDesign, Joint, LandingBasis, LandingPolicy, PackRecipe, Underlay
from wise_cellar.core.units import (
    TOLD,
    counted,
    format_quantity,
    format_section,
    format_significant,
    format_volts,
    unit_of_field,
)

_LAYERS = {1: "one layer", 2: "two layers", 3: "three layers"}
_JOINED = {Joint.SPOT_WELD: "", Joint.SOLDERED: "soldered ", Joint.SPRING_HOLDER: "springs on "}


def strip_words(recipe: PackRecipe) -> str:
    """Joint and strip as the sentence says them: "nickel 8 × 0.2 mm, two layers"."""
    strip = recipe.strip
    layers = _LAYERS.get(strip.layers, f"{strip.layers} layers")
    copper = "" if strip.underlay is Underlay.NONE else f" over {strip.underlay}"
    section = format_section(strip.width_mm, strip.thickness_mm)
    return f"{_JOINED[recipe.joint]}{strip.metal} {section}, {layers}{copper}"


def conditions_words(complete: CompleteDesign) -> str:
    """Conditions as the sentence says them."""
    weather = complete.design.conditions
    temperature, altitude, wind = (
        format_quantity(value, unit_of_field(name))
        for name, value in (
            ("air_temperature_c", weather.air_temperature_c),
            ("altitude_m", weather.altitude_m),
            ("wind_m_s", weather.wind_m_s),
        )
    )
    return f"{temperature}, {altitude}, wind {wind}"


def landing_words(complete: CompleteDesign) -> str:
    """The landing rule as the sentence says it, by what it goes by."""
    rule = complete.design.landing
    if rule.basis is LandingBasis.BURSTS:
        return f"at {format_volts(rule.burst_voltage_v)} in a burst"
    if rule.basis is LandingBasis.RESTING:
        return f"at {format_volts(rule.resting_voltage_v)} at rest"
    if rule.basis is LandingBasis.CHARGE:
        return f"after {format_significant(rule.charge_percent)} % of charge"
    if rule.basis is LandingBasis.COUNTER:
        return f"by its counter, {format_significant(rule.charge_percent)} %"
    return f"at {format_volts(rule.own_voltage_v, TOLD)}" if rule.policy is LandingPolicy.OWN else str(rule.policy)


def own_battery_name(complete: CompleteDesign) -> str:
    """The craft's own battery; nothing where it has none beside another pack."""
    return next((pack.cell.name for pack in complete.packs if pack.own), "")


def _others(complete: CompleteDesign) -> int:
    """Packs on the bus besides the recipe's and the craft's own."""
    return sum(not pack.own for pack in complete.packs[1:])


def joined_by(complete: CompleteDesign) -> str:
    """What stands between the cell type and the strips."""
    more = _others(complete)
    own = complete.own_battery is not None
    if not more:
        return "beside it, joined by" if own else "joined by"
    others = f"{counted(more, 'more pack')} beside it"
    return f"and {others}, joined by" if own else f"with {others}, joined by"

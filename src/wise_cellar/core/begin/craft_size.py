"""How large the craft of a sentence is: what is told, and what is usual for the rest."""

from __future__ import annotations

from dataclasses import dataclass, replace

from wise_cellar.core.begin import sizes
from wise_cellar.core.begin.beginning import Arranged, Beginning
from wise_cellar.core.begin.cells import cell_type_of
from wise_cellar.core.begin.description import Description
from wise_cellar.core.documents import DocumentError
from wise_cellar.core.units import TOLD, format_grams

BATTERY_OVER_DRY, SMALL_OVER_DRY, SMALL_G = 0.45, 0.35, 150.0
"""Mass of a battery over what the craft weighs without it, where none is told; small craft carry less."""
BATTERY_OF_WHOLE = 0.28
"""The same over what it weighs with it."""
BUILT_OVER_CELLS = 1.12
"""A built pack over its cells: strips, leads, wrap."""


@dataclass(frozen=True)
class CraftSize:
    """What is told or usual of how large a craft is."""

    count: int
    propeller_mm: float
    span_mm: float | None
    dry_g: float
    series: int
    battery_g: float
    """Of the battery that it flies now, or would usually fly."""

    @property
    def winged(self) -> bool:
        """Whether a wing carries it."""
        return self.span_mm is not None


def size_of(said: Beginning) -> CraftSize:
    """How large the craft of a sentence is. Raises :class:`DocumentError` where its masses cannot be."""
    battery_g = None if said.battery is None else _mass_of(said.battery)
    dry = said.mass_g
    if dry is not None and said.with_battery:
        if battery_g is not None and battery_g >= dry:
            raise DocumentError(
                f"{format_grams(dry, TOLD)} with the battery in it cannot be: the battery alone weighs"
                f" {format_grams(battery_g)}. Correct one of them.",
                "mass_g",
            )
        dry -= BATTERY_OF_WHOLE * dry if battery_g is None else battery_g
    size = _wing_size(said, dry) if said.winged else _rotor_size(said, dry)
    series = next((one.series_count for one in (said.battery, said.onto) if one and one.series_count), size.series)
    usual = (SMALL_OVER_DRY if size.dry_g < SMALL_G else BATTERY_OVER_DRY) * size.dry_g
    return replace(size, series=series, battery_g=battery_g or usual)


def _rotor_size(said: Beginning, dry: float | None) -> CraftSize:
    coaxial = said.arranged is Arranged.COAXIAL
    count = said.rotor_count or (8 if coaxial else 4)
    propeller = said.propeller_mm
    if propeller is None:
        propeller = sizes.TYPICAL_MM if dry is None else round(sizes.propeller_of_mass_mm(dry / count))
    if dry is None:
        dry = sizes.rounded(count * sizes.rotor_mass_g(propeller))
    return CraftSize(count, propeller, None, dry, sizes.rotor_series(propeller), 0.0)


def _wing_size(said: Beginning, dry: float | None) -> CraftSize:
    span = said.span_mm
    if span is None:
        span = sizes.TYPICAL_SPAN_MM if dry is None else round(sizes.span_of_mass_mm(dry), -1)
    if dry is None:
        dry = sizes.rounded(sizes.wing_mass_g(span))
    propeller = said.propeller_mm or round(sizes.wing_propeller_mm(span))
    return CraftSize(said.rotor_count or 1, propeller, span, dry, sizes.wing_series(span), 0.0)


def _mass_of(said: Description) -> float:
    """Of a battery, g: as told, else usual."""
    cell = cell_type_of(said, "x", "x", series=said.series_count or 1)
    if said.whole_pack:
        return cell.mass_g
    return BUILT_OVER_CELLS * cell.mass_g * (said.series_count or 1) * (said.parallel_count or 1)

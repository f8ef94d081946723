"""What is not known for certain of a design, and how far it may be off.

Each ``±`` is the 10th to the 90th percentile of a normal spread.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from wise_cellar.core.answer.findings.fit_range import use_of
from wise_cellar.core.answer.result import Answer
from wise_cellar.core.cells import TENTH_TO_NINETIETH, CellDoubts, cell_doubts
from wise_cellar.core.documents import BlockKind, CompleteDesign, Craft, LearnedOf, Manner, SourceKind
from wise_cellar.core.propulsion.drive_numbers import drive_doubt_by_size
from wise_cellar.core.units import format_number, format_significant, format_speed

DRIVE_CALIBRATED, COOLING = 0.03, 0.40
MASS, MASS_WEIGHED = 0.01, 0.003
DRIVE_BY_MINUTES, PROPELLER_GUESSED = 0.10, 0.12
"""Of a drive where one flight tells it of which minutes alone were noted, so that its charge is a guess; and what a
propeller of a usual size, which nobody told, adds: power goes as one over its diameter."""
DRY_GUESSED, PACK_GUESSED = 0.25, 0.10
"""Of a craft's mass without a battery, and of a cell's, where they are usual ones for the size."""
WING_DRIVE = 0.15
"""Of a wing without a known cruise: drag and efficiency of the drive are both estimates."""
WIND = 0.3
"""A forecast's wind is right to ± 30 %, and half of the gusts."""
OF_CELL = ("capacity", "resistance", "lag", "volts")
OF_FLIGHT = ("drive", "mass", "cooling", "wind_m_s", "style")
"""What is in doubt, of cells and of a flight, by the names of the doubts."""
STYLE, STYLE_LEARNED = 0.20, 0.05
"""How lively manual flying is: a guess, and once a flight in that manner is known."""


@dataclass(frozen=True)
class Doubts:
    """How far each input may be off, as a share of one, and why for the two that a cell type governs."""

    cell: CellDoubts
    drive: float
    mass: float
    cooling: float
    wind_m_s: float
    """Metres a second; 0 in still air."""
    style: float
    """Of the liveliness of manual flying; 0 where nothing is flown so."""

    def half(self, name: str) -> float:
        """The doubt of a driver's name."""
        return float(getattr(self.cell if name in OF_CELL else self, name))

    @property
    def words(self) -> str:
        """Every doubt and what it rests on, in a sentence."""
        wind = f", wind ± {format_speed(self.wind_m_s)}" if self.wind_m_s else ""
        style = f", how it is flown ± {format_number(100 * self.style, 0)} %" if self.style else ""
        cell = self.cell
        burst = "" if cell.burst == cell.resistance else f", ± {format_number(100 * cell.burst, 0)} % in bursts"
        return (
            f"capacity ± {format_number(100 * cell.capacity, 1)} % ({cell.capacity_because}), resistance ±"
            f" {format_number(100 * cell.resistance, 0)} %{burst} ({cell.resistance_because}), surface lag ±"
            f" {format_number(100 * cell.lag, 0)} %, resting volts ± {format_number(1000 * cell.volts, 0)} mV,"
            f" drive ± {format_number(100 * self.drive, 0)} %, mass ± {format_significant(100 * self.mass, 2)}"
            f" %, cooling ± {format_number(100 * self.cooling, 0)} %{wind}{style}"
        )


def doubts(complete: CompleteDesign, answer: Answer) -> Doubts:
    """What the sources of the cell's values, its bench results, its fit and the weather leave in doubt."""
    conditions = complete.design.conditions
    # In still air nothing hangs on the wind, whatever the gusts swing by.
    wind = WIND * conditions.wind_m_s + conditions.gust_m_s / 2 if conditions.wind_m_s else 0.0
    return Doubts(
        cell_doubts(
            complete.pack.cell, use_of(answer.packs[0]), capacity_measured=complete.pack.state.capacity_measured,
            resistance_measured=complete.pack.state.resistance_measured,
            taught=[value for of in (LearnedOf.CAPACITY, LearnedOf.RESISTANCE, LearnedOf.LAG)
                    if (value := complete.pack.state.taught(of)) is not None],
        ),
        _drive_doubt(complete.craft, answer),
        mass_doubt(complete, answer), _cooling_doubt(complete), wind, _style_doubt(complete),
    )  # fmt: skip


def mass_doubt(complete: CompleteDesign, answer: Answer, *, dry_told: bool = False, pack_told: bool = False) -> float:
    """Of what takes off, ± as a share: of packs that were weighed less, of what nobody told more, each by its share;
    as if the craft, or the first pack, had been weighed.

    Source: our estimates for the class.
    """
    whole = answer.takeoff_mass_g
    if whole <= 0:
        return MASS

    def told(place: int) -> bool:
        return answer.packs[place].complete.recipe.weighed_g is not None or (pack_told and place == 0)

    weighed = sum(pack.build.mass_g for place, pack in enumerate(answer.packs) if told(place))
    guessed = sum(
        pack.build.mass_g
        for place, pack in enumerate(answer.packs)
        if not told(place) and pack.complete.cell.source_of("mass_g")[0] is SourceKind.ESTIMATE
    )
    dry = complete.dry_mass_g if complete.craft.is_estimate("parts") and not dry_told else 0.0
    return MASS + ((MASS_WEIGHED - MASS) * weighed + DRY_GUESSED * dry + PACK_GUESSED * guessed) / whole


def _drive_doubt(craft: Craft, answer: Answer) -> float:
    """Estimate, one flight, or the scatter of several."""
    if answer.calibration is None:
        if craft.hover_test is not None:
            return DRIVE_CALIBRATED
        by_size = drive_doubt_by_size(craft) if craft.wing is None else WING_DRIVE
        guessed = PROPELLER_GUESSED if craft.is_estimate("rotors.diameter_mm") and craft.wing is None else 0.0
        return math.hypot(by_size, guessed)
    scatter = answer.calibration.scatter
    if scatter is None:
        return DRIVE_BY_MINUTES if by_minutes(craft) else DRIVE_CALIBRATED
    return TENTH_TO_NINETIETH * scatter


def by_minutes(craft: Craft) -> bool:
    """Whether the flight that counts was noted with minutes alone, so that its charge is a guess."""
    return any(flight.used and flight.charge_guessed for flight in craft.known_flights)


def _cooling_doubt(complete: CompleteDesign) -> float:
    """An estimate, or as flights taught it."""
    taught = complete.pack.state.taught(LearnedOf.COOLING)
    return COOLING if taught is None else min(TENTH_TO_NINETIETH * taught.doubt_percent / 100, COOLING)


def _style_doubt(complete: CompleteDesign) -> float:
    """Of manual flying: a guess, or as a flight in that manner was."""
    if not any(block.kind is BlockKind.MANUAL for block in complete.mission.blocks):
        return 0.0
    learned = any(flight.used and flight.manner is Manner.MANUAL for flight in complete.craft.known_flights)
    return STYLE_LEARNED if learned else STYLE

"""What lifts and drives a craft: propellers, motors and controllers, a wing, and tests of thrust."""

from __future__ import annotations

from enum import StrEnum
from typing import Self

from pydantic import Field, model_validator

from wise_cellar.core.documents.base import Document
from wise_cellar.core.documents.text import Name
from wise_cellar.core.units import TOLD, format_mm, format_number, format_significant


class Around(StrEnum):
    """What stands round each rotor."""

    NOTHING = "nothing"
    DUCT = "a duct"


class Rotors(Document):
    """Rotors, all alike; none overlap but those of coaxial pairs."""

    count: int = Field(4, ge=1, le=16, title="number of rotors")
    coaxial: bool = Field(False, title="in coaxial pairs", description="Two on one arm, one over the other.")
    around: Around = Field(
        Around.NOTHING, title="round each rotor", description="A short ring: it helps the hover and drags in the wind."
    )
    diameter_mm: float = Field(ge=20, le=1500, title="propeller diameter")
    spacing_mm: float | None = Field(
        None, ge=20, le=5000, title="between motors", description="From one motor's shaft to the next one's."
    )
    pitch_mm: float = Field(ge=10, le=1000, title="propeller pitch")
    blades: int = Field(2, ge=2, le=6, title="blades")
    figure_of_merit: float | None = Field(
        None, ge=0.2, le=0.85, title="figure of merit",
        description="Empty: from the two coefficients where both are given, else the default for the diameter.",
    )  # fmt: skip
    thrust_coefficient: float | None = Field(
        None, ge=0.01, le=0.4, title="thrust coefficient",
        description="Static, thrust over ρ·n²·D⁴ with n in turns a second. Empty: by pitch and blades.",
    )  # fmt: skip
    power_coefficient: float | None = Field(
        None, ge=0.003, le=0.3, title="power coefficient",
        description="Static, shaft power over ρ·n³·D⁵. Empty: by the thrust coefficient and the figure of merit.",
    )  # fmt: skip

    @model_validator(mode="after")
    def _pairs(self) -> Self:
        if self.coaxial and self.count % 2:
            raise ValueError(f"{self.count} rotors do not make coaxial pairs; an even number does.")
        return self


class Motor(Document):
    """One motor, as a brushless machine: speed constant, winding resistance, no-load current."""

    kv_rpm_per_v: float = Field(ge=50, le=30000, title="motor speed constant")
    resistance_mohm: float | None = Field(
        None, gt=0, le=5000, title="winding resistance", description="Empty: an estimate for the size."
    )
    no_load_current_a: float | None = Field(
        None, ge=0, le=20, title="no-load current", description="Empty: an estimate for the size."
    )
    mass_g: float | None = Field(
        None, gt=0.2, le=5000, title="mass of a motor", description="Empty: taken from the propeller's size."
    )
    max_current_a: float = Field(gt=0, le=500, title="motor current limit")
    max_voltage_v: float | None = Field(
        None, gt=0, le=500, title="motor voltage limit", description="Of a full pack. Empty: any."
    )


class Freewheeling(StrEnum):
    """How a controller lets the motor's current run on between its pulses."""

    SYNCHRONOUS = "through its switches"
    PLAIN = "through its diodes"


class Esc(Document):
    """One motor controller; the craft has one for each motor."""

    max_current_a: float = Field(gt=0, le=500, title="ESC current limit")
    max_voltage_v: float = Field(gt=3, le=120, title="ESC voltage limit")
    efficiency: float | None = Field(
        None, ge=0.5, le=1, title="ESC efficiency", description="At full throttle. Empty: 0.95, on one cell 0.90."
    )
    freewheeling: Freewheeling = Field(
        Freewheeling.SYNCHRONOUS, title="freewheeling",
        description="Between pulses, at part throttle: through its switches it loses half as much.",
    )  # fmt: skip


class WingLooks(StrEnum):
    """What a winged craft looks like, where nothing tells its drag."""

    CLEAN = "clean, as a sailplane"
    TIDY = "tidy"
    BOXY = "boxy, with camera and gear"


class Wing(Document):
    """A wing that carries the craft; its propellers only pull."""

    span_mm: float = Field(ge=100, le=12000, title="wing span")
    area_dm2: float = Field(gt=0.5, le=2000, title="wing area")
    looks: WingLooks = Field(
        WingLooks.TIDY, title="looks", description="Its drag where none is given and no cruise is known: ± 20 %."
    )
    zero_lift_drag: float | None = Field(
        None, ge=0.005, le=0.3, title="drag coefficient without lift",
        description="Of the whole craft, on the wing's area. Empty: from the known cruises, else by its looks.",
    )  # fmt: skip
    span_efficiency: float = Field(
        0.8, ge=0.4, le=1, title="span efficiency", description="Oswald's: 0.7 to 0.9 for plain wings."
    )
    greatest_lift: float = Field(
        1.2, ge=0.4, le=3, title="greatest lift coefficient", description="At the stall: 1.0 to 1.4 without flaps."
    )
    drive_efficiency: float | None = Field(
        None, ge=0.1, le=0.9, title="efficiency of the drive",
        description="From battery to thrust in cruise, propeller, motor and controller together. Empty: 0.55.",
    )  # fmt: skip

    @property
    def aspect_ratio(self) -> float:
        """Span² over area."""
        return self.span_mm**2 / (self.area_dm2 * 1e4)

    @model_validator(mode="after")
    def _shape(self) -> Self:
        if not 2 <= self.aspect_ratio <= 40:
            raise ValueError(
                f"A span of {format_mm(self.span_mm, TOLD)} over {format_significant(self.area_dm2)} dm² makes"
                f" an aspect ratio of {format_number(self.aspect_ratio, 1)}; wings have 2 to 40. Check both."
            )
        return self


class HoverTest(Document):
    """All that is known of a drive where neither motor nor propeller is: what a hover drew, and at what throttle."""

    takeoff_mass_g: float = Field(gt=20, le=200000, title="mass in the hover")
    voltage_v: float = Field(gt=2, le=120, title="voltage in the hover")
    current_a: float = Field(gt=0, le=1000, title="current in the hover")
    throttle_percent: float = Field(ge=8, le=92, title="throttle in the hover")
    air_temperature_c: float = Field(20, ge=-40, le=60, title="air temperature of the hover")
    altitude_m: float = Field(0, ge=-400, le=6000, title="altitude of the hover")


class StandPoint(Document):
    """One row of a thrust stand's table, for one motor."""

    throttle_percent: float = Field(gt=0, le=100, title="throttle")
    thrust_g: float = Field(gt=0, le=100000, title="thrust")
    current_a: float = Field(gt=0, le=1000, title="current")
    voltage_v: float = Field(gt=2, le=120, title="voltage")
    speed_rpm: float | None = Field(None, gt=0, le=100000, title="speed")


class ThrustStand(Document):
    """A table from a thrust stand, kept beside the coefficients that were fitted to it."""

    name: Name = Field(min_length=1, title="table")
    points: tuple[StandPoint, ...] = Field(min_length=4, max_length=400, title="rows")
    air_temperature_c: float = Field(20, ge=-40, le=60, title="air temperature at the stand")
    altitude_m: float = Field(0, ge=-400, le=6000, title="altitude of the stand")

"""A craft: its parts on the scale, what lifts it, what else draws power, and what it was seen to do."""

from __future__ import annotations

from enum import StrEnum
from typing import Any, Self

from pydantic import Field, model_validator

from wise_cellar.core.documents.base import Document, as_version
from wise_cellar.core.documents.cell_type import KineticClass, OcvFamily
from wise_cellar.core.documents.learned import LearnedOf, LearnedValue, SensorFact
from wise_cellar.core.documents.text import Identifier, Name, Notes
from wise_cellar.core.documents.thrust import Esc, HoverTest, Motor, Rotors, ThrustStand, Wing
from wise_cellar.core.units import TOLD, format_mah, format_volts


class Part(Document):
    """One thing on the scale, battery excluded."""

    name: Name = Field(min_length=1, title="part")
    mass_g: float = Field(ge=0, le=50000, title="part mass")


class Converter(StrEnum):
    """What stands between the bus and a load."""

    NONE = "directly"
    STEP_DOWN = "step-down"
    STEP_UP = "step-up"


STEP_DOWN_DROP_V, STEP_UP_LEAST_V = 0.5, 2.7
"""What a step-down needs above its output, and the least that a step-up starts from: estimates."""


class Load(Document):
    """Anything besides the motors that draws power, with the voltage below which it stops."""

    name: Name = Field(min_length=1, title="load")
    power_w: float = Field(ge=0, le=5000, title="power of the load", description="At the load itself.")
    min_input_v: float = Field(0, ge=0, le=100, title="minimum input voltage")
    converter: Converter = Field(Converter.NONE, title="fed")
    converter_efficiency: float = Field(0.88, ge=0.3, le=1, title="efficiency of the converter")
    converter_min_v: float | None = Field(
        None, ge=0, le=100, title="least input of the converter",
        description="Empty: 0.5 V above the load's own minimum for a step-down, 2.7 V for a step-up.",
    )  # fmt: skip
    startup_w: float = Field(0, ge=0, le=5000, title="power at switch-on", description="0: no more than usual.")

    @property
    def bus_power_w(self) -> float:
        """What it takes from the bus."""
        return self.power_w if self.converter is Converter.NONE else self.power_w / self.converter_efficiency

    @property
    def least_bus_v(self) -> float:
        """Bus voltage under which it stops; 0 where nothing is known to stop it."""
        if self.converter is Converter.NONE:
            return self.min_input_v
        if self.converter_min_v is not None:
            return self.converter_min_v
        return self.min_input_v + STEP_DOWN_DROP_V if self.converter is Converter.STEP_DOWN else STEP_UP_LEAST_V


class KeepOut(Document):
    """Part of a bay that must stay free over its whole height: an antenna, a receiver, a cable."""

    name: Name = Field("antenna", min_length=1, title="kept free for")
    x_mm: float = Field(0, ge=0, le=2000, title="from the rear wall")
    y_mm: float = Field(0, ge=0, le=2000, title="from the left wall")
    length_mm: float = Field(20, gt=0, le=2000, title="kept free along")
    width_mm: float = Field(20, gt=0, le=2000, title="kept free across")


class Balance(Document):
    """Where the craft balances. Lengths are ahead of one point of the craft, such as the middle of the rotors or the
    leading edge of the wing; behind it they are negative."""

    dry_mm: float = Field(0, ge=-2000, le=2000, title="balance without pack")
    bay_mm: float = Field(0, ge=-2000, le=2000, title="middle of the bay")
    wanted_mm: float = Field(0, ge=-2000, le=2000, title="balance point wanted")
    tolerance_mm: float = Field(10, gt=0, le=500, title="allowed to be off by")
    ballast_at_mm: float = Field(100, ge=-2000, le=2000, title="where ballast sits")
    ballast_g: float = Field(0, ge=0, le=20000, title="ballast now aboard", description="Already among the parts.")


class Bay(Document):
    """Room for a pack, and what must stay free in it."""

    length_mm: float = Field(gt=0, le=2000, title="bay length")
    width_mm: float = Field(gt=0, le=2000, title="bay width")
    height_mm: float = Field(gt=0, le=2000, title="bay height")
    above_mm: float = Field(
        0, ge=-1000, le=1000, title="middle above the propellers", description="Below their plane it is negative."
    )
    keep_outs: tuple[KeepOut, ...] = Field((), max_length=12, title="kept free")


FULLEST_CELL_V, MOST_OF_BATTERY = 4.4, 1.15
"""No cell has more volts; no battery gives more of its label, a generous one's included."""


class Manner(StrEnum):
    """How a known flight was flown."""

    LEVEL = "level"
    HOVER = "hover"
    CLIMB = "climb"
    MANUAL = "manual flying"
    BENCH = "on the bench"


class KnownFlight(Document):
    """What the craft was seen to draw: a flight with its charge and minutes, or amps as read at a moment of it.

    Its volts are the mean under load, or those read at a moment, with the charge used by then; for that, and for
    bursts, the battery that was flown must be told. All flights together give one factor on power.
    """

    name: Name = Field("", title="name of the flight")
    used: bool = Field(True, title="used in the factor", description="Without it, only compared.")
    manner: Manner = Field(Manner.LEVEL, title="how it was flown")
    takeoff_mass_g: float = Field(gt=20, le=200000, title="take-off mass of the known flight")
    airspeed_m_s: float = Field(
        0, ge=0, le=60, title="airspeed of the known flight", description="0 of a level flight: a hover."
    )
    climb_m_s: float = Field(0, ge=0, le=20, title="climb of the known flight")
    liveliness: float = Field(
        1.5, ge=1, le=4, title="liveliness of the known flight",
        description="Of manual flying, full throttle aside: gentle 1.1, lively 1.5, hard 2.2.",
    )  # fmt: skip
    full_throttle_s: float = Field(
        0, ge=0, le=50, title="full throttle in the known flight", description="Of manual flying: seconds a minute."
    )
    throttle_percent: float = Field(50, gt=0, le=100, title="throttle held on the bench")
    wind_m_s: float = Field(0, ge=0, le=30, title="wind of the known flight")
    gust_m_s: float = Field(0, ge=0, le=20, title="gusts of the known flight")
    duration_min: float | None = Field(None, gt=0, le=100000, title="duration of the known flight")
    charge_used_mah: float | None = Field(
        None, gt=0, le=10_000_000, title="charge used", description="Or returned by the charger. Needs the duration."
    )
    charge_guessed: bool = Field(
        False, title="charge is a guess", description="Minutes alone were noted: it is taken as a usual share."
    )
    mean_current_a: float | None = Field(
        None, gt=0, le=1000, title="mean current", description="As read in flight; in place of charge and length."
    )
    mean_voltage_v: float | None = Field(None, gt=2, le=120, title="mean pack voltage under load")
    read_voltage_v: float | None = Field(
        None,
        gt=2,
        le=120,
        title="volts read under load",
        description="At one moment, in place of the mean; not within half a minute of full throttle.",
    )
    read_charge_mah: float | None = Field(
        None, ge=0, le=10_000_000, title="charge used when they were read", description="Empty: all of it, at the end."
    )
    battery_series: int | None = Field(None, ge=1, le=60, title="cells in series it flew")
    battery_mah: float | None = Field(None, gt=10, le=10_000_000, title="capacity it flew")
    battery_family: OcvFamily = Field(OcvFamily.ENERGY_NMC_SIOX, title="chemistry it flew")
    battery_class: KineticClass = Field(KineticClass.POWER_CYLINDER, title="kind of cells it flew")
    air_temperature_c: float = Field(20, ge=-40, le=60, title="air temperature of the known flight")
    altitude_m: float = Field(0, ge=-400, le=6000, title="altitude of the known flight")

    @model_validator(mode="after")
    def _tells_a_current(self) -> Self:
        if self.mean_current_a is None and (self.charge_used_mah is None or self.duration_min is None):
            raise ValueError("A known flight needs either its mean current, or its charge and its duration.")
        if self.mean_voltage_v is None and self.read_voltage_v is None:
            raise ValueError("A known flight needs its mean volts under load, or volts read at a moment of it.")
        if self.mean_voltage_v is None and (self.battery_series is None or self.battery_mah is None):
            raise ValueError(
                "Volts read at one moment tell the mean only with the battery that was flown: its cells in series and"
                " its capacity."
            )
        return self

    @model_validator(mode="after")
    def _of_its_battery(self) -> Self:
        if self.battery_mah is not None:
            for title, charge in (("were used", self.charge_used_mah), ("stand with the volts", self.read_charge_mah)):
                if charge is not None and charge > MOST_OF_BATTERY * self.battery_mah:
                    raise ValueError(
                        f"{format_mah(charge)} {title}, more than the {format_mah(self.battery_mah)} of the battery it"
                        " flew. Correct one of them."
                    )
        if self.battery_series is not None:
            most = FULLEST_CELL_V * self.battery_series
            for volts in (self.mean_voltage_v, self.read_voltage_v):
                if volts is not None and volts > most:
                    raise ValueError(
                        f"{format_volts(volts, TOLD)} under load is more than {self.battery_series} cells in"
                        f" series can have ({format_volts(most, 1)}). Correct the volts or the cells in"
                        " series."
                    )
        return self

    @property
    def mean_a(self) -> float:
        """Mean amps: as read, or charge over time."""
        if self.mean_current_a is not None:
            return self.mean_current_a
        assert self.charge_used_mah is not None
        assert self.duration_min is not None
        return self.charge_used_mah * 1e-3 / (self.duration_min / 60)

    @property
    def level(self) -> bool:
        """Whether it was flown straight and level, at a speed or hovering."""
        return self.manner in (Manner.LEVEL, Manner.HOVER)


class AlarmNames(Document):
    """What the craft's own device calls each of the values of an alarm card; empty: our own name."""

    capacity: Name = Field("", title="its name for the pack's capacity", description="pack_capacity_mah")
    warning: Name = Field("", title="its name for the warning volts", description="warning_pack_v")
    landing: Name = Field("", title="its name for the landing volts", description="land_pack_v")
    warning_left: Name = Field("", title="its name for the charge left at the warning", description="warning_left_mah")
    landing_left: Name = Field("", title="its name for the charge left at landing", description="land_left_mah")


class Craft(Document):
    """A multirotor or a fixed-wing craft without its battery."""

    schema_version: int = Field(5, ge=1, le=5, title="schema version")
    id: Identifier = Field(min_length=1, title="identifier")
    name: Name = Field(min_length=1, title="name")
    sample: bool = Field(False, title="sample data")
    archived: bool = Field(False, title="archived", description="Out of sight, and whole.")
    parts: tuple[Part, ...] = Field(min_length=1, max_length=400, title="parts")
    rotors: Rotors
    motor: Motor
    esc: Esc
    wing: Wing | None = Field(None, title="wing", description="Empty: its rotors carry it.")
    hover_test: HoverTest | None = Field(
        None, title="hover test", description="In place of the motor's and the propeller's own numbers."
    )
    stand: ThrustStand | None = Field(None, title="thrust stand")
    loads: tuple[Load, ...] = Field((), max_length=100, title="loads")
    drag_area_m2: float | None = Field(
        None,
        gt=0,
        le=2,
        title="drag area",
        description="Drag coefficient × frontal area. Empty: by propeller size.",
    )
    max_takeoff_mass_g: float | None = Field(None, gt=0, le=200000, title="greatest take-off mass")
    bay: Bay | None = Field(None, title="battery bay")
    balance: Balance | None = Field(None, title="balance")
    known_flights: tuple[KnownFlight, ...] = Field((), max_length=100, title="known flights")
    learned: tuple[LearnedValue, ...] = Field((), max_length=4, title="learned from flights")
    sensor: SensorFact | None = Field(None, title="sensors on board", description="Empty: taken as right.")
    alarm_names: AlarmNames = Field(default_factory=AlarmNames, title="names of the alarms")
    estimates: tuple[Name, ...] = Field(
        (), max_length=60, title="estimates", description="Fields whose values are usual ones for the size."
    )
    notes: Notes = Field("", title="notes")

    @model_validator(mode="before")
    @classmethod
    def _from_version_1(cls, data: Any) -> Any:
        """Version 1 knew one known flight at most; what later ones added may be left out."""
        if isinstance(data, dict) and data.get("schema_version") == 1:
            data = dict(data)
            known = data.pop("known_flight", None)
            data["known_flights"] = [] if known is None else [known]
        return as_version(data, 5)

    def taught(self, of: LearnedOf) -> LearnedValue | None:
        """What flights taught of its power or its drag, where that value still stands."""
        found = next((one for one in self.learned if one.of is of), None)
        if found is not None and of is LearnedOf.DRAG and self.drag_area_m2 != found.value:
            return None
        return found

    @model_validator(mode="after")
    def _one_kind(self) -> Self:
        if self.wing is not None and self.rotors.coaxial:
            raise ValueError("Propellers that pull a wing do not stand in coaxial pairs here; say how many there are.")
        if self.wing is not None and self.hover_test is not None:
            raise ValueError("A craft on a wing does not hover; remove the hover test or the wing.")
        return self

    def is_estimate(self, path: str) -> bool:
        """Whether the field at a path of the craft holds a usual value for the size, which nobody told."""
        return any(path == one or path.startswith(one + ".") for one in self.estimates)

    def told(self, path: str) -> Craft:
        """The same, once somebody has told the field at ``path``, or one inside it."""
        kept = tuple(
            one for one in self.estimates if not (path + ".").startswith(one + ".") and not one.startswith(path + ".")
        )
        return self if kept == self.estimates else self.changed(estimates=kept)

    @property
    def margin_over(self) -> str:
        """What full throttle is held against: weight of a multirotor, drag of a wing."""
        return "the weight" if self.wing is None else "the drag"

    @property
    def load_w(self) -> float:
        """What all loads besides the motors take from the bus."""
        return sum(load.bus_power_w for load in self.loads)

    @property
    def dry_mass_g(self) -> float:
        """Sum of the parts, battery excluded."""
        return sum(part.mass_g for part in self.parts)

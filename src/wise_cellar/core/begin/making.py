"""A craft, its mission, its batteries and its designs, made of a sentence with gaps.

What the sentence leaves open is usual for the size (`sizes.py`, `cells.py`) and marked as an estimate.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from contextlib import suppress
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np

from wise_cellar.core.begin import sizes
from wise_cellar.core.begin.beginning import Arranged, Beginning
from wise_cellar.core.begin.cells import PACK_WH_KG, POLYMER_V, cell_type_of, chemistry_of, recipe_for
from wise_cellar.core.begin.craft_size import BUILT_OVER_CELLS, SMALL_G, CraftSize, size_of
from wise_cellar.core.begin.description import Chemistry, Description
from wise_cellar.core.begin.missions import (
    OF_ROTORS,
    OF_WINGS,
    Purpose,
    hand_flying,
    manner_of,
    mission_for,
    usual_purpose,
)
from wise_cellar.core.documents import (
    Around,
    CellType,
    CompleteDesign,
    Cooling,
    Craft,
    Design,
    Document,
    DocumentError,
    Esc,
    KnownFlight,
    Load,
    Manner,
    Mission,
    Motor,
    Pack,
    Part,
    Rotors,
    Wing,
    pack_words,
)
from wise_cellar.core.physics.ocv import ocv_curve
from wise_cellar.core.propulsion import calibrate
from wise_cellar.core.propulsion.calibration import PLAUSIBLE
from wise_cellar.core.units import format_mm, format_span

FreeId = Callable[[type[Any], str], str]
"""An identifier that no document of a kind has, made from a name."""

USED = 0.8
"""Of a battery where minutes alone were noted: a guess, and marked as one."""
LIFT_AT_STALL = 1.2
LEADS_MM = ((80.0, 60.0), (200.0, 110.0))
"""Length of leads by the propeller; longer beyond."""
LONG_LEADS_MM = 160.0
USUAL_CYLINDER = "21700"
MUCH_MORE = 1.05
LASTING = 1.3
"""Current for which leads are chosen, over that of the hover."""
BURST_OVER_LASTING = 2.5
"""Of a lead, for a few seconds of every minute."""


@dataclass(frozen=True)
class Begun:
    """What a sentence makes: the first design is the one to show."""

    craft: Craft
    mission: Mission
    cells: tuple[CellType, ...]
    designs: tuple[Design, ...]
    purpose: Purpose
    """As told, or as is usual."""
    known: tuple[CellType, ...] = ()
    """Cell types of the workspace that the designs name."""

    @property
    def documents(self) -> tuple[Document, ...]:
        """All that is to be put into the workspace."""
        return (self.craft, self.mission, *self.cells, *self.designs)

    @cached_property
    def complete(self) -> CompleteDesign:
        """The design to show, whole."""
        design = self.designs[0]
        named = {pack.cell_type_id for pack in design.packs}
        cells = tuple(cell for cell in (*self.cells, *self.known) if cell.id in named)
        return CompleteDesign(design=design, craft=self.craft, cells=cells, mission=self.mission)


def make(beginning: Beginning, free_id: FreeId, known_cells: Mapping[str, CellType]) -> Begun:
    """Everything that a sentence stands for.

    Raises :class:`DocumentError` where its parts cannot be true together. Source: what was told; the rest are our
    estimates for the class.
    """
    size = size_of(beginning)
    maker = _Maker(beginning, size, free_id, known_cells)
    return maker.begun


@dataclass(frozen=True)
class _Maker:
    """Makes the documents of one sentence, each once."""

    said: Beginning
    size: CraftSize
    free_id: FreeId
    known_cells: Mapping[str, CellType]

    @cached_property
    def begun(self) -> Begun:
        craft, mission = self.craft, self.mission
        wanted = self.said.onto is not None or bool(self.said.onto_cell_id)
        flown = self._flown_now()
        packs = [self._wanted()] if wanted or flown is None else []
        packs += [flown] if flown is not None else []
        taken: list[str] = []
        designs = []
        for words, pack, _ in packs:
            name = f"{craft.name}, {words}"
            identifier = self._free(Design, name, taken)
            taken.append(identifier)
            designs.append(
                Design(id=identifier, name=name, craft_id=craft.id, mission_id=mission.id, packs=(pack,))
            )  # fmt: skip
        cells = tuple(cell for *_, cell in packs)
        here = tuple(cell for cell in cells if cell.id in self.known_cells)
        fresh = tuple(cell for cell in cells if cell not in here)
        return Begun(craft, mission, fresh, tuple(designs), self.purpose, here)

    def _free(self, model: type[Any], name: str, taken: list[str]) -> str:
        found = self.free_id(model, name)
        number = 2
        while found in taken:
            found, number = self.free_id(model, f"{name} {number}"), number + 1
        return found

    @cached_property
    def purpose(self) -> Purpose:
        return self.said.purpose or usual_purpose(self.size.propeller_mm, self.size.span_mm)

    @cached_property
    def takeoff_g(self) -> float:
        return self.size.dry_g + self.size.battery_g

    @cached_property
    def cruise_m_s(self) -> float:
        if self.size.span_mm is None:
            return round(sizes.rotor_cruise_m_s(self.size.propeller_mm), 1)
        area = self._area_dm2 * 0.01
        stall = np.sqrt(2 * sizes.weight_n(self.takeoff_g) / (sizes.AIR_KG_M3 * area * LIFT_AT_STALL))
        return round(float(sizes.CRUISE_OVER_STALL * stall), 1)

    @cached_property
    def _area_dm2(self) -> float:
        assert self.size.span_mm is not None
        aspect = sizes.GLIDER_ASPECT if self.purpose is Purpose.GLIDE else sizes.ASPECT
        return sizes.rounded(self.size.span_mm**2 / aspect * 1e-4)

    @cached_property
    def mission(self) -> Mission:
        name = f"{self.craft.name} {self.purpose}"
        return mission_for(
            self.purpose, self.free_id(Mission, name), self.cruise_m_s, self.craft.id, winged=self.size.winged
        )

    @cached_property
    def name(self) -> str:
        said, size = self.said, self.size
        if said.name:
            return said.name
        if size.span_mm is not None:
            return f"Wing of {format_span(size.span_mm)}"
        kinds = {1: "Rotor", 2: "Bicopter", 3: "Tricopter", 4: "Quad", 6: "Hexa", 8: "Octo"}
        return f"{kinds.get(size.count, f'{size.count} rotors')} of {format_mm(size.propeller_mm)}"

    @property
    def _thrust_over_weight(self) -> float:
        size = self.size
        return sizes.WING_THRUST_OVER_WEIGHT if size.winged else sizes.rotor_thrust(size.propeller_mm)

    def _drive(self, stronger: float) -> sizes.DriveSize:
        """Motors that give the usual thrust where the craft takes so many times the power of its class."""
        size = self.size
        each = stronger * self._thrust_over_weight * sizes.weight_n(self.takeoff_g) / size.count
        towards = self.cruise_m_s if size.winged else 0.0
        return sizes.drive_for(each, size.propeller_mm, self._pitch_mm, self._blades, size.series, towards)

    @property
    def _blades(self) -> int:
        return 3 if not self.size.winged and self.size.propeller_mm <= sizes.THREE_BLADES_TO_MM else 2

    @property
    def _pitch_mm(self) -> float:
        return max(round(self.size.propeller_mm * (0.6 if self.size.winged or self._blades > 2 else 0.45)), 10)

    @cached_property
    def craft(self) -> Craft:
        """A craft that flies now has the motors for it, however much more than usual it takes."""
        craft = self._craft(self._drive(1.0))
        with suppress(DocumentError):  # told when it is flown
            found = calibrate(craft)
            if found is not None and found.factor > MUCH_MORE:
                return self._craft(self._drive(min(found.factor, PLAUSIBLE[1])))
        return craft

    def _craft(self, drive: sizes.DriveSize) -> Craft:
        said, size = self.said, self.size
        watts = sizes.wing_electronics_w(size.span_mm) if size.span_mm else sizes.rotor_electronics_w(size.propeller_mm)
        wing = None
        if size.span_mm is not None:
            wing = Wing(span_mm=size.span_mm, area_dm2=self._area_dm2)
        craft = Craft(
            id=self.free_id(Craft, self.name),
            name=self.name,
            parts=(Part(name="The craft without its battery", mass_g=round(size.dry_g, 1)),),
            rotors=Rotors(
                count=size.count, coaxial=said.arranged is Arranged.COAXIAL, diameter_mm=size.propeller_mm,
                around=Around.DUCT if said.arranged is Arranged.DUCTED else Around.NOTHING,
                pitch_mm=self._pitch_mm, blades=self._blades,
            ),
            motor=Motor(kv_rpm_per_v=drive.kv_rpm_per_v, max_current_a=drive.motor_a),
            esc=Esc(max_current_a=drive.esc_a, max_voltage_v=drive.esc_v),
            wing=wing,
            loads=(Load(name="electronics", power_w=sizes.rounded(watts)),),
            estimates=self._estimates,
        )  # fmt: skip
        flight = self._known_flight
        return craft if flight is None else craft.changed(known_flights=(flight,))

    @property
    def _estimates(self) -> tuple[str, ...]:
        said = self.said
        opened = {
            "parts": said.mass_g is None or (said.with_battery and said.battery is None),
            "rotors.count": said.rotor_count is None,
            "rotors.diameter_mm": said.propeller_mm is None,
            "wing.span_mm": self.size.winged and said.span_mm is None,
            "wing.area_dm2": self.size.winged,
        }
        always = ("rotors.pitch_mm", "rotors.blades", "motor.kv_rpm_per_v", "motor.max_current_a",
                  "esc.max_current_a", "esc.max_voltage_v", "loads")  # fmt: skip
        return (*(name for name, is_open in opened.items() if is_open), *always)

    # Batteries

    def _flown_now(self) -> tuple[str, Pack, CellType] | None:
        said = self.said.battery
        if said is None:
            return None
        return self._pack_of(said, said.parallel_count or 1)

    def _wanted(self) -> tuple[str, Pack, CellType]:
        known = self.known_cells.get(self.said.onto_cell_id)
        if known is not None:
            return self._built_of(known, self.size.series, self._parallel_for(known.mass_g))
        said = self.said.onto
        if said is None:
            said = self._usual_battery
        if said.whole_pack and said.capacity_mah is None:
            said = said.changed(capacity_mah=self._capacity_for(said))
        parallel = said.parallel_count
        if parallel is None:
            parallel = self._parallel_for(cell_type_of(said, "x", "x").mass_g)
        return self._pack_of(said, parallel)

    @property
    def _usual_battery(self) -> Description:
        if self.size.dry_g < SMALL_G:
            return Description(chemistry=Chemistry.POLYMER, series_count=self.size.series)
        return Description(size=USUAL_CYLINDER)

    def _capacity_for(self, said: Description) -> float:
        """Of a pack bought whole that weighs as much as the one flown now."""
        series = said.series_count or self.size.series
        return max(sizes.rounded(self.size.battery_g * PACK_WH_KG[1] / series / POLYMER_V), 60.0)

    def _parallel_for(self, cell_g: float) -> int:
        """So many in parallel that the pack weighs about as much as the one flown now."""
        return int(np.clip(round(self.size.battery_g / (BUILT_OVER_CELLS * self.size.series * cell_g)), 1, 40))

    def _pack_of(self, said: Description, parallel: int) -> tuple[str, Pack, CellType]:
        series = said.series_count or self.size.series
        name = cell_name(said, series)
        cell = cell_type_of(said, self.free_id(CellType, name), name, series=series)
        return self._built_of(cell, series, parallel)

    def _built_of(self, cell: CellType, series: int, parallel: int) -> tuple[str, Pack, CellType]:
        size = self.size
        full = self._drive(1.0).full_a * size.count
        lasting = max(LASTING * full / self._thrust_over_weight**1.5, full / BURST_OVER_LASTING)
        if self._known_flight is not None:
            lasting = max(lasting, LASTING * self._known_flight.mean_a)
        length = next((mm for limit, mm in LEADS_MM if size.propeller_mm <= limit), LONG_LEADS_MM)
        if cell.whole_pack:
            series = cell.cells_in_series * max(round(series / cell.cells_in_series), 1)
        pack = Pack(
            cell_type_id=cell.id, recipe=recipe_for(cell, series, parallel, lasting, length),
            cooling=Cooling.CLOSED if size.winged else Cooling.SLEEVED,
        )  # fmt: skip
        return pack_words(pack.recipe, cell), pack, cell

    @cached_property
    def _known_flight(self) -> KnownFlight | None:
        """The flight on the battery flown now, where its minutes and its charge are told."""
        said = self.said
        if said.battery is None or said.flown_min is None or said.battery.battery_mah is None:
            return None
        held, series = said.battery.battery_mah, said.battery.series_count or self.size.series
        cell = cell_type_of(said.battery, "x", "x", series=series)
        used = said.charge_mah or USED * held
        amps = used * 1e-3 / (said.flown_min / 60)
        ohm = series * cell.resistance_mohm * 1e-3 / (said.battery.parallel_count or 1)
        manner = manner_of(self.purpose)
        by_hand = manner is Manner.MANUAL
        lively, full_s = hand_flying(self.purpose)
        return KnownFlight(
            name="as it flies now", manner=manner, takeoff_mass_g=round(self.takeoff_g, 1),
            airspeed_m_s=0.0 if manner is Manner.HOVER else self.cruise_m_s,
            liveliness=lively if by_hand else 1.5, full_throttle_s=full_s if by_hand else 0.0,
            duration_min=said.flown_min, charge_used_mah=round(used, 1), charge_guessed=said.charge_mah is None,
            mean_voltage_v=round(max(series * _mean_emf_v(cell, min(used / held, 1.0)) - ohm * amps, 2.1), 2),
            battery_series=series, battery_mah=held, battery_family=cell.ocv_family, battery_class=cell.kinetic_class,
        )  # fmt: skip


def _mean_emf_v(cell: CellType, used: float) -> float:
    """Volts of a cell at rest on the mean from full until a share of its charge is used."""
    values = ocv_curve(cell.ocv_family.value).values
    return float(np.interp(np.linspace(1 - used, 1, 50), np.linspace(0, 1, len(values)), values).mean())


def cell_name(said: Description, series: int) -> str:
    """What a cell type made of a few words is called."""
    kind = chemistry_of(said)
    held = "" if said.capacity_mah is None else f" {said.capacity_mah:.0f}"
    return f"{said.size}{held} {kind.name.lower()}" if said.size else f"{series}S{held} {kind}"


def offered(beginning: Beginning) -> tuple[Purpose, ...]:
    """The purposes that fit what carries the craft."""
    return OF_WINGS if beginning.winged else OF_ROTORS

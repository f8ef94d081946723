"""How quickly a multirotor turns with a pack: its inertia against that with the battery it flies now."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from wise_cellar.core.documents import Bay, CompleteDesign, Craft
from wise_cellar.core.pack import PackBuild, build_pack, lying_mm
from wise_cellar.core.physics.arrays import Floats
from wise_cellar.core.physics.inertia import Frame, arm_m, craft_inertia
from wise_cellar.core.physics.rotor import disc_area_m2
from wise_cellar.core.propulsion.drive_numbers import motor_mass_g
from wise_cellar.core.units import format_change, format_grams, format_number

APART, WITH_PROPELLER = 1.15, 1.25
"""Between motors over the propellers' diameter where it is not told; a motor with its propeller over it alone."""
LEAST_REST = 0.25
"""Of the dry mass: what is not motors, at least."""
BOX_OF_ARM = (0.9, 0.9, 0.3)
"""Size of the rest over an arm's length, ± 25 %."""
BOX_DOUBT = 0.25
PACK_KG_M3, PACK_PROPORTIONS = 1900.0, (2.4, 1.0, 0.9)
"""Of a battery of which only the mass is known."""
AXES = ("roll", "pitch", "yaw")


@dataclass(frozen=True)
class Handling:
    """Inertia about roll, pitch and yaw, and how quickly it turns against ``against``."""

    inertia_kg_m2: tuple[float, float, float]
    quickness: tuple[float, float, float]
    """Over that of the craft with ``against``: the same thrust turns it so many times as quickly."""
    doubt: tuple[float, float, float]
    """± of that, by the size of the frame's box."""
    against: str
    """"the battery it flies now", "no battery"."""
    turned: tuple[float, float, float]
    """Quickness with the pack across where it lies along now."""
    level: tuple[float, float, float]
    """Quickness with the middle of the pack in the propellers' plane."""

    @property
    def slowest(self) -> float:
        """Of roll and pitch."""
        return min(self.quickness[:2])

    @property
    def figures(self) -> str:
        """The inertia itself, an estimate."""
        told = ", ".join(
            f"{axis} {format_number(1e3 * value, 1)}" for axis, value in zip(AXES, self.inertia_kg_m2, strict=True)
        )
        return f"Inertia, estimated: {told} g·m² (1 g·m² is 1/1000 kg·m²)."

    @property
    def words(self) -> str:
        """One sentence, and what would make it quicker."""
        told = ", ".join(f"{axis} {_change(share)}" for axis, share in zip(AXES, self.quickness, strict=True))
        doubt = max(round(100 * max(self.doubt[:2])), 1)
        sentence = f"Quickness against {self.against}: {told} (± {doubt})."
        gain = min(self.turned[:2]) - self.slowest
        if gain >= 0.01:
            sentence += f" Laid the other way, its slower axis would be {format_number(100 * gain, 0)} points quicker."
        gain = min(self.level[:2]) - self.slowest
        if gain >= 0.01:
            sentence += f" In the plane of the propellers it would be {format_number(100 * gain, 0)} points quicker."
        return sentence


def _change(share: float) -> str:
    return format_change(100 * (share - 1), 0, "%")


def frame_of(craft: Craft, box: float = 1.0) -> Frame:
    """The craft without its pack, its box so many times as large as estimated.

    Source: arms from the distance between motors, else 1.15 propellers apart; the rest a box of the arms' size: our
    estimates.
    """
    rotors, dry_kg = craft.rotors, craft.dry_mass_g * 1e-3
    arms = rotors.count // 2 if rotors.coaxial else rotors.count
    spacing = rotors.spacing_mm or APART * rotors.diameter_mm
    length = arm_m(spacing * 1e-3, arms)
    motor = min(WITH_PROPELLER * motor_mass_g(craft) * 1e-3, (1 - LEAST_REST) * dry_kg / rotors.count)
    along, across, up = (share * length * box for share in BOX_OF_ARM)
    return Frame(arms, rotors.count, length, motor, dry_kg - rotors.count * motor, (along, across, up))


Size = tuple[Floats, Floats, Floats]


def battery_now(complete: CompleteDesign) -> tuple[Floats, Size, str]:
    """Mass, kg, and size, m, of the battery that the craft flies now, both ``(1,)``, and what it is called.

    Source: its own battery as built; else the greatest take-off mass of its known flights less the mass without a
    battery, in a block of :data:`PACK_KG_M3` and :data:`PACK_PROPORTIONS`, our estimates; else none at all.
    """
    own = complete.own_battery
    if own is not None:
        build = build_pack(own.recipe, own.cell, complete.craft.bay)
        return np.array([build.mass_g * 1e-3]), _size_m(build, complete.craft.bay), "its own battery alone"
    flown = [flight.takeoff_mass_g - complete.dry_mass_g for flight in complete.craft.known_flights if flight.used]
    mass = max([*flown, 0.0]) * 1e-3
    one = (mass / PACK_KG_M3 / float(np.prod(PACK_PROPORTIONS))) ** (1 / 3)
    along, across, up = (np.array([share * one]) for share in PACK_PROPORTIONS)
    called = f"the {format_grams(1000 * mass)} battery of its known flight" if mass > 0 else "no battery"
    return np.array([mass]), (along, across, up), called


def quickness(
    complete: CompleteDesign, pack_kg: Floats, size_m: Size, above_m: float, box: float = 1.0
) -> tuple[Floats, Floats]:  # fmt: skip
    """Inertia, kg·m², and quickness against the battery flown now, both ``(3, packs)``.

    With the same thrust on the same arms the greatest angular acceleration goes with one over the inertia. Source:
    Newton's second law for rotation. Not modelled: motors that answer more slowly, aerodynamic damping, the tune.
    """
    frame = frame_of(complete.craft, box)
    now_kg, now_m, _ = battery_now(complete)
    mine = craft_inertia(frame, pack_kg, size_m, above_m)
    return mine, craft_inertia(frame, now_kg, now_m, above_m) / mine


def handling(complete: CompleteDesign, build: PackBuild) -> Handling | None:
    """How the design turns; none of a wing, which turns by its surfaces.

    Source: :func:`quickness`, its doubt by a frame's box a quarter larger. Packs beside the first count as part of it.
    """
    if complete.craft.wing is not None:
        return None
    bay, beside = complete.craft.bay, complete.packs[1:]
    along, across, up = size = _size_m(build, complete.bay)
    above = 1e-3 * bay.above_mm if bay is not None else 0.0
    kilos = np.array([build.mass_g + sum(build_pack(pack.recipe, pack.cell, None).mass_g for pack in beside)]) * 1e-3
    inertia, share = quickness(complete, kilos, size, above)
    _, larger = quickness(complete, kilos, size, above, 1 + BOX_DOUBT)
    _, turned = quickness(complete, kilos, (across, along, up), above)
    _, level = quickness(complete, kilos, size, 0.0)
    return Handling(
        _three(inertia), _three(share), _three(np.abs(larger - share)), battery_now(complete)[2], _three(turned),
        _three(level),
    )  # fmt: skip


def disc_loading_g_dm2(craft: Craft, mass_g: float) -> float:
    """Grams on each square decimetre of the discs as seen from above.

    Source: geometry; rotors that lie over each other, as a coaxial pair, count once.
    """
    rotors = craft.rotors
    discs = rotors.count / 2 if rotors.coaxial else rotors.count
    return mass_g / (100 * float(disc_area_m2(discs, rotors.diameter_mm * 1e-3)))


def _size_m(build: PackBuild, bay: Bay | None) -> Size:
    """Along, across and up as it lies."""
    along, across, up = (np.array([side * 1e-3]) for side in lying_mm(build.layout, bay))
    return along, across, up


def _three(values: Floats) -> tuple[float, float, float]:
    roll, pitch, yaw = values[:, 0].tolist()
    return roll, pitch, yaw

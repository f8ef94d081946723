"""Craft of the usual kinds, by their size: a sentence to start from where nobody knows what to write."""

from __future__ import annotations

from dataclasses import dataclass

from wise_cellar.core.begin.beginning import Arranged, Beginning, Carried
from wise_cellar.core.begin.missions import Purpose


@dataclass(frozen=True)
class UsualCraft:
    """A kind of craft, named by its size."""

    words: str
    said: Beginning


USUAL = (
    UsualCraft("Indoors, 40 mm in ducts", Beginning(
        carried=Carried.ROTORS, rotor_count=4, arranged=Arranged.DUCTED, propeller_mm=40, purpose=Purpose.INDOOR)),
    UsualCraft("By hand, 76 mm", Beginning(
        carried=Carried.ROTORS, rotor_count=4, propeller_mm=76, purpose=Purpose.LIVELY)),
    UsualCraft("By hand, 127 mm", Beginning(
        carried=Carried.ROTORS, rotor_count=4, propeller_mm=127, purpose=Purpose.LIVELY)),
    UsualCraft("Long legs, 178 mm", Beginning(
        carried=Carried.ROTORS, rotor_count=4, propeller_mm=178, purpose=Purpose.LEGS)),
    UsualCraft("Mapping, 254 mm", Beginning(
        carried=Carried.ROTORS, rotor_count=4, propeller_mm=254, purpose=Purpose.LEGS)),
    UsualCraft("Loads, four pairs of 457 mm", Beginning(
        carried=Carried.ROTORS, rotor_count=8, arranged=Arranged.COAXIAL, propeller_mm=457, purpose=Purpose.LIFT)),
    UsualCraft("Wing of 1.2 m", Beginning(carried=Carried.WING, span_mm=1200, purpose=Purpose.LEGS)),
    UsualCraft("Glider of 2.4 m", Beginning(carried=Carried.WING, span_mm=2400, purpose=Purpose.GLIDE)),
)  # fmt: skip
"""From small to large; every value is an estimate for its class."""

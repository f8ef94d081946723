"""Craft of the usual kinds, by their size: a sentence to start from where nobody knows what to write."""

from __future__ import annotations

from dataclasses import dataclass

from wise_cellar.core.begin.beginning import Arranged, Beginning, Carried
from wise_cellar.core.begin.missions import Purpose
from wise_cellar.core.units import format_mm, format_span


@dataclass(frozen=True)
class UsualCraft:
    """A kind of craft, named by its size."""

    kind: str
    """What it is; ``{}`` stands for its size."""
    said: Beginning

    @property
    def words(self) -> str:
        """What it is, with its size."""
        said = self.said
        size = format_mm(said.propeller_mm) if said.propeller_mm is not None else format_span(said.span_mm or 0.0)
        return self.kind.format(size)


USUAL = (
    UsualCraft("Indoors, {} in ducts", Beginning(
        carried=Carried.ROTORS, rotor_count=4, arranged=Arranged.DUCTED, propeller_mm=40, purpose=Purpose.INDOOR)),
    UsualCraft("By hand, {}", Beginning(
        carried=Carried.ROTORS, rotor_count=4, propeller_mm=76, purpose=Purpose.LIVELY)),
    UsualCraft("By hand, {}", Beginning(
        carried=Carried.ROTORS, rotor_count=4, propeller_mm=127, purpose=Purpose.LIVELY)),
    UsualCraft("Long legs, {}", Beginning(
        carried=Carried.ROTORS, rotor_count=4, propeller_mm=178, purpose=Purpose.LEGS)),
    UsualCraft("Mapping, {}", Beginning(
        carried=Carried.ROTORS, rotor_count=4, propeller_mm=254, purpose=Purpose.LEGS)),
    UsualCraft("Loads, four pairs of {}", Beginning(
        carried=Carried.ROTORS, rotor_count=8, arranged=Arranged.COAXIAL, propeller_mm=457, purpose=Purpose.LIFT)),
    UsualCraft("Wing of {}", Beginning(carried=Carried.WING, span_mm=1200, purpose=Purpose.LEGS)),
    UsualCraft("Glider of {}", Beginning(carried=Carried.WING, span_mm=2400, purpose=Purpose.GLIDE)),
)  # fmt: skip
"""From small to large; every value is an estimate for its class."""

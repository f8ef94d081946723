"""A cell, or a battery, described in a few words: what was said of it, and nothing that was not."""

from __future__ import annotations

from enum import StrEnum
from typing import Self

from pydantic import Field, model_validator

from wise_cellar.core.documents import MOST_PARALLEL, MOST_SERIES
from wise_cellar.core.documents.base import Document
from wise_cellar.core.units import TOLD, format_amps, format_grams, format_mah, format_number, format_significant


class Chemistry(StrEnum):
    """What it is made of, as people say it."""

    POWER = "power cells"
    ENERGY = "energy cells"
    POLYMER = "polymer"
    HIGH_VOLTAGE_POLYMER = "high-voltage polymer"
    IRON_PHOSPHATE = "iron phosphate"

    @property
    def pouch(self) -> bool:
        """Whether it comes as pouches."""
        return self in (Chemistry.POLYMER, Chemistry.HIGH_VOLTAGE_POLYMER)


STANDARD_SIZES = (
    "10440", "14500", "16340", "18350", "18500", "18650", "20700", "21700", "26650", "26700", "32650", "32700",
)  # fmt: skip
"""Cylinders by the standard's code: diameter and length in millimetres, and a nought."""


class Description(Document):
    """What was said of a cell, or of a battery: every part of it may be missing.

    Mass and capacity are of what is named: of one cell where a cylinder's size is, else of the whole battery.
    """

    size: str = Field("", title="size", description="A cylinder's standard code. Empty: a pack bought whole.")
    chemistry: Chemistry | None = Field(None, title="chemistry")
    series_count: int | None = Field(None, ge=1, le=MOST_SERIES, title="cells in series")
    parallel_count: int | None = Field(None, ge=1, le=MOST_PARALLEL, title="cells in parallel")
    capacity_mah: float | None = Field(None, gt=50, le=200_000, title="capacity")
    mass_g: float | None = Field(None, gt=1, le=30_000, title="mass")
    current_a: float | None = Field(None, gt=0, le=500, title="current it is good for")
    c_rating: float | None = Field(None, gt=0, le=500, title="C-rating")
    resistance_mohm: float | None = Field(None, gt=0.5, le=500, title="resistance of a cell")

    @model_validator(mode="after")
    def _of_a_cell(self) -> Self:
        if self.size and self.size not in STANDARD_SIZES:
            raise ValueError(f"{self.size} is no size of a cylinder; the usual ones are 18650 and 21700.")
        if self.size and self.chemistry is not None and self.chemistry.pouch:
            raise ValueError(f"A {self.size} is a cylinder; polymer comes in pouches. Leave one of the two out.")
        if self.size and self.capacity_mah is not None and self.capacity_mah > most_mah(self.size):
            raise ValueError(
                f"{format_mah(self.capacity_mah)} is more than one {self.size} holds, about"
                f" {format_number(round(most_mah(self.size), -2), 0)} at most. Write the capacity of one cell."
            )
        if not self.size and self.parallel_count not in (None, 1):
            raise ValueError("Cells in parallel need the cells' size, such as “4S 2P of 21700”.")
        if self.parallel_count is not None and self.series_count is None:
            raise ValueError("Say how many stand in series as well, such as “4S 2P”.")
        return self

    @property
    def whole_pack(self) -> bool:
        """Whether it is a battery bought whole."""
        return not self.size

    @property
    def battery_mah(self) -> float | None:
        """Charge of the whole battery; none where no capacity was told."""
        return None if self.capacity_mah is None else self.capacity_mah * (self.parallel_count or 1)

    @property
    def words(self) -> str:
        """What was understood."""
        counts = "".join(
            f"{count}{letter} " for count, letter in ((self.series_count, "S"), (self.parallel_count, "P")) if count
        )
        parts = [
            "" if self.capacity_mah is None else format_mah(self.capacity_mah),
            "" if self.chemistry is None else str(self.chemistry),
            "" if self.mass_g is None else format_grams(self.mass_g, TOLD),
            "" if self.current_a is None else f"good for {format_amps(self.current_a, TOLD)}",
            "" if self.c_rating is None else f"{format_significant(self.c_rating)} C",
            "" if self.resistance_mohm is None else f"{format_significant(self.resistance_mohm)} mΩ",
        ]
        told = ", ".join(part for part in parts if part)
        if self.size:
            head = f"{counts}of {self.size}" if counts else self.size
            return f"{head}, {told}" if told else head
        return f"{counts}{told}".strip()


def dimensions_mm(size: str) -> tuple[float, float]:
    """Diameter and length of a standard cylinder, bare, mm: the first two digits and the next two of its code."""
    return float(size[:2]), float(size[2:4])


DENSEST_MAH_CM3 = 250.0
"""No cylinder of today holds more: an upper bound to catch a whole pack's capacity told of a cell."""


def most_mah(size: str) -> float:
    """More than any cylinder of the size holds, mAh.

    Source: our bound on the charge in a litre of a wound cell.
    """
    diameter, length = dimensions_mm(size)
    return DENSEST_MAH_CM3 * 3.14159 * (diameter / 20) ** 2 * length / 10

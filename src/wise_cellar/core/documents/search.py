"""What is searched around a design, and what the designs found must keep to."""

from __future__ import annotations

from typing import Self

from pydantic import Field, field_validator, model_validator

from wise_cellar.core.documents.base import Document
from wise_cellar.core.documents.pack_recipe import MOST_PARALLEL, MOST_SERIES, PackRecipe
from wise_cellar.core.documents.text import Identifier
from wise_cellar.core.words import quoted

RANGE_WORDS = "Write 4, or 3:8, or 1,2,4."


def parse_counts(text: str, title: str, least: int, most: int) -> tuple[int, ...]:
    """Whole numbers from "4", "3:8" or "1,2,4", each once and in order; none from an empty text.

    Raises ``ValueError`` with a sentence when the text is no range, the range is empty, or it leaves ``least`` to
    ``most``.
    """
    found: set[int] = set()
    for part in (part for part in text.replace(" ", "").replace("…", ":").replace("..", ":").split(",") if part):
        first, colon, last = part.partition(":")
        if not first.isdecimal() or (colon and not last.isdecimal()):
            raise ValueError(f"{quoted(text)} is no range of {title}. {RANGE_WORDS}")
        start, end = int(first), int(last) if colon else int(first)
        if start > end:
            raise ValueError(f"{part} for {title} is empty: the smaller number comes first, {end}:{start}.")
        if start < least or end > most:
            raise ValueError(f"{title.capitalize()}: {least} to {most} can be searched, not {part}.")
        found |= set(range(start, end + 1))
    return tuple(sorted(found))


class Wishes(Document):
    """Limits of the user's own; an empty one asks for nothing."""

    least_duration_min: float | None = Field(None, gt=0, le=2000, title="least time in the air")
    least_margin: float | None = Field(None, gt=0, le=20, title="least thrust margin", description="Late in the pack.")
    least_quickness_percent: float | None = Field(
        None, gt=0, le=400, title="least quickness",
        description="Turning about its slower of roll and pitch, over the craft with the battery it flies now, in %.",
    )  # fmt: skip
    most_hover_percent: float | None = Field(
        None, gt=0, le=100, title="most throttle in hover", description="Of a full pack."
    )
    most_takeoff_mass_g: float | None = Field(
        None, gt=0, le=200000, title="mass class", description="Besides what the craft may weigh."
    )
    into_bay: bool = Field(True, title="goes into the bay")
    most_price: float | None = Field(None, gt=0, le=1e6, title="most paid for cells")
    least_late_v: float | None = Field(
        None, gt=0, le=4.5, title="least in a late punch", description="Volts a cell, as the craft sees them."
    )
    most_temperature_c: float | None = Field(None, ge=0, le=100, title="warmest cell")


class SearchChoice(Document):
    """The combinations that are flown; what is left empty stays near the design or as the design has it."""

    cell_ids: tuple[Identifier, ...] = Field(
        (), max_length=5000, title="cell types", description="Empty: all that are on the shelf."
    )
    series: str = Field(
        "", max_length=80, title="cells in series", description=f"{RANGE_WORDS} Empty: one less to two more than now."
    )
    parallel: str = Field("1:6", max_length=80, title="cells in parallel", description=f"{RANGE_WORDS} Empty: as now.")
    gauges: str = Field("", max_length=80, title="lead gauges", description=f"In AWG. {RANGE_WORDS} Empty: as now.")
    every_joint: bool = Field(False, title="every way of joining")
    every_policy: bool = Field(False, title="every landing rule")
    wishes: Wishes = Field(default_factory=Wishes)
    swap_pack_id: Identifier = Field(
        "", title="swapped pack", description="Bought whole. Empty: this design's own pack."
    )
    swap_percent: float = Field(10, ge=0.5, le=50, title="as heavy within", description="Of the whole pack's mass.")

    @field_validator("series")
    @classmethod
    def _series(cls, text: str) -> str:
        parse_counts(text, "cells in series", 1, MOST_SERIES)
        return text

    @field_validator("parallel")
    @classmethod
    def _parallel(cls, text: str) -> str:
        parse_counts(text, "cells in parallel", 1, MOST_PARALLEL)
        return text

    @field_validator("gauges")
    @classmethod
    def _gauges(cls, text: str) -> str:
        parse_counts(text, "lead gauges", 0, 30)
        return text

    @model_validator(mode="after")
    def _once(self) -> Self:
        if len(set(self.cell_ids)) < len(self.cell_ids):
            raise ValueError("A cell type is searched once; name each only once.")
        return self

    def series_counts(self, recipe: PackRecipe) -> tuple[int, ...]:
        """Cells in series; around the recipe's where none are named."""
        near = range(max(recipe.series_count - 1, 1), min(recipe.series_count + 2, MOST_SERIES) + 1)
        return parse_counts(self.series, "cells in series", 1, MOST_SERIES) or tuple(near)

    def parallel_counts(self) -> tuple[int, ...]:
        """Cells in parallel; none: as the recipe has them."""
        return parse_counts(self.parallel, "cells in parallel", 1, MOST_PARALLEL)

    def gauge_counts(self) -> tuple[int, ...]:
        """Gauges of the leads, AWG; none: as the recipe has them."""
        return parse_counts(self.gauges, "lead gauges", 0, 30)

"""Where a value comes from, and what was measured on the bench."""

from __future__ import annotations

from datetime import date, datetime
from enum import StrEnum
from typing import Self

from pydantic import Field, model_validator

from wise_cellar.core.documents.base import Document
from wise_cellar.core.documents.text import Name

Day = date
Moment = datetime


class SourceKind(StrEnum):
    """What a value rests on."""

    MAKERS_SHEET = "maker's sheet"
    MEASURED = "measured"
    ESTIMATE = "estimate"


class ValueSource(Document):
    """Source of one value of a document, where it differs from the document's own."""

    field: Name = Field(min_length=1, title="field")
    kind: SourceKind = Field(title="source")
    day: Day | None = Field(None, title="date")


class BenchResult(Document):
    """What one specimen of a cell type showed on the bench. At least one of capacity, resistance and mass is there."""

    label: Name = Field(min_length=1, title="specimen")
    day: Day | None = Field(None, title="date")
    capacity_mah: float | None = Field(None, gt=10, le=100000, title="measured capacity")
    load_a: float | None = Field(None, gt=0, le=1000, title="at a load of",
                                 description="Discharge current of the capacity test.")  # fmt: skip
    dcir_mohm: float | None = Field(None, gt=0.1, le=1000, title="measured DC internal resistance")
    mass_g: float | None = Field(None, gt=0.5, le=10000, title="measured mass")

    @model_validator(mode="after")
    def _something_measured(self) -> Self:
        if self.capacity_mah is None and self.dcir_mohm is None and self.mass_g is None:
            raise ValueError(f"{self.label} needs a measured capacity, resistance or mass.")
        return self

"""Numbered cells: what a builder reads of each single cell before it goes into a pack."""

from __future__ import annotations

from enum import StrEnum
from typing import Self

from pydantic import Field, model_validator

from wise_cellar.core.documents.base import Document
from wise_cellar.core.documents.provenance import Day
from wise_cellar.core.documents.text import Identifier, Notes

HIGHEST_NUMBER = 99_999


class Look(StrEnum):
    """What is to be seen of a cell."""

    DENT = "dent"
    RUST = "rust"
    TORN_WRAP = "torn wrap"
    REWRAPPED = "re-wrapped"


class NumberedCell(Document):
    """One cell of a type, by the number that is written on it. Whatever was not measured is empty."""

    schema_version: int = Field(1, ge=1, le=1, title="schema version")
    id: Identifier = Field(min_length=1, title="identifier")
    number: int = Field(ge=1, le=HIGHEST_NUMBER, title="number", description="As it is written on the cell.")
    cell_type_id: Identifier = Field(min_length=1, title="cell type")
    sample: bool = Field(False, title="sample data", description="Invented for the sample world.")
    arrival_v: float | None = Field(None, ge=0, le=5, title="volts on arrival", description="At rest.")
    arrived_on: Day | None = Field(None, title="arrived on")
    rested_v: float | None = Field(
        None, ge=0, le=5, title="volts after days", description="At rest again, three days later or more."
    )
    rested_on: Day | None = Field(None, title="read again on")
    capacity_mah: float | None = Field(None, gt=10, le=100000, title="measured capacity")
    dcir_mohm: float | None = Field(None, gt=0.1, le=1000, title="measured DC internal resistance")
    ac_resistance_mohm: float | None = Field(
        None, gt=0.1, le=1000, title="measured AC resistance", description="At 1 kHz, as small meters read it."
    )
    mass_g: float | None = Field(None, gt=0.5, le=10000, title="measured mass")
    looks: tuple[Look, ...] = Field((), max_length=len(Look), title="what it looks like")
    note: Notes = Field("", title="note")

    @model_validator(mode="after")
    def _in_order(self) -> Self:
        if self.arrived_on is not None and self.rested_on is not None and self.rested_on < self.arrived_on:
            raise ValueError(
                f"Cell {self.number} was read again on {self.rested_on}, before it arrived on {self.arrived_on}."
            )
        if len(set(self.looks)) < len(self.looks):
            raise ValueError("What a cell looks like is said once.")
        return self

    @property
    def name(self) -> str:
        """What it is called in a sentence."""
        return f"Cell {self.number}"

    @property
    def days_apart(self) -> int | None:
        """From the first reading to the second; none where either is missing."""
        if None in (self.arrival_v, self.rested_v) or self.arrived_on is None or self.rested_on is None:
            return None
        return (self.rested_on - self.arrived_on).days

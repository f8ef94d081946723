"""Discharges that belong to a cell type: logged ones, and ones traced from a printed chart."""

from __future__ import annotations

from enum import StrEnum

from pydantic import Field

from wise_cellar.core.documents.base import Document
from wise_cellar.core.documents.provenance import Day
from wise_cellar.core.documents.text import Identifier, Name

Pixel = tuple[float, float]


class DischargeRecord(Document):
    """A logged discharge. Its points are kept apart, as a series of the workspace."""

    schema_version: int = Field(1, ge=1, le=1, title="schema version")
    id: Identifier = Field(min_length=1, title="identifier")
    name: Name = Field(min_length=1, title="name")
    cell_type_id: Identifier = Field(min_length=1, title="cell type")
    series_key: Identifier = Field(min_length=1, title="series")
    points: int = Field(ge=1, title="points")
    file_name: Name = Field("", title="file")
    day: Day | None = Field(None, title="date")
    air_temperature_c: float = Field(25, ge=-60, le=80, title="air temperature")
    logged_temperature: bool = Field(False, title="whether the cell's temperature was logged")
    mean_current_a: float = Field(gt=0, title="mean current")
    charge_mah: float = Field(gt=0, title="charge drawn")
    end_v: float = Field(gt=0, title="lowest voltage")
    in_fit: bool = Field(True, title="used in the fit")

    @property
    def series_keys(self) -> tuple[str, ...]:
        """Its points."""
        return (self.series_key,)


class ChargeUnit(StrEnum):
    """Unit of a chart's x axis."""

    AH = "Ah"
    MAH = "mAh"

    @property
    def ah(self) -> float:
        """Ampere-hours of one."""
        return 1.0 if self is ChargeUnit.AH else 1e-3


class ChartAxis(Document):
    """Two marks on an axis of a printed chart, in pixels of the picture, and their values."""

    first_px: Pixel | None = Field(None, title="first mark")
    first_value: float = Field(0, title="value at the first mark")
    second_px: Pixel | None = Field(None, title="second mark")
    second_value: float = Field(1, title="value at the second mark")


class TracedCurve(Document):
    """Points clicked along one curve, and the load it was printed for."""

    name: Name = Field(min_length=1, title="name")
    current_a: float = Field(gt=0, le=1000, title="discharge current")
    air_temperature_c: float = Field(25, ge=-60, le=80, title="air temperature")
    points: tuple[Pixel, ...] = Field((), max_length=5000, title="points")
    in_fit: bool = Field(True, title="used in the fit")


class TracedChart(Document):
    """A picture of a printed chart with everything marked on it; all of it stays editable."""

    schema_version: int = Field(1, ge=1, le=1, title="schema version")
    id: Identifier = Field(min_length=1, title="identifier")
    name: Name = Field(min_length=1, title="name")
    cell_type_id: Identifier = Field(min_length=1, title="cell type")
    picture_key: Identifier = Field(min_length=1, title="picture")
    x_unit: ChargeUnit = Field(ChargeUnit.AH, title="unit of the x axis")
    x_axis: ChartAxis = Field(default_factory=ChartAxis, title="x axis")
    y_axis: ChartAxis = Field(
        default_factory=lambda: ChartAxis(first_value=2.5, second_value=4.2), title="y axis"
    )  # fmt: skip
    curves: tuple[TracedCurve, ...] = Field((), max_length=40, title="curves")

    @property
    def series_keys(self) -> tuple[str, ...]:
        """The picture."""
        return (self.picture_key,)

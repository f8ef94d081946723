"""Weather and state at take-off."""

from __future__ import annotations

from enum import StrEnum

from pydantic import Field

from wise_cellar.core.documents.base import Document


class Cooling(StrEnum):
    """How air reaches the pack; each stands for a heat-transfer coefficient (± 40 %)."""

    WASH = "bare in the propeller wash"
    SLEEVED = "sleeved in airflow"
    CLOSED = "inside a closed bay"


class Conditions(Document):
    """Air, wind and the pack's state when the craft takes off."""

    air_temperature_c: float = Field(20, ge=-40, le=60, title="air temperature")
    pack_temperature_c: float | None = Field(
        None, ge=-30, le=55, title="pack temperature at start", description="Empty: as the air."
    )
    altitude_m: float = Field(0, ge=-400, le=6000, title="altitude")
    wind_m_s: float = Field(
        0,
        ge=0,
        le=25,
        title="wind",
        description="Held against while hovering; cruise speeds are through the air.",
    )
    start_charge_percent: float = Field(100, gt=5, le=100, title="charge at take-off")
    cooling: Cooling = Field(Cooling.SLEEVED, title="cooling of the pack")

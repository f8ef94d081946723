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
        description="Held against while hovering, and on a heading held over ground; an airspeed is through the air.",
    )
    wind_from_deg: float = Field(0, ge=0, le=360, title="wind from", description="0 is north.")
    gust_m_s: float = Field(
        0, ge=0, le=20, title="gusts", description="Above and below the wind; power is taken over the whole swing."
    )
    payload_g: float = Field(0, ge=0, le=100000, title="payload on board", description="Besides the craft's parts.")
    start_charge_percent: float = Field(100, gt=5, le=100, title="charge at take-off")
    capacity_percent: float = Field(
        100, ge=40, le=110, title="capacity for its age", description="Of what the cells held when they were new."
    )
    resistance_percent: float = Field(
        100, ge=80, le=400, title="resistance for its age", description="Of what the cells had when they were new."
    )
    cooling: Cooling = Field(Cooling.SLEEVED, title="cooling of the pack")

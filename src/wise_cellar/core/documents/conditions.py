"""Air, wind and payload at take-off."""

from __future__ import annotations

from enum import StrEnum

from pydantic import Field

from wise_cellar.core.documents.base import Document

MOST_WIND_M_S = 25.0


class Cooling(StrEnum):
    """How air reaches the pack; each stands for a heat-transfer coefficient (± 40 %)."""

    WASH = "bare in the propeller wash"
    SLEEVED = "sleeved in airflow"
    CLOSED = "inside a closed bay"


class Conditions(Document):
    """Air, wind and payload when the craft takes off."""

    air_temperature_c: float = Field(20, ge=-40, le=60, title="air temperature")
    altitude_m: float = Field(0, ge=-400, le=6000, title="altitude")
    wind_m_s: float = Field(
        0,
        ge=0,
        le=MOST_WIND_M_S,
        title="wind",
        description="Held against while hovering, and on a heading held over ground; an airspeed is through the air.",
    )
    wind_from_deg: float = Field(0, ge=0, le=360, title="wind from", description="0 is north.")
    gust_m_s: float = Field(
        0, ge=0, le=20, title="gusts", description="Above and below the wind; power is taken over the whole swing."
    )
    payload_g: float = Field(0, ge=0, le=100000, title="payload on board", description="Besides the craft's parts.")
    throttle_percent: float = Field(
        100, ge=30, le=100, title="full throttle held to",
        description="Most that the flight controller gives the motors; 100: all.",
    )  # fmt: skip

    @property
    def most_duty(self) -> float:
        """The same as a share."""
        return self.throttle_percent / 100

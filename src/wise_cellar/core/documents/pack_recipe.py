"""How cells become a pack: series and parallel, strips, joints, leads, connector."""

from __future__ import annotations

from enum import StrEnum

from pydantic import Field

from wise_cellar.core.documents.base import Document


class StripMetal(StrEnum):
    """Metal of the strips between cells."""

    NICKEL = "nickel"
    PLATED_STEEL = "nickel-plated steel"
    COPPER = "copper"


class Joint(StrEnum):
    """How a strip meets a cell."""

    SPOT_WELD = "spot-welded"
    SOLDERED = "soldered"
    SPRING_HOLDER = "held by springs"


class ConnectorClass(StrEnum):
    """Plug by the current class it is sold for."""

    SMALL = "small plug"
    A30 = "30 A class"
    A60 = "60 A class"
    A90 = "90 A class"


class Arrangement(StrEnum):
    """How the cells stand beside each other."""

    SQUARE = "square rows"
    STAGGERED = "staggered rows"


class Strip(Document):
    """The strip that links one cell end to the next group's, possibly in layers."""

    metal: StripMetal = Field(StripMetal.NICKEL, title="strip metal")
    width_mm: float = Field(8, ge=1, le=60, title="strip width")
    thickness_mm: float = Field(0.2, ge=0.03, le=3, title="strip thickness")
    layers: int = Field(1, ge=1, le=6, title="strip layers")


class Leads(Document):
    """The two wires from the pack to its connector."""

    gauge_awg: int = Field(14, ge=0, le=30, title="lead gauge")
    length_mm: float = Field(160, ge=5, le=2000, title="lead length", description="Of each of the two leads.")
    connector: ConnectorClass = Field(ConnectorClass.A60, title="connector")


class PackRecipe(Document):
    """What is built from the cells."""

    series_count: int = Field(4, ge=1, le=20, title="cells in series")
    parallel_count: int = Field(1, ge=1, le=12, title="cells in parallel")
    arrangement: Arrangement = Field(Arrangement.SQUARE, title="arrangement")
    joint: Joint = Field(Joint.SPOT_WELD, title="joint")
    strip: Strip = Field(default_factory=Strip)
    leads: Leads = Field(default_factory=Leads)

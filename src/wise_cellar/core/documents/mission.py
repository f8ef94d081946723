"""A mission: blocks in the order they are flown, and the rule by which the pilot lands."""

from __future__ import annotations

from enum import StrEnum
from typing import Self

from pydantic import Field, model_validator

from wise_cellar.core.documents.base import Document


class BlockKind(StrEnum):
    """What the craft does during a block."""

    TAKE_OFF = "take-off"
    CRUISE = "cruise"
    HOVER = "hover"
    PUNCH = "punch"
    LANDING = "landing"


class Block(Document):
    """A stretch of flight. ``duration_s`` empty means: until the landing rule."""

    kind: BlockKind = Field(title="kind of block")
    name: str = Field("", title="name of the block")
    duration_s: float | None = Field(None, gt=0, le=86400, title="duration")
    airspeed_m_s: float = Field(0, ge=0, le=60, title="airspeed", description="Through the air.")
    climb_m_s: float = Field(0, ge=0, le=20, title="climb rate")

    @property
    def label(self) -> str:
        """Name, or the kind where no name was given."""
        return self.name or self.kind.value


class Mission(Document):
    """Blocks in order; landing blocks stand at the end and are flown when the landing rule calls."""

    schema_version: int = Field(1, ge=1, le=1, title="schema version")
    id: str = Field(min_length=1, title="identifier")
    name: str = Field(min_length=1, title="name")
    sample: bool = Field(False, title="sample data")
    blocks: tuple[Block, ...] = Field(min_length=1, max_length=200, title="blocks")

    @model_validator(mode="after")
    def _order(self) -> Self:
        flying, endless = True, ""
        for number, block in enumerate(self.blocks, start=1):
            said = f"Block {number} ({block.label}) of mission {self.name}"
            if block.kind is BlockKind.LANDING:
                flying = False
            elif not flying:
                raise ValueError(f"{said} comes after a landing block; landing blocks stand at the end.")
            if flying and endless:
                raise ValueError(f"{said} is never flown, because block {endless} lasts until the landing rule.")
            if block.duration_s is None:
                endless = f"{number} ({block.label})"
            if block.duration_s is None and block.kind not in (BlockKind.CRUISE, BlockKind.HOVER):
                raise ValueError(f"{said} needs a duration; only cruise and hover may last until the landing rule.")
        return self


class LandingPolicy(StrEnum):
    """Ready landing thresholds, in loaded volts a cell at cruise."""

    GENTLE = "gentle"
    BALANCED = "balanced"
    DEEP = "deep"
    OWN = "own"


CYLINDER_THRESHOLDS_V = {LandingPolicy.GENTLE: 3.3, LandingPolicy.BALANCED: 3.0, LandingPolicy.DEEP: 2.7}
POLYMER_THRESHOLDS_V = {LandingPolicy.GENTLE: 3.6, LandingPolicy.BALANCED: 3.5, LandingPolicy.DEEP: 3.4}


class LandingRule(Document):
    """Land when the loaded voltage at cruise stays at or below a threshold for ``hold_s``."""

    policy: LandingPolicy = Field(LandingPolicy.BALANCED, title="landing rule")
    own_voltage_v: float = Field(3.2, ge=2.0, le=4.2, title="own landing voltage")
    hold_s: float = Field(3, ge=0, le=60, title="held for")

    def threshold_v(self, *, polymer: bool) -> float:
        """Loaded volts a cell at which the rule calls, for a polymer or a cylindrical cell."""
        if self.policy is LandingPolicy.OWN:
            return self.own_voltage_v
        return (POLYMER_THRESHOLDS_V if polymer else CYLINDER_THRESHOLDS_V)[self.policy]

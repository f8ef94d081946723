"""A mission: blocks in the order they are flown, and the rule by which the pilot lands."""

from __future__ import annotations

from enum import StrEnum
from typing import Any, Self

from pydantic import Field, model_validator

from wise_cellar.core.documents.base import Document, as_version
from wise_cellar.core.documents.cell_type import LandingClass
from wise_cellar.core.documents.text import Identifier, Name


class BlockKind(StrEnum):
    """What the craft does during a block."""

    TAKE_OFF = "take-off"
    CRUISE = "cruise"
    HOVER = "hover"
    LOITER = "loiter"
    MANUAL = "manual flying"
    PUNCH = "punch"
    DESCENT = "descent"
    PAUSE = "pause"
    THROTTLE = "throttle step"
    LANDING = "landing"


ENDLESS_KINDS = (BlockKind.CRUISE, BlockKind.HOVER, BlockKind.LOITER, BlockKind.MANUAL, BlockKind.THROTTLE)
"""Those that may last until the landing rule calls."""


LONGEST_S = 60 * 86400.0
"""Of a block, and of a mission."""


class Block(Document):
    """A stretch of flight. ``duration_s`` empty means: until the landing rule."""

    kind: BlockKind = Field(title="kind of block")
    name: Name = Field("", title="name of the block")
    duration_s: float | None = Field(None, gt=0, le=LONGEST_S, title="duration")
    airspeed_m_s: float = Field(0, ge=0, le=60, title="airspeed", description="Through the air.")
    ground_speed_m_s: float | None = Field(
        None, ge=0, le=60, title="speed over ground", description="Held along the heading, whatever the wind; in place"
        " of the airspeed.",
    )  # fmt: skip
    heading_deg: float = Field(0, ge=0, le=360, title="heading", description="Towards; 0 is north.")
    out_and_back: bool = Field(False, title="out and back", description="Turns at the end of every leg.")
    leg_s: float = Field(60, ge=5, le=LONGEST_S, title="duration of a leg")
    radius_m: float | None = Field(
        None, ge=2, le=5000, title="circling radius", description="Of a loiter. Empty: so wide that the bank is slight."
    )
    climb_m_s: float = Field(0, ge=0, le=20, title="climb rate")
    sink_m_s: float = Field(2, ge=0, le=10, title="sink rate", description="Of a descent.")
    liveliness: float = Field(
        1.5, ge=1, le=4, title="liveliness",
        description="Mean power over level flight, full throttle aside: gentle 1.1, lively 1.5, hard 2.2.",
    )  # fmt: skip
    full_throttle_s: float = Field(0, ge=0, le=50, title="full throttle a minute",
                                   description="Seconds of every minute.")  # fmt: skip
    throttle_percent: float = Field(50, gt=0, le=100, title="throttle", description="Held on the bench.")
    bench_current_a: float | None = Field(
        None, gt=0, le=5000, title="held current", description="Of the whole pack, in place of a throttle."
    )
    bench_power_w: float | None = Field(
        None, gt=0, le=100000, title="held power", description="At the plug, in place of a throttle."
    )
    climb_throttle_percent: float | None = Field(
        None, gt=0, le=100, title="held throttle",
        description="Of a launch or a steep climb. Empty: what the climb rate asks for.",
    )  # fmt: skip

    @property
    def label(self) -> str:
        """Name, or the kind where no name was given."""
        return self.name or self.kind.value


class Repeat(Document):
    """Blocks that are flown again and again, from ``first`` to ``last``, counted from 1."""

    first: int = Field(1, ge=1, le=200, title="from block")
    last: int = Field(1, ge=1, le=200, title="to block")
    times: int | None = Field(None, ge=1, le=1_000_000, title="times", description="Empty: until the landing rule.")

    @property
    def name(self) -> str:
        """What it is called in a sentence."""
        return f"block {self.first}" if self.first == self.last else f"blocks {self.first} to {self.last}"


class Mission(Document):
    """Blocks in order; landing blocks stand at the end and are flown when the landing rule calls."""

    schema_version: int = Field(3, ge=1, le=3, title="schema version")
    id: Identifier = Field(min_length=1, title="identifier")
    name: Name = Field(min_length=1, title="name")
    sample: bool = Field(False, title="sample data")
    archived: bool = Field(False, title="archived", description="Out of sight, and whole.")
    craft_id: Identifier = Field("", title="flown by", description="The craft it was made for. Empty: any.")
    blocks: tuple[Block, ...] = Field(min_length=1, max_length=200, title="blocks")
    repeats: tuple[Repeat, ...] = Field((), max_length=20, title="repeated groups")

    @model_validator(mode="before")
    @classmethod
    def _from_version_1(cls, data: Any) -> Any:
        """Version 1 knew fewer kinds of blocks and no repeats, version 2 no loiter and no craft."""
        return as_version(data, 3)

    @property
    def has_bursts(self) -> bool:
        """Whether any of its blocks holds bursts."""
        return any(
            block.kind is BlockKind.PUNCH or (block.kind is BlockKind.MANUAL and block.full_throttle_s > 0)
            for block in self.blocks
        )

    @property
    def on_bench(self) -> bool:
        """Whether it never leaves the ground or the bench."""
        return all(block.kind in (BlockKind.PAUSE, BlockKind.THROTTLE) for block in self.blocks)

    @property
    def on_a_load(self) -> bool:
        """Whether it is run on the bench by held amps or watts, with no craft behind it."""
        return self.on_bench and not any(
            block.kind is BlockKind.THROTTLE and block.bench_current_a is None and block.bench_power_w is None
            for block in self.blocks
        )

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
                raise ValueError(f"{said} is never flown, because {endless} lasts until the landing rule.")
            if block.duration_s is None:
                endless = f"block {number} ({block.label})"
                if block.kind not in ENDLESS_KINDS:
                    raise ValueError(
                        f"{said} needs a duration; only cruise, hover, loiter, manual flying and a step on the bench"
                        " may last until the landing rule."
                    )
            if any(repeat.last == number and repeat.times is None for repeat in self.repeats):
                endless = endless or f"the repeat of blocks up to {number}"
        return self

    @model_validator(mode="after")
    def _repeats(self) -> Self:
        before = 0
        for repeat in sorted(self.repeats, key=lambda each: each.first):
            said = f"The repeat of blocks {repeat.first} to {repeat.last} of mission {self.name}"
            if repeat.last < repeat.first:
                raise ValueError(f"{said} ends before it begins.")
            if repeat.last > len(self.blocks):
                raise ValueError(f"{said} names a block that is not there; there are {len(self.blocks)}.")
            if repeat.first <= before:
                raise ValueError(f"{said} overlaps another; repeats stand one after the other.")
            for block in self.blocks[repeat.first - 1 : repeat.last]:
                if block.kind is BlockKind.LANDING or block.duration_s is None:
                    raise ValueError(f"{said} holds {block.label}, which is flown once only; leave it out.")
            before = repeat.last
        return self


def with_block_added(mission: Mission, place: int, block: Block) -> Mission:
    """The mission with a block put before the one at ``place``; repeats go on naming the blocks they named."""
    blocks = [*mission.blocks[:place], block, *mission.blocks[place:]]

    def moved(number: int) -> int:
        return number + (number > place)

    return _rebuilt(mission, blocks, [(moved(r.first), moved(r.last), r.times) for r in mission.repeats])


def with_block_removed(mission: Mission, place: int) -> Mission:
    """The mission without the block at ``place``; a repeat of that block alone goes with it."""
    blocks = [*mission.blocks[:place], *mission.blocks[place + 1 :]]
    kept = [
        (r.first - (r.first > place + 1), r.last - (r.last > place), r.times)
        for r in mission.repeats
        if not r.first == r.last == place + 1
    ]
    return _rebuilt(mission, blocks, kept)


def _rebuilt(mission: Mission, blocks: list[Block], repeats: list[tuple[int, int, int | None]]) -> Mission:
    return Mission.from_data(
        mission.model_dump()
        | {
            "blocks": [block.model_dump() for block in blocks],
            "repeats": [{"first": first, "last": last, "times": times} for first, last, times in repeats],
        }
    )


class LandingPolicy(StrEnum):
    """Ready landing rules: each calls at its loaded volts a cell at cruise or at its reserve, whichever comes first."""

    GENTLE = "gentle"
    BALANCED = "balanced"
    DEEP = "deep"
    OWN = "own"


_READY = (LandingPolicy.GENTLE, LandingPolicy.BALANCED, LandingPolicy.DEEP)
THRESHOLDS_V = {
    LandingClass.CYLINDER: dict(zip(_READY, (3.3, 3.0, 2.7), strict=True)),
    LandingClass.POLYMER: dict(zip(_READY, (3.7, 3.6, 3.5), strict=True)),
    LandingClass.IRON_PHOSPHATE: dict(zip(_READY, (3.0, 2.8, 2.5), strict=True)),
}
"""Loaded volts a cell at cruise: estimates of the craft."""
RESERVES = dict(zip(_READY, (0.25, 0.15, 0.08), strict=True))
"""Of all charge that the packs hold when full: easy loads reach no threshold before they are empty."""


class LandingBasis(StrEnum):
    """What the pilot, or the craft, goes by."""

    LOADED = "volts under load"
    BURSTS = "volts in bursts"
    RESTING = "volts at rest"
    CHARGE = "charge used"
    COUNTER = "the craft's own counter"


class CounterSees(StrEnum):
    """Which charge the craft's own counter holds against the capacity it goes by."""

    OWN = "what its own battery gives"
    ALL = "all charge, as if its own battery gave it"


class LandingRule(Document):
    """When to land: by default when the loaded voltage at cruise stays at or below a threshold for ``hold_s``."""

    basis: LandingBasis = Field(LandingBasis.LOADED, title="land by")
    policy: LandingPolicy = Field(LandingPolicy.BALANCED, title="landing rule")
    own_voltage_v: float = Field(3.2, ge=2.0, le=4.2, title="own landing voltage")
    hold_s: float = Field(3, ge=0, le=60, title="held for")
    burst_voltage_v: float = Field(
        2.9, ge=1.5, le=4.2, title="volts in a burst", description="A cell's, as seen for a moment at full throttle."
    )
    resting_voltage_v: float = Field(
        3.5, ge=2.5, le=4.2, title="resting voltage", description="A cell's, as it would come to rest after landing."
    )
    charge_percent: float = Field(80, gt=5, le=100, title="charge to use", description="Of the label's capacity.")
    least_margin: float = Field(
        1.5,
        ge=1,
        le=5,
        title="thrust margin wanted",
        description="Full-throttle thrust over weight, or over the drag of a wing, to the end.",
    )
    strict_minimum: bool = Field(
        False, title="minimum holds in bursts",
        description="At the cells' minimum. Off: a dip in a burst is counted and told, and flown through.",
    )  # fmt: skip
    counter_mah: float | None = Field(
        None, gt=50, le=500000, title="capacity of the counter",
        description="What the craft believes to carry. Empty: the label of its own battery, or of the pack.",
    )  # fmt: skip
    counter_sees: CounterSees = Field(
        CounterSees.OWN, title="the counter sees", description="Where an auxiliary stands beside its own battery."
    )

    @property
    def counts_own_only(self) -> bool:
        """Whether it goes by the charge of the craft's own battery, where it has one beside other packs."""
        return self.basis is LandingBasis.COUNTER and self.counter_sees is CounterSees.OWN

    def charge_mah(self, believed_mah: Any, whole_mah: Any) -> Any:
        """Charge taken from what it counts at which it calls, mAh: of the label of all packs, or of what the counter
        believes to carry, ``believed_mah`` where it is not told. Numbers or arrays of them; none where it goes by
        volts."""
        if self.basis is LandingBasis.CHARGE:
            return whole_mah * self.charge_percent / 100
        if self.basis is LandingBasis.COUNTER:
            return (self.counter_mah or believed_mah) * self.charge_percent / 100
        return None

    def threshold_v(self, kind: LandingClass) -> float:
        """Loaded volts a cell at which the rule calls, for cells of a class."""
        return self.own_voltage_v if self.policy is LandingPolicy.OWN else THRESHOLDS_V[kind][self.policy]

    @property
    def reserve(self) -> float | None:
        """State of charge at which a ready policy calls besides; none of other rules."""
        return RESERVES.get(self.policy) if self.basis is LandingBasis.LOADED else None

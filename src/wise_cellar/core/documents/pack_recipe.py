"""How cells become a pack: series and parallel, placement, strips, joints, leads, connector, and what holds it."""

from __future__ import annotations

from enum import StrEnum
from typing import Any, Self

from pydantic import Field, model_validator

from wise_cellar.core.documents.base import Document

MOST_SERIES, MOST_PARALLEL = 20, 40
MOST_STEPS = 2 * MOST_SERIES * MOST_PARALLEL
"""Of half a pitch: all cells in one row."""


class StripMetal(StrEnum):
    """Metal of the strips between cells."""

    NICKEL = "nickel"
    PLATED_STEEL = "nickel-plated steel"
    COPPER = "copper"


class Underlay(StrEnum):
    """Copper that lies along a strip and takes most of its current."""

    NONE = "nothing"
    STRIP = "copper strip"
    BRAID = "copper braid"


class Joint(StrEnum):
    """How a strip meets a cell."""

    SPOT_WELD = "spot-welded"
    SOLDERED = "soldered"
    SPRING_HOLDER = "held by springs"


class Welder(StrEnum):
    """What a spot welder holds to a can."""

    SMALL = "small: nickel to 0.2 mm"
    STRONG = "strong: thick nickel, copper"


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
    STICKS = "end-to-end sticks"
    OWN = "own placement"


class LeadExit(StrEnum):
    """Where the two leads meet the end groups."""

    MIDDLE = "the middle"
    SAME_END = "the same end"
    OPPOSITE_CORNERS = "opposite corners"


class Strip(Document):
    """The strip that links one cell end to the next group's, possibly in layers, possibly with copper under it."""

    metal: StripMetal = Field(StripMetal.NICKEL, title="strip metal")
    width_mm: float = Field(8, ge=1, le=60, title="strip width")
    thickness_mm: float = Field(0.2, ge=0.03, le=3, title="strip thickness")
    layers: int = Field(1, ge=1, le=6, title="strip layers")
    underlay: Underlay = Field(Underlay.NONE, title="copper under the strip")
    underlay_width_mm: float = Field(6, ge=1, le=60, title="width of the copper")
    underlay_thickness_mm: float = Field(
        0.2, ge=0.03, le=5, title="thickness of the copper", description="Of a braid: pressed flat; about half is air."
    )
    piece_mm: float | None = Field(
        None, ge=5, le=5000, title="longest piece", description="Of the strip at hand. Empty: cut from a roll."
    )


class NodeLayers(Document):
    """More layers of strip on one link only."""

    node: int = Field(ge=0, le=20, title="link", description="Counted from 0, the negative end.")
    layers: int = Field(ge=1, le=6, title="strip layers there")


class Leads(Document):
    """The two wires from the pack to its connector, and what stands between that and the craft."""

    gauge_awg: int = Field(14, ge=0, le=30, title="lead gauge")
    length_mm: float = Field(160, ge=5, le=2000, title="lead length", description="Of each of the two leads.")
    connector: ConnectorClass = Field(ConnectorClass.A60, title="connector")
    fuse_a: float | None = Field(None, gt=0, le=500, title="fuse", description="Rated amps, in the positive lead at the"
                                 " pack. Empty: none.")  # fmt: skip
    wear: float = Field(1, ge=1, le=3, title="worn poles",
                        description="Their resistance over that of new ones: 1 new, 3 worn out.")  # fmt: skip
    exit: LeadExit = Field(LeadExit.MIDDLE, title="leads leave at")
    adaptors: int = Field(
        0, ge=0, le=4, title="adaptors in line", description="Parallel adaptors, extensions: one more plug each."
    )


class BalanceLead(Document):
    """The thin wires from every node to the charger's plug."""

    fitted: bool = Field(True, title="balance lead")
    gauge_awg: int = Field(24, ge=18, le=32, title="balance wire gauge")
    length_mm: float = Field(120, ge=20, le=1000, title="balance wire length", description="Outside the pack.")


class Spacer(StrEnum):
    """What keeps cells apart besides the joint."""

    NONE = "none, glued"
    FRAME = "plastic frames, both ends"


class Fittings(Document):
    """What insulates and holds the pack, and what nobody counted."""

    end_sheet_mm: float = Field(0.4, ge=0, le=5, title="end insulation", description="Sheet over each face.")
    spacer: Spacer = Field(Spacer.NONE, title="spacers")
    shrink_mm: float = Field(0.15, ge=0, le=2, title="heat-shrink wall", description="0: no sleeve.")
    straps: int = Field(0, ge=0, le=6, title="straps")
    mount_g: float = Field(0, ge=0, le=5000, title="tray or mount")
    other_g: float = Field(
        0, ge=-50000, le=50000, title="other grams", description="Glue, solder, what the scale found."
    )
    shift_mm: float = Field(0, ge=-1000, le=1000, title="pack moved ahead", description="From the middle of the bay.")


class OwnPlace(Document):
    """One cell on the grid of half a pitch: steps from the corner, its group, and which end is up."""

    x: int = Field(ge=0, le=MOST_STEPS, title="steps along")
    y: int = Field(ge=0, le=MOST_STEPS, title="steps across")
    group: int = Field(ge=0, le=19, title="group", description="Counted from 0, the negative end.")
    positive_up: bool = Field(title="positive end up")


class PackRecipe(Document):
    """What is built from the cells, all of one type."""

    series_count: int = Field(4, ge=1, le=MOST_SERIES, title="cells in series")
    parallel_count: int = Field(1, ge=1, le=MOST_PARALLEL, title="cells in parallel")
    arrangement: Arrangement = Field(Arrangement.SQUARE, title="arrangement")
    tiers: int = Field(1, ge=1, le=2, title="layers of cells")
    bands: int | None = Field(
        None, ge=1, le=MOST_PARALLEL, title="rows of groups",
        description="How often the line of groups folds back; of sticks, how many stand beside each other for one cell"
        " in parallel. Empty: what fits the bay best.",
    )  # fmt: skip
    own_places: tuple[OwnPlace, ...] = Field((), max_length=MOST_SERIES * MOST_PARALLEL, title="own placement")
    joint: Joint = Field(Joint.SPOT_WELD, title="joint")
    welder: Welder = Field(Welder.SMALL, title="spot welder")
    welds: int = Field(4, ge=1, le=16, title="welds at each end", description="Spots a strip has on each cell end.")
    joint_mohm: float | None = Field(
        None, gt=0, le=200, title="joint resistance", description="As measured. Empty: by the joint and its welds."
    )
    joint_limit_a: float | None = Field(
        None, gt=0, le=1000, title="joint limit",
        description="Amps through one end of a cell, for good. Empty: 8 A a weld spot; 4 A a spring, twice that for"
        " 3 s.",
    )  # fmt: skip
    strip: Strip = Field(default_factory=Strip)
    more_layers: tuple[NodeLayers, ...] = Field((), max_length=40, title="links with layers of their own")
    leads: Leads = Field(default_factory=Leads)
    balance: BalanceLead = Field(default_factory=BalanceLead)
    fittings: Fittings = Field(default_factory=Fittings)
    weighed_g: float | None = Field(None, gt=0, le=50000, title="weighed pack", description="The finished pack.")

    @model_validator(mode="before")
    @classmethod
    def _of_one_type(cls, data: Any) -> Any:
        if isinstance(data, dict) and {"cell_type_id", "cell_type_ids", "cell_types"} & set(data):
            raise ValueError(
                "A pack is built of one cell type, named by the design: cells of different types in one pack share"
                " neither current nor charge evenly."
            )
        return data

    @model_validator(mode="after")
    def _own_places_apart(self) -> Self:
        taken: dict[tuple[int, int], int] = {}
        for number, place in enumerate(self.own_places, 1):
            around = ((place.x + dx, place.y + dy) for dx in (-1, 0, 1) for dy in (-1, 0, 1))
            other = next((taken[spot] for spot in around if spot in taken), None)
            if other is not None:
                raise ValueError(
                    f"Cells {other} and {number} would stand in each other; two cells need two steps (one pitch)"
                    " between their centres."
                )
            taken[place.x, place.y] = number
        return self

    def layers_at(self, node: int) -> int:
        """Layers of strip on link ``node``, counted from 0 at the negative end."""
        return next((more.layers for more in self.more_layers if more.node == node), self.strip.layers)

    @property
    def as_built(self) -> PackRecipe:
        """The recipe without what may be entered of a finished pack without its being another one."""
        fittings = self.fittings.changed(other_g=0.0, shift_mm=0.0)
        return self.changed(fittings=fittings, weighed_g=None, joint_mohm=None)

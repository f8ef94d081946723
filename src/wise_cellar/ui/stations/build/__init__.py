"""The Build station: from a tray of numbered cells to the pack that was designed."""

from wise_cellar.ui.stations.doorway import Doorway, Page
from wise_cellar.ui.stations.walk import WalkStep

DOORWAY = Doorway(
    title="Build",
    prefixes=("design.packs.0.state.groups",),
    search_words="make pack cells bench",
    pages=(
        Page("Tray", "numbered cells sort test reject dent old new self-discharge"),
        Page("Match", "groups balance capacity pair sort pack"),
        Page("Steps", "weld solder insulate order instructions make half built"),
        Page("Materials", "cut list buy parts strip wire shopping bill price"),
        Page("Taps", "balance lead wires pins plug meter order diagnosis wrong"),
        Page("Packs", "finished built repair group behind weigh resistance age retire label"),
    ),
    walk=(
        WalkStep(
            "Build the pack of the cells in the tray: fly it with its groups as they were matched.",
            lambda began, now: began.complete.pack.state != now.complete.pack.state,
            "Match",
        ),
        WalkStep(
            "Look at the pack that is half built: what its next step is, and the volts to expect.",
            lambda _began, now: "Steps" in now.pages,
            "Steps",
        ),
        WalkStep(
            "Fly Whimbrel 1, which is a year old, and see in the answers what it has lost.",
            lambda _began, now: now.complete.pack.of.flies is not None,
            "Packs",
        ),
    ),
    takes_in=lambda build, paths: build.take_in(paths),
    module="wise_cellar.ui.stations.build.station",
    name="BuildStation",
)

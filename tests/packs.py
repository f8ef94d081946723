"""Recipes whose circuits a circuit simulator has solved (``script/make-network-references``)."""

from __future__ import annotations

from wise_cellar.core.documents import Arrangement, Joint, LeadExit, Leads, NodeLayers, OwnPlace, PackRecipe, Strip

REFERENCE_PACKS = {
    "4S 3P": PackRecipe(series_count=4, parallel_count=3),
    "6S 2P staggered, corners": PackRecipe(
        series_count=6, parallel_count=2, arrangement=Arrangement.STAGGERED,
        leads=Leads(exit=LeadExit.OPPOSITE_CORNERS),
    ),
    "12S 4P folded, one link doubled": PackRecipe(
        series_count=12, parallel_count=4, bands=3, more_layers=(NodeLayers(node=4, layers=3),)
    ),
    "2S 12P, same end, thin": PackRecipe(
        series_count=2, parallel_count=12, strip=Strip(thickness_mm=0.1), leads=Leads(exit=LeadExit.SAME_END)
    ),
    "3S 4P sticks, soldered": PackRecipe(
        series_count=3, parallel_count=4, arrangement=Arrangement.STICKS, joint=Joint.SOLDERED
    ),
    "2S 2P by hand, one cell apart": PackRecipe(
        series_count=2, parallel_count=2, arrangement=Arrangement.OWN,
        own_places=tuple(
            OwnPlace(x=x, y=y, group=group, positive_up=bool(group))
            for x, y, group in ((0, 0, 0), (0, 2, 0), (2, 0, 1), (5, 5, 1))
        ),
    ),
}  # fmt: skip

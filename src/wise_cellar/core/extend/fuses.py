"""A fuse for every auxiliary, sized so that its flight does not open it and a short circuit does."""

from __future__ import annotations

from wise_cellar.core.answer import Answer
from wise_cellar.core.pack.rating import fuse_for
from wise_cellar.core.units import TOLD, format_amps
from wise_cellar.core.words import lower_first, upper_first

OPENS_AT = 6.0
"""Times its rating at which a blade fuse opens in a tenth of a second or less: ISO 8820-3 at six times."""


def fuse_sentences(answer: Answer) -> list[str]:
    """What to put at the positive end of each auxiliary, or what is there.

    The smallest rating whose link stays under nine tenths of its limit along this flight (`pack/rating.py`); whether
    the pack's short circuit opens it at once by its internal resistance and wiring. Not modelled: the make of a fuse.
    """
    found = []
    for pack in answer.packs:
        if pack.complete.own or pack.complete.alone:
            continue
        name, there = lower_first(pack.complete.name), pack.complete.recipe.leads.fuse_a
        wanted, short = fuse_for(pack.currents.carried), pack.build.short_circuit_a
        if there is not None:
            chosen = f"{upper_first(name)} has a fuse of {format_amps(there, TOLD)}"
            if wanted is not None and there > wanted:
                chosen += f"; {format_amps(wanted, TOLD)} are enough for this flight"
        elif wanted is None:
            found.append(f"No fuse is large enough for what the {name} gives; part it, or share the load.")
            continue
        else:
            chosen = (
                f"Give the {name} a fuse of its own at its positive end: {format_amps(wanted, TOLD)} for this flight"
            )
        rated = there or wanted or 0.0
        opens = "at once" if short >= OPENS_AT * rated else "only after a while"
        found.append(f"{chosen}. A short circuit of {format_amps(short, 0)} opens it {opens}.")
    return found

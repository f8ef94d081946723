"""What a pack does to the craft's balance point."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from wise_cellar.core.documents import Balance, CompleteDesign, Craft
from wise_cellar.core.pack.ledger import PackBuild, build_pack
from wise_cellar.core.pack.room import stow


@dataclass(frozen=True)
class BalancePoint:
    """The craft's balance point, millimetres ahead of the middle of the rotors, and what would bring it back."""

    before_mm: float
    after_mm: float
    ballast_g: float
    """To add where ballast sits; negative: may be taken away. NaN where ballast there cannot mend it."""
    within: bool

    @property
    def shift_mm(self) -> float:
        """What the pack does to it."""
        return self.after_mm - self.before_mm


def balance_point(balance: Balance, dry_g: float, packs: Sequence[tuple[float, float]]) -> BalancePoint:
    """Balance point with packs, each its grams and how far its centre of mass lies ahead of the middle of the bay, mm.

    x = Σ m·x/Σ m; ballast m_b at x_b brings it back where m_b·(x_b − x_wanted) = −Σ m·(x − x_wanted).
    Source: statics. Not modelled: height.
    """
    total = dry_g + sum(grams for grams, _ in packs)
    moment = dry_g * balance.dry_mm + sum(grams * (balance.bay_mm + ahead) for grams, ahead in packs)
    after = moment / total
    off, arm = after - balance.wanted_mm, balance.ballast_at_mm - balance.wanted_mm
    ballast = -total * off / arm if arm else float("nan")
    return BalancePoint(balance.dry_mm, after, ballast, abs(off) <= balance.tolerance_mm)


def balance_of(complete: CompleteDesign, build: PackBuild) -> BalancePoint | None:
    """The craft's balance point with ``build`` as its first pack; none where the craft tells no balance.

    Its own battery, or the only pack, lies in the bay as far as it goes in. Other packs, and one that does not go in,
    sit where their recipes move them from the middle of the bay. What was taken off is taken to have been at the
    craft's own balance point. Source: moments of point masses, x = Σ(m·x)/Σm. Not modelled: height.
    """
    craft, others = complete.craft, complete.packs[1:]
    if craft.balance is None:
        return None
    builds = [build, *(build_pack(pack.recipe, pack.cell) for pack in others)]
    inside = next((pack.place for pack in others if pack.own), 0)
    found = [(its.mass_g, _ahead_mm(craft, its, in_bay=place == inside)) for place, its in enumerate(builds)]
    return balance_point(craft.balance, complete.dry_mass_g, found)


def _ahead_mm(craft: Craft, build: PackBuild, *, in_bay: bool) -> float:
    """Where a pack's centre of mass lies ahead of the middle of the bay."""
    shift = build.recipe.fittings.shift_mm
    stowed = stow(build.layout, craft.bay, shift) if in_bay and craft.bay is not None else None
    ahead = stowed.centre_mm(craft.bay) if stowed is not None and craft.bay is not None else shift
    return ahead + (*build.layout.middle_mm, 0.0)[stowed.ahead[0] if stowed is not None else 0]

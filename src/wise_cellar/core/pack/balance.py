"""What a pack does to the craft's balance point."""

from __future__ import annotations

from dataclasses import dataclass

from wise_cellar.core.documents import Balance, Craft, PackRecipe
from wise_cellar.core.pack.ledger import PackBuild
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


def balance_point(craft: Craft, balance: Balance, pack_g: float, pack_ahead_mm: float) -> BalancePoint:
    """Balance point with a pack whose centre of mass lies ``pack_ahead_mm`` ahead of the middle of the bay."""
    dry = craft.dry_mass_g
    total = dry + pack_g
    after = (dry * balance.dry_mm + pack_g * (balance.bay_mm + pack_ahead_mm)) / total
    off, arm = after - balance.wanted_mm, balance.ballast_at_mm - balance.wanted_mm
    ballast = -total * off / arm if arm else float("nan")
    return BalancePoint(balance.dry_mm, after, ballast, abs(off) <= balance.tolerance_mm)


def balance_of(craft: Craft, recipe: PackRecipe, build: PackBuild) -> BalancePoint | None:
    """The craft's balance point with a pack as it lies in the bay; none where the craft tells no balance.

    A pack that does not go into the bay, or has none to go into, is taken to sit where the recipe moves it.
    """
    if craft.balance is None:
        return None
    stowed = stow(build.layout, craft.bay, recipe.fittings.shift_mm) if craft.bay is not None else None
    ahead = recipe.fittings.shift_mm
    if stowed is not None and craft.bay is not None:
        ahead = stowed.centre_mm(craft.bay)
    along = (*build.layout.middle_mm, 0.0)[stowed.ahead[0] if stowed is not None else 0]
    return balance_point(craft, craft.balance, build.mass_g, ahead + along)

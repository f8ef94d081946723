"""What spreads the answer, the strongest first, and the measurement that would shrink it most."""

from __future__ import annotations

from collections.abc import Sequence

from wise_cellar.core.answer import Driver, Spread
from wise_cellar.core.units import format_minutes, format_number
from wise_cellar.core.words import upper_first
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.ledger import Ledger, LedgerRow
from wise_cellar.ui.widgets.panel import note, sheet

TOLD_SHARE = 0.1
"""Of the strongest doubt: what is weaker is not explained."""
COLUMNS = (("known to", 76.0), ("minutes", 78.0))


class RangePanel:
    """A ledger of doubts and a sentence; ``widget`` goes into a column."""

    def __init__(self) -> None:
        self.widget, inside = sheet(spacing=8)
        self.ledger = Ledger("How far to trust the answer", COLUMNS)
        inside.addWidget(self.ledger)
        self.words = note(role="")
        self.words.setFont(font(13))
        inside.addWidget(self.words)
        self.reasons = note()
        inside.addWidget(self.reasons)
        inside.addWidget(
            note(
                "Eight of ten flights fall into the shaded bands. Not in them: wear that nobody told, a pack built"
                " otherwise, ground effect."
            )
        )

    def show_spread(self, spread: Spread | None, left_open: Sequence[str] = ()) -> None:
        """Show the doubts, or that they are being flown; ``left_open`` is what the cell's fit does not tell."""
        if spread is None:
            self.words.setText("Flying 200 flights…")
            return
        most = max((driver.effect_s for driver in spread.drivers), default=1.0)
        low, high = (seconds / 60 for seconds in spread.duration_s)
        self.ledger.show_rows(
            f"{format_number(low, 1)} … {format_number(high, 1)} min", [_row(driver, most) for driver in spread.drivers]
        )
        told = [one for one in spread.drivers if one.effect_s >= TOLD_SHARE * most]
        reasons = [f"{upper_first(one.name)}, {one.doubt}: {one.because}." for one in told]
        self.reasons.setText("\n".join([*reasons, *left_open]))
        self.words.setText("")


def _row(driver: Driver, most: float) -> LedgerRow:
    effect = f"± {format_minutes(driver.effect_s)}"
    return LedgerRow(
        upper_first(driver.name),
        driver.effect_s / max(most, 1e-9),
        (driver.doubt, effect),
        driver.field,
    )

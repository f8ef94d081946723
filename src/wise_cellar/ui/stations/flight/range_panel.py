"""What spreads the answer, the strongest first, and the measurement that would shrink it most."""

from __future__ import annotations

from wise_cellar.core.answer import Driver, Spread
from wise_cellar.core.units import format_minutes
from wise_cellar.core.words import upper_first
from wise_cellar.ui.theme import font
from wise_cellar.ui.widgets.ledger import Ledger, LedgerRow
from wise_cellar.ui.widgets.panel import note, sheet

COLUMNS = (("known to", 76.0), ("minutes", 78.0))


class RangePanel:
    """A ledger of doubts and a sentence; ``widget`` goes into a column."""

    def __init__(self) -> None:
        self.widget, inside = sheet(spacing=8)
        self.ledger = Ledger("What spreads the minutes", COLUMNS)
        inside.addWidget(self.ledger)
        self.words = note(role="")
        self.words.setFont(font(13))
        inside.addWidget(self.words)
        inside.addWidget(note("Eight of ten flights fall into the shaded bands. Not in them: how it is flown."))

    def show_spread(self, spread: Spread | None) -> None:
        """Show the doubts, or that they are being flown."""
        if spread is None:
            self.words.setText("Flying 200 flights…")
            return
        most = max((driver.effect_s for driver in spread.drivers), default=1.0)
        low, high = (seconds / 60 for seconds in spread.duration_s)
        self.ledger.show_rows(f"{low:.1f} … {high:.1f} min", [_row(driver, most) for driver in spread.drivers])
        best = spread.best_measurement
        self.words.setText(
            "No measurement would shrink it by a second."
            if best is None
            else f"To shrink it most, {best.measure}: ±\u00a0{format_minutes(best.effect_s)} of {best.name} would"
            f" become ±\u00a0{format_minutes(best.measured_s)}."
        )


def _row(driver: Driver, most: float) -> LedgerRow:
    effect = f"± {format_minutes(driver.effect_s)}"
    return LedgerRow(
        upper_first(driver.name),
        driver.effect_s / max(most, 1e-9),
        (driver.doubt, effect),
        driver.field,
    )

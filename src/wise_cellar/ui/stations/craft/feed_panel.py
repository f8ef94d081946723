"""How a load is fed: directly or through a converter, and what it draws at switch-on."""

from __future__ import annotations

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from wise_cellar.core.documents import Converter
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.field_grids import SwappedFields
from wise_cellar.ui.widgets.fields import Field, QuantityField, field_for
from wise_cellar.ui.widgets.panel import note

_FIELDS = ("converter", "converter_efficiency", "converter_min_v", "startup_w")


class FeedPanel(QWidget):
    """The fields of one load, chosen by its name."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 6, 0, 0)
        column.addWidget(note("How a load is fed, and what it draws at switch-on:"))
        self.which = Chooser()
        self.which.setAccessibleName("Load whose feed is shown")
        self.which.activated.connect(lambda _: self.refresh())
        column.addWidget(self.which)
        self._fields = SwappedFields()
        column.addWidget(self._fields)

    def refresh(self) -> None:
        """Show the loads, and the fields of the chosen one."""
        loads = self._session.complete.craft.loads
        names = [load.name for load in loads]
        if [self.which.itemText(i) for i in range(self.which.count())] != names:
            chosen = max(min(self.which.currentIndex(), len(names) - 1), 0)
            self.which.clear()
            self.which.addItems(names)
            self.which.setCurrentIndex(chosen)
        self.setVisible(bool(names))
        place = self.which.currentIndex() if names else None
        self._fields.show_for(place, lambda: [self._field(f"craft.loads.{place}.{name}") for name in _FIELDS])
        if place is not None:
            for field in self._fields.fields[1:3]:
                field.setVisible(loads[place].converter is not Converter.NONE)

    def _field(self, path: str) -> Field:
        if path.endswith("converter_min_v"):
            return QuantityField(self._session, path, default=lambda: "usual")
        return field_for(self._session, path)

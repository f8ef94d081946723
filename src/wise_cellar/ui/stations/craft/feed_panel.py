"""How a load is fed: directly or through a converter, and what it draws at switch-on."""

from __future__ import annotations

from PyQt6.QtWidgets import QVBoxLayout, QWidget

from wise_cellar.core.documents import Converter
from wise_cellar.ui.session import Session
from wise_cellar.ui.widgets.fields import Chooser, Field, FieldGrid, QuantityField, field_for
from wise_cellar.ui.widgets.panel import note

_FIELDS = ("converter", "converter_efficiency", "converter_min_v", "startup_w")


class FeedPanel(QWidget):
    """The fields of one load, chosen by its name."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._column = QVBoxLayout(self)
        self._column.setContentsMargins(0, 6, 0, 0)
        self._column.addWidget(note("How a load is fed, and what it draws at switch-on:"))
        self.which = Chooser()
        self.which.setAccessibleName("Load whose feed is shown")
        self.which.activated.connect(lambda _: self.refresh())
        self._column.addWidget(self.which)
        self._grid: FieldGrid | None = None
        self._shown = -1

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
        place = self.which.currentIndex()
        if place != self._shown and self._grid is not None:
            self._grid.setParent(None)
            self._grid.deleteLater()
            self._grid = None
        self._shown = place
        if place < 0:
            return
        if self._grid is None:
            self._grid = FieldGrid([self._field(f"craft.loads.{place}.{name}") for name in _FIELDS])
            self._column.addWidget(self._grid)
        self._grid.refresh()
        direct = loads[place].converter is Converter.NONE
        for field in self._grid.fields[1:3]:
            field.setVisible(not direct)

    def _field(self, path: str) -> Field:
        if path.endswith("converter_min_v"):
            return QuantityField(self._session, path, default=lambda: "usual")
        return field_for(self._session, path)

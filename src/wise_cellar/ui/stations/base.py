"""What every station is to the window."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QWidget

from wise_cellar.ui.session import Session
from wise_cellar.ui.widgets.fields import Field
from wise_cellar.ui.widgets.panel import reveal


class Station(QWidget):
    """A station: shows the present design, and puts the focus on a field when asked.

    ``prefixes`` are the field paths it governs, by which findings and answers find it.
    """

    title = ""
    prefixes: tuple[str, ...] = ()
    field_requested = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("ground")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)

    def refresh(self) -> None:
        """Show the present design and answer."""
        raise NotImplementedError

    def fields(self) -> list[Field]:
        """The fields on this station, for Find and for :meth:`focus_field`."""
        return self.findChildren(Field)

    def focus_field(self, path: str) -> bool:
        """Focus the field at ``path``, or the first below it; ``False`` when the station has none."""
        for field in self.fields():
            if field.path == path or field.path.startswith(path + "."):
                field.entry.setFocus(Qt.FocusReason.ShortcutFocusReason)
                reveal(field)
                return True
        return False

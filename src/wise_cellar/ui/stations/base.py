"""What every station is to the window."""

from __future__ import annotations

from collections.abc import Iterator

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QLabel, QVBoxLayout, QWidget

from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.doorway import Doorway
from wise_cellar.ui.theme import BAR_PX, font
from wise_cellar.ui.widgets.fields import FIELDS, Field
from wise_cellar.ui.widgets.labels import Label
from wise_cellar.ui.widgets.panel import PanelColumn, reveal, scrolling_column, sheet
from wise_cellar.ui.widgets.segments import SEGMENTS
from wise_cellar.ui.widgets.turning import PictureAndColumn

MARGINS = (12, 12, 12 - BAR_PX, 12)
"""At the right the room of the column's scroll bar comes to it."""


class Station(QWidget):
    """A station: shows the present design, and puts the focus on a field when asked."""

    doorway: Doorway
    field_requested = pyqtSignal(str)
    handbook_requested = pyqtSignal(str)
    """A page of the handbook."""
    page_requested = pyqtSignal(str, str)
    """A page of another station, by both names."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self.session = session
        self.setObjectName("ground")
        self.setAttribute(Qt.WidgetAttribute.WA_StyledBackground)

    @property
    def title(self) -> str:
        """Its name on the rail."""
        return self.doorway.title

    def lay_out(self, side_width: int) -> tuple[QVBoxLayout, QLabel, PanelColumn]:
        """The column of the main picture with its headline, and the scrolling column beside it."""
        picture, column = sheet()
        headline = Label()
        headline.setFont(font(15, strong=True))
        headline.setWordWrap(True)
        column.addWidget(headline)
        area, side = scrolling_column(side_width)
        whole = QVBoxLayout(self)
        whole.setContentsMargins(0, 0, 0, 0)
        whole.addWidget(PictureAndColumn(picture, area, MARGINS))
        return column, headline, side

    def refresh(self) -> None:
        """Show the present design and answer."""
        raise NotImplementedError

    @property
    def settled(self) -> bool:
        """Whether nothing is computed beside the window."""
        return True

    def pages_ahead(self) -> Iterator[object]:
        """Make the pages that are else made when they are first looked at, one a step; most stations have none."""
        return iter(())

    def close_work(self) -> None:
        """Stop what runs beside the window; most stations run nothing."""

    def leave_workspace(self) -> None:
        """Another is about to be shown: choose nothing of the present one, and stop what would be written into it."""

    def fields(self) -> list[Field]:
        """The fields on this station, for Find and for :meth:`focus_field`."""
        return FIELDS.within(self)

    def show_page(self, name: str) -> bool:
        """Bring the page of a name into view; ``False`` where there is none."""
        for segments in SEGMENTS.within(self):
            if name in segments.words:
                segments.choose(segments.words.index(name))
                return True
        return False

    def focus_field(self, path: str) -> bool:
        """Focus the field at ``path``, or the first below it; ``False`` when the station has none."""
        for field in self.fields():
            if field.path == path or field.path.startswith(path + "."):
                field.entry.setFocus(Qt.FocusReason.ShortcutFocusReason)
                reveal(field)
                return True
        return False

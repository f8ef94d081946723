"""The colour sets: warm stone, ink and verdigris, by day and by lamp, and one of high contrast."""

from __future__ import annotations

from dataclasses import dataclass, field

from PyQt6.QtGui import QColor, QPalette
from PyQt6.QtWidgets import QWidget

SHEET_ROLES = {
    "ground": "window", "sheet": "base", "ink": "window-text", "faint": "shadow", "rule": "mid",
    "verdigris": "highlight", "on_accent": "highlighted-text", "ochre": "link-visited", "brick": "bright-text",
    "chosen": "light",
}  # fmt: skip
"""What the style sheet calls our colours: roles of the palette that :meth:`Colours.qt_palette` makes."""


@dataclass(frozen=True)
class Colours:
    """One colour set; every value is ``#rrggbb``."""

    name: str
    ground: str
    sheet: str
    ink: str
    faint: str
    rule: str
    verdigris: str
    ochre: str
    brick: str
    on_accent: str
    """Text on verdigris."""
    chosen: str
    """Behind a row that is chosen, whose words are of ink."""
    series: tuple[str, ...]
    """Six colours told apart by colour-blind eyes (after Okabe & Ito), used with dash patterns."""
    _made: dict[str, QColor] = field(default_factory=dict, init=False, compare=False, repr=False)

    def colour(self, role: str) -> QColor:
        """Colour of a role by its name: always the same one, not to be changed; see :meth:`shade`."""
        if role not in self._made:
            self._made[role] = QColor(getattr(self, role))
        return self._made[role]

    def shade(self, role: str, alpha: float) -> QColor:
        """It, as if thinned: from 0, which is not seen, to 1."""
        shade = QColor(getattr(self, role))
        shade.setAlphaF(alpha)
        return shade

    def qt_palette(self) -> QPalette:
        """The set as Qt's own widgets know it."""
        palette = QPalette()
        role = QPalette.ColorRole
        for roles, colour in (
            ((role.Window, role.Button, role.AlternateBase), self.ground),
            ((role.Base, role.ToolTipBase), self.sheet),
            ((role.WindowText, role.Text, role.ButtonText, role.ToolTipText), self.ink),
            ((role.PlaceholderText,), self.faint),
            ((role.Highlight, role.Accent, role.Link), self.verdigris),
            ((role.HighlightedText,), self.on_accent),
            ((role.Mid, role.Midlight, role.Dark), self.rule),
            ((role.Shadow,), self.faint),
            ((role.Light,), self.chosen),
            ((role.LinkVisited,), self.ochre),
            ((role.BrightText,), self.brick),
        ):
            for one in roles:
                palette.setColor(one, QColor(colour))
        for one in (role.WindowText, role.Text, role.ButtonText):
            palette.setColor(QPalette.ColorGroup.Disabled, one, QColor(self.faint))
        return palette


LIMESTONE = Colours(
    name="Limestone",
    ground="#EFEBE3",
    sheet="#FBF9F5",
    ink="#22292B",
    faint="#5D6669",
    rule="#D8D1C4",
    verdigris="#1E6F66",
    ochre="#87540C",
    brick="#A3352A",
    on_accent="#FBF9F5",
    chosen="#E6E1D6",
    series=("#1E6F66", "#2B6CA8", "#7A4E9A", "#A86A12", "#A3352A", "#5D6669"),
)
LAMPLIGHT = Colours(
    name="Lamplight",
    ground="#1D2021",
    sheet="#26292A",
    ink="#E9E4DA",
    faint="#A39E94",
    rule="#3A3E3F",
    verdigris="#5FB3A6",
    ochre="#D9A441",
    brick="#EC8474",
    on_accent="#16201E",
    chosen="#323637",
    series=("#5FB3A6", "#7FB2E5", "#B99AD6", "#D9A441", "#E0705F", "#A39E94"),
)
NOONDAY = Colours(
    name="Noonday",
    ground="#FFFFFF",
    sheet="#FFFFFF",
    ink="#000000",
    faint="#33393B",
    rule="#949494",
    verdigris="#00504A",
    ochre="#6B3F00",
    brick="#8C1206",
    on_accent="#FFFFFF",
    chosen="#D3E4E1",
    series=("#00504A", "#0B4A8F", "#5B2A86", "#7A4700", "#8C1206", "#33393B"),
)
"""Of high contrast, for tired eyes and for a screen in the sun: text 7 to 1, lines 3 to 1."""
ALL = (LIMESTONE, LAMPLIGHT, NOONDAY)
_BY_ACCENT = {QColor(one.verdigris).rgb(): one for one in ALL}


def colours_of(widget: QWidget) -> Colours:
    """The set that a widget is shown in, read off a role of its palette that no style sheet changes."""
    return _BY_ACCENT.get(widget.palette().color(QPalette.ColorRole.Link).rgb(), LIMESTONE)

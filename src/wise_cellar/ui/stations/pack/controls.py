"""The fields of the Pack station, in five groups of which one is seen."""

from __future__ import annotations

from collections.abc import Sequence

from PyQt6.QtCore import QEvent, Qt, pyqtSignal
from PyQt6.QtGui import QShowEvent
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QSizePolicy, QStackedWidget, QVBoxLayout, QWidget

from wise_cellar.core.answer import Answer
from wise_cellar.core.documents import Arrangement, CompleteDesign, Joint, Underlay
from wise_cellar.core.pack import SCHOOLS, Alternative, PackLayout, balance_of, cautions, stow
from wise_cellar.core.propulsion import Handling, disc_loading_g_dm2, handling
from wise_cellar.core.units import format_change, format_grams, format_loading, format_mm, format_number
from wise_cellar.core.words import upper_first
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations.pack.alternatives_view import AlternativesView
from wise_cellar.ui.stations.pack.bay_view import BayView
from wise_cellar.ui.widgets.field_grids import FieldGrid
from wise_cellar.ui.widgets.fields import FIELDS, Field, QuantityField, field_for
from wise_cellar.ui.widgets.lines import Line
from wise_cellar.ui.widgets.panel import note
from wise_cellar.ui.widgets.segments import Segments

LEAST_HEIGHT = 150
GROUPS = ("Placement", "Joining", "Leads", "Fittings", "Bay")
PLACEMENT, JOINING, LEADS, FITTINGS, BAY = range(5)
_UNSET = {"bands": "best fit", "joint_mohm": "usual", "joint_limit_a": "usual", "fuse_a": "none",
          "piece_mm": "a roll", "weighed_g": "not yet"}  # fmt: skip
_JOINING = ("joint", "strip.metal", "strip.width_mm", "strip.thickness_mm", "strip.layers",
            "strip.underlay_width_mm", "strip.underlay_thickness_mm", "welder", "welds", "joint_mohm", "joint_limit_a",
            "strip.piece_mm", "strip.underlay")  # fmt: skip


class _Pages(QStackedWidget):
    """As tall as the page in view needs, so that the drawing has the rest."""

    def __init__(self) -> None:
        super().__init__()
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Fixed)
        self.currentChanged.connect(self.fit)

    def fit(self) -> None:
        """Take the height of the page."""
        page = self.currentWidget()
        if page is not None:
            layout = page.layout()
            wraps = layout is not None and layout.hasHeightForWidth()
            height = layout.totalHeightForWidth(max(self.width(), 300)) if layout is not None and wraps else 0
            self.setFixedHeight(max(height, page.minimumSizeHint().height() if not wraps else 0, LEAST_HEIGHT))

    def event(self, event: QEvent | None) -> bool:
        """Words wrap anew, and fields stand in fewer columns."""
        done = super().event(event)
        if event is not None and event.type() in (QEvent.Type.Resize, QEvent.Type.LayoutRequest):
            self.fit()
        return done

    def showEvent(self, event: QShowEvent | None) -> None:
        """Only now the style sheet has said how high everything is."""
        super().showEvent(event)
        self.fit()


class PackControls(QWidget):
    """Groups of fields over the recipe."""

    by_hand_asked = pyqtSignal()
    count_asked = pyqtSignal()

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self.grids: list[FieldGrid] = []
        self.setSizePolicy(QSizePolicy.Policy.Expanding, QSizePolicy.Policy.Maximum)
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        column.setSpacing(6)
        self.groups = Segments(GROUPS, "Fields of the pack")
        self._pages = _Pages()
        self.groups.chosen.connect(self._pages.setCurrentIndex)
        column.addWidget(self.groups)
        column.addWidget(self._pages)
        for page in (self._placement(), self._joining(), self._leads(), self._fittings(), self._bay()):
            self._pages.addWidget(page)
        self._pages.currentChanged.connect(self._say_more)

    @property
    def fields(self) -> list[Field]:
        """All fields, in order."""
        return [field for grid in self.grids for field in grid.fields]

    def show_field(self, path: str) -> None:
        """Bring the group into view that holds the field at ``path``, or the first below it."""
        for place in range(self._pages.count()):
            page = self._pages.widget(place)
            fields = FIELDS.within(page) if page is not None else []
            if any(field.path == path or field.path.startswith(path + ".") for field in fields):
                self.groups.choose(place)
                return

    def _grid(self, names: tuple[str, ...], columns: int = 1) -> FieldGrid:
        grid = FieldGrid([self._field(f"design.packs.0.recipe.{name}") for name in names], columns)
        self.grids.append(grid)
        return grid

    def _field(self, path: str) -> Field:
        unset = _UNSET.get(path.rsplit(".", 1)[1])
        return QuantityField(self._session, path, default=lambda: unset) if unset else field_for(self._session, path)

    def _placement(self) -> QWidget:
        page, row = _page()
        left = QVBoxLayout()
        left.addWidget(self._grid(("arrangement", "tiers", "bands", "fittings.spacer")))
        self.by_hand = QPushButton("Place the cells by hand")
        self.by_hand.setProperty("role", "quiet")
        self.by_hand.clicked.connect(self.by_hand_asked)
        left.addWidget(self.by_hand)
        self._hand_words = note(
            "Drag a cell, or choose one and use Shift and the arrows; T or a double click turns it over."
        )
        left.addWidget(self._hand_words)
        left.addStretch(1)
        row.addLayout(left, 1)
        right = QVBoxLayout()
        self.alternatives = AlternativesView()
        self.ways_words = note()
        # Two lines from the first moment, so that the drawing does not move when the words come.
        two_lines = self.ways_words.fontMetrics().size(0, "x\nx")
        self.ways_words.setMinimumHeight(two_lines.height())
        self.ways_words.setAlignment(Qt.AlignmentFlag.AlignTop)
        right.addWidget(self.alternatives)
        right.addWidget(self.ways_words)
        right.addStretch(1)
        row.addLayout(right, 1)
        return page

    def _joining(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        column.addWidget(self._grid(_JOINING, 2))
        column.addStretch(1)
        return page

    def _leads(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        names = ("leads.gauge_awg", "leads.length_mm", "leads.connector", "leads.wear", "leads.exit", "leads.adaptors",
                 "leads.fuse_a", "balance.fitted", "balance.gauge_awg", "balance.length_mm")  # fmt: skip
        column.addWidget(self._grid(names, 2))
        column.addStretch(1)
        return page

    def _fittings(self) -> QWidget:
        page = QWidget()
        column = QVBoxLayout(page)
        column.setContentsMargins(0, 0, 0, 0)
        names = ("fittings.end_sheet_mm", "fittings.shrink_mm", "fittings.straps", "fittings.mount_g",
                 "fittings.other_g", "weighed_g")  # fmt: skip
        column.addWidget(self._grid(names, 2))
        self.sleeve_words = note()
        self.weighed_words = note(role="")
        self.count_button = QPushButton("Count them as other grams")
        self.count_button.clicked.connect(self.count_asked)
        column.addWidget(self.sleeve_words)
        row = QHBoxLayout()
        row.addWidget(self.weighed_words, 1)
        row.addWidget(self.count_button)
        column.addLayout(row)
        column.addStretch(1)
        return page

    def _bay(self) -> QWidget:
        page, row = _page()
        left = QVBoxLayout()
        left.addWidget(self._grid(("fittings.shift_mm",)))
        self.balance_words = note(role="")
        left.addWidget(self.balance_words)
        self.handling_words = note(role="")
        left.addWidget(self.handling_words)
        left.setSpacing(4)
        left.addStretch(1)
        row.addLayout(left, 1)
        self.bay_view = BayView()
        row.addWidget(self.bay_view, 1)
        return page

    @property
    def care(self) -> list[Line]:
        """What to be careful about in the group that is seen."""
        build = self._session.answer.build
        if self.groups.current == JOINING:
            schools = [] if build.cell.whole_pack else _school_lines(build.recipe.joint)
            return [*_advice_lines(cautions.joining_advice(build)), *schools]
        advice = {LEADS: cautions.LEADS, FITTINGS: cautions.FITTINGS, BAY: cautions.BAY}
        return _advice_lines(advice.get(self.groups.current, ()))

    def show_ways(self, ways: Sequence[Alternative], present: PackLayout, words: str) -> None:
        """Show other ways to lay the cells out, and what there is to say of them."""
        self.alternatives.show_alternatives(ways, present)
        self.alternatives.setVisible(bool(ways))
        self.ways_words.setText(words)
        self._pages.fit()

    def refresh(self) -> None:
        """Show the present recipe."""
        recipe, cell = self._session.complete.pack.recipe, self._session.complete.pack.cell
        for grid in self.grids:
            grid.refresh()
        self._enable_what_applies()
        own = recipe.arrangement is Arrangement.OWN and cell.form_factor.cylindrical
        self.by_hand.setVisible(not own and cell.form_factor.cylindrical)
        self._hand_words.setVisible(own)
        self._say_more()

    def _say_more(self) -> None:
        """Besides its fields, what the page in view says of the present pack."""
        answer = self._session.answer
        if self.groups.current == FITTINGS:
            self._show_fittings(answer)
        elif self.groups.current == BAY:
            self._show_bay(answer)
        self._pages.fit()

    def _enable_what_applies(self) -> None:
        """Strips and layout are not the user's in a pack bought whole; pouches have one layout only."""
        recipe, cell = self._session.complete.pack.recipe, self._session.complete.pack.cell
        fixed = {"arrangement", "tiers", "bands", "fittings.spacer"} if not cell.form_factor.cylindrical else set()
        if recipe.arrangement is Arrangement.OWN:
            fixed |= {"tiers", "bands"}
        always = ("leads.gauge_awg", "leads.length_mm", "leads.connector", "leads.wear", "leads.fuse_a",
                  "fittings.straps", "fittings.mount_g",
                  "fittings.other_g", "fittings.shift_mm", "weighed_g")  # fmt: skip
        bare = recipe.strip.underlay is Underlay.NONE
        needless = {"strip.underlay_width_mm", "strip.underlay_thickness_mm"} if bare else set()
        if recipe.joint is not Joint.SPOT_WELD:
            needless |= {"welds", "welder"}
        if recipe.balance.fitted is False:
            needless |= {"balance.gauge_awg", "balance.length_mm"}
        for field in self.fields:
            part = field.path.removeprefix("design.packs.0.recipe.")
            field.setVisible(part not in needless)
            field.setEnabled(part in always or not (cell.whole_pack or part in fixed))

    def _show_fittings(self, answer: Answer) -> None:
        build, weighed = answer.build, answer.build.recipe.weighed_g
        flat, long = build.sleeve
        self.sleeve_words.setText(
            ""
            if build.cell.whole_pack
            else f"Heat-shrink to cut: {format_mm(flat)} flat width, {format_mm(long)} long."
        )
        apart = (weighed or build.parts_g) - build.parts_g
        self.count_button.setVisible(abs(apart) >= 0.05)
        if weighed is None:
            self.weighed_words.setText("Weigh the finished pack and compare it with its parts here.")
        else:
            parts = format_grams(build.parts_g, 1)
            self.weighed_words.setText(f"Its parts are {parts}; the scale says {format_change(apart, 1, 'g')}.")

    def _show_bay(self, answer: Answer) -> None:
        complete = self._session.complete
        craft, recipe, bay = complete.craft, complete.pack.recipe, complete.bay
        stowed = stow(answer.build.layout, bay, recipe.fittings.shift_mm) if bay is not None else None
        self.bay_view.show_bay(bay, stowed)
        turns = handling(complete, answer.build)
        self.handling_words.setText("" if turns is None else _handling_words(complete, answer, turns))
        self.handling_words.setToolTip("" if turns is None else turns.figures)
        point, balance = balance_of(complete, answer.build), craft.balance
        if point is None or balance is None:
            self.balance_words.setText(f"{craft.name} tells no balance point yet: add it at Craft.")
            return
        words = (
            f"Balances {_ahead(point.after_mm)}, without the pack {_ahead(point.before_mm)}; wanted"
            f" {_ahead(balance.wanted_mm)}, ± {format_mm(balance.tolerance_mm)}."
        )
        along = answer.build.layout.middle_mm[0]
        if abs(along) >= 0.5:
            words += f" The cells' centre of mass lies {format_mm(abs(along))} from the middle of the pack."
        ballast = point.ballast_g
        if abs(ballast) >= 1:
            where = _ahead(balance.ballast_at_mm)
            saved = min(-ballast, balance.ballast_g)
            if ballast > 0 and not point.within:
                words += f" {format_grams(ballast)} of ballast {where} would bring it back."
            elif saved >= 1:
                words += f" {format_grams(saved)} of the ballast {where} can go."
            elif not point.within:
                words += " Ballast there cannot bring it back; move the pack."
        self.balance_words.setText(words)


def _handling_words(complete: CompleteDesign, answer: Answer, turns: Handling) -> str:
    """How it turns, with its thrust margin and its disc loading."""
    loading = disc_loading_g_dm2(complete.craft, answer.takeoff_mass_g)
    return (
        f"{turns.words} Thrust {format_number(answer.late_punch.thrust_margin, 1)} × the weight,"
        f" {format_loading(loading)} of disc."
    )


def _school_lines(chosen: Joint) -> list[Line]:
    """The ways of joining side by side, what each costs."""
    return [
        Line(f"{upper_first(joint)}: {school.heat}; {school.tools}; {school.apart}.", size=11.5, strong=joint is chosen)
        for joint, school in SCHOOLS.items()
    ]  # fmt: skip


def _advice_lines(advice: Sequence[cautions.Advice]) -> list[Line]:
    """As paragraphs; what the recipe itself chose stands out."""
    return [Line(each.sentence, "caution" if each.care else "faint", 11.5) for each in advice]


def _page() -> tuple[QWidget, QHBoxLayout]:
    page = QWidget()
    row = QHBoxLayout(page)
    row.setContentsMargins(0, 0, 0, 0)
    row.setSpacing(24)
    return page, row


def _ahead(mm: float) -> str:
    """ "12 mm ahead of the rotors' middle"."""
    if abs(mm) < 0.5:
        return "in the middle"
    return f"{format_mm(abs(mm))} {'ahead' if mm > 0 else 'behind'}"

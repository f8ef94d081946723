"""Beside the picture: the pack that is chosen with its fields, what is taken off the craft, and what it all weighs."""

from __future__ import annotations

from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtWidgets import QHBoxLayout, QPushButton, QVBoxLayout, QWidget

from wise_cellar.core.documents import CellType, CompletePack, Part
from wise_cellar.core.units import format_grams
from wise_cellar.ui.state import bus_edits
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.attempt import Attempt
from wise_cellar.ui.widgets.chooser import Chooser
from wise_cellar.ui.widgets.field_grids import SwappedFields
from wise_cellar.ui.widgets.fields import Field, QuantityField, field_for
from wise_cellar.ui.widgets.ledger import Ledger, LedgerRow
from wise_cellar.ui.widgets.panel import heading, note, paragraph, sheet, show_role
from wise_cellar.ui.widgets.row_list import RowList

_STATE = (
    "state.start_charge_percent",
    "state.temperature_c",
    "state.capacity_percent",
    "state.resistance_percent",
    "cooling",
)
_BUILT = ("recipe.leads.gauge_awg", "recipe.leads.length_mm", "recipe.leads.connector", "recipe.fittings.mount_g")
_WHOLE = ("recipe.leads.connector", "recipe.fittings.mount_g")
_TYPE = ("capacity_mah", "dcir_mohm", "mass_g", "max_voltage_v", "min_voltage_v", "charge_current_a")
_TITLES = {
    "state.start_charge_percent": "Charge at take-off", "state.temperature_c": "Temperature at start",
    "state.capacity_percent": "Capacity for its age", "state.resistance_percent": "Resistance for its age",
    "cooling": "Cooling", "recipe.fittings.mount_g": "Mount", "mass_g": "Mass, with leads",
    "dcir_mohm": "Resistance of a cell", "max_voltage_v": "Full voltage, a cell",
    "min_voltage_v": "Minimum, a cell", "charge_current_a": "Charge current",
}  # fmt: skip


class PacksPanel(QWidget):
    """One of the packs on the bus. ``chosen`` brings its place when another is chosen here."""

    chosen = pyqtSignal(int)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._cells: list[CellType] = []
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=6)
        column.addWidget(panel)
        inside.addWidget(heading("Pack on the bus"))
        self.which = Chooser()
        self.which.setAccessibleName("Pack that is shown")
        self.which.activated.connect(self._picked)
        inside.addWidget(self.which)
        self.words = note(role="")
        inside.addWidget(self.words)
        self.cell = Chooser()
        self.cell.setAccessibleName("What this pack is made of")
        self.cell.activated.connect(self._cell_picked)
        inside.addWidget(self.cell)
        self.fields, self.type_fields = SwappedFields(), SwappedFields()
        inside.addWidget(self.fields)
        self._type_words = note("Of its type, in every design that carries it:")
        inside.addWidget(self._type_words)
        inside.addWidget(self.type_fields)
        self.error = Attempt()
        inside.addWidget(self.error)
        row = QHBoxLayout()
        self.add_button = QPushButton("Add one like the recipe's")
        self.remove_button = QPushButton("Take it off")
        for button, act in ((self.add_button, self._add), (self.remove_button, self._remove)):
            button.setProperty("role", "quiet")
            button.clicked.connect(act)
            row.addWidget(button)
        row.addStretch(1)
        inside.addLayout(row)

    @property
    def place(self) -> int:
        """Which of the packs is shown, the recipe's first."""
        return max(self.which.currentIndex(), 0)

    def show_place(self, place: int) -> None:
        """Show another pack."""
        if place != self.which.currentIndex():
            self.which.setCurrentIndex(place)
            self.refresh()

    def refresh(self) -> None:
        """Show the packs, and the chosen one's fields."""
        complete = self._session.complete
        packs = complete.packs
        names = [pack.name for pack in packs]
        if [self.which.itemText(n) for n in range(self.which.count())] != names:
            kept = min(self.place, len(names) - 1)
            self.which.clear()
            self.which.addItems(names)
            self.which.setCurrentIndex(kept)
        place = self.place
        pack = packs[place]
        recipe = f"{pack.recipe.series_count}S {pack.recipe.parallel_count}P of {pack.cell.name}"
        self.words.setText(
            f"{recipe}. What it is made of stands in the recipe line; its build is at Pack." if place == 0 else
            "What its counter and its gauge see." if pack.own else f"{recipe}."
        )  # fmt: skip
        self._show_cells(pack, shown=place > 0)
        self.fields.show_for((place, pack.cell.whole_pack), lambda: self._make(pack, place))
        typed = place > 0 and pack.cell.whole_pack
        self._type_words.setVisible(typed)
        self.type_fields.setVisible(typed)
        cell = pack.path("cell")
        self.type_fields.show_for(cell if typed else None, lambda: self._make_type(cell))
        self.remove_button.setVisible(place > 0)
        self.add_button.setVisible(len(packs) <= 4)

    def _show_cells(self, pack: CompletePack, *, shown: bool) -> None:
        self.cell.setVisible(shown)
        if not shown:
            return
        every = self._session.all(CellType).values()
        self._cells = (
            bus_edits.whole_packs(self._session)
            if pack.own
            else [cell for cell in every if not cell.archived and (not cell.whole_pack or cell == pack.cell)]
        )
        if all(cell.id != pack.cell.id for cell in self._cells):
            self._cells.insert(0, pack.cell)
        self.cell.clear()
        self.cell.addItems([cell.name for cell in self._cells])
        self.cell.setCurrentIndex(next(n for n, cell in enumerate(self._cells) if cell.id == pack.cell.id))

    def _make(self, pack: CompletePack, place: int) -> list[Field]:
        built = _WHOLE if pack.cell.whole_pack else _BUILT
        count = () if pack.cell.whole_pack or place == 0 else ("recipe.parallel_count",)
        named = () if place == 0 else ("name",)
        return [self._field(pack.path(name), name) for name in (*named, *_STATE, *count, *built)]

    def _make_type(self, root: str) -> list[Field]:
        return [self._field(f"{root}.{name}", name) for name in _TYPE]

    def _field(self, path: str, name: str) -> Field:
        title = _TITLES.get(name, "")
        if name == "state.temperature_c":
            return QuantityField(self._session, path, title, default=lambda: "as the air")
        if name == "charge_current_a":
            return QuantityField(self._session, path, title, default=lambda: "not told")
        return field_for(self._session, path, title)

    def _picked(self, place: int) -> None:
        self.refresh()
        self.chosen.emit(place)

    def _cell_picked(self, row: int) -> None:
        pack, cell = self._session.complete.packs[self.place], self._cells[row]
        if pack.own:
            self.error.make(lambda: bus_edits.put_own_battery(self._session, cell.id))
        else:
            self.error.make(
                lambda: self._session.edit(pack.path("cell_type_id"), cell.id, "Build a pack of other cells")
            )
        self.refresh()

    def _add(self) -> None:
        if self.error.make(lambda: bus_edits.add_equal(self._session)):
            self.show_place(self.which.count() - 1)
            self.chosen.emit(self.place)

    def _remove(self) -> None:
        place = self.place
        self.error.make(lambda: bus_edits.remove(self._session, place))


class WeightPanel(QWidget):
    """The take-off mass line by line, and what was taken off the craft since it is not needed any more."""

    field_requested = pyqtSignal(str)

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 0, 0, 0)
        panel, inside = sheet(spacing=6)
        column.addWidget(panel)
        self.ledger = Ledger("Take-off mass", (("", 74),))
        self.ledger.field_requested.connect(self.field_requested)
        inside.addWidget(self.ledger)
        self.words = note()
        inside.addWidget(self.words)
        inside.addWidget(note("Taken off the craft: what the auxiliary made needless, such as a lid or ballast."))
        self.taken_off = RowList(
            session, "design.taken_off", ("name", "mass_g"), "part taken off",
            lambda: Part(name="Battery lid", mass_g=0), (0, 108),
        )  # fmt: skip
        inside.addWidget(self.taken_off)

    def refresh(self) -> None:
        """Show the present masses."""
        complete, answer = self._session.complete, self._session.answer
        whole = answer.takeoff_mass_g
        entries = [("Craft", complete.craft.dry_mass_g, "craft.parts")]
        if complete.design.taken_off:
            entries.append(("Taken off", -complete.design.taken_off_g, "design.taken_off"))
        for pack in answer.packs:
            entries.append((pack.complete.name, pack.build.mass_g, pack.complete.path("recipe.leads.connector")))
        if complete.design.conditions.payload_g:
            entries.append(("Payload", complete.design.conditions.payload_g, "design.conditions.payload_g"))
        self.ledger.show_rows(
            format_grams(whole),
            [LedgerRow(name, grams / whole, (format_grams(grams, 1),), field) for name, grams, field in entries],
        )
        limit = complete.craft.max_takeoff_mass_g
        self.words.setVisible(limit is not None)
        if limit is not None:
            apart = limit - whole
            side = "under" if apart >= 0 else "over"
            self.words.setText(
                f"{format_grams(abs(apart))} {side} the {format_grams(limit)} that {complete.craft.name} may weigh."
                " Mass classes and"
                " what they ask of you are local rules: check yours."
            )
            show_role(self.words, "faint" if apart >= 0 else "error")
        self.taken_off.refresh()


class BeginPanel(QWidget):
    """What to do first, where one pack has the bus to itself."""

    def __init__(self, session: Session) -> None:
        super().__init__()
        self._session = session
        self._offered: tuple[object, ...] = ()
        """The design, its cells in series and the packs that the box was filled for."""
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 12, 0, 0)
        column.setSpacing(8)
        self.words = paragraph()
        column.addWidget(self.words)
        self.battery = Chooser()
        self.battery.setAccessibleName("The craft's own battery")
        self.battery.setMaximumWidth(280)
        column.addWidget(self.battery)
        self.own_button = QPushButton("Put it beside this pack")
        self.wire_button = QPushButton("Wire an auxiliary beside it")
        self.equal_button = QPushButton("Put an equal pack beside it")
        for button, act in (
            (self.own_button, self._put_own),
            (self.wire_button, lambda: bus_edits.wire_auxiliary(self._session)),
            (self.equal_button, lambda: bus_edits.add_equal(self._session)),
        ):
            button.clicked.connect(lambda _checked, act=act: self.error.make(act))
            column.addWidget(button, 0, Qt.AlignmentFlag.AlignLeft)
        self.error = Attempt()
        column.addWidget(self.error)
        column.addStretch(1)

    def refresh(self) -> None:
        """Offer what fits the present pack."""
        complete = self._session.complete
        whole = complete.pack.cell.whole_pack
        self.words.setText(
            f"{complete.pack.cell.name} has the bus of {complete.craft.name} to itself. Keep it as the craft's own"
            " battery and wire a pack of single cells beside it for more minutes: here you see what each gives,"
            " what flows when they are plugged in, and when the craft's own counter calls."
            if whole
            else f"This pack has the bus of {complete.craft.name} to itself. If the craft keeps its own battery, say"
            " which one: this pack then flies beside it as an auxiliary."
        )
        packs, series = bus_edits.whole_packs(self._session), complete.pack.recipe.series_count
        offered = (complete.design.id, series, *(pack.name for pack in packs))
        if offered != self._offered:  # else what the user chose among them stays
            self._offered = offered
            self.battery.clear()
            self.battery.addItems([pack.name for pack in packs])
            fitting = next((n for n, pack in enumerate(packs) if pack.cells_in_series == series), 0)
            self.battery.setCurrentIndex(fitting)
        self.battery.setVisible(not whole and bool(packs))
        self.own_button.setVisible(not whole and bool(packs))
        self.wire_button.setVisible(whole)

    def _put_own(self) -> None:
        pack = bus_edits.whole_packs(self._session)[self.battery.currentIndex()]
        bus_edits.put_own_battery(self._session, pack.id)

"""What the Build station does with packs that are being made: which one is shown, and what is asked of it."""

from __future__ import annotations

from collections.abc import Callable, Sequence

from PyQt6.QtCore import QObject, pyqtSignal

from wise_cellar.core.build.making import Making
from wise_cellar.core.build.steps import Bench
from wise_cellar.core.documents import BuiltPack, DocumentError, NumberedCell, pack_words
from wise_cellar.ui.state.pack_life import finish_repair
from wise_cellar.ui.state.pack_making import (
    begin_pack,
    built_packs,
    finish_pack,
    making,
    read_step,
    remove_pack,
    usual_name,
)
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.tray_edits import cells_of
from wise_cellar.ui.stations.build.step_panel import StepPanel
from wise_cellar.ui.stations.build.steps_page import StepsPage

NO_GROUPS = "No cells are chosen for it yet: see Match. Volts are those of a cell about half full."


class StepsWork(QObject):
    """Keeps :attr:`page` and :attr:`panel` with the chosen pack; ``shown`` tells that another one is."""

    shown = pyqtSignal()

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self.page, self.panel = StepsPage(), StepPanel(session)
        self.pack_id = ""
        self._groups: tuple[tuple[NumberedCell, ...], ...] = ()
        self._shown_id = "?"
        self.page.pack_chosen.connect(self.choose)
        self.page.begin_asked.connect(self._begin)
        self.page.finish_asked.connect(self._finish)
        self.page.remove_asked.connect(self._remove)
        self.page.table.chosen.connect(lambda _place: self._show_step())
        self.page.table.taken.connect(self.panel.go_on)
        self.panel.closed.connect(self._next)

    @property
    def pack(self) -> BuiltPack | None:
        """The pack that is shown; none where it is the design itself."""
        return self._session.all(BuiltPack).get(self.pack_id)

    def headline(self) -> str:
        """How far it is."""
        found = self.page.making
        if found is None or found.pack is None:
            return "Every step of this pack, and the volts to expect"
        name, count = found.pack.name, len(found.steps)
        if found.pack.finished and found.pack.repair is None:
            return f"{name}: finished on {found.pack.finished_on}"
        if found.place == count:
            return f"{name}: all {count} steps are closed"
        return f"{name}: step {found.place + 1} of {count} comes next"

    def choose(self, pack_id: str) -> None:
        """Show another pack, or the design itself."""
        self.pack_id = pack_id
        self.refresh(self._groups)

    def forget(self) -> None:
        """Another workspace is about to be shown."""
        self.pack_id = ""

    def refresh(self, groups: Sequence[Sequence[NumberedCell]]) -> None:
        """Show the present steps; ``groups`` are those that were matched for the design."""
        self._groups = tuple(tuple(group) for group in groups)
        packs = [pack for pack in built_packs(self._session) if not pack.retired]
        self.page.show_packs(packs, self.pack_id, usual_name(self._session))
        try:
            found, words = self._making()
        except DocumentError as error:
            self.pack_id = ""
            self.page.attempt.say(str(error))
            found, words = self._of_design()
        self.page.show_making(found, words)
        if self._shown_id != self.pack_id:
            self._shown_id = self.pack_id
            self.page.table.choose(found.place)
        self._show_step()
        self.shown.emit()

    def with_taps(self) -> tuple[tuple[float, ...], dict[int, float], Callable[[int, float | None], None]] | None:
        """Of the chosen pack what its groups rest at, what was read of its pins, and what writes one down; none where
        no pack is chosen, or its pins are not read one by one."""
        pack = self.pack
        if pack is None:
            return None
        try:
            found = making(self._session, pack)
        except DocumentError:
            return None
        step = next((one for one in found.steps if any(each.key == "pin-2" for each in one.expected)), None)
        if step is None:
            return None
        read = {int(key.removeprefix("pin-")) - 1: volts for key, volts in found.read(step).items() if "pin-" in key}

        def keep(place: int, volts: float | None) -> None:
            now = self.pack
            if now is not None:
                read_step(self._session, now, step.key, f"pin-{place + 1}", volts)

        return found.group_v, read, keep

    def _making(self) -> tuple[Making, str]:
        pack = self.pack
        if pack is None:
            self.pack_id = ""
            return self._of_design()
        found = making(self._session, pack)
        words = [f"{pack_words(pack.recipe, found.bench.build.cell)}, begun {pack.begun_on}."]
        missing = sum(len(group) for group in pack.groups) - sum(len(group) for group in found.bench.groups)
        if missing:
            words.append(f"{missing} of its cells are not in the tray any more: what they rest at is not known.")
        return found, " ".join(words)

    def _of_design(self) -> tuple[Making, str]:
        build = self._session.answer.build
        others = cells_of(self._session, build.cell.id)
        words = "" if self._groups or build.cell.whole_pack else NO_GROUPS
        return Making(Bench.of(build, self._groups, others)), words

    def _show_step(self) -> None:
        found = self.page.making
        if found is not None and found.steps:
            self.panel.show_step(found, min(self.page.place, len(found.steps) - 1))

    def _next(self) -> None:
        """Go on with the step that comes next."""
        found = self.page.making
        if found is not None and found.place < len(found.steps):
            self.page.table.choose(found.place)
            self.panel.go_on()

    def _begin(self, name: str) -> None:
        build = self._session.answer.build

        def begin() -> None:
            self.pack_id = begin_pack(self._session, name, build, self._groups).id

        if self.page.attempt.make(begin):
            self.page.name.accept_shown("")
            self.refresh(self._groups)
            self.panel.go_on()

    def _finish(self, finished: bool) -> None:
        pack = self.pack
        if pack is None:
            return
        if pack.repair is not None:
            self.page.attempt.make(lambda: finish_repair(self._session, pack))
        else:
            self.page.attempt.make(lambda: finish_pack(self._session, pack, finished=finished))

    def _remove(self) -> None:
        pack = self.pack
        if pack is not None:
            self.page.attempt.make(lambda: remove_pack(self._session, pack))

"""What the Build station does with packs that were built: which one is chosen, and what would mend it."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from PyQt6.QtCore import QObject

from wise_cellar.core.build.inspection import inspect
from wise_cellar.core.build.repair import RepairPlan, behind, plan_repair
from wise_cellar.core.documents import BuiltPack, CellType, DocumentError, NumberedCell, PackState, pack_words
from wise_cellar.ui.state.pack_life import begin_like, flown_by, free_cells, groups_like, today, type_of
from wise_cellar.ui.state.pack_making import built_packs
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.state.tray_edits import cells_of
from wise_cellar.ui.state.work import Worker
from wise_cellar.ui.stations.build.pack_panel import PackPanel
from wise_cellar.ui.stations.build.packs_page import PacksPage, Shelved

Groups = tuple[tuple[NumberedCell, ...], ...]
SOUND = "No group has fallen behind."
NOT_OPENED = "A pack bought whole is not opened."


class PacksWork(QObject):
    """Keeps :attr:`page` and :attr:`panel` with the chosen pack."""

    def __init__(self, session: Session, parent: QObject) -> None:
        super().__init__(parent)
        self._session = session
        self.page, self.panel = PacksPage(), PackPanel(session)
        self.pack_id = ""
        self._worker = Worker(self)
        self._worker.finished.connect(self._take)
        self._worker.failed.connect(lambda error: self._say(str(error)))
        self.page.chosen.connect(self.choose)
        self._matching = Worker(self)
        self._matching.finished.connect(self._begin_like)
        self._matching.failed.connect(self._refuse_like)
        self.panel.like_asked.connect(self._match_like)

    @property
    def settled(self) -> bool:
        """Whether nothing is worked out."""
        return not self._worker.busy and not self._matching.busy

    @property
    def pack(self) -> BuiltPack | None:
        """The chosen one."""
        return self._session.all(BuiltPack).get(self.pack_id)

    def close_work(self) -> None:
        """Stop what runs beside the window."""
        self._worker.close()
        self._matching.close()

    def forget(self) -> None:
        """Another workspace is about to be shown."""
        self.pack_id = ""
        self.panel.forget()

    def choose(self, pack_id: str) -> None:
        """Look at another pack."""
        if pack_id != self.pack_id:
            self.pack_id = pack_id
            self._show_chosen()

    def refresh(self) -> None:
        """Show the packs as they are now."""
        packs = built_packs(self._session)
        if self.pack is None:
            self.pack_id = packs[0].id if packs else ""
        self.page.show_packs([self._shelved(pack) for pack in packs], self.pack_id)
        self._show_chosen()

    def _shelved(self, pack: BuiltPack) -> Shelved:
        cell_type = self._session.all(CellType).get(pack.cell_type_id)
        made_of = pack_words(pack.recipe, cell_type) if cell_type is not None else "a cell type that is gone"
        state: PackState | None
        try:
            state = today(self._session, pack)
        except DocumentError:
            state = None
        return Shelved(pack, made_of, state)

    def _show_chosen(self) -> None:
        self._worker.forget()
        shelved = self.page.current
        self.panel.show_pack(shelved, flown_by(self._session, shelved.pack) if shelved is not None else ())
        if shelved is None:
            self.page.show_inspection(None)
            return
        pack = shelved.pack
        try:
            cell_type = type_of(self._session, pack)
            self.page.show_inspection(inspect(pack, cell_type, cells_of(self._session, cell_type.id)))
            state = today(self._session, pack)
        except DocumentError as error:
            self.page.show_inspection(None, str(error))
            self.panel.mending.show_plan(pack, None, [])
            return
        self._plan(pack, cell_type, state)

    def _plan(self, pack: BuiltPack, cell_type: CellType, state: PackState) -> None:
        if cell_type.whole_pack or behind(state, pack.recipe.series_count) is None or pack.repair is not None:
            self._say(NOT_OPENED if cell_type.whole_pack else SOUND)
            return
        self._say("Looking for cells that fit its fellows…")
        complete, usable = self._session.complete, free_cells(self._session, cell_type)
        self._worker.run(
            partial(plan_repair, complete, pack, cell_type, state, usable),
            of=(complete.design.as_flown, complete.craft, complete.mission, pack, state, usable),
        )

    def _match_like(self) -> None:
        """Choose cells for another pack like this one, beside the window."""
        pack = self.pack
        if pack is None:
            return

        def ask() -> None:
            cell_type = type_of(self._session, pack)
            free = free_cells(self._session, cell_type)
            self._matching.run(partial(_with_groups, pack, cell_type, free))

        if self.panel.attempt.make(ask):
            self.panel.say("Choosing cells that go together…")

    def _begin_like(self, found: tuple[BuiltPack, Groups]) -> None:
        self.panel.say("")
        made: list[BuiltPack] = []
        if self.panel.attempt.make(lambda: made.append(begin_like(self._session, *found))):
            self.panel.steps_asked.emit(made[0].id)

    def _refuse_like(self, error: object) -> None:
        self.panel.say("")
        self.panel.attempt.say(str(error))

    def _take(self, plan: RepairPlan) -> None:
        pack = self.pack
        if pack is not None:
            self.panel.mending.show_plan(pack, plan, plan.sentences())

    def _say(self, sentence: str) -> None:
        """Why there is no plan."""
        pack = self.pack
        if pack is not None:
            self.panel.mending.show_plan(pack, None, [sentence])


def _with_groups(pack: BuiltPack, cell_type: CellType, free: Sequence[NumberedCell]) -> tuple[BuiltPack, Groups]:
    return pack, groups_like(pack, cell_type, free)

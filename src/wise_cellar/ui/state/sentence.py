"""The sentence with gaps that is being filled in, kept in the workspace at every gap."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from wise_cellar.core.answer import Answer
from wise_cellar.core.begin import Beginning, Begun, make
from wise_cellar.core.documents import CellType, CompleteDesign, DocumentError
from wise_cellar.store import Workspace
from wise_cellar.store.library import Library

SETTING = "beginning"


@dataclass(frozen=True)
class Sentence:
    """What was told so far, the documents that it stands for, and their answer."""

    said: Beginning
    begun: Begun
    answer: Answer


def sentence_of(said: Beginning, library: Library, answering: Callable[[CompleteDesign], Answer]) -> Sentence:
    """A sentence with its answer; raises :class:`DocumentError` where its parts cannot be true together."""
    begun = make(said, library.free_id, library.all(CellType))
    return Sentence(said, begun, answering(begun.complete))


def kept_sentence(workspace: Workspace, library: Library, answering: Callable[[CompleteDesign], Answer]) -> Sentence:
    """The half filled sentence of a workspace, or an open one."""
    text = workspace.setting(SETTING)
    if text:
        try:
            return sentence_of(Beginning.from_json(text), library, answering)
        except DocumentError:
            pass  # of another version, or of cells that are gone
    return sentence_of(Beginning(), library, answering)


def keep(workspace: Workspace, said: Beginning | None) -> None:
    """Remember what was told, or that nothing is half filled."""
    workspace.remember(SETTING, "" if said is None else said.to_json())

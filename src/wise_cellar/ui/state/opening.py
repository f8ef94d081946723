"""A workspace as it is first shown: what it holds, the design that is shown, its answer, and what there is to say."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from wise_cellar.core.answer import Answer
from wise_cellar.core.documents import CompleteDesign, Design
from wise_cellar.store import Workspace
from wise_cellar.store.library import Library
from wise_cellar.ui.unforeseen import refusal_of


@dataclass(frozen=True)
class Opening:
    """An open workspace with what is shown of it; ``remarks`` are a sentence each."""

    workspace: Workspace
    library: Library
    complete: CompleteDesign | None
    """None where there is no design that could be shown."""
    answer: Answer | None
    remarks: tuple[str, ...]


Answering = Callable[[CompleteDesign], Answer]


def opened(workspace: Workspace, answering: Answering) -> Opening:
    """The design shown last, or the first that can be; none where there is none.

    Raises :class:`WorkspaceError`, and closes the workspace, where it cannot be read.
    """
    try:
        return _opened(workspace, answering)
    except Exception:
        workspace.close()
        raise


def _opened(workspace: Workspace, answering: Answering) -> Opening:
    contents = workspace.read()
    library = Library(contents)
    wanted = workspace.setting("design")
    refusals: list[str] = []
    for design in sorted(library.all(Design).values(), key=lambda design: design.id != wanted):
        complete = library.assembled(design)
        try:
            answered = answering(complete)
        except Exception as error:  # one design that cannot be flown must not close the others
            refusals.append(f"{complete.design.name} is not shown: {refusal_of(error)}")
            continue
        return Opening(workspace, library, complete, answered, (*contents.mended, *refusals))
    return Opening(workspace, library, None, None, (*contents.mended, *refusals))

"""A workspace as it is first shown: what it holds, the design that is shown, its answer, and what there is to say."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from wise_cellar.core.answer import Answer
from wise_cellar.core.documents import CompleteDesign, Design
from wise_cellar.store import Workspace, WorkspaceError
from wise_cellar.store.library import Library
from wise_cellar.store.reading import told
from wise_cellar.ui.state.sentence import Sentence, kept_sentence
from wise_cellar.ui.unforeseen import refusal_of


@dataclass(frozen=True)
class Opening:
    """An open workspace with what is shown of it; ``remarks`` are a sentence each."""

    workspace: Workspace
    library: Library
    shown: tuple[CompleteDesign, Answer] | Sentence
    """A design of it; where there is none that could be shown, the sentence that a craft begins with."""
    remarks: tuple[str, ...]


Answering = Callable[[CompleteDesign], Answer]


def opened(workspace: Workspace, answering: Answering) -> Opening:
    """The design shown last, or the first that can be; the sentence that a craft begins with where there is none.

    Raises :class:`WorkspaceError`, and closes the workspace, where not even that can be shown.
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
    refusals = [workspace.unkept] if workspace.unkept else []
    for design in sorted(library.all(Design).values(), key=lambda design: design.id != wanted):
        complete = library.assembled(design)
        try:
            answered = answering(complete)
        except Exception as error:  # one design that cannot be flown must not close the others
            refusals.append(f"{complete.design.name} is not shown: {refusal_of(error)}")
            continue
        return Opening(workspace, library, (complete, answered), (*contents.mended, *refusals))
    try:
        sentence = kept_sentence(workspace, library, answering)
    except Exception as error:  # nor can a craft be begun in it
        why = refusals[0] if refusals else refusal_of(error)
        raise WorkspaceError(f"{told(workspace.path.name)} holds no design that could be shown: {why}") from error
    return Opening(workspace, library, sentence, (*contents.mended, *refusals))

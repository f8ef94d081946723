"""A workspace as it is first shown: what it holds, the design that is shown, its answer, and what there is to say."""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

from wise_cellar.core.answer import Answer
from wise_cellar.core.documents import CompleteDesign, Design
from wise_cellar.demo import FIRST_DESIGN_ID, sample_documents, sample_series
from wise_cellar.store import Workspace, WorkspaceError
from wise_cellar.store.library import Library, key_of
from wise_cellar.store.reading import told
from wise_cellar.ui.unforeseen import refusal_of


@dataclass(frozen=True)
class Opening:
    """An open workspace with what is shown of it; ``remarks`` are a sentence each."""

    workspace: Workspace
    library: Library
    complete: CompleteDesign
    answer: Answer
    remarks: tuple[str, ...]


Answering = Callable[[CompleteDesign], Answer]


def opened(workspace: Workspace, answering: Answering) -> Opening:
    """The design shown last, or the first that can be; an empty workspace is given the sample world.

    Raises :class:`WorkspaceError`, and closes the workspace, where it holds nothing that could be shown.
    """
    try:
        return _opened(workspace, answering)
    except Exception:
        workspace.close()
        raise


def _opened(workspace: Workspace, answering: Answering) -> Opening:
    if workspace.blank:
        workspace.seed(sample_documents(), sample_series())
    contents = workspace.read()
    library = Library(contents)
    _see_to_a_design(workspace, library)
    wanted = workspace.setting("design") or FIRST_DESIGN_ID
    refusals: list[str] = []
    for design in sorted(library.all(Design).values(), key=lambda design: design.id != wanted):
        complete = library.assembled(design)
        try:
            answered = answering(complete)
        except Exception as error:  # one design that cannot be flown must not close the others
            refusals.append(f"{complete.design.name} is not shown: {refusal_of(error)}")
            continue
        return Opening(workspace, library, complete, answered, (*contents.mended, *refusals))
    why = f": {refusals[0]}" if refusals else "."
    raise WorkspaceError(f"{told(workspace.path.name)} holds no design that could be shown{why}")


def _see_to_a_design(workspace: Workspace, library: Library) -> None:
    """Something must be shown: where no design can be, the samples come in; what is there stays as it is."""
    if not library.all(Design):
        samples = [one for one in sample_documents() if library.known(*key_of(one)) is None]
        workspace.seed(samples, sample_series())
        library.apply(samples)
    if not library.all(Design):
        # The samples' own designs are among the broken ones: one of them once more, under another identifier.
        first = next(one for one in sample_documents() if isinstance(one, Design))
        again = [first.changed(id=library.free_id(Design, first.name))]
        workspace.seed(again)
        library.apply(again)

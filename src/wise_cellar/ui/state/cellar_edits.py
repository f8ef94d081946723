"""What is done with whole documents in the Cellar: copied, changed, put out of sight, taken over from the samples."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from wise_cellar.core.documents import Craft, Design, Mission
from wise_cellar.demo import sample_documents, sample_series
from wise_cellar.ui.state.document_edits import copied
from wise_cellar.ui.state.session import Session


def copy_all(session: Session, documents: Sequence[Any]) -> list[str]:
    """Put a copy of each document beside it, one edit each; their identifiers."""
    found = []
    for document in documents:
        copy = copied(session, document, whole=False)
        session.commit(f"Copy {document.name}", [copy])
        found.append(str(copy.id))
    return found


def change_all(session: Session, documents: Sequence[Any], label: str, **values: Any) -> None:
    """Set some fields of documents, present or not, as one edit."""
    changed = [one.changed(**values) for one in documents]
    if changed != list(documents):
        session.commit(label, changed)


def archive_all(session: Session, documents: Sequence[Any]) -> None:
    """Put documents out of sight, or bring them back where all of them are."""
    back = all(document.archived for document in documents)
    what = documents[0].name if len(documents) == 1 else f"{len(documents)} documents"
    change_all(session, documents, f"Bring {what} back" if back else f"Archive {what}", archived=not back)


def samples(session: Session, model: type[Any]) -> list[Any]:
    """The documents of the sample world of a kind that are not here, in order of name; designs are none by
    themselves."""
    here = session.library.all(model)
    every: tuple[Any, ...] = () if model is Design else sample_documents()
    return sorted((one for one in every if type(one) is model and one.id not in here), key=lambda one: one.name)


def take_over(session: Session, sample: Any) -> None:
    """Put a document of the sample world here. A mission made for a craft that is not may then be flown by any."""
    if isinstance(sample, Mission) and sample.craft_id not in session.library.all(Craft):
        sample = sample.changed(craft_id="")
    series = {key: body for key, body in sample_series().items() if key in sample.series_keys}
    session.commit(f"Take over {sample.name}", [sample], series=series)

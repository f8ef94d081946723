"""The kinds of text in documents: names, notes, identifiers. None holds what cannot be seen.

Validation refuses what is too long or unseen. When something older or foreign is read, the context of the validation
is a list: then such text is cut or cleaned, and a sentence for each goes into the list.
"""

from __future__ import annotations

from typing import Annotated

from pydantic import AfterValidator, ValidationInfo

from wise_cellar.core.words import LONGEST_NAME, LONGEST_NOTES, quoted, seen

UNNAMED = "unnamed"


def _within(value: str, info: ValidationInfo, longest: int, *, lines: bool) -> str:
    kept = seen(value, lines=lines)
    if kept == value and len(value) <= longest:
        return value
    if isinstance(info.context, list):
        cut = len(kept) > longest
        kept = kept[:longest].rstrip() or UNNAMED
        what = f"was longer than {longest} letters and is cut" if cut else "held characters that cannot be seen"
        info.context.append(f"{quoted(kept)} {what}.")
        return kept
    if kept != value:
        raise ValueError(f"{quoted(value)} holds characters that cannot be seen; type it anew without them.")
    raise ValueError(f"{quoted(value)} has {len(value)} letters; at most {longest} fit here.")


def _name(value: str, info: ValidationInfo) -> str:
    return _within(value, info, LONGEST_NAME, lines=False)


def _notes(value: str, info: ValidationInfo) -> str:
    return _within(value, info, LONGEST_NOTES, lines=True)


def _identifier(value: str) -> str:
    if len(value) > 1000 or seen(value) != value:
        raise ValueError(f"{quoted(value)} is no identifier: up to 1000 letters, digits and hyphens.")
    return value


Name = Annotated[str, AfterValidator(_name)]
"""A line of at most 80 letters."""
Notes = Annotated[str, AfterValidator(_notes)]
"""Lines of at most 4 000 letters together."""
Identifier = Annotated[str, AfterValidator(_identifier)]
"""What other documents call a document; never shown on its own."""

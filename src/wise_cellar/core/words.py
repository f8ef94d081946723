"""Text that comes from outside: where its lines end, what of it may be shown, how much of it a sentence quotes, and
how a name stands in it."""

from __future__ import annotations

import re
from collections.abc import Sequence

LONGEST_SENTENCE = 300
LONGEST_QUOTE = 40
LONGEST_NAME = 80
LONGEST_NOTES = 4000

# Controls, line and paragraph separators, what turns the direction of writing, half characters, byte order marks.
_UNSEEN = re.compile("[\x00-\x1f\x7f-\x9f\u061c\u200e\u200f\u2028-\u202e\u2066-\u2069\ud800-\udfff\ufeff]")
_UNSEEN_IN_NOTES = re.compile(_UNSEEN.pattern.replace("\x00-\x1f", "\x00-\x08\x0b-\x1f"))
_GAPS = re.compile("[ \t\n\r\v\f]+")
_LINE_END = re.compile("\r\n|\r|\n")


def split_lines(text: str) -> list[str]:
    """Lines of a text as every reader counts them: they end at CR LF, LF or CR, and at nothing else.

    ``str.splitlines`` also ends them at form feeds, separators and other marks, which stand inside the rows of real
    files; two ways of counting in one reader lose rows.
    """
    lines = _LINE_END.split(text)
    if not lines[-1]:
        lines.pop()
    return lines


def seen(text: str, *, lines: bool = False) -> str:
    """The text without what cannot be seen; ``lines`` keeps line ends and tabs."""
    return (_UNSEEN_IN_NOTES if lines else _UNSEEN).sub("", text)


def one_line(text: str, most: int = LONGEST_SENTENCE) -> str:
    """The text on one line without what cannot be seen, cut with an ellipsis."""
    # Cut first: what is thrown away anyway may be very long.
    flat = _UNSEEN.sub("", _GAPS.sub(" ", text[: 4 * most]).strip())
    return flat if len(flat) <= most and len(text) <= 4 * most else flat[: most - 1].rstrip() + "…"


def quoted(value: object, most: int = LONGEST_QUOTE) -> str:
    """What was given, in quotation marks, as a sentence may repeat it."""
    return f"“{one_line(value if isinstance(value, str) else _told(value), most)}”"


def _told(value: object) -> str:
    """A value that is no text; of a list or an object, just what it is."""
    if isinstance(value, dict):
        return "an object"
    if isinstance(value, list | tuple):
        return f"a list of {len(value)}"
    return str(value)


def lower_first(text: str) -> str:
    """A name inside a sentence: its first letter small, the rest as it is; an abbreviation stays."""
    return text if text[1:2].isupper() else text[:1].lower() + text[1:]


def all_of(words: Sequence[str]) -> str:
    """Some things together: "a", "a and b", "a, b and c"."""
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} and {words[-1]}"


def any_of(words: Sequence[str]) -> str:
    """Some things of which one will do: "a", "a or b", "a, b or c"."""
    return words[0] if len(words) == 1 else f"{', '.join(words[:-1])} or {words[-1]}"


def upper_first(text: str) -> str:
    """A name at the beginning of a sentence: its first letter large, the rest as it is."""
    return text[:1].upper() + text[1:]

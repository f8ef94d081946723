"""The handbook: short pages, one a question; a glossary; and which page says why of a field.

A page is a Markdown file whose first line is a comment: the words by which it is found, the station at which it opens,
and the field paths that it explains. Nothing here knows the toolkit.
"""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache, lru_cache
from importlib import resources
from pathlib import Path

_HEAD = re.compile(
    r"<!-- words: (?P<words>[^;]*); station: (?P<station>[^;]*); paths: ?(?P<paths>.*?) ?-->\n# (?P<title>.+)\n"
)
_WORD = re.compile(r"^\*\*(?P<word>.+?)\*\* — (?P<says>.+)$", re.MULTILINE)
GLOSSARY = "glossary"


@dataclass(frozen=True)
class HandbookPage:
    """One page."""

    name: str
    """Of its file, without ending."""
    title: str
    words: str
    station: str
    """At which it opens; empty for any."""
    paths: tuple[str, ...]
    text: str
    """Markdown, from its title on."""


def folder() -> Path:
    """Where the pages and their pictures are."""
    return Path(str(resources.files(__package__) / "pages"))


@cache
def pages() -> tuple[HandbookPage, ...]:
    """Every page, the way in first, the glossary last; raises ``ValueError`` for one without a head."""
    found = [_read(path) for path in sorted(folder().glob("*.md"))]
    return tuple(sorted(found, key=lambda page: (page.name == GLOSSARY, page.name != "first-answer", page.title)))


def _read(path: Path) -> HandbookPage:
    text = path.read_text(encoding="utf-8")
    head = _HEAD.match(text)
    if head is None:
        raise ValueError(f"{path.name} does not begin with its words, station, paths and title.")
    return HandbookPage(
        path.stem, head["title"], head["words"].strip(), head["station"].strip(), tuple(head["paths"].split()),
        text[text.index("# ") :],
    )  # fmt: skip


def page(name: str) -> HandbookPage:
    """A page by its name; raises ``KeyError``."""
    return {one.name: one for one in pages()}[name]


def page_on(path: str) -> HandbookPage | None:
    """The page that explains a field: the one that names it, or what holds it, most closely."""
    found = [
        (len(prefix), one.name, one)
        for one in pages()
        for prefix in one.paths
        if path == prefix or path.startswith(prefix + ".")
    ]
    return max(found, key=lambda each: each[:2])[2] if found else None


def page_at(station: str) -> HandbookPage:
    """The first page of a station, or the way in."""
    return next((one for one in pages() if one.station == station), pages()[0])


@cache
def glossary() -> dict[str, str]:
    """What every word means, in two lines at most."""
    return {match["word"]: match["says"] for match in _WORD.finditer(page(GLOSSARY).text)}


@cache
def _patterns() -> tuple[tuple[str, re.Pattern[str]], ...]:
    """The words of the glossary as they stand in a text, the longest first."""
    words = sorted(glossary(), key=len, reverse=True)
    return tuple((word, re.compile(rf"\b{re.escape(word)}s?\b", re.IGNORECASE)) for word in words)


@lru_cache(maxsize=1000)
def meaning_of(text: str) -> str:
    """What the longest word of the glossary in a text means; empty where there is none."""
    word = next((word for word, pattern in _patterns() if pattern.search(text)), "")
    return f"{word}: {glossary()[word]}" if word else ""

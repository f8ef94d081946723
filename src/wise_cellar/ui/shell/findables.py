"""Everything that Find can reach in the present workspace."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from wise_cellar.core.documents import CellType, CompleteDesign, Craft, Design, Mission, field_info
from wise_cellar.core.words import upper_first
from wise_cellar.ui.shell.commands import CommandSet
from wise_cellar.ui.shell.finder import Findable
from wise_cellar.ui.shell.recipe_line import RecipeLine
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations import STATIONS
from wise_cellar.ui.stations.base import Station

Guard = Callable[[Callable[[], object]], Callable[[], None]]


def findables(
    session: Session,
    commands: CommandSet,
    recipe: RecipeLine,
    guard: Guard,
) -> list[Findable]:
    """Commands, documents and tokens. ``guard`` says what a choice was refused for."""
    keys = dict(commands.bindings())
    also = {station.title: station.search_words for station in STATIONS}
    found = [
        Findable("command", words, keys.get(words, ""), run, also.get(words, ""))
        for words, run in commands.by_words().items()
    ]
    for kind, model, path in (
        ("design", Design, ""),
        ("craft", Craft, "design.craft_id"),
        ("cell type", CellType, "design.packs.0.cell_type_id"),
        ("mission", Mission, "design.mission_id"),
    ):
        for key, document in session.all(model).items():
            choose = partial(session.edit, path, key) if path else partial(session.open_design, key)
            found.append(Findable(kind, document.name, "", guard(choose)))
    for path, token in recipe.tokens.items():
        if token.isHidden():
            continue
        found.append(Findable("recipe", token.name, token.text(), partial(recipe.open_token, path)))
    return found


def findable_fields(session: Session, station: Station, go_to_field: Callable[[str], None]) -> list[Findable]:
    """The fields of a station that shows the present design."""
    return [
        Findable("field", field_words(session, field.path), station.title, partial(go_to_field, field.path))
        for field in station.fields()
        if field.stands  # else a row or a part of the craft that this one does not have
    ]


def field_words(session: Session, path: str) -> str:
    """A field's title; one of a list with its row's name before it, where there are several."""
    parts = path.split(".")
    title = field_info(CompleteDesign, path).title
    for length in range(len(parts) - 1, 0, -1):
        if parts[length].isdigit():
            name = _row_name(session, parts[:length], int(parts[length]))
            if name:
                return f"{name}: {title}"
    return upper_first(title)


def _row_name(session: Session, inside: list[str], place: int) -> str:
    """What a row of a list is called; nothing where it is the only pack, or its cell type."""
    if inside in (["design", "packs"], ["cells"]) and len(session.complete.packs) == 1:
        return ""
    if inside == ["design", "packs"]:
        return session.complete.packs[place].name
    row = session.value(".".join([*inside, str(place)]))
    return str(getattr(row, "label", None) or getattr(row, "name", None) or place + 1)

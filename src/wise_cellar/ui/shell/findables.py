"""Everything that Find can reach in the present workspace."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial

from wise_cellar.core.build.label import code_of
from wise_cellar.core.documents import BuiltPack, CellType, CompleteDesign, Craft, Design, Mission, field_info
from wise_cellar.core.words import upper_first
from wise_cellar.ui.shell.answer_band import answers_shown
from wise_cellar.ui.shell.commands import CommandSet
from wise_cellar.ui.shell.finder import Findable
from wise_cellar.ui.shell.recipe_line import RecipeLine
from wise_cellar.ui.state.pack_life import fly_pack
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.stations import STATIONS
from wise_cellar.ui.stations.base import Station

ANSWER_WORDS = {
    "In the air": "flight time minutes duration how long", "Weakest link": "weakest limit breaks first",
    "Take-off mass": "weight auw heavy", "Late punch": "sag burst full throttle",
}  # fmt: skip
"""Everyday words for the answers of the band."""
FIELD_WORDS = {
    "kv_rpm_per_v": "kv", "weighed_g": "scale weigh", "takeoff_mass_g": "auw", "dcir_mohm": "internal resistance ir",
    "known_flights": "calibration", "gauge_awg": "wire thickness", "start_charge_percent": "full soc",
    "air_temperature_c": "cold hot", "capacity_mah": "mah", "continuous_current_a": "rated amps",
}  # fmt: skip
"""More words by which Find knows a field, by the last part of its path."""
Guard = Callable[[Callable[[], object]], Callable[[], None]]


def findables(
    session: Session,
    commands: CommandSet,
    recipe: RecipeLine,
    guard: Guard,
    go_to_page: Callable[[str, str], None],
    go_to_field: Callable[[str], None],
) -> list[Findable]:
    """Commands, documents, pages, answers and tokens. ``guard`` says what a choice was refused for."""
    keys = dict(commands.bindings())
    also = {station.title: station.search_words for station in STATIONS}
    found = [
        Findable(
            "command", words, keys.get(words, ""), command.run, also.get(words, "") or command.also, command.changes
        )
        for words, command in commands.by_words().items()
    ]
    found += [
        Findable("page", f"{station.title}: {page.name}", "", partial(go_to_page, station.title, page.name), page.words)
        for station in STATIONS
        for page in station.pages
    ]
    for kind, model, path in (
        ("design", Design, ""),
        ("craft", Craft, "design.craft_id"),
        ("cell type", CellType, "design.packs.0.cell_type_id"),
        ("mission", Mission, "design.mission_id"),
    ):
        for key, document in session.all(model).items():
            choose = partial(session.edit, path, key) if path else partial(session.open_design, key)
            beside = "archived" if document.archived else ""
            code = code_of(document) if model is Design else ""
            found.append(Findable(kind, document.name, beside, guard(choose), code))
    for pack in session.all(BuiltPack).values():
        ready = pack.finished and not pack.retired
        go = guard(partial(fly_pack, session, pack)) if ready else partial(go_to_page, "Build", "Packs")
        beside = "fly it" if ready else "half built"
        found.append(Findable("pack", pack.name, beside, go, code_of(pack), changes=ready))
    for shown in answers_shown(session.complete, session.answer, None):
        go = partial(go_to_field, shown.field)
        found.append(Findable("answer", shown.heading, shown.value, go, ANSWER_WORDS.get(shown.heading, "")))
    for path, token in recipe.tokens.items():
        if token.isHidden():
            continue
        found.append(Findable("recipe", token.name, token.text(), partial(recipe.open_token, path)))
    return found


def findable_fields(session: Session, station: Station, go_to_field: Callable[[str], None]) -> list[Findable]:
    """The fields of a station that shows the present design."""
    return [
        Findable(
            "field",
            field_words(session, field.path),
            station.title,
            partial(go_to_field, field.path),
            FIELD_WORDS.get(field.path.rsplit(".", 1)[-1], ""),
        )
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

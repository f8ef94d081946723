"""The sentence of the recipe line: its words, its tokens, what opens under each and what a step of it does."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any, Protocol

from wise_cellar.core.documents import (
    MOST_PARALLEL,
    MOST_SERIES,
    BuiltPack,
    CellType,
    CompleteDesign,
    Craft,
    LandingBasis,
    LandingPolicy,
    Mission,
    Strip,
)
from wise_cellar.core.pack import SCHOOLS
from wise_cellar.core.units import TOLD, counted, format_grams, format_mah, format_mm, format_significant
from wise_cellar.ui.shell.choosers import FieldsChooser, ListChooser, Option
from wise_cellar.ui.shell.recipe_words import conditions_words, joined_by, landing_words, own_battery_name, strip_words
from wise_cellar.ui.shell.token import Token
from wise_cellar.ui.state import bus_edits
from wise_cellar.ui.state.pack_life import fly_as_designed, fly_pack
from wise_cellar.ui.state.pack_making import built_packs
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.widgets.popover import Popover

SERIES, PARALLEL = "design.packs.0.recipe.series_count", "design.packs.0.recipe.parallel_count"


class Line(Protocol):
    """What a token changes the design through: each says so when a value is refused."""

    session: Session

    def step(self, path: str, by: int) -> None:
        """Step a whole number."""

    def choose(self, path: str, value: object) -> None:
        """Set what a token stands for."""

    def begin(self) -> None:
        """Begin with a craft of one's own."""


@dataclass(frozen=True)
class TokenSpec:
    """A token: its name, the path it stands for, its words, and what opens under it."""

    name: str
    path: str
    words: Callable[[CompleteDesign], str]
    open: Callable[[Line, Token], Popover]
    step: Callable[[Line, int], None] | None = None
    shown: Callable[[CompleteDesign], bool] = lambda _complete: True


@dataclass(frozen=True)
class WordSpec:
    """Words that hang on the design; none where they have nothing to say."""

    words: Callable[[CompleteDesign], str]


def _offered(line: Line, model: type, path: str) -> list[tuple[str, Any]]:
    """Documents to choose from: archived ones, and missions made for another craft, only while they are in use."""
    present, carrier = line.session.value(path), line.session.complete.craft.id

    def offered(document: Any) -> bool:
        return not getattr(document, "archived", False) and getattr(document, "craft_id", "") in ("", carrier)

    return [(key, d) for key, d in line.session.all(model).items() if key == present or offered(d)]


def _document_list(model: type, path: str, title: str, beside: Callable[..., str]):  # type: ignore[no-untyped-def]
    def open_list(line: Line, token: Token) -> Popover:
        options = [Option(d.name, beside(d), key) for key, d in _offered(line, model, path)]
        if model is Craft:
            options.append(Option("New craft…", "Ctrl+N", None, line.begin))
        return ListChooser(token, title, options, line.session.value(path), lambda v: line.session.edit(path, v))

    return open_list


def _document_step(model: type, path: str):  # type: ignore[no-untyped-def]
    def step(line: Line, by: int) -> None:
        keys = [key for key, _ in _offered(line, model, path)]
        line.choose(path, keys[(keys.index(line.session.value(path)) - by) % len(keys)])

    return step


def _open_own_battery(line: Line, token: Token) -> Popover:
    session = line.session
    own = session.complete.own_battery
    options = [
        Option(
            cell.name,
            f"{cell.cells_in_series}S, {format_mah(cell.capacity_mah)}, {format_grams(cell.mass_g, TOLD)}",
            cell.id,
        )
        for cell in bus_edits.whole_packs(session)
    ]
    present = own.cell.id if own is not None else ""
    return ListChooser(
        token, "The craft's own battery", options, present, lambda v: bus_edits.put_own_battery(session, str(v))
    )


def built_words(complete: CompleteDesign) -> str:
    """Name of the built pack that is flown."""
    flies = complete.pack.of.flies
    return flies.name if flies is not None else ""


def _open_built(line: Line, token: Token) -> Popover:
    session, flies = line.session, line.session.complete.pack.of.flies
    ready = [pack for pack in built_packs(session) if pack.finished and not pack.retired and pack.repair is None]
    options = [Option("As designed", "cells as their type says", "")]
    options += [
        Option(pack.name, f"{pack.recipe.series_count}S {pack.recipe.parallel_count}P", pack.id) for pack in ready
    ]

    def fly(pack_id: str) -> None:
        if pack_id:
            fly_pack(session, session.all(BuiltPack)[pack_id])
        else:
            fly_as_designed(session)

    return ListChooser(token, "The built pack", options, flies.id if flies is not None else "", fly)


def _count_list(path: str, title: str, most: int, letter: str):  # type: ignore[no-untyped-def]
    def open_list(line: Line, token: Token) -> Popover:
        options = [Option(f"{n}{letter}", "", n) for n in range(1, most + 1)]
        return ListChooser(token, title, options, line.session.value(path), lambda v: line.session.edit(path, v))

    return open_list


def _below(root: str, names: Sequence[str]) -> Callable[[], list[str]]:
    """Paths of some fields, the same whatever the design."""
    return lambda: [f"{root}.{name}" for name in names]


def _open_strip(line: Line, token: Token) -> Popover:
    caution = SCHOOLS[line.session.complete.pack.recipe.joint].caution
    names = ("joint", "strip.metal", "strip.width_mm", "strip.thickness_mm", "strip.layers")
    return FieldsChooser(token, line.session, "Joined by", _below("design.packs.0.recipe", names), caution)


def _open_leads(line: Line, token: Token) -> Popover:
    paths = _below("design.packs.0.recipe.leads", ("gauge_awg", "length_mm", "connector"))
    return FieldsChooser(token, line.session, "Leads and connector", paths)


def _open_conditions(line: Line, token: Token) -> Popover:
    names = (
        "conditions.air_temperature_c",
        "packs.0.state.temperature_c",
        "conditions.altitude_m",
        "conditions.wind_m_s",
        "packs.0.state.start_charge_percent",
        "packs.0.cooling",
    )
    return FieldsChooser(token, line.session, "Weather at take-off", _below("design", names))


_LANDING_FIELDS = {
    LandingBasis.LOADED: ("basis", "policy", "own_voltage_v", "hold_s"),
    LandingBasis.BURSTS: ("basis", "burst_voltage_v"),
    LandingBasis.RESTING: ("basis", "resting_voltage_v"),
    LandingBasis.CHARGE: ("basis", "charge_percent"),
    LandingBasis.COUNTER: ("basis", "charge_percent", "counter_mah", "counter_sees"),
}


def _open_landing(line: Line, token: Token) -> Popover:
    def paths() -> list[str]:
        return _below("design.landing", _LANDING_FIELDS[line.session.complete.design.landing.basis])()

    return FieldsChooser(
        token, line.session, "Landing rule", paths,
        "Deep landings leave nothing for a go-around and cost cycles.",
    )  # fmt: skip


_STRIP_STEPS = tuple(
    {"width_mm": width, "thickness_mm": thickness, "layers": layers}
    for width, thickness, layers in (
        (6, 0.15, 1),
        (8, 0.15, 1),
        (8, 0.2, 1),
        (8, 0.2, 2),
        (10, 0.2, 2),
        (10, 0.3, 2),
    )
)


def _step_strip(line: Line, by: int) -> None:
    """Step through common cross-sections, from where the present one stands; metal and all else stay."""
    strip = line.session.complete.pack.recipe.strip

    def section(size: Mapping[str, float]) -> float:
        return size["width_mm"] * size["thickness_mm"] * size["layers"]

    present = strip.width_mm * strip.thickness_mm * strip.layers
    larger = [size for size in _STRIP_STEPS if section(size) > present + 1e-9]
    smaller = [size for size in _STRIP_STEPS if section(size) < present - 1e-9]
    wanted = larger[:by] if by > 0 else smaller[by:]
    if wanted:
        line.choose("design.packs.0.recipe.strip", Strip.from_data(strip.model_dump() | wanted[-1 if by > 0 else 0]))


def _step_landing(line: Line, by: int) -> None:
    """Step what the rule goes by: the ready thresholds, 0.05 V at rest, or 5 % of charge."""
    rule = line.session.complete.design.landing
    if rule.basis is LandingBasis.LOADED:
        policies = list(LandingPolicy)
        line.choose("design.landing.policy", policies[(policies.index(rule.policy) - by) % len(policies)])
    elif rule.basis is LandingBasis.BURSTS:
        line.choose("design.landing.burst_voltage_v", round(rule.burst_voltage_v + 0.05 * by, 3))
    elif rule.basis is LandingBasis.RESTING:
        line.choose("design.landing.resting_voltage_v", round(rule.resting_voltage_v + 0.05 * by, 3))
    else:
        line.choose("design.landing.charge_percent", min(rule.charge_percent + 5 * by, 100))


def _stepper(path: str, sign: int = 1) -> Callable[[Line, int], None]:
    return lambda line, by: line.step(path, sign * by)


def _own_leads(complete: CompleteDesign) -> bool:
    """Whether one pack bought whole is carried, which has leads already."""
    recipe = complete.pack.recipe
    packs = recipe.series_count / complete.pack.cell.cells_in_series * recipe.parallel_count
    return complete.pack.cell.whole_pack and packs <= 1


SENTENCE: tuple[str | WordSpec | TokenSpec, ...] = (
    TokenSpec(
        "Craft",
        "design.craft_id",
        lambda c: c.craft.name,
        _document_list(Craft, "design.craft_id", "Craft", lambda d: f"{format_grams(d.dry_mass_g)} without a battery"),
        _document_step(Craft, "design.craft_id"),
    ),
    WordSpec(lambda c: "carries its own" if c.own_battery is not None else "carries"),
    TokenSpec(
        "Own battery",
        "design.packs.1",
        own_battery_name,
        _open_own_battery,
        shown=lambda c: c.own_battery is not None,
    ),
    WordSpec(lambda c: "with" if c.own_battery is not None else ""),
    TokenSpec(
        "Cells in series",
        SERIES,
        lambda c: f"{c.pack.recipe.series_count}S",
        _count_list(SERIES, "Cells in series", MOST_SERIES, "S"),
        _stepper(SERIES),
    ),
    "×",
    TokenSpec(
        "Cells in parallel",
        PARALLEL,
        lambda c: f"{c.pack.recipe.parallel_count}P",
        _count_list(PARALLEL, "Cells in parallel", MOST_PARALLEL, "P"),
        _stepper(PARALLEL),
    ),
    "of",
    TokenSpec(
        "Cell type",
        "design.packs.0.cell_type_id",
        lambda c: c.pack.cell.name,
        _document_list(
            CellType, "design.packs.0.cell_type_id", "Cell type",
            lambda d: (
                f"{format_mah(d.capacity_mah)}, {format_grams(d.mass_g, TOLD)},"
                f" {format_significant(d.resistance_mohm, 3)} mΩ, {format_significant(d.rated_current_a, 3)} A"
            ),
        ),
        _document_step(CellType, "design.packs.0.cell_type_id"),
    ),
    WordSpec(lambda c: "as" if c.pack.of.flies is not None else ""),
    TokenSpec(
        "Built pack", "design.packs.0.built", built_words, _open_built, shown=lambda c: c.pack.of.flies is not None
    ),
    WordSpec(joined_by),
    TokenSpec(
        "Strips",
        "design.packs.0.recipe.strip",
        lambda c: "its maker" if c.pack.cell.whole_pack else strip_words(c.pack.recipe),
        _open_strip,
        _step_strip,
    ),
    "on",
    TokenSpec(
        "Leads",
        "design.packs.0.recipe.leads",
        lambda c: (
            "its own" if _own_leads(c)
            else f"{c.pack.recipe.leads.gauge_awg} AWG, {format_mm(c.pack.recipe.leads.length_mm, TOLD)}"
        ),
        _open_leads,
        _stepper("design.packs.0.recipe.leads.gauge_awg", -1),
    ),
    "leads, flying",
    TokenSpec(
        "Mission",
        "design.mission_id",
        lambda c: c.mission.name,
        _document_list(Mission, "design.mission_id", "Mission", lambda d: counted(len(d.blocks), "block")),
        _document_step(Mission, "design.mission_id"),
    ),
    "at",
    TokenSpec("Weather", "design.conditions", conditions_words, _open_conditions),
    "and landing",
    TokenSpec(
        "Landing rule",
        "design.landing",
        landing_words,
        _open_landing,
        _step_landing,
    ),
)  # fmt: skip

"""What a design must keep to: the limits that craft and cells have, and what the user wishes besides.

A design that breaks one is kept with its reasons.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np

from wise_cellar.core.answer.limits import ends_as_planned
from wise_cellar.core.cells import VENTING_C
from wise_cellar.core.documents import Wishes
from wise_cellar.core.lowering.designs import brown_out_v
from wise_cellar.core.lowering.space import Space
from wise_cellar.core.physics.arrays import Bools, Floats
from wise_cellar.core.search.flown import Flown
from wise_cellar.core.units import (
    format_celsius,
    format_grams,
    format_minutes,
    format_number,
    format_significant,
    format_volts,
)

WORTH_S, WORTH_SHARE = 30.0, 0.02
"""What a relaxed limit must bring to be worth telling."""


@dataclass(frozen=True)
class Limit:
    """One limit over all rows of a search."""

    name: str
    field: str
    """Path that governs it."""
    fails: Bools
    value: Floats
    bound: Floats
    """(rows,) What ``value`` is held against."""
    words: Callable[[float, float], str]
    """Of value and bound, where it fails."""
    relaxed: Callable[[float], str] | None
    """How it would read at another bound; none where there is nothing to relax."""


def limits(space: Space, flown: Flown, wishes: Wishes) -> tuple[Limit, ...]:
    """Every limit that applies, over the rows of ``flown``."""
    rows = _Rows(space, flown)
    return tuple(one for one in (*_built(rows), *_loaded(rows), *_flying(rows), *_wished(rows, wishes)) if one)


@dataclass(frozen=True)
class _Rows:
    space: Space
    flown: Flown

    def most(
        self, name: str, field: str, value: Floats, bound: float | Floats, words: Callable[[float, float], str],
        relaxed: Callable[[float], str] | None = None,
    ) -> Limit:  # fmt: skip
        """At most ``bound``; what is not a number fails."""
        wide = np.broadcast_to(np.asarray(bound, float), value.shape)
        return Limit(name, field, ~(value <= wide), value, wide, words, relaxed)

    def least(
        self, name: str, field: str, value: Floats, bound: float | Floats, words: Callable[[float, float], str],
        relaxed: Callable[[float], str] | None = None,
    ) -> Limit:  # fmt: skip
        """At least ``bound``; what is not a number fails."""
        wide = np.broadcast_to(np.asarray(bound, float), value.shape)
        return Limit(name, field, ~(value >= wide), value, wide, words, relaxed)

    def cells(self, name: str) -> Floats:
        """A value of each row's cell type."""
        values = np.array([float(getattr(cell, name)) for cell in self.space.cells])
        return np.asarray(values[self.space.places(self.flown.row).cells])


def _built(rows: _Rows) -> Sequence[Limit | None]:
    """What can be made at all."""
    flown, craft = rows.flown, rows.space.complete.craft
    return (
        rows.least("Made of whole packs and honest cells", "design.packs.0.cell_type_id", flown.whole, 1.0,
                   lambda _v, _b: "Not a whole number of the packs that are bought, or a cell whose sheet cannot be"
                   " true."),
        rows.least("Strip", "design.packs.0.recipe.strip.width_mm", flown.strip_fits, 1.0,
                   lambda _v, _b: "The strip is too wide for these cells, or too short."),
        rows.most("Take-off mass", "craft.max_takeoff_mass_g", flown.takeoff_g, craft.max_takeoff_mass_g,
                  lambda v, b: f"{format_grams(v - b)} over the {format_grams(b)} that {craft.name} may weigh.",
                  lambda b: f"at a take-off mass of {format_grams(b)}")
        if craft.max_takeoff_mass_g is not None else None,
        rows.most("ESC voltage", "craft.esc.max_voltage_v", flown.full_v, craft.esc.max_voltage_v,
                  lambda v, b: f"{format_volts(v, 1)} when full; the ESC may see {format_volts(b, 1)}.",
                  lambda b: f"with an ESC for {format_volts(b, 1)}"),
        rows.most("Motor voltage", "craft.motor.max_voltage_v", flown.full_v, craft.motor.max_voltage_v,
                  lambda v, b: f"{format_volts(v, 1)} when full; the motors may see {format_volts(b, 1)}.",
                  lambda b: f"with motors for {format_volts(b, 1)}")
        if craft.motor.max_voltage_v is not None else None,
    )  # fmt: skip


def _loaded(rows: _Rows) -> Sequence[Limit | None]:
    """Currents of every link."""
    flown = rows.flown

    def share(name: str, field: str, values: Floats, what: str) -> Limit:
        carrier = what.split(" carr")[0].lower()
        return rows.most(
            name, field, values, 1.0,
            lambda v, _b: f"{what} {_percent(v)} of what is allowed.",
            lambda b: f"with {carrier} good for {format_number(b, 2)} times as much",
        )  # fmt: skip

    return (
        share("Cell current", "cells.0.continuous_current_a", flown.cell_share, "Cells carry"),
        share("Strip current", "design.packs.0.recipe.strip.layers", flown.strip_share, "Strips carry"),
        share("Joints", "design.packs.0.recipe.joint", flown.joint_share, "Welds or springs carry"),
        share(
            "Leads and connector", "design.packs.0.recipe.leads.gauge_awg", flown.lead_share, "Leads or connector carry"
        ),
        share("Other packs", "design.packs", flown.others_share, "Other packs carry")
        if len(rows.space.complete.packs) > 1
        else None,
        share("ESC and motor current", "craft.esc.max_current_a", flown.craft_share, "ESCs or motors carry"),
    )


def _flying(rows: _Rows) -> Sequence[Limit | None]:
    """How it flies and ends."""
    flown, others = rows.flown, len(rows.space.complete.packs) > 1
    stops = brown_out_v(rows.space.complete)
    good = ends_as_planned(flown.ending).astype(float)
    return (
        rows.least("A flight that ends as planned", "design.landing.policy", good, 1.0,
                   lambda _v, _b: "The flight does not end by its landing rule."),
        rows.least("Loads stay on", "craft.loads", flown.least_bus_v, stops,
                   lambda v, b: f"{format_volts(v, 1)} in a punch or at switch-on; a load stops below"
                                f" {format_volts(b, 1)}.",
                   lambda b: f"with loads that stay on at {format_volts(b, 1)}") if np.isfinite(stops) else None,
        rows.most("Warmest cell", "cells.0.max_temperature_c", flown.hottest_c, rows.cells("max_temperature_c"),
                  lambda v, b: f"Cells reach {format_celsius(v)}; {format_celsius(b)} are allowed.",
                  lambda b: f"at up to {format_celsius(b)}"),
        rows.most("Inside of the warmest cell", "design.packs.0.cooling", flown.inside_c, VENTING_C,
                  lambda v, b: f"Inside, cells reach about {format_celsius(v)}; near {format_celsius(b)} they vent."),
        rows.least("Other packs, warmth", "design.packs", flown.others_within, 1.0,
                   lambda _v, _b: "Another pack gets too warm or too cold.") if others else None,
        rows.least("One bus", "design.packs", flown.fits_bus, 1.0,
                   lambda _v, _b: "On one bus, one pack charges another with more, or higher, than it may.")
        if others else None,
        rows.least("Coldest cell", "cells.0.min_temperature_c", flown.coldest_c, rows.cells("min_temperature_c"),
                   lambda v, b: f"Cells are at {format_celsius(v)}; at least {format_celsius(b)} are needed."),
    )  # fmt: skip


def _wished(rows: _Rows, wishes: Wishes) -> Sequence[Limit | None]:
    """What the user asks for."""
    flown, craft = rows.flown, rows.space.complete.craft

    def asked(bound: float | None, make: Callable[[float], Limit]) -> Limit | None:
        return make(bound) if bound is not None else None

    return (
        rows.least("Battery bay", "craft.bay", flown.fits, 1.0, lambda _v, _b: "It does not go into the bay.")
        if wishes.into_bay and craft.bay is not None else None,
        asked(wishes.least_duration_min, lambda bound: rows.least(
            "Least time in the air", "design.search.wishes.least_duration_min", flown.duration_s, 60 * bound,
            lambda v, b: f"{format_minutes(v)} in the air, less than {format_minutes(b)}.",
            lambda b: f"with {format_minutes(b)} as the least")),
        asked(wishes.least_margin, lambda bound: rows.least(
            "Thrust margin", "design.search.wishes.least_margin", flown.late_margin, bound,
            lambda v, b: f"Late thrust {format_number(v, 2)} times {craft.margin_over}, less than"
                         f" {format_significant(b)}.",
            lambda b: f"at a thrust margin of {format_number(b, 2)}")),
        asked(wishes.least_quickness_percent, lambda bound: rows.least(
            "Quickness", "design.search.wishes.least_quickness_percent", 100 * flown.quickness, bound,
            lambda v, b: f"It turns {format_number(v, 0)} % as quickly as with the battery it flies now, less than"
                         f" {format_number(b, 0)} %.",
            lambda b: f"at {format_number(b, 0)} % of its quickness")),
        asked(wishes.most_hover_percent, lambda bound: rows.most(
            "Throttle in hover", "design.search.wishes.most_hover_percent", 100 * flown.hover_throttle, bound,
            lambda v, b: f"{format_number(v, 0)} % throttle in a hover, more than {format_number(b, 0)} %.",
            lambda b: f"at {format_number(b, 0)} % throttle in hover")),
        asked(wishes.most_takeoff_mass_g, lambda bound: rows.most(
            "Mass class", "design.search.wishes.most_takeoff_mass_g", flown.takeoff_g, bound,
            lambda v, b: f"{format_grams(v - b)} over the class of {format_grams(b)}.",
            lambda b: f"in a class of {format_grams(b)}")),
        asked(wishes.most_price, lambda bound: rows.most(
            "Price", "design.search.wishes.most_price", flown.price, bound,
            lambda v, b: f"Cells for {format_number(v, 2)}, more than {format_number(b, 2)}."
            if v == v else "Cells without a price.",
            lambda b: f"at a price of {format_number(b, 2)}")),
        asked(wishes.least_late_v, lambda bound: rows.least(
            "Late punch", "design.search.wishes.least_late_v", flown.late_v, bound,
            lambda v, b: f"{format_volts(v)} a cell in a late punch, less than {format_volts(b)}.",
            lambda b: f"at {format_volts(b)} in a late punch")),
        asked(wishes.most_temperature_c, lambda bound: rows.most(
            "Warmth wished for", "design.search.wishes.most_temperature_c", flown.hottest_c, bound,
            lambda v, b: f"Cells reach {format_celsius(v)}, more than {format_celsius(b)}.",
            lambda b: f"at up to {format_celsius(b)}")),
    )  # fmt: skip


@dataclass(frozen=True)
class Judged:
    """Limits and what passes all of them."""

    limits: tuple[Limit, ...]
    passes: Bools

    def reasons(self, place: int) -> list[str]:
        """Why a row is excluded, one sentence a limit; empty where it passes."""
        return [
            f"{limit.name}: {limit.words(float(limit.value[place]), float(limit.bound[place]))}"
            for limit in self.limits
            if limit.fails[place]
        ]


def judge(space: Space, flown: Flown, wishes: Wishes) -> Judged:
    """Hold every row against every limit."""
    found = limits(space, flown, wishes)
    failing = np.logical_or.reduce([limit.fails for limit in found])
    return Judged(found, ~failing)


@dataclass(frozen=True)
class Exclusion:
    """The limit that excludes most, and what relaxing it alone would bring."""

    limit: Limit
    count: int
    alone: int
    """Excluded by nothing else."""
    nearest: int | None
    """Row, by place, that needs least relaxing of those that would gain something worth while; none where nothing is
    gained, or every other limit excludes too."""
    gained_s: float
    """What it flies longer than the longest that passes; infinite where none passes."""

    def sentence(self, total: int, flown: Flown) -> str:
        """In words."""
        whole = (
            f"{self.limit.name} excludes most: {format_number(self.count, 0)} of {format_number(total, 0)} designs,"
            f" {format_number(self.alone, 0)} of them alone."
        )
        if self.nearest is None or self.limit.relaxed is None:
            return whole
        relaxed = self.limit.relaxed(float(self.limit.value[self.nearest]))
        minutes = format_minutes(float(flown.duration_s[self.nearest]))
        more = f", {format_minutes(self.gained_s)} more" if np.isfinite(self.gained_s) else ""
        return f"{whole} Relaxed, {relaxed}, one would fly {minutes}{more}."


def worst_exclusion(judged: Judged, flown: Flown) -> Exclusion | None:
    """The limit that excludes most; none where nothing is excluded."""
    if not judged.limits or judged.passes.all():
        return None
    limit = max(judged.limits, key=lambda one: int(one.fails.sum()))
    count = np.sum([one.fails for one in judged.limits], axis=0)
    alone = limit.fails & (count == 1)
    standing = float(flown.duration_s[judged.passes].max()) if judged.passes.any() else -np.inf
    gained = np.where(alone, flown.duration_s - standing, -np.inf)
    # A few seconds are no reason to relax anything; the longest gain of all counts where none is greater than them.
    enough = min(max(WORTH_S, WORTH_SHARE * standing), float(gained.max()))
    worth = np.flatnonzero(alone & (gained >= max(enough, 1e-9)))
    nearest = None
    if len(worth):
        away = np.abs(limit.value - limit.bound)[worth] / np.maximum(np.abs(limit.bound[worth]), 1e-9)
        nearest = int(worth[np.argmin(np.nan_to_num(away, nan=np.inf))])
    more = float(gained[nearest]) if nearest is not None else 0.0
    return Exclusion(limit, int(limit.fails.sum()), int(alone.sum()), nearest, more)


def _percent(share: float) -> str:
    return f"{format_number(100 * share, 0)} %"

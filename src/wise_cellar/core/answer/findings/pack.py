"""What to be careful about in the pack as it is built: mass, room, balance, placement, strips, currents."""

from __future__ import annotations

from collections.abc import Iterator

from wise_cellar.core.answer.limits import WIDEST_STRIP, strip_room_mm, strip_too_short, strip_too_wide
from wise_cellar.core.answer.result import Answer, Finding, caution, over
from wise_cellar.core.cells import burst_s
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.pack import Link, LinkKind, RunKind, balance_of, stow
from wise_cellar.core.pack.joining import SPRING_BURST_S, joint_ohm
from wise_cellar.core.units import (
    TOLD,
    format_amps,
    format_grams,
    format_mm,
    format_number,
    format_rise,
    format_significant,
    format_size,
)
from wise_cellar.core.words import lower_first

NEAR_LIMIT = 0.85
WEIGHED_APART = 0.03


def pack_findings(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    """Findings of the pack."""
    for room in (_mass, _room, _balance, _placement, _strips, _currents):
        yield from room(complete, answer)


def _mass(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    craft, limit = complete.craft, complete.craft.max_takeoff_mass_g
    if limit is not None and answer.takeoff_mass_g > limit:
        yield over(
            f"Take-off mass {format_grams(answer.takeoff_mass_g)} is {format_grams(answer.takeoff_mass_g - limit)}"
            " over the"
            f" {format_grams(limit)} that {craft.name} may weigh.",
            "craft.max_takeoff_mass_g",
        )
    for pack in answer.packs:
        weighed, grams = pack.complete.recipe.weighed_g, pack.build.parts_g
        if weighed is not None and abs(weighed - grams) > WEIGHED_APART * weighed:
            yield caution(
                f"The {lower_first(pack.complete.name)} was weighed at {format_grams(weighed)}; its parts add up to"
                f" {format_grams(grams)}. The flight uses what was weighed: check both.",
                pack.complete.path("recipe.weighed_g"),
            )


def _room(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    craft = complete.craft
    # A craft's own battery lies in the bay, and an auxiliary elsewhere.
    layout = next((pack.build.layout for pack in answer.packs if pack.complete.own), answer.build.layout)
    if craft.bay is None or stow(layout, craft.bay) is not None:
        return
    size = f"The pack, {format_size(layout.length_mm, layout.width_mm, layout.height_mm)},"
    bay = format_size(craft.bay.length_mm, craft.bay.width_mm, craft.bay.height_mm)
    open_bay = craft.bay.changed(keep_outs=())
    if craft.bay.keep_outs and stow(layout, open_bay) is not None:
        names = ", ".join(kept.name for kept in craft.bay.keep_outs)
        yield over(
            f"{size} goes into {craft.name}'s bay of {bay} only over what must stay free: {names}.",
            "craft.bay.keep_outs",
        )
    else:
        yield over(f"{size} does not go into {craft.name}'s bay of {bay}.", "craft.bay.length_mm")


def _balance(complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    point = balance_of(complete, answer.build)
    balance = complete.craft.balance
    if point is None or balance is None or point.within:
        return
    yield caution(
        f"With this pack the craft balances {format_mm(abs(point.after_mm - balance.wanted_mm))}"
        f" {'ahead of' if point.after_mm > balance.wanted_mm else 'behind'} where it should;"
        f" {format_mm(balance.tolerance_mm)} are allowed. Move the pack, or the balance and the tune change.",
        "design.packs.0.recipe.fittings.shift_mm",
    )


def _placement(_complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    for pack in answer.packs:
        layout, field = pack.build.layout, pack.complete.path("recipe.arrangement")
        if layout.unplaced:
            yield caution(
                f"{layout.unplaced} of the {len(layout.cells)} cells were not in your own placement and stand where"
                " there was room: drag them where they belong.",
                field,
            )
        wires = [run for run in layout.strips if run.kind is RunKind.WIRE]
        for run in wires[:3]:
            groups = sorted({layout.cells[end.cell].group + 1 for end in (run.start, run.end)})
            who = f"group {groups[0]}" if len(groups) == 1 else f"groups {groups[0]} and {groups[1]}"
            yield over(
                f"Link {run.node}: no strip reaches between cells {run.start.cell + 1} and {run.end.cell + 1} of"
                f" {who}; they would need a wire of {format_mm(run.length_mm)}. Put them side by side with these"
                " ends on one face.",
                field,
            )


def _strips(_complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    for pack in answer.packs:
        cell, strip, layout = pack.complete.cell, pack.complete.recipe.strip, pack.build.layout
        if not layout.strips:
            continue
        room = strip_room_mm(cell)
        if strip_too_wide(strip.width_mm, room):
            yield over(
                f"A strip {format_mm(strip.width_mm, TOLD)} wide covers a cell end of {format_mm(room, TOLD)}"
                f" and reaches the cells beside it, a short circuit; {format_mm(WIDEST_STRIP * room)} is the"
                " most here.",
                pack.complete.path("recipe.strip.width_mm"),
            )
        longest = layout.longest_piece_mm(strip.width_mm)
        if strip.piece_mm is not None and strip_too_short(longest, strip.piece_mm):
            yield over(
                f"The longest piece of strip is {format_mm(longest)}; yours are {format_mm(strip.piece_mm)} and"
                " do not reach.",
                pack.complete.path("recipe.strip.piece_mm"),
            )


def _currents(_complete: CompleteDesign, answer: Answer) -> Iterator[Finding]:
    for link in answer.links:
        if link.worst_share <= NEAR_LIMIT or link.kind is LinkKind.GROUP:
            continue
        yield (over if link.worst_share > 1 else caution)(_current(answer, link), link.field)


def _current(answer: Answer, link: Link) -> str:
    """What a link carries too much of: at cruise, in a punch, or along the flight."""
    pack = answer.packs[link.pack] if link.pack is not None else None
    if pack is not None and link.springs:
        amps, ohm = max(link.cruise_a, link.punch_a), joint_ohm(pack.build.recipe)
        return (
            f"{link.name}: {format_amps(amps)} heats each contact with {format_number(amps**2 * ohm, 1)}"
            f" W. They are good for {format_amps(link.cruise_limit_a, TOLD)}, and for"
            f" {format_amps(2 * link.cruise_limit_a, TOLD)} for {format_significant(SPRING_BURST_S)} s."
        )
    if pack is not None and link.by_flight:
        if link.flown_rise_k is not None and link.rise_allowed_k is not None:
            return (
                f"{link.name}: the bursts of this flight, one after another, warm it by"
                f" {format_rise(link.flown_rise_k)}; {format_rise(link.rise_allowed_k)} are allowed."
            )
        return (
            f"{link.name}: {format_amps(link.held_a)} in bursts of more than"
            f" {format_significant(burst_s(pack.complete.cell))} s in all, against"
            f" {format_amps(link.cruise_limit_a)} for good."
        )
    at_punch = link.cruise_share <= 1 and link.punch_share >= link.cruise_share
    amps, limit = (link.punch_a, link.punch_limit_a) if at_punch else (link.cruise_a, link.cruise_limit_a)
    when = f"in a {format_significant(answer.punch_s)} s punch" if at_punch else "at cruise"
    return f"{link.name}: {format_amps(amps)} {when} against {format_amps(limit)} allowed."

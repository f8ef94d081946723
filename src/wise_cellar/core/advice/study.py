"""The proposals for a pack, flown: minutes, grams and what they do to the link they spare; and what each link costs."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from wise_cellar.core.advice.proposals import CLEAR, Proposal, Target, proposals
from wise_cellar.core.answer import Answer
from wise_cellar.core.answer.bus_links import bus_links, pack_currents
from wise_cellar.core.answer.result import weakest
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.flight import FlightBatch, FlightTraces, fly
from wise_cellar.core.flight.punch import punch_from
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.lowering.designs import LoweredDesign, punch_seconds
from wise_cellar.core.pack import Alternative, Link, LinkKind, PackCurrents, alternatives, as_parts, largest_that_fits
from wise_cellar.core.units import format_amps, format_number, format_significant
from wise_cellar.core.words import any_of

CELLS = "Cells"
NO_RESISTANCE = 1e-3
"""Share of a cell's resistance that is left where it is asked what it costs: none at all cannot be integrated."""
LEAST_SHARE = 0.005
"""Of the minutes, or of what takes off: less is not worth changing anything for."""
THROTTLES = 19
"""So many are tried, from a tenth to full."""
NO_WORSE = 1.01
"""Less resistance lets a punch draw a little more: no reason to leave a link that is over its limit unmended."""


@dataclass(frozen=True)
class Outcome:
    """A proposal, flown."""

    proposal: Proposal
    gain_s: float
    added_g: float
    link: str
    """The link that it spares, or the weakest one."""
    before: float
    after: float
    """Share of that link's limit."""

    @property
    def clears(self) -> bool:
        """Whether the link is clear of its limit afterwards."""
        return self.after <= CLEAR


@dataclass(frozen=True)
class PackStudy:
    """All that is worth telling of a pack, beside the answer."""

    lost_s: dict[str, float]
    """For every line of the resistance ledger, and :data:`CELLS`: what the flight would gain if it were free."""
    cure: Outcome | None
    """The smallest change that clears the weakest link; none where it is clear, or nothing here clears it."""
    worth: tuple[Outcome, ...]
    """What gains time or saves mass and pushes no link over its limit, best first."""
    would: str
    """What would clear the weakest link where no change of wiring does; nothing where it is clear."""
    alternatives: tuple[Alternative, ...]
    largest: Alternative | None
    """Where no arrangement fits the bay: the largest pack of these cells that does."""


def study_pack(complete: CompleteDesign, answer: Answer) -> PackStudy:
    """Fly the present design without each of its resistances, and with every proposal."""
    complete = as_parts(complete)
    flown = _flown(complete, answer, proposals(complete.pack.recipe, answer))
    ways = alternatives(complete)
    nothing_fits = bool(ways) and not any(way.fits for way in ways)
    return PackStudy(
        lost_s=_lost(complete, answer),
        cure=_cure(answer, flown),
        worth=_worth(answer, flown),
        would=_would(complete, answer),
        alternatives=ways,
        largest=largest_that_fits(complete) if nothing_fits else None,
    )


def _lost(complete: CompleteDesign, answer: Answer) -> dict[str, float]:
    entries = answer.build.resistances
    one = lower([lower_one(complete, answer.factor)])
    wide = one.take(np.zeros(len(entries) + 1, np.intp))
    shape = wide.parallel.shape
    cell_share, saved = np.ones(shape), np.zeros(shape)
    cell_share[0, 0, 0] = NO_RESISTANCE
    saved[0, 0, 1:] = [entry.ohm for entry in entries]
    free = replace(
        wide,
        wiring_ohm=np.maximum(wide.wiring_ohm - saved, 0.0),
        cell=replace(wide.cell, r0_ohm=wide.cell.r0_ohm * cell_share, r1_ohm=wide.cell.r1_ohm * cell_share),
    )
    gains = fly(free).lasted_s - answer.duration_s
    return dict(zip([CELLS, *(entry.name for entry in entries)], gains.tolist(), strict=True))


def _flown(complete: CompleteDesign, answer: Answer, wanted: Sequence[Proposal]) -> list[tuple[Outcome, bool]]:
    """Each proposal, and whether it pushes a link over its limit that was not, or the craft over its mass."""
    if not wanted:
        return []
    designs = [lower_one(complete.with_pack(recipe=proposal.recipe), answer.factor) for proposal in wanted]
    batch = lower(designs)
    traces = fly(batch)
    chains = _chains(complete, designs, batch, traces)
    limit = complete.craft.max_takeoff_mass_g
    over = {(link.pack, link.kind) for link in answer.links if link.worst_share > 1}
    governing = weakest(answer.recipe_links)
    found = []
    for place, (proposal, design, links) in enumerate(zip(wanted, designs, chains, strict=True)):
        spared = next((link for link in answer.links if link.name == proposal.link), governing)
        harm = any(link.worst_share > 1 and (link.pack, link.kind) not in over for link in links)
        heavy = limit is not None and design.takeoff_mass_g > max(limit, answer.takeoff_mass_g)
        after = [link.worst_share for link in links if (link.pack, link.kind) == (spared.pack, spared.kind)]
        found.append(
            (
                Outcome(
                    proposal,
                    float(traces.lasted_s[place]) - answer.duration_s,
                    design.takeoff_mass_g - answer.takeoff_mass_g,
                    spared.name,
                    spared.worst_share,
                    max(after, default=0.0),
                ),
                harm or heavy,
            )
        )
    return found


def _chains(
    complete: CompleteDesign, designs: Sequence[LoweredDesign], batch: FlightBatch, traces: FlightTraces
) -> Iterator[tuple[Link, ...]]:
    """The chain of each design: cruise, and the greatest of the flight's own punch, one at the start and a late one."""
    seconds = punch_seconds(complete)
    every = np.arange(len(designs))
    bursts = [punch_from(batch, states, seconds, every) for states in (batch.start, traces.late_state)]
    punch = np.max([traces.punch_current_a, *(burst.current_a for burst in bursts)], axis=0)[:, 0]
    bus = np.max([traces.punch_bus_a, *(burst.bus_a for burst in bursts)], axis=0)
    for place, design in enumerate(designs):
        its = pack_currents(design.packs, traces, place, punch[:, place], seconds)
        together = PackCurrents(float(traces.cruise_bus_a[place]), float(bus[place]), seconds)
        yield bus_links(design.packs, complete.craft, its, together)


def _cure(answer: Answer, flown: Sequence[tuple[Outcome, bool]]) -> Outcome | None:
    """The lightest change that clears the weakest link, of equals the least; failing that the lightest that takes it
    under its limit."""
    weak = weakest(answer.recipe_links)
    if weak.worst_share <= CLEAR:
        return None
    meant = [o for o, harm in flown if o.proposal.target is Target.LINK and o.link == weak.name and not harm]
    clearing = [o for o in meant if o.clears] or [o for o in meant if o.after <= 1.0 < o.before]
    return min(clearing, key=lambda o: round(o.added_g, 1), default=None)


def _throttle(complete: CompleteDesign, answer: Answer, share: float) -> float:
    """The throttle at which a first burst takes ``share`` of what it takes now, 1 = full."""
    duties = np.linspace(0.1, 1.0, THROTTLES)
    batch = lower([lower_one(complete, answer.factor)]).take(np.zeros(THROTTLES, np.intp))
    bursts = replace(batch.one_block(answer.punch_s), block_duty=duties[:, None])
    amps = fly(bursts).punch_current_a[0, 0]
    now = np.interp(complete.design.conditions.most_duty, duties, amps)
    return float(np.interp(share * now, amps, duties))


def _would(complete: CompleteDesign, answer: Answer) -> str:
    """Beyond the wiring: other cells, one more in parallel, less throttle."""
    weak = weakest(answer.recipe_links)
    if weak.worst_share <= 1:
        return ""
    ways = []
    if weak.kind in (LinkKind.CELL, LinkKind.JOINT):
        count = answer.build.recipe.parallel_count
        more = next((n for n in range(count + 1, count + 4) if weak.worst_share * count <= n), None)
        if weak.kind is LinkKind.CELL:
            amps, when = (
                (weak.punch_a, f" for {format_significant(answer.punch_s)} s")
                if weak.cruise_share <= 1
                else (weak.cruise_a, "")
            )
            ways.append(f"a power cell that gives {format_amps(amps, 0)}{when}")
        if more is not None:
            ways.append(f"{more - count} more in parallel" if more > count + 1 else "one more in parallel")
    if weak.cruise_share <= 1 < weak.punch_share and weak.punch_limit_a > weak.cruise_a:
        held = _throttle(complete, answer, weak.punch_limit_a / weak.punch_a)
        ways.append(f"throttle held to {format_number(100 * held, 0)} % in bursts")
    return f"{any_of(ways)} would." if ways else ""


def _worth(answer: Answer, flown: Sequence[tuple[Outcome, bool]]) -> tuple[Outcome, ...]:
    """Gains of half a per cent or more, and savings as large that cost no time; the weakest link within its limit, or
    hardly worse."""
    gain_s, saving_g = LEAST_SHARE * answer.duration_s, LEAST_SHARE * answer.takeoff_mass_g
    kept = [
        o
        for o, harm in flown
        if o.proposal.target is not Target.LINK
        and not harm
        and o.after <= max(1.0, o.before * NO_WORSE)
        and (o.gain_s >= gain_s or (o.added_g <= -saving_g and o.gain_s >= 0))
    ]
    return tuple(sorted(kept, key=lambda o: -o.gain_s))

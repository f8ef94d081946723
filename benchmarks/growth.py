"""How cost grows: with minutes, blocks, cells of a pack, flights, designs of a search and of a workspace, log rows.

``python -m benchmarks.growth``; with ``--million`` a million flights and nearly as many designs too: some minutes.
"""

from __future__ import annotations

import sys
import tempfile
import time
from dataclasses import fields, replace
from datetime import timedelta
from functools import partial
from itertools import count
from pathlib import Path
from typing import Any

import numpy as np

from benchmarks.memory import peak_mb
from benchmarks.timing import median_ms
from wise_cellar.core.answer import answer
from wise_cellar.core.curves import Circumstances
from wise_cellar.core.documents import (
    CellType,
    CompleteDesign,
    Document,
    Joint,
    PackRecipe,
    Recording,
    RecordingKind,
    Wishes,
)
from wise_cellar.core.flight import FlightBatch, fly
from wise_cellar.core.flight.integrator import MOST_ALONE
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.lowering.space import READY_POLICIES
from wise_cellar.core.pack import build_pack
from wise_cellar.core.search import Aim, Flyers, Space, gains, joined, judge, pareto
from wise_cellar.demo import complete_sample, sample_documents, sample_workspace
from wise_cellar.store import Workspace
from wise_cellar.store.curve_files import look_at_table, read_table
from wise_cellar.store.series import growing_key, pack_curve

PART = 10_000
"""Flights at once where there are more: what bounds the memory."""


def main() -> None:
    """Print every table."""
    design = complete_sample("whimbrel-transect")
    minutes(design)
    blocks(design)
    cells(design)
    million = "--million" in sys.argv
    flights(design, million=million)
    designs(design, million=million)
    rows()
    workspace()
    logged(million=million)


def table(what: str, *columns: str) -> None:
    """Begin a table."""
    print(f"\n| {what} | {' | '.join(columns)} |\n|{'---|' * (1 + len(columns))}")


def say(what: object, *figures: str) -> None:
    """One row of it."""
    print(f"| {what} | {' | '.join(figures)} |", flush=True)


def minutes(design: CompleteDesign) -> None:
    """One flight at a power at which it lasts so long."""
    batch = lower([lower_one(design, 1.0)])
    joules = float((batch.cell.charge_c * batch.rest_v * batch.parallel * batch.series)[0, 0, 0])
    table("minutes of one flight", "minutes flown", "steps", "in plain numbers", "in arrays")
    for wanted in (5, 50, 500, 5000):
        held = batch.one_block(np.inf, power_w=np.array([joules / (60 * wanted)]))
        held = replace(held, block_duty=np.zeros((1, 1)))
        flown = fly(held)
        many = held.take(np.zeros(MOST_ALONE + 1, np.intp))
        alone, arrays = median_ms(partial(fly, held), 5), median_ms(partial(fly, many), 5)
        say(wanted, f"{flown.end_s[0] / 60:.1f}", f"{flown.steps}", f"{alone:.1f} ms", f"{arrays:.1f} ms")


def blocks(design: CompleteDesign) -> None:
    """Twenty minutes at one power in so many parts: none but the integrator's own cost of beginning a block."""
    batch = lower([lower_one(design, 1.0)])
    table("blocks of a flight of 20 minutes", "in plain numbers", "a block")
    for number in (1, 12, 120, 1200):
        one = batch.one_block(1200 / number, power_w=batch.block_w[:, 1])
        parts: dict[str, Any] = {
            f.name: np.repeat(getattr(one, f.name), number, axis=1) for f in fields(one) if "block_" in f.name
        }
        took = median_ms(partial(fly, replace(one, **parts)), 3)
        say(f"{number:,}", f"{took:.1f} ms", f"{took / number:.2f} ms")


def cells(design: CompleteDesign) -> None:
    """Packs of more and more cells, each answered with its circuit solved anew."""
    table("S × P", "pack built, circuit solved", "one answer")
    for series, parallel in ((1, 1), (4, 3), (12, 4), (20, 12), (20, 40)):
        recipe = design.pack.recipe.changed(series_count=series, parallel_count=parallel)
        built = median_ms(partial(_built, recipe, design.pack.cell, count(160)), 5)
        took = median_ms(partial(answer, design.with_pack(recipe=recipe)), 5)
        say(f"{series}S {parallel}P", f"{built:.1f} ms", f"{took:.0f} ms")


def _built(recipe: PackRecipe, cell: CellType, millimetres: count[int]) -> None:
    """A pack that nothing is remembered of, as no other has leads of that length."""
    leads = recipe.leads.changed(length_mm=next(millimetres))
    assert build_pack(recipe.changed(leads=leads), cell, None).wiring_ohm


def _unlike(design: CompleteDesign, number: int) -> FlightBatch:
    """Flights that differ in mass, load and capacity."""
    random = np.random.default_rng(7)
    batch = lower([lower_one(design, 1.0)]).take(np.zeros(number, np.intp))
    share = random.uniform(0.7, 1.3, (3, number))
    cell = replace(batch.cell, charge_c=batch.cell.charge_c * share[0], r0_ohm=batch.cell.r0_ohm * share[1])
    return replace(batch, cell=cell, block_w=batch.block_w * share[2][:, None])


def flights(design: CompleteDesign, *, million: bool) -> None:
    """More and more unlike flights, beside a plain loop over answers."""
    loop = median_ms(partial(answer, design), 15)
    table("flights", "all", "a flight", f"against a loop over answers of {loop:.0f} ms", "peak memory")
    for number in (1, 9, 10, 100, 1000, 10_000, 100_000, *([1_000_000] if million else [])):
        every = partial(_in_parts, _unlike(design, min(number, PART)), -(-number // PART))
        took = median_ms(every, 5 if number <= 1000 else 2 if number <= PART else 1)
        each = took / number
        say(f"{number:,}", f"{took:,.0f} ms", f"{1e3 * each:,.0f} µs", f"{loop / each:,.0f} times",
            f"{peak_mb():.0f} MB")  # fmt: skip


def _in_parts(batch: FlightBatch, parts: int) -> None:
    for _ in range(parts):
        fly(batch)


def designs(design: CompleteDesign, *, million: bool) -> None:
    """More and more designs searched, judged and ranked, on all cores."""
    shelf = [document for document in sample_documents() if isinstance(document, CellType)]
    flyers, factor = Flyers(), answer(design).factor
    table("designs of a search", "all", "a second", "peak memory, this process and each of the others")
    try:
        for series, parallel in ((6, 1), (6, 6), *([(19, 40)] if million else [])):
            space = Space.around(
                design, series=range(1, series + 1), parallel=range(1, parallel + 1), cells=shelf,
                joints=tuple(Joint), gauges=range(8, 19), policies=READY_POLICIES,
            )  # fmt: skip
            began = time.perf_counter()
            flown = joined(list(flyers.fly(space, factor)))
            pareto(gains(flown, list(Aim)), judge(space, flown, Wishes()).passes)
            seconds = time.perf_counter() - began
            others = f"{flyers._pool.submit(peak_mb).result():.0f} MB" if flyers._pool is not None else "none"
            say(f"{len(flown):,}", f"{seconds:.1f} s", f"{len(flown) / seconds:,.0f}", f"{peak_mb():.0f} MB, {others}")
    finally:
        flyers.close()


def rows() -> None:
    """A table of volts and amps."""
    table("rows of a log", "read", "a million rows")
    with tempfile.TemporaryDirectory() as folder:
        for number in (1_000, 10_000, 100_000, 1_000_000):
            path = Path(folder) / f"{number}.csv"
            values = np.column_stack([np.arange(number) * 0.01, np.linspace(4.15, 2.5, number)])
            path.write_text("time,volts,amps\n" + "".join(f"{t:.2f},{v:.4f},2.5\n" for t, v in values.tolist()))
            given = Circumstances("log")
            took = median_ms(partial(_read, path, given), 3)
            say(f"{number:,}", f"{took:.0f} ms", f"{took * 1e3 / number:.2f} s")


def _read(path: Path, given: Circumstances) -> None:
    pack_curve(read_table(look_at_table(path), given, 2.5).curve)


def workspace() -> None:
    """Opened and read with more and more designs."""
    table("designs in the workspace", "opened and read", "its file")
    with tempfile.TemporaryDirectory() as folder:
        for number in (0, 100, 1000):
            path = Path(folder) / f"{number}.cellar"
            with sample_workspace(path) as made:
                design = complete_sample("whimbrel-transect").design
                more: list[Document] = [design.changed(id=f"d{n}", name=f"Plover {n}") for n in range(number)]
                made.commit("Many", more)
            say(f"{number:,} more than the samples", f"{median_ms(partial(_opened, path), 5):.0f} ms",
                f"{path.stat().st_size / 1e6:.1f} MB")  # fmt: skip


def logged(*, million: bool) -> None:
    """Opened and read with more and more logged flights of an hour at 10 Hz."""
    table("logged flights of 36 000 rows in the workspace", "opened and read", "its file")
    with tempfile.TemporaryDirectory() as folder:
        for number in (10, 100, *([1000] if million else [])):
            path = Path(folder) / f"{number}.cellar"
            with sample_workspace(path) as made:
                of = next(one for one in made.all(Recording).values() if one.kind is RecordingKind.FLIGHT)
                seen = np.frombuffer(made.series(of.series_key), "<f8").reshape(-1, 1 + len(of.channels))
                clock = np.linspace(0.0, seen[-1, 0], 36_000)
                hour = np.column_stack([clock, *(np.interp(clock, seen[:, 0], line) for line in seen.T[1:])])
                more = [of.changed(id=f"r{n}", name=f"Shore {n}", series_key=growing_key(), sample=False,
                                   begun_at=of.begun_at + timedelta(hours=n)) for n in range(number)]  # fmt: skip
                made.commit("Many", more)
                for one in more:
                    made.grow_series(one.series_key, [hour.astype("<f8").tobytes()])
            took = median_ms(partial(_opened, path), 3)
            say(f"{number:,} more than the samples", f"{took:.0f} ms", f"{path.stat().st_size / 1e6:.0f} MB")


def _opened(path: Path) -> None:
    with Workspace.open(path) as found:
        found.read()


if __name__ == "__main__":
    main()

"""Measure the figures of docs/performance.md and print them as a table.

script/benchmark
"""

from __future__ import annotations

import os
import statistics
import subprocess
import sys
import tempfile
import time
from dataclasses import replace
from functools import partial
from pathlib import Path

import numpy as np
from tests.reference_flight import ReferenceFlight

from benchmarks import live
from benchmarks.memory import peak_mb
from benchmarks.painted import painted_windows
from benchmarks.timing import milliseconds, timed
from wise_cellar.core.advice import study_pack
from wise_cellar.core.answer import answer, spread
from wise_cellar.core.build import Asked, match
from wise_cellar.core.build import judge as judge_tray
from wise_cellar.core.build.making import Making
from wise_cellar.core.build.steps import Bench
from wise_cellar.core.build.taps import diagnose
from wise_cellar.core.build.wiring import Fault, read_as
from wise_cellar.core.charge import charge_plan, field_day, set_kind
from wise_cellar.core.curves import Circumstances
from wise_cellar.core.documents import (
    CellType,
    Joint,
    LandingRule,
    NumberedCell,
    PackRecipe,
    Wishes,
)
from wise_cellar.core.extend import equalise
from wise_cellar.core.fit import fit_cell
from wise_cellar.core.flight import fly
from wise_cellar.core.lowering import lower, lower_one
from wise_cellar.core.lowering.space import READY_POLICIES
from wise_cellar.core.pack import arrange, build_pack, shape_of
from wise_cellar.core.pack.arrangement import outlines, wired
from wise_cellar.core.pack.interconnect import solve_interconnect
from wise_cellar.core.search import Aim, Flyers, Space, gains, joined, judge, pareto
from wise_cellar.core.shelf import Footing, claims, mean_cell_current_a, shelf_at_load, sustained
from wise_cellar.demo import complete_sample, sample_documents, sample_workspace
from wise_cellar.demo.bench import fitted_curves
from wise_cellar.demo.sample_world import bench_cell
from wise_cellar.store.curve_files import look_at_table, read_table
from wise_cellar.store.series import pack_curve

START = """
import gc, sys, time
from datetime import date
from pathlib import Path
began = time.perf_counter()
gc.disable()
from PyQt6.QtCore import QSettings
from wise_cellar.demo import sample_workspace
from wise_cellar.store import Workspace
from wise_cellar.ui.application import make_application
from wise_cellar.ui.state.session import Session
from wise_cellar.ui.shell.window import MainWindow
application = make_application()
folder = Path(sys.argv[1])
path = folder / "sample.cellar"
settings = QSettings(str(folder / "settings.ini"), QSettings.Format.IniFormat)
workspace = Workspace.open(path, backed_up=date.today()) if path.exists() else sample_workspace(path)
window = MainWindow(Session(workspace), settings)
window.show()
application.processEvents()
peak = next(line for line in Path("/proc/self/status").read_text().splitlines() if line.startswith("VmHWM"))
print(time.perf_counter() - began, int(peak.split()[1]) / 1024)
"""


def row(what: str, figure: str, wanted: str) -> None:
    """Print one line of the table."""
    print(f"| {what} | {figure} | {wanted} |")


def edits() -> None:
    """From an edit to the new answer: validated, flown, committed."""
    from PyQt6.QtCore import QCoreApplication

    from wise_cellar.ui.state.memory import Memory
    from wise_cellar.ui.state.session import Session

    _application = QCoreApplication.instance() or QCoreApplication([])
    with tempfile.TemporaryDirectory() as folder, sample_workspace(Path(folder) / "w.cellar") as workspace:
        session = Session(workspace)
        session.flown = Memory(most=0)
        direction = [1]

        def edit() -> None:
            session.step("design.packs.0.recipe.parallel_count", direction[0])
            direction[0] = -direction[0]

        seconds = sorted(timed(edit, 200))
        session.close()
    median, late = statistics.median(seconds) * 1e3, seconds[int(0.95 * len(seconds))] * 1e3
    row("edit to new answer with traces (38 min mission)", f"median {median:.0f} ms, 95th percentile {late:.0f} ms",
        "≤ 15, ≤ 30 ms")  # fmt: skip
    row(
        "  of it, the answer alone",
        f"median {statistics.median(timed(lambda: answer(session.complete), 60)) * 1e3:.0f} ms",
        "",
    )


def against_solve_ivp() -> None:
    """End time and speed against independent integrations of the same equations, to the cell's cut-off."""
    errors: list[float] = []
    ratios: dict[str, list[float]] = {"RK45": [], "LSODA": [], "Radau": []}
    for identifier in ("whimbrel-transect", "whimbrel-energy", "dunlin-scout"):
        design = complete_sample(identifier)
        deep = design.design.changed(landing=LandingRule(policy="own", own_voltage_v=2.0))
        # The reference knows cells by their sheets.
        sheets = tuple(cell.changed(fitted=None) for cell in design.cells)
        reference = ReferenceFlight(design.changed(design=deep, cells=sheets))
        # It knows the cut-off only, so the other ends are taken away.
        reference.batch = replace(
            reference.batch, brown_out_v=np.zeros(1), block_motor_v=np.zeros_like(reference.batch.block_motor_v)
        )
        cut_off = design.pack.cell.min_voltage_v
        ours = statistics.median(timed(partial(fly, reference.batch, record=True), 15))
        end = float(fly(reference.batch).end_s[0])
        for method, seen in ratios.items():
            reference.method = method
            seen.append(statistics.median(timed(partial(reference.end_at_cut_off, cut_off), 3)) / ours)
            errors.append(abs(end / reference.end_at_cut_off(cut_off)[0] - 1))
    row(
        "end time against solve_ivp (rtol 1e-9)", f"worst of three designs, three methods {max(errors):.3%}", "≤ 0.05 %"
    )
    for method, seen in ratios.items():
        row(f"speed against solve_ivp, {method}, N = 1", f"{min(seen):.0f} to {max(seen):.0f} times", "≥ 50 times")


def many() -> None:
    """Different designs in one batch."""
    generator = np.random.default_rng(7)
    base = [complete_sample("whimbrel-transect"), complete_sample("whimbrel-energy")]
    cells = [d for d in sample_documents() if isinstance(d, CellType)]
    designs = []
    for _ in range(10_000):
        one = base[int(generator.integers(2))]
        recipe = one.pack.recipe.changed(
            series_count=int(generator.integers(3, 7)),
            parallel_count=int(generator.integers(1, 9)),
            leads=one.pack.recipe.leads.changed(length_mm=float(generator.uniform(80, 300))),
        )
        designs.append(one.with_pack(cells[int(generator.integers(len(cells)))], recipe=recipe))
    began = time.perf_counter()
    batch = lower([lower_one(design, 1.0) for design in designs])
    lowering = time.perf_counter() - began
    for count in (1, 100, 10_000):
        part = batch.take(np.arange(count))
        seconds = statistics.median(timed(partial(fly, part), 7))
        row(f"fly {count:,} different designs, RC and heat", f"{seconds:.3f} s, {count / seconds:,.0f} a second",
            "≤ 0.4 s" if count == 10_000 else "")  # fmt: skip
        if count > 1:
            single = statistics.median(timed(partial(fly, batch.take(np.zeros(1, np.intp))), 7))
            row(
                f"of it, a flight against one alone, N = {count:,}",
                f"{single / (seconds / count):,.0f} times faster",
                "",
            )
    row("lowering those 10,000 one by one", f"{lowering:.1f} s", "")


def cells() -> None:
    """Range, shelf, claims, logs and fits of the Cells station."""
    design = complete_sample("whimbrel-transect")
    answered = answer(design)
    amps = mean_cell_current_a(design, float(answered.series.charge_used_mah[-1]), answered.duration_s)
    types = [d for d in sample_documents() if isinstance(d, CellType)]
    turns = iter(range(10_000))

    def fresh(count: int) -> list[CellType]:
        """Types that nothing has seen, so that nothing is remembered of them."""
        turn = next(turns) / 1e3
        chosen = [types[n % len(types)] for n in range(count)]
        return [cell.model_copy(update={"id": f"t{n}", "mass_g": cell.mass_g + turn}) for n, cell in enumerate(chosen)]

    def shelf(footing: Footing) -> object:
        return shelf_at_load(design, fresh(200), answered.factor, amps, footing)

    row("range of the answer, 200 flights", milliseconds(lambda: spread(design, answered)), "≤ 150 ms")
    for footing in Footing:
        row(f"shelf of 200 cell types, {footing}", milliseconds(partial(shelf, footing)), "≤ 150 ms")
    row("claims of one cell type", milliseconds(lambda: claims(design.pack.cell, sustained(design))), "≤ 40 ms")
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "log.csv"
        count = 1_000_000
        table = np.column_stack([np.arange(count) * 0.01, np.linspace(4.15, 2.5, count)])
        path.write_text("time,volts,amps\n" + "".join(f"{t:.2f},{v:.4f},2.5\n" for t, v in table.tolist()))
        given = Circumstances("log")
        row("import a log of 1,000,000 rows",
            milliseconds(lambda: pack_curve(read_table(look_at_table(path), given, 2.5).curve), 5),
            "< 3 s")  # fmt: skip
    curves = fitted_curves()
    row("fit a cell to three discharges", milliseconds(lambda: fit_cell(curves, bench_cell(fitted=False)), 5), "< 3 s")


def packs() -> None:
    """The interconnect and the study of the Pack station."""
    cell = complete_sample("whimbrel-transect").pack.cell
    for series, parallel in ((4, 3), (12, 4), (20, 12)):
        recipe = PackRecipe(series_count=series, parallel_count=parallel)
        layout = arrange(recipe, shape_of(cell))
        seconds = statistics.median(timed(partial(solve_interconnect, recipe, cell, layout), 15))
        wanted = "≤ 5 ms" if (series, parallel) == (20, 12) else ""
        row(f"interconnect of {series}S {parallel}P", f"median {1e3 * seconds:.1f} ms", wanted)
        outline = next(iter(outlines(recipe, shape_of(cell))))
        seconds = statistics.median(timed(partial(wired, outline, recipe, shape_of(cell)), 15))
        row("laying its strips", f"median {1e3 * seconds:.1f} ms", "")
    design = complete_sample("whimbrel-transect")
    answered = answer(design)
    seconds = statistics.median(timed(lambda: study_pack(design, answered), 9))
    row("all proposals for a pack flown, other arrangements ranked", f"median {1e3 * seconds:.0f} ms", "")


def building() -> None:
    """A tray judged and matched, a balance lead diagnosed."""
    cell = complete_sample("whimbrel-transect").pack.cell
    random = np.random.default_rng(7)
    tray = [
        NumberedCell(
            id=f"c{number}", number=number, cell_type_id=cell.id, arrival_v=3.5 + 0.003 * random.standard_normal(),
            capacity_mah=cell.capacity_mah * (1 + 0.01 * random.standard_normal()),
            dcir_mohm=cell.resistance_mohm * (1 + 0.03 * random.standard_normal()),
        )
        for number in range(1, 201)
    ]  # fmt: skip
    row("200 cells judged", milliseconds(lambda: judge_tray(cell, tray), 5), "")
    for asked, wanted in ((Asked(6, 12), "< 3 s"), (Asked(4, 3, 5), ""), (Asked(2, 3), "")):
        cells = tray if asked.cells > 10 else tray[:12]
        what = f"{asked.series}S {asked.parallel}P{f', {asked.packs} times' if asked.packs > 1 else ''}"
        row(f"{len(cells)} cells matched into {what}", milliseconds(partial(match, cell, cells, asked), 3), wanted)
    group_v = (3.6 + 0.006 * random.standard_normal(20)).tolist()
    for faults in ([], [Fault("swap", 4, 9)], [Fault("swap", 4, 9), Fault("miss", 15)]):
        readings = read_as(group_v, faults)
        row(
            f"lead of 20S diagnosed, {len(faults)} faults",
            milliseconds(partial(diagnose, group_v, readings), 9),
            "< 50 ms",
        )
    build = build_pack(PackRecipe(series_count=20, parallel_count=12), cell)
    groups = [tray[place : place + 10] for place in range(0, 200, 10)]
    seconds = milliseconds(lambda: Making(Bench.of(build, groups)).steps, 9)
    row("steps of 20S 12P written, with the volts to expect", seconds, "")


def extended() -> None:
    """Packs on one bus, their joining, a charge and a day, against the answer of one pack alone."""
    design = complete_sample("dunlin-extended")
    bare = design.without_auxiliary
    assert bare is not None
    alone = statistics.median(timed(partial(answer, bare), 9))
    both = statistics.median(timed(partial(answer, design), 9))
    row("answer of two packs on one bus", f"median {1e3 * both:.0f} ms, {both / alone:.1f} times one pack's", "")
    seconds = statistics.median(timed(partial(equalise, design), 9))
    row("four hours of two packs joined", f"median {1e3 * seconds:.0f} ms", "")
    answered = answer(design)
    seconds = statistics.median(timed(partial(charge_plan, design, answered), 9))
    row("the charge of one pack", f"median {1e3 * seconds:.0f} ms", "")
    charger, day = design.design.charger, design.design.day
    kinds = [set_kind(name, 2, design, answered, charger) for name in ("one", "two", "three", "four")]
    seconds = statistics.median(timed(partial(field_day, kinds, day, charger), 5))
    row("the best day of four kinds of set, 72 days lived", f"median {1e3 * seconds:.0f} ms", "")


def searches() -> None:
    """Whole searches, from the space to the judged and ranked table, on all cores; processes started beforehand."""
    base = complete_sample("whimbrel-transect")
    shelf = [document for document in sample_documents() if isinstance(document, CellType)]
    alone = answer(base)
    one = statistics.median(timed(lambda: answer(base), 15))
    flyers = Flyers()
    try:
        for total, counts, gauges in ((1_000, 2, 1), (10_000, 4, 3), (100_000, 12, 6)):
            space = Space.around(
                base, series=range(1, 9 if total < 100_000 else 14), parallel=range(1, counts + 1), cells=shelf,
                joints=tuple(Joint), gauges=range(10, 10 + gauges), policies=READY_POLICIES,
            )  # fmt: skip

            def run(space: Space = space) -> None:
                flown = joined(list(flyers.fly(space, alone.factor)))
                judged = judge(space, flown, Wishes())
                pareto(gains(flown, list(Aim)), judged.passes)

            seconds = statistics.median(timed(run, 3))
            count = len(space.rows)
            wanted = "≥ 30 000 a second"
            row(f"search of {count:,} designs", f"{seconds:.2f} s, {count / seconds:,.0f} a second", wanted)
            row("  of it, a design against one answer alone", f"{one / (seconds / count):.0f} times faster", "")
        assert flyers._pool is not None
        others = flyers._pool.submit(peak_mb).result()
    finally:
        flyers.close()
    reference = ReferenceFlight(base)
    cut_off = base.pack.cell.min_voltage_v
    slow = statistics.median(timed(partial(reference.end_at_cut_off, cut_off), 3))
    row("  against one-at-a-time solve_ivp, RK45", f"{slow / (seconds / count):,.0f} times faster", "")
    row("peak memory then, this process and each of the others", f"{peak_mb():.0f} and {others:.0f} MB", "")


def start() -> None:
    """A fresh process until the window is on the (offscreen) screen, as the command does it."""
    environment = {**os.environ, "QT_QPA_PLATFORM": "offscreen"}

    def once(folder: str) -> tuple[float, float]:
        command = [sys.executable, "-c", START, folder]
        done = subprocess.run(command, env=environment, capture_output=True, text=True, check=True)
        seconds, megabytes = done.stdout.split()
        return float(seconds), float(megabytes)

    first, again = [], []
    for _ in range(6):
        with tempfile.TemporaryDirectory() as folder:
            first.append(once(folder))
            again.append(once(folder))
    for words, seen in (("made anew", first), ("opened", again)):
        seconds = statistics.median(one for one, _ in seen[1:])
        row(f"window on screen, sample workspace {words}", f"median {seconds:.2f} s", "≤ 1.0 s")
    row("peak memory then", f"median {statistics.median(memory for _, memory in again[1:]):.0f} MB", "≤ 200 MB")


if __name__ == "__main__":
    print("| what | seen | wanted |\n|---|---|---|")
    painted_windows(row)
    live.measure(row)
    edits()
    against_solve_ivp()
    many()
    cells()
    packs()
    building()
    extended()
    searches()
    start()

"""The Logbook: logs read, cut into phases and learned from, many flights together. ``python -m benchmarks.logbook``"""

from __future__ import annotations

import statistics
import tempfile
import time
from collections.abc import Callable
from datetime import date, datetime, timedelta
from functools import partial
from pathlib import Path

import numpy as np
from tests.flown import QUANTITIES, Made, Truth, made

from wise_cellar.core.answer import answer
from wise_cellar.core.documents import BuiltPack, CellType
from wise_cellar.core.logbook import Noted, flights_in, flown_flight, log_of_rows, phases_of
from wise_cellar.core.logbook.entries import FlightSaid, against_plan, held, lesson
from wise_cellar.core.logbook.joining import Piece
from wise_cellar.core.logbook.life import FlightOfPack, pack_life
from wise_cellar.core.logbook.taking import OF_CRAFT, OF_PACK
from wise_cellar.demo import complete_sample, sample_documents
from wise_cellar.store.logs import read_piece

TIMES = 5


def main() -> None:
    """Print every figure as a median."""
    complete = complete_sample("turnstone-shoreline")
    flight = made(complete, Truth(1.02, 0.97, 1.05), 7, "shore", datetime(2026, 5, 2, 9))
    with tempfile.TemporaryDirectory() as folder:
        _one_log(flight, Path(folder))
    _many(TIMES)


def _one_log(flight: Made, folder: Path) -> None:
    complete = complete_sample("turnstone-shoreline")
    log = log_of_rows(QUANTITIES, flight.rows, "shore")
    for hz, seconds in ((50, 3600.0), (500, 4000.0)):
        clock = np.arange(0.0, seconds, 1 / hz)
        columns = [np.interp(clock, log.time_s, flight.rows[:, 1 + place]) for place in range(len(QUANTITIES))]
        path = folder / f"{hz}.csv"
        heading = "time_s," + ",".join(QUANTITIES)
        np.savetxt(path, np.stack([clock, *columns], axis=1), fmt="%.3f", delimiter=",", header=heading, comments="")
        piece = read_piece(path)
        assert isinstance(piece, Piece)
        say(f"a table of {len(clock)} rows is read", partial(read_piece, path), 3)
        say("  cut into phases", partial(phases_of, piece.log, flights_in(piece.log)[0]), 3)
        say("  held against its design, with what it teaches", partial(flown_flight, piece.log, complete), 3)
    fact = flown_flight(log, complete, Noted(flight.entry.returned_mah))
    alone = say("one answer", lambda: answer(complete))
    say("a flight by its notes", lambda: held(flight.entry, complete, None), over=alone)
    say("its minutes told apart", lambda: against_plan(fact, complete), over=alone)


def _many(times: int) -> None:
    complete, said, flights = complete_sample("dunlin-scout"), [], []
    for number in range(60):
        one = made(complete, Truth(1.08, 1.0 - 0.002 * number, 1.0 + 0.005 * number), number, f"flight {number}",
                   datetime(2026, 1, 5) + timedelta(days=3 * number))  # fmt: skip
        fact = held(one.entry, complete, log_of_rows(QUANTITIES, one.rows, one.entry.name))
        said.append(FlightSaid(one.entry.id, one.entry.name, fact))
        flights.append(FlightOfPack(one.entry, fact))
    documents = sample_documents()
    pack = next(one for one in documents if isinstance(one, BuiltPack) and one.id == "dunlin-1")
    cell = next(one for one in documents if isinstance(one, CellType) and one.id == pack.cell_type_id)
    say("16 flights heard together", lambda: lesson(said[:16], (*OF_CRAFT, *OF_PACK)), times)
    say("the life of a pack with 60 flights", lambda: pack_life(pack, cell, flights), times)


def say(what: str, job: Callable[[], object], times: int = TIMES, over: float | None = None) -> float:
    """Print the median of some times, and over another figure; returns it, s."""
    took = []
    for _ in range(times):
        began = time.perf_counter()
        job()
        took.append(time.perf_counter() - began)
    median = statistics.median(took)
    share = "" if over is None else f", {median / over:.1f} times one answer"
    print(f"{what:60} {1e3 * median:8.1f} ms{share}")
    return median


if __name__ == "__main__":
    print(date.today())
    main()

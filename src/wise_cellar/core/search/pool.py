"""A search on all cores: batches flown in processes of their own, results as they come."""

from __future__ import annotations

import multiprocessing
from collections.abc import Generator
from concurrent.futures import FIRST_COMPLETED, Future, ProcessPoolExecutor, wait
from concurrent.futures.process import BrokenProcessPool
from itertools import islice

from wise_cellar.core.lowering.space import Space
from wise_cellar.core.physics.arrays import Ints
from wise_cellar.core.search.flown import Flown, fly_rows, in_parts

FEW = 1500
"""So many are flown sooner than a process has read them."""


def ready() -> None:
    """Done by a process once, so that the first search does not wait for its start."""


class Flyers:
    """Processes that fly batches; started when they are first needed, or beforehand by :meth:`warm`."""

    def __init__(self, workers: int | None = None) -> None:
        self.workers = workers or max(multiprocessing.cpu_count(), 1)
        self._pool: ProcessPoolExecutor | None = None

    def warm(self) -> None:
        """Start the processes."""
        if self._pool is None:
            # Not a fork of this process, which may have threads and a window.
            context = multiprocessing.get_context("forkserver")
            context.set_forkserver_preload(["wise_cellar.core.search.flown"])
            self._pool = ProcessPoolExecutor(self.workers, mp_context=context)
            for _ in range(self.workers):
                self._pool.submit(ready)

    def close(self) -> None:
        """Drop what waits and end the processes, once they are done with what they fly."""
        if self._pool is not None:
            self._pool.shutdown(wait=True, cancel_futures=True)
            self._pool = None

    def fly(self, space: Space, factor: float) -> Generator[Flown]:
        """Parts of the result as they come, in any order; leaving the iteration drops what is not yet flown."""
        if len(space.rows) <= FEW or self.workers < 2:
            yield from (fly_rows(space, some, factor) for some in in_parts(space, 1))
            return
        parts = dict(enumerate(in_parts(space, self.workers)))
        try:
            for number, flown in self._fly_apart(space, parts, factor):
                del parts[number]
                yield flown
        except BrokenProcessPool:
            # No processes here, or one was killed: what is left is flown in this one.
            self.close()
            for some in parts.values():
                yield fly_rows(space, some, factor)

    def _fly_apart(self, space: Space, parts: dict[int, Ints], factor: float) -> Generator[tuple[int, Flown]]:
        self.warm()
        assert self._pool is not None
        waiting = iter(list(parts.items()))
        running: dict[Future[Flown], int] = {}
        try:
            while True:
                # Two more than are flown wait ready; the rest is not sent before it is needed.
                for number, some in islice(waiting, self.workers + 2 - len(running)):
                    running[self._pool.submit(fly_rows, space, some, factor)] = number
                if not running:
                    return
                for future in wait(running, return_when=FIRST_COMPLETED).done:
                    yield running.pop(future), future.result()
        finally:
            for future in running:
                future.cancel()

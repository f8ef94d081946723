"""A stand-in behind a pseudo-terminal, as if it were plugged in."""

from __future__ import annotations

import os
import select
import threading
import time
from collections.abc import Callable

from wise_cellar.instruments.lines import Splitter
from wise_cellar.instruments.stand_ins.stand_in import StandIn

TURN_S = 0.02


class Served:
    """Serves one stand-in until :meth:`stop`; :attr:`address` is where it is plugged in. ``speed``: how many of its
    seconds pass in one of ours."""

    def __init__(self, stand_in: StandIn, speed: float = 1.0, clock: Callable[[], float] = time.monotonic) -> None:
        import tty

        self.stand_in, self.speed = stand_in, speed
        self._clock = clock
        self._master, self._slave = os.openpty()
        # Held open here, so that a reader that goes away leaves the terminal as it is.
        tty.setraw(self._slave)
        os.set_blocking(self._master, False)
        self.address = f"serial:{os.ttyname(self._slave)}"
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self.run, name="stand-in", daemon=True)

    def start(self) -> None:
        """Serve in a thread."""
        self._thread.start()

    def stop(self) -> None:
        """End, and unplug."""
        self._stop.set()
        if self._thread.is_alive():
            self._thread.join(2.0)
        for end in (self._master, self._slave):
            try:
                os.close(end)
            except OSError:
                continue

    def run(self) -> None:
        """Serve until it is stopped."""
        begun, orders = self._clock(), Splitter()
        while not self._stop.is_set():
            ready, _, _ = select.select([self._master], [], [], TURN_S)
            now = (self._clock() - begun) * self.speed
            if ready:
                for line in orders.feed(os.read(self._master, 4096)):
                    answer = self.stand_in.order(line, now)
                    if answer is not None:
                        self._send(answer.encode() + b"\r\n")
            self._send(self.stand_in.data(now))

    def _send(self, data: bytes) -> None:
        try:
            while data:
                data = data[os.write(self._master, data) :]
        except BlockingIOError:
            return  # nobody listens: what a real device sends then is gone as well

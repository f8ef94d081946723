"""One device listened to in a thread of its own: opened, read, asked, taken up again when it comes back."""

from __future__ import annotations

import threading
import time
from collections.abc import Callable
from dataclasses import dataclass
from enum import StrEnum

from wise_cellar.instruments.lines import BETWEEN_ANSWERS, Reading, Refusal, Splitter, Understanding
from wise_cellar.instruments.links import Link, LinkError
from wise_cellar.instruments.mavlink import MessageSplitter
from wise_cellar.instruments.profile import Form, Mode, Profile

AGAIN_S, LONGEST_AGAIN_S = 0.3, 5.0
"""After so long a lost link is tried again, twice as long each time up to the second."""
QUIET_S, ANSWER_S = 5.0, 2.0
"""Silent for longer than that, or than three times what it is asked every, is told; and how long an answer may take."""
MOST_LINES_S = 5000
"""More lines a second than that are passed over, and counted."""
DOUBLED_S = 0.02
"""The same line again within so short a time tells nothing more."""
DOUBLED_TOLD = 5
"""So many lines that differ, each twice and none once, are no burst of like ones: the device sends them twice."""
MOST_ODD = 50
"""Sentences on lines that were not understood, until one was again: the rest are counted."""


class EventKind(StrEnum):
    """What may happen to a device."""

    OPENED = "opened"
    READ = "read"
    NAMED = "named"
    """A line named the columns."""
    ODD = "odd"
    """Something was not understood, or is missing."""
    LOST = "lost"
    CLOSED = "closed"
    """Nobody will listen to it any more."""


@dataclass(frozen=True)
class Event:
    """What happened, when, and the sentence or the reading."""

    kind: EventKind
    at_s: float
    sentence: str = ""
    reading: Reading | None = None
    line: str = ""


class Listener:
    """Listens from :meth:`start` until :meth:`stop`; :meth:`take` brings what has happened since it was asked last.

    ``make_link`` is called anew for every attempt. ``clock`` only goes forward.
    """

    def __init__(
        self, profile: Profile, make_link: Callable[[], Link], clock: Callable[[], float] = time.monotonic
    ) -> None:
        self.profile = profile
        self._make, self._clock = make_link, clock
        self._lock = threading.Lock()
        self._events: list[Event] = []
        self._orders: list[bytes] = []
        self._last_word = b""
        self._stop = threading.Event()
        self._thread = threading.Thread(target=self._run, name=f"listens to {profile.name}", daemon=True)
        self._odd = 0

    def now(self) -> float:
        """By the clock that its events are told by, s."""
        return self._clock()

    def start(self) -> None:
        """Begin."""
        self._thread.start()

    def stop(self, wait_s: float = 2.0) -> None:
        """End, and close the link."""
        self._stop.set()
        if self._thread.is_alive():
            self._thread.join(wait_s)

    def take(self) -> list[Event]:
        """What has happened, in its order; every event once."""
        with self._lock:
            taken, self._events = self._events, []
        return taken

    def send(self, order: str, *, last_word: bool = False) -> None:
        """Send an order with the next turn. One that waits while the link is lost is dropped: nothing may be switched
        on late. A ``last_word`` is sent in place of all that waits, as soon as that can be."""
        data = (order + self.profile.talk.end.text).encode()
        with self._lock:
            if last_word:
                self._orders, self._last_word = [], data
            else:
                self._orders.append(data)

    def _say(self, kind: EventKind, sentence: str = "", reading: Reading | None = None, line: str = "") -> None:
        with self._lock:
            self._events.append(Event(kind, self._clock(), sentence, reading, line))

    def _run(self) -> None:
        pause = AGAIN_S
        told = ""
        while not self._stop.is_set():
            link = self._make()
            try:
                link.open()
                with self._lock:
                    self._orders = []
                self._say(EventKind.OPENED, f"{link.name} is open.")
                pause, told = AGAIN_S, ""
                _Turn(self, link).listen()
            except LinkError as error:
                if str(error) != told:
                    told = str(error)
                    self._say(EventKind.LOST, told)
            finally:
                link.close()
            self._stop.wait(pause)
            pause = min(2 * pause, LONGEST_AGAIN_S)


def _splitter(profile: Profile) -> Splitter | MessageSplitter:
    return MessageSplitter(profile) if profile.lines.form is Form.MAVLINK else Splitter()


class _Turn:
    """From one opening of a link to its loss."""

    def __init__(self, listener: Listener, link: Link) -> None:
        self._of, self._link = listener, link
        self._splitter, self._reads = _splitter(listener.profile), Understanding(listener.profile)
        self._heard_s = self._now()
        self._window_s, self._in_window, self._passed = self._now(), 0, 0
        self._line: tuple[str, float] = ("", -1.0)
        self._doubled = self._quiet = False
        self._pairs, self._paired = 0, ""
        self._odd = 0

    def _now(self) -> float:
        return self._of._clock()

    @property
    def _going(self) -> bool:
        return not self._of._stop.is_set()

    def listen(self) -> None:
        """Read until the link is lost; raises :class:`LinkError`."""
        talk = self._of.profile.talk
        for hello in talk.hello:
            self._link.write((hello + talk.end.text).encode())
        while self._going:
            self._send_orders()
            if talk.mode is Mode.ASK:
                self._ask()
            else:
                for line in self._splitter.feed(self._link.read()):
                    self._take(line)
            self._mind_silence(max(QUIET_S, 3 * talk.every_s if talk.mode is Mode.ASK else 0.0))
        self._send_orders()  # the last may be to switch off

    def _send_orders(self) -> None:
        self._send_last_word()
        with self._of._lock:
            orders, self._of._orders = self._of._orders, []
        for order in orders:
            self._link.write(order)

    def _send_last_word(self) -> None:
        word = self._of._last_word
        if word:
            self._link.write(word)
            with self._of._lock:
                if self._of._last_word is word:
                    self._of._last_word = b""

    def _ask(self) -> None:
        """One round of questions; their answers are one reading."""
        talk, begun = self._of.profile.talk, self._now()
        values: dict[str, float] = {}
        lines = []
        for number, question in enumerate(talk.ask, 1):
            self._link.write((question + talk.end.text).encode())
            answer = self._answer()
            if answer is None:
                if self._going:
                    self._odd_line(f"It did not answer {question} within {round(ANSWER_S)} seconds.", "")
                break
            found = self._reads.read(answer, self._now(), number)
            if isinstance(found, Refusal):
                self._odd_line(found.sentence, found.line)
            elif isinstance(found, Reading):
                values |= found.values
                lines.append(found.line)
        if values:
            self._good(Reading(self._now(), values, BETWEEN_ANSWERS.join(lines)))
        left = talk.every_s - (self._now() - begun)
        while left > 0 and self._going:
            self._of._stop.wait(min(left, 0.1))
            self._send_orders()
            left = talk.every_s - (self._now() - begun)

    def _answer(self) -> str | None:
        until = self._now() + ANSWER_S
        while self._going and self._now() < until:
            self._send_last_word()
            lines = self._splitter.feed(self._link.read())
            if lines:
                self._heard_s = self._now()
                for extra in lines[1:]:
                    self._odd_line("It sent more than was asked.", extra)
                return lines[0]
        return None

    def _take(self, line: str) -> None:
        now = self._now()
        self._heard_s = now
        self._quiet = False
        if now - self._window_s >= 1.0:
            if self._passed:
                self._say_odd(f"It sends more than {MOST_LINES_S} lines a second: {self._passed} were passed over.")
            self._window_s, self._in_window, self._passed = now, 0, 0
        self._in_window += 1
        if self._in_window > MOST_LINES_S:
            self._passed += 1
            return
        text, before = self._line
        self._line = (line, now)
        if line == text and now - before < DOUBLED_S:
            self._mind_doubled(line)
            self._line = ("", -1.0)
            return
        if text:
            self._pairs = 0
        found = self._reads.read(line, now)
        if isinstance(found, Reading):
            self._good(found)
        elif isinstance(found, Refusal):
            self._odd_line(found.sentence, found.line)
        else:
            self._of._say(EventKind.NAMED, line=line)

    def _mind_doubled(self, line: str) -> None:
        if line != self._paired:
            self._pairs, self._paired = self._pairs + 1, line
        if self._pairs >= DOUBLED_TOLD and not self._doubled:
            self._doubled = True
            self._say_odd("It sends lines twice: the second of two that are the same is passed over.")

    def _good(self, reading: Reading) -> None:
        self._odd = 0
        self._heard_s, self._quiet = self._now(), False
        self._of._say(EventKind.READ, reading=reading, line=reading.line)

    def _odd_line(self, sentence: str, line: str) -> None:
        self._odd += 1
        if self._odd < MOST_ODD:
            self._of._say(EventKind.ODD, sentence, line=line)
        elif self._odd == MOST_ODD:
            self._say_odd("Nothing it sends is understood: another baud rate, or another profile?")

    def _say_odd(self, sentence: str) -> None:
        self._of._say(EventKind.ODD, sentence)

    def _mind_silence(self, longest_s: float) -> None:
        if not self._quiet and self._now() - self._heard_s > longest_s:
            self._quiet = True
            self._say_odd(f"It has been silent for {round(longest_s)} seconds: is it on, and is this its port?")

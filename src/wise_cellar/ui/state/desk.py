"""Instruments that are listened to: opened by the user, read beside the window, and what of theirs has settled."""

from __future__ import annotations

import time
from collections import deque
from collections.abc import Callable
from dataclasses import dataclass, field

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from wise_cellar.core.documents import CellType
from wise_cellar.core.units import format_number
from wise_cellar.instruments import Event, EventKind, Listener, Profile, Reading, Settling, link_to, shipped_profiles
from wise_cellar.instruments.quantities import quantity_of
from wise_cellar.instruments.stand_ins import Served, made

TURN_MS = 40
MOST_LINES = 8
WITHIN = {"volts": (0.003, 0.1), "resistance": (0.6, 0.1), "mass": (0.03, 1.0)}
"""How far readings that have settled lie apart, and under which nothing is there."""


@dataclass(eq=False)
class Device:
    """One instrument, and the last that was heard of it."""

    profile: Profile
    address: str
    listener: Listener
    served: Served | None = None
    """The stand-in behind it, where it is one of ours."""
    lines: deque[str] = field(default_factory=lambda: deque(maxlen=MOST_LINES))
    last: Reading | None = None
    sentence: str = ""
    settlings: dict[str, Settling] = field(default_factory=dict)
    watchers: list[Callable[[Event], None]] = field(default_factory=list)
    """Told of every event, in its order."""

    @property
    def speed(self) -> float:
        """How many of its seconds pass in one: other than one of stand-ins alone."""
        return self.served.speed if self.served is not None else 1.0

    @property
    def name(self) -> str:
        """What it is called."""
        return f"stand-in, {self.profile.name}" if self.served is not None else self.profile.name


class Desk(QObject):
    """``heard`` tells that a device has said something, ``changed`` that there are others, ``settled`` that a reading
    has come to rest."""

    heard = pyqtSignal(object)
    changed = pyqtSignal()
    settled = pyqtSignal()

    def __init__(self, parent: QObject | None = None) -> None:
        super().__init__(parent)
        self.devices: list[Device] = []
        self.at_once = False
        """Whether what has settled is taken without a key."""
        self._settled: dict[str, float] = {}
        self._timer = QTimer(self)
        self._timer.setInterval(TURN_MS)
        self._timer.timeout.connect(self._turn)

    def open(self, profile: Profile, address: str, served: Served | None = None) -> Device:
        """Listen to a device; raises :class:`DocumentError` where the address is none."""
        link_to(address)
        listener = Listener(profile, lambda: link_to(address, profile.talk.baud))
        device = Device(profile, address, listener, served)
        self.devices.append(device)
        listener.start()
        self._timer.start()
        self.changed.emit()
        return device

    def open_stand_in(self, kind: str, cell_type: CellType, seed: int = 1, speed: float = 1.0) -> Device:
        """Start a stand-in on cells of a type, and listen to it."""
        served = Served(made(kind, cell_type, seed, by_hand=True), speed)
        served.start()
        return self.open(shipped_profiles()[served.stand_in.profile], served.address, served)

    def close(self, device: Device) -> None:
        """Listen to a device no more; who watches it may have a last word."""
        for watcher in list(device.watchers):
            watcher(Event(EventKind.CLOSED, time.monotonic()))
        self.devices.remove(device)
        device.listener.stop()
        if device.served is not None:
            device.served.stop()
        if not self.devices:
            self._timer.stop()
            self._settled.clear()
        self.changed.emit()

    def close_all(self) -> None:
        """Listen to nothing any more."""
        for device in list(self.devices):
            self.close(device)

    @property
    def ready(self) -> dict[str, str]:
        """What has settled and was not taken yet, by its quantity: figures with their unit, as they would be typed."""
        return {
            name: f"{format_number(value, 4 if name == 'volts' else 2)} {quantity_of(name).unit}"
            for name, value in self._settled.items()
        }

    def taken(self, quantities: set[str]) -> None:
        """These were written down: each has to settle anew before it is ready again."""
        if not quantities:
            return
        for name in quantities:
            self._settled.pop(name, None)
        for device in self.devices:
            if device.served is not None and quantities & device.settlings.keys():
                device.served.stand_in.taken()

    def _turn(self) -> None:
        settled = False
        for device in list(self.devices):
            events = device.listener.take()
            for event in events:
                for watcher in list(device.watchers):
                    watcher(event)
                if event.reading is not None:
                    device.lines.append(event.line)
                    device.last = event.reading
                    settled |= self._settle(device, event.reading)
                else:
                    device.sentence = event.sentence
                    if event.line:
                        device.lines.append(event.line)
                if event.kind is EventKind.READ:
                    device.sentence = ""
            if events:
                self.heard.emit(device)
        if settled:
            self.settled.emit()

    def _settle(self, device: Device, reading: Reading) -> bool:
        found = False
        for name, (within, least) in WITHIN.items():
            value = reading.values.get(name)
            if value is None:
                continue
            settling = device.settlings.setdefault(name, Settling(within, least))
            given = settling.add(reading.at_s, value)
            if given is not None:
                self._settled[name] = given
                found = True
            elif abs(value) < least:
                # The probe is off: what it read beside that says nothing of the next cell.
                for other in device.settlings:
                    self._settled.pop(other, None)
                device.settlings.clear()
                return False
            elif not settling.holds:
                self._settled.pop(name, None)
        return found

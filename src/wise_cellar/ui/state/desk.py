"""Instruments that are listened to: opened by the user, read beside the window, and what of theirs has settled."""

from __future__ import annotations

import json
import time
from collections import deque
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass, field

from PyQt6.QtCore import QObject, QTimer, pyqtSignal

from wise_cellar.core.documents import CompleteDesign, DocumentError, RecordedChannel
from wise_cellar.core.units import format_number
from wise_cellar.core.words import quoted
from wise_cellar.instruments import (
    Event,
    EventKind,
    Listener,
    Profile,
    Reading,
    Settling,
    link_to,
    profile_from_toml,
    profile_to_toml,
    shipped_profiles,
)
from wise_cellar.instruments.quantities import quantity_of
from wise_cellar.instruments.stand_ins import Served, made
from wise_cellar.store import Workspace

OWN = "own profiles"
TURN_MS = 40
MOST_LINES = 8
WITHIN = {"volts": (0.003, 0.1), "resistance": (0.6, 0.1), "mass": (0.03, 1.0)}
"""How far readings that have settled lie apart, and under which nothing is there."""


def _listener(profile: Profile, address: str) -> Listener:
    """To what is at an address; raises :class:`DocumentError` where it is none."""
    link_to(address)
    return Listener(profile, lambda: link_to(address, profile.talk.baud))


def _kept_profiles(kept: str) -> dict[str, Profile]:
    """Those that can still be read, by their names."""
    found: dict[str, Profile] = {}
    with suppress(ValueError):
        for text in json.loads(kept):
            with suppress(DocumentError):
                profile = profile_from_toml(text)
                found[profile.name] = profile
    return found


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
    latest: dict[str, float] = field(default_factory=dict)
    """Of every quantity what was told last: a device may tell of them one after the other."""
    heads: tuple[str, ...] = ()
    """Names of its columns, where it has told them."""
    sentence: str = ""
    settlings: dict[str, Settling] = field(default_factory=dict)
    watchers: list[Callable[[Event], None]] = field(default_factory=list)
    """Told of every event, in its order."""

    @property
    def channels(self) -> tuple[RecordedChannel, ...]:
        """What it tells, by its profile and by what has come."""
        return self.profile.recorded(self.latest)

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
    has come to rest, ``warned`` what has to be seen wherever one is."""

    heard = pyqtSignal(object)
    changed = pyqtSignal()
    settled = pyqtSignal()
    warned = pyqtSignal(str)

    def __init__(self, workspace: Callable[[], Workspace], parent: QObject | None = None) -> None:
        super().__init__(parent)
        self._workspace = workspace
        self.devices: list[Device] = []
        self.at_once = False
        """Whether what has settled is taken without a key."""
        self._settled: dict[str, float] = {}
        self._timer = QTimer(self)
        self._timer.setInterval(TURN_MS)
        self._timer.timeout.connect(self._turn)

    def open(self, profile: Profile, address: str, served: Served | None = None) -> Device:
        """Listen to a device; raises :class:`DocumentError` where the address is none."""
        device = Device(profile, address, _listener(profile, address), served)
        self.devices.append(device)
        device.listener.start()
        self._timer.start()
        self.changed.emit()
        return device

    @property
    def own(self) -> dict[str, Profile]:
        """Ways of talking that were made or taken in here, by their names: they stay with the workspace."""
        return _kept_profiles(self._workspace().setting(OWN) or "[]")

    @property
    def profiles(self) -> dict[str, Profile]:
        """Ways of talking that may be chosen, by their names: those that ship, and one's own."""
        return {one.name: one for one in (*shipped_profiles().values(), *self.own.values())}

    def keep_profile(self, profile: Profile) -> None:
        """Remember a way of talking; raises :class:`DocumentError` where one that ships is called so."""
        if any(one.name == profile.name for one in shipped_profiles().values()):
            raise DocumentError(f"{quoted(profile.name)} ships with the product; give yours a name of its own.")
        own = self.own | {profile.name: profile}
        self._workspace().remember(OWN, json.dumps([profile_to_toml(one) for one in own.values()]))
        self.changed.emit()

    def talk_by(self, device: Device, profile: Profile) -> None:
        """Listen to a device by another profile from now on; what watched it is told that it was closed."""
        self._end(device)
        device.profile, device.last, device.sentence = profile, None, ""
        device.settlings.clear()
        device.latest.clear()
        device.listener = _listener(profile, device.address)
        device.listener.start()
        self.changed.emit()

    def open_stand_in(self, kind: str, on: CompleteDesign, seed: int = 1, speed: float = 1.0) -> Device:
        """Start a stand-in on what a design has, and listen to it; raises :class:`DocumentError` where it has none."""
        served = Served(made(kind, on, seed, by_hand=True), speed)
        served.start()
        return self.open(shipped_profiles()[served.stand_in.profile], served.address, served)

    def close(self, device: Device) -> None:
        """Listen to a device no more."""
        self._end(device)
        self.devices.remove(device)
        if device.served is not None:
            device.served.stop()
        if not self.devices:
            self._timer.stop()
            self._settled.clear()
        self.changed.emit()

    @staticmethod
    def _end(device: Device) -> None:
        """Who watches it may have a last word."""
        for watcher in list(device.watchers):
            watcher(Event(EventKind.CLOSED, time.monotonic()))
        device.listener.stop()

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
                    device.latest |= event.reading.values
                    settled |= self._settle(device, event.reading)
                else:
                    device.sentence = event.sentence
                    if event.kind is EventKind.NAMED:
                        heads = event.line.split(device.profile.lines.separator)
                        device.heads = tuple(head.strip() for head in heads)
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

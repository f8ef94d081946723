"""What every stand-in is: a device with a clock of its own, that talks by a shipped profile and keeps its truths."""

from __future__ import annotations

from abc import ABC, abstractmethod
from collections.abc import Sequence


class StandIn(ABC):
    """A simulated device. Its clock is its own: seconds that it has lived."""

    profile: str
    """Name of the shipped profile that it talks by."""

    @abstractmethod
    def lines(self, now_s: float) -> Sequence[str]:
        """What it sends of itself until then."""

    def data(self, now_s: float) -> bytes:
        """The same as bytes; of a device that sends no text, its messages."""
        return b"".join(line.encode() + b"\r\n" for line in self.lines(now_s))

    def order(self, text: str, now_s: float) -> str | None:
        """Its answer to a line that it is sent; none where it does not answer."""
        return None

    def taken(self) -> None:
        """A reading of its was written down: whoever holds the probe moves on."""
        return

    @abstractmethod
    def truths(self) -> list[str]:
        """What is really so, a line each."""

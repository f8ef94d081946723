"""What was computed last, of what: who undoes an edit or turns back to a design waits for nothing."""

from __future__ import annotations

from typing import Any

MOST_KEPT = 12


class Memory:
    """Results with the values they were computed of; the one asked for longest ago is forgotten first."""

    def __init__(self, most: int = MOST_KEPT) -> None:
        self.most = most
        self._kept: list[tuple[Any, Any]] = []

    def get(self, of: Any) -> Any:
        """The result that was computed of an equal value; ``None`` where it is not known."""
        known = next((pair for pair in self._kept if pair[0] == of), None)
        if known is None:
            return None
        self._kept.sort(key=lambda pair: pair is not known)
        return known[1]

    def keep(self, of: Any, result: Any) -> None:
        """Keep a result, of a value that is not known yet."""
        self._kept = [(of, result), *self._kept][: self.most]

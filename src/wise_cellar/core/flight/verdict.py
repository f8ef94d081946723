"""A finding and its severity."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum


class Severity(StrEnum):
    """How bad a finding is."""

    CAUTION = "caution"
    OVER = "over a limit"


@dataclass(frozen=True)
class Finding:
    """Something to be careful about, in a sentence, and the field to look at."""

    severity: Severity
    sentence: str
    field: str

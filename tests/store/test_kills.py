"""A few of the kills that ``script/kill`` makes by the thousand."""

from __future__ import annotations

from pathlib import Path
from random import Random

import pytest

from tests.kills import WAYS, killed


@pytest.mark.parametrize("way", WAYS)
@pytest.mark.parametrize("number", range(2))
def test_nothing_that_was_kept_is_lost_by_a_kill(way: str, number: int, tmp_path: Path) -> None:
    assert killed(way, Random(number), tmp_path) == ""

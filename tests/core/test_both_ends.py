"""An extended battery has two calls home: the one that was chosen governs, the other stands beside it."""

from __future__ import annotations

import pytest

from tests.builders import LANDING, beside, cell_type, complete, cruise, mission
from wise_cellar.core.answer import answer
from wise_cellar.core.documents import CompleteDesign, LandingRule
from wise_cellar.core.search.growth import growth


def extended(landing: LandingRule) -> CompleteDesign:
    """An auxiliary beside the craft's own battery, both of 2P."""
    own = (cell_type(id="own", name="Fell 21-40E"), {"own": True})
    return beside(complete(parallel_count=2, flown=mission(cruise(), LANDING), landing=landing), own)


VOLTS, COUNTER = LandingRule(), LandingRule(basis="the craft's own counter", charge_percent=60)


def test_both_ends_are_told_whichever_is_chosen() -> None:
    by_volts, by_counter = answer(extended(VOLTS.changed(charge_percent=60))), answer(extended(COUNTER))
    assert by_volts.other_end is not None
    assert by_counter.other_end is not None
    assert by_volts.other_end.words == "by its own counter"
    assert by_counter.other_end.words == "by volts under load"
    assert by_volts.other_end.duration_s == pytest.approx(by_counter.duration_s, rel=1e-6)
    assert by_counter.other_end.duration_s == pytest.approx(by_volts.duration_s, rel=1e-6)
    assert by_counter.duration_s < by_volts.duration_s - 60


def test_one_pack_has_one_end() -> None:
    assert answer(complete()).other_end is None
    assert answer(complete()).other_end_words == ""


def test_the_peak_of_more_cells_is_that_of_the_rule_that_was_chosen() -> None:
    """By the counter of its own battery, minutes are fewer at every count than by volts."""
    volts, counter = (growth(extended(rule), 1.0) for rule in (VOLTS, COUNTER))
    assert (counter.minutes < volts.minutes).all()
    assert counter.rule == "by the craft's own counter"
    assert "by the balanced rule" in volts.rule

"""Long series with fewer points."""

from __future__ import annotations

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from wise_cellar.core.growing import GrowingRows
from wise_cellar.core.thinned import thinned


@given(st.integers(1, 4000), st.integers(2, 400), st.integers(0, 3999))
def test_extremes_are_kept_and_points_are_few(count: int, most: int, spike: int) -> None:
    values = np.sin(np.arange(count) / 50.0)
    values[spike % count] = 9.0
    across, thin = thinned(np.arange(count, dtype=float), values, most)
    assert thin.max() == 9.0
    assert thin.min() == values.min() or most < 4
    assert (np.diff(across) > 0).all()
    assert np.array_equal(values[across.astype(int)], thin)
    assert len(thin) <= max(3 * most, 3)


def test_a_gap_stays_one() -> None:
    values = np.ones(10_000)
    values[4000:6000] = np.nan
    across, thin = thinned(np.arange(10_000.0), values, 200)
    assert np.isnan(thin[(across > 4100) & (across < 5900)]).all()
    assert np.isnan(thin).any()
    assert not np.isnan(thin[across < 3900]).any()


def test_rows_grow_one_by_one_and_many_at_once() -> None:
    grown = GrowingRows(2)
    grown.append([1.0, 2.0])
    grown.extend(np.arange(8000.0).reshape(-1, 2))
    assert len(grown) == 4001
    assert grown.rows[-1].tolist() == [7998.0, 7999.0]
    assert grown.rows[0].tolist() == [1.0, 2.0]

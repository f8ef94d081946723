"""What laws of a flight are written in: functions of arrays, element by element, of one plain number, or of two.

Of one flight alone numpy spends its time on getting at a single number; Python's own float takes a twentieth of that.
So that a law stands once, it is written in these: what is no array is a ``float``, a ``bool`` where it is a mask, or
:class:`~wise_cellar.core.physics.two.Two` of them for two packs on one bus, and comes back as one; the types say what
it stands for. Arrays broadcast as ever. Plain numbers raise ``ArithmeticError`` or ``ValueError`` where an array would
hold an infinity, or what is not a number.
"""

from __future__ import annotations

import math
from collections.abc import Callable
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from wise_cellar.core.physics.arrays import Bools, FloatOrArray, Floats, Ints
from wise_cellar.core.physics.two import Two

Array = np.ndarray
"""Asked for by ``x.__class__ is …``: the quickest way there is."""
Values = TypeVar("Values", bound=NDArray[Any])


def is_plain(values: object) -> bool:
    """Whether they are one plain number."""
    return values.__class__ is float


def is_two(values: object) -> bool:
    """Whether they are two plain numbers, one a pack."""
    return values.__class__ is Two


def pair(values: Any) -> tuple[Any, Any]:
    """What each of two packs has; one plain number goes for both."""
    return (values.first, values.second) if values.__class__ is Two else (values, values)


def plain(values: Any, flight: int) -> Any:
    """The number of a flight, or the two of its packs, where an array has no other axis to choose on; else what the
    values say of it."""
    if values.__class__ is not Array:
        return values.plain(flight)
    if values.ndim == 3 and len(values) == 2:
        return Two(*values[:, 0, flight].tolist())
    return values.item(flight)


def exp(x: Floats) -> Floats:
    """e to the power of x."""
    return math.exp(x) if x.__class__ is float else _each(math.exp, np.exp, x)  # type: ignore


def exp_less_one(x: Floats) -> Floats:
    """e to the power of x, less 1, exact where x is small."""
    return math.expm1(x) if x.__class__ is float else _each(math.expm1, np.expm1, x)  # type: ignore


def square_root(x: Floats) -> Floats:
    """√x."""
    return math.sqrt(x) if x.__class__ is float else np.sqrt(x)  # type: ignore


def inverse_sinh(x: Floats) -> Floats:
    """asinh(x)."""
    return math.asinh(x) if x.__class__ is float else _each(math.asinh, np.arcsinh, x)  # type: ignore


def _each(of_one: Callable[[float], float], of_array: Callable[[Any], Any], x: Any) -> Any:
    return Two(of_one(x.first), of_one(x.second)) if x.__class__ is Two else of_array(x)


def larger(x: Floats, y: FloatOrArray) -> Floats:
    """The larger of two, of which the first tells what both are."""
    return (x if x > y else y) if x.__class__ is float else _larger(x, y)  # type: ignore


def _larger(x: Any, y: Any) -> Any:
    if x.__class__ is not Two:
        return np.maximum(x, y)
    first, second = pair(y)
    return Two(x.first if x.first > first else first, x.second if x.second > second else second)


def smaller(x: Floats, y: FloatOrArray) -> Floats:
    """The smaller of two, of which the first tells what both are."""
    return (x if x < y else y) if x.__class__ is float else _smaller(x, y)  # type: ignore


def _smaller(x: Any, y: Any) -> Any:
    if x.__class__ is not Two:
        return np.minimum(x, y)
    first, second = pair(y)
    return Two(x.first if x.first < first else first, x.second if x.second < second else second)


def smaller_index(index: Ints, most: int) -> Ints:
    """An index, at the most ``most``."""
    return np.minimum(index, most) if index.__class__ is Array else min(index, most)  # type: ignore


def held_between(x: Floats, least: float, most: float) -> Floats:
    """x, at least ``least`` and at the most ``most``."""
    return smaller(larger(x, least), most)


def where(mask: Bools, yes: Any, no: Any) -> NDArray[Any]:
    """``yes`` where the mask is set, else ``no``."""
    return (yes if mask else no) if mask.__class__ is bool else _where(mask, yes, no)  # type: ignore


def _where(mask: Any, yes: Any, no: Any) -> Any:
    if mask.__class__ is not Two:
        return np.where(mask, yes, no)
    (first, second), (first_not, second_not) = pair(yes), pair(no)
    return Two(first if mask.first else first_not, second if mask.second else second_not)


def whole_and_rest(x: Floats, least: int, most: int) -> tuple[Ints, Floats]:
    """The whole number at or under x, held between ``least`` and ``most``, as an index; and what x has beyond it."""
    if is_plain(x):
        index: Any = least if x < least else most if x > most else math.floor(x)
        return index, x - index
    if is_two(x):
        (at, beyond), (at_too, beyond_too) = (whole_and_rest(one, least, most) for one in pair(x))
        return Two(at, at_too), Two(beyond, beyond_too)  # type: ignore
    whole = np.minimum(np.maximum(np.floor(x), least), most)
    return whole.astype(np.intp), x - whole


def some(mask: Bools | Floats) -> bool:
    """Whether any is set, or differs from 0."""
    if is_two(mask):
        return any(pair(mask))
    return bool(mask.any() if mask.__class__ is Array else mask)


def every(mask: Bools) -> bool:
    """Whether all are set."""
    return bool(mask.all() if mask.__class__ is Array else mask)


def no(mask: Bools) -> Bools:
    """The mask turned round."""
    return ~mask if mask.__class__ is Array else not mask  # type: ignore


def unset(x: Floats) -> Bools:
    """Where it is not a number."""
    found: Bools = x != x
    return found


def alike(x: NDArray[Any], value: float | bool) -> NDArray[Any]:
    """``value`` in the shape of x."""
    if is_two(x):
        both: Any = Two(value, value)
        return both  # type: ignore
    return np.full(x.shape, value) if x.__class__ is Array else value  # type: ignore


def places(mask: Bools) -> Ints:
    """Where the mask is set, as indices for :func:`pick` and :func:`put`; of a plain one, empty or not."""
    return np.flatnonzero(mask) if mask.__class__ is Array else ((0,) if mask else ())  # type: ignore


def pick(values: Values, at: Ints | Bools) -> Values:
    """Some of the values, on the last axis; a plain one is its own."""
    return values[..., at] if values.__class__ is Array else values  # type: ignore


def put(values: Values, at: Ints, found: Any) -> Values:
    """The values with ``found`` in some places, on the last axis; arrays are changed in place."""
    if values.__class__ is not Array:
        return found  # type: ignore
    values[..., at] = found
    return values


def highest(held: Floats, seen: Floats, mask: Bools | bool = True) -> Floats:
    """The larger of what is held and seen, where the mask is set; arrays are changed in place."""
    if held.__class__ is Array:
        return np.maximum(held, seen, out=held, where=mask)
    if is_two(held):
        return where(mask, larger(held, seen), held)  # type: ignore
    return seen if mask and seen > held else held


def lowest(held: Floats, seen: Floats, mask: Bools | bool = True) -> Floats:
    """The smaller of what is held and seen, where the mask is set; arrays are changed in place."""
    if held.__class__ is Array:
        return np.minimum(held, seen, out=held, where=mask)
    if is_two(held):
        return where(mask, smaller(held, seen), held)  # type: ignore
    return seen if mask and seen < held else held


def as_column(values: Floats) -> Floats:
    """``(packs, 1)`` of two packs in plain numbers, to reckon with arrays of what they have; else the values."""
    return np.array(pair(values))[:, None] if is_two(values) else values

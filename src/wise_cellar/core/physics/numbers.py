"""What laws of a flight are written in: functions of arrays, element by element, or of one plain number.

Of one flight alone numpy spends its time on getting at a single number; Python's own float takes a twentieth of that.
So that a law stands once, it is written in these: what is no array is a ``float``, a ``bool`` where it is a mask, and
comes back as one; the types say what it stands for. Arrays broadcast as ever. Plain numbers raise ``ArithmeticError``
or ``ValueError`` where an array would hold an infinity, or what is not a number.
"""

from __future__ import annotations

import math
from typing import Any, TypeVar

import numpy as np
from numpy.typing import NDArray

from wise_cellar.core.physics.arrays import Bools, FloatOrArray, Floats, Ints

Array = np.ndarray
"""Asked for by ``x.__class__ is …``: the quickest way there is."""
Values = TypeVar("Values", bound=NDArray[Any])


def is_plain(values: object) -> bool:
    """Whether they are one plain number."""
    return values.__class__ is float


def plain(values: Any, flight: int) -> Any:
    """The one number of a flight, where an array has no other axis to choose on; else what the values say of it."""
    return values.item(flight) if values.__class__ is Array else values.plain(flight)


def exp(x: Floats) -> Floats:
    """e to the power of x."""
    return math.exp(x) if x.__class__ is float else np.exp(x)  # type: ignore


def exp_less_one(x: Floats) -> Floats:
    """e to the power of x, less 1, exact where x is small."""
    return math.expm1(x) if x.__class__ is float else np.expm1(x)  # type: ignore


def square_root(x: Floats) -> Floats:
    """√x."""
    return math.sqrt(x) if x.__class__ is float else np.sqrt(x)  # type: ignore


def inverse_sinh(x: Floats) -> Floats:
    """asinh(x)."""
    return math.asinh(x) if x.__class__ is float else np.arcsinh(x)  # type: ignore


def larger(x: Floats, y: FloatOrArray) -> Floats:
    """The larger of two, of which the first tells what both are."""
    return (x if x > y else y) if x.__class__ is float else np.maximum(x, y)  # type: ignore


def smaller(x: Floats, y: FloatOrArray) -> Floats:
    """The smaller of two, of which the first tells what both are."""
    return (x if x < y else y) if x.__class__ is float else np.minimum(x, y)  # type: ignore


def smaller_index(index: Ints, most: int) -> Ints:
    """An index, at the most ``most``."""
    return np.minimum(index, most) if index.__class__ is Array else min(index, most)  # type: ignore


def held_between(x: Floats, least: float, most: float) -> Floats:
    """x, at least ``least`` and at the most ``most``."""
    return smaller(larger(x, least), most)


def where(mask: Bools, yes: Any, no: Any) -> NDArray[Any]:
    """``yes`` where the mask is set, else ``no``."""
    return (yes if mask else no) if mask.__class__ is bool else np.where(mask, yes, no)  # type: ignore


def whole_and_rest(x: Floats, least: int, most: int) -> tuple[Ints, Floats]:
    """The whole number at or under x, held between ``least`` and ``most``, as an index; and what x has beyond it."""
    if is_plain(x):
        index: Any = least if x < least else most if x > most else math.floor(x)
        return index, x - index
    whole = np.minimum(np.maximum(np.floor(x), least), most)
    return whole.astype(np.intp), x - whole


def some(mask: Bools | Floats) -> bool:
    """Whether any is set, or differs from 0."""
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
    return seen if mask and seen > held else held


def lowest(held: Floats, seen: Floats, mask: Bools | bool = True) -> Floats:
    """The smaller of what is held and seen, where the mask is set; arrays are changed in place."""
    if held.__class__ is Array:
        return np.minimum(held, seen, out=held, where=mask)
    return seen if mask and seen < held else held

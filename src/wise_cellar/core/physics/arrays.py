"""The array types the laws are written in."""

from typing import TypeAlias

import numpy as np
from numpy.typing import NDArray

Floats: TypeAlias = NDArray[np.float64]
Ints: TypeAlias = NDArray[np.intp]
Bools: TypeAlias = NDArray[np.bool_]
FloatOrArray: TypeAlias = "float | Floats"

GRAVITY_M_S2 = 9.80665
ZERO_CELSIUS_K = 273.15

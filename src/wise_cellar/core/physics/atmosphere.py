"""Air density."""

from __future__ import annotations

from wise_cellar.core.physics.arrays import FloatOrArray, Floats

GAS_CONSTANT_AIR = 287.05  # J/(kg K)


def pressure(altitude_m: FloatOrArray) -> FloatOrArray:
    """Static pressure, Pa, at a geopotential altitude in m below 11 km.

    International Standard Atmosphere (ISO 2533): p = 101325 (1 − 2.25577e-5 h)^5.25588.
    """
    return 101325.0 * (1.0 - 2.25577e-5 * altitude_m) ** 5.25588


def air_density(altitude_m: FloatOrArray, temperature_k: FloatOrArray) -> Floats | float:
    """Density of dry air, kg/m³, from standard pressure at ``altitude_m`` and the given temperature.

    The temperature is the real one, not the standard one at that altitude. Humidity is not modelled
    (at 30 °C and saturation it would take off about 1.5 %).
    """
    return pressure(altitude_m) / (GAS_CONSTANT_AIR * temperature_k)

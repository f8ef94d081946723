"""Air density."""

from __future__ import annotations

from wise_cellar.core.physics.arrays import FloatOrArray, Floats

GAS_CONSTANT_AIR = 287.05  # J/(kg K)


def pressure(altitude_m: FloatOrArray) -> FloatOrArray:
    """Static pressure, Pa, at a geopotential altitude in m below 11 km.

    p = 101325·(1 − 2.25577e-5·h)^5.25588; numbers or arrays of any shape.

    Source: International Standard Atmosphere (ISO 2533:1975). Not modelled: the day's own pressure, ± 3 %.
    """
    return 101325.0 * (1.0 - 2.25577e-5 * altitude_m) ** 5.25588


def air_density(altitude_m: FloatOrArray, temperature_k: FloatOrArray) -> Floats | float:
    """Density of dry air, kg/m³, from standard pressure at ``altitude_m`` and the given temperature, K.

    ρ = p(h)/(R·T), R = 287.05 J/(kg K); numbers or arrays that broadcast. The temperature is the real one, not the
    standard one at that altitude.

    Source: ideal gas law with the gas constant of ISO 2533:1975. Not modelled: humidity, which at 30 °C and saturation
    would take off about 1.5 %.
    """
    return pressure(altitude_m) / (GAS_CONSTANT_AIR * temperature_k)

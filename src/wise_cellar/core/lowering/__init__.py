"""From documents in people's units to arrays in SI, for any number of designs at once."""

from wise_cellar.core.lowering.designs import lower, lower_one, nominal_bus_v

__all__ = ["lower", "lower_one", "nominal_bus_v"]

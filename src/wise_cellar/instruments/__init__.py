"""Device links, and the simulated stand-ins that ship with the product. None yet."""

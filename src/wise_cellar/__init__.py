"""Wise Cellar: design lithium-ion packs for drones and see how long they fly."""

__version__ = "0.1.0"

"""Charging: settings, time and energy of a pack, and a day of flying and charging."""

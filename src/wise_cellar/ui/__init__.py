"""The window: shell, stations, shared widgets, theme."""

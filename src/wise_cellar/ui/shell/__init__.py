"""The frame around the stations: window, rail, recipe line, answer band, finder."""

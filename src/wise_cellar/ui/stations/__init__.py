"""One folder per station, in working order. Stations do not know each other; the window wires them."""

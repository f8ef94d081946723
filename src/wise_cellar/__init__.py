"""Wise Cellar: design lithium-ion packs for drones and see how long they fly."""

import os

__version__ = "0.2.0"

# Read once, when numpy is first imported. Matrices here are small: two threads that wait for each other busily bring
# nothing, and where another core is at work beside, as in a search or a fit beside the window, cost ten times as much.
os.environ.setdefault("OPENBLAS_NUM_THREADS", "1")

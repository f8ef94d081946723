"""Memory of a process. In a file of its own: a process that did not begin with the benchmark can import it too."""

from __future__ import annotations

import resource


def peak_mb() -> float:
    """The most that the process that runs this has held, MB."""
    return resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024

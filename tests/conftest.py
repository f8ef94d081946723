"""Settings of all tests."""

from __future__ import annotations

import os

from hypothesis import settings

import wise_cellar

assert wise_cellar.__version__  # imported before numpy: it says with how many threads matrices are solved

settings.register_profile("default", deadline=None)
settings.register_profile("ci", deadline=None, derandomize=True)
settings.load_profile("ci" if os.environ.get("CI") else "default")
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

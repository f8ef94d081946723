"""Settings of all tests."""

from __future__ import annotations

import os

from hypothesis import settings

settings.register_profile("default", deadline=None)
settings.register_profile("ci", deadline=None, derandomize=True)
settings.load_profile("ci" if os.environ.get("CI") else "default")
os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

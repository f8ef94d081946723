"""The core stands alone, and the project says nothing of who or what it must not name."""

from __future__ import annotations

import subprocess
import sys


def test_the_core_and_the_store_import_without_the_toolkit() -> None:
    """A fresh interpreter in which PyQt6 and pyqtgraph cannot be imported flies a design."""
    program = """
import sys
for name in ("PyQt6", "pyqtgraph"):
    sys.modules[name] = None
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.flight import answer
from wise_cellar.demo import sample_documents
import wise_cellar.store
found = {d.id: d for d in sample_documents()}
design = found["dunlin-scout"]
whole = CompleteDesign(design=design, craft=found["dunlin"], cell_type=found[design.cell_type_id],
                       mission=found["colony-scout"])
print(answer(whole).duration_s > 300)
"""
    done = subprocess.run([sys.executable, "-c", program], capture_output=True, text=True, check=False)
    assert done.stdout.strip() == "True", done.stderr

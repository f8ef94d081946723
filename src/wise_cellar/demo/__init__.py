"""The sample workspace of the made-up Orrin Saltmarsh Survey."""

from wise_cellar.demo.sample_world import (
    EXTENDED_DESIGN_ID,
    FIRST_DESIGN_ID,
    complete_sample,
    sample_documents,
    sample_series,
    sample_workspace,
)

__all__ = [
    "EXTENDED_DESIGN_ID",
    "FIRST_DESIGN_ID",
    "complete_sample",
    "sample_documents",
    "sample_series",
    "sample_workspace",
]

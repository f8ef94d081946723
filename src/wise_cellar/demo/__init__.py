"""The sample workspace of the made-up Orrin Saltmarsh Survey."""

from wise_cellar.demo.sample_world import FIRST_DESIGN_ID, sample_documents, sample_series

__all__ = ["FIRST_DESIGN_ID", "sample_documents", "sample_series"]

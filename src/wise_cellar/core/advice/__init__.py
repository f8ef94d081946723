"""What is worth changing in a pack: every proposal flown by the same integrator, in one batch."""

from wise_cellar.core.advice.proposals import Proposal, Target, proposals
from wise_cellar.core.advice.step_up import StepUp, step_up
from wise_cellar.core.advice.study import CELLS, Outcome, PackStudy, study_pack

__all__ = ["CELLS", "Outcome", "PackStudy", "Proposal", "StepUp", "Target", "proposals", "step_up", "study_pack"]

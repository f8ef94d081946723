"""What is done to build a pack, step by step, and the volts to expect at each."""

from wise_cellar.core.build.steps.expected import Expected, GroupRest, as_read, group_rests
from wise_cellar.core.build.steps.joined import sides_of
from wise_cellar.core.build.steps.readings import Judged, checked_volts, judge_reading, together
from wise_cellar.core.build.steps.step import Bench, Scene, Side, Step
from wise_cellar.core.build.steps.writing import write_steps

__all__ = [
    "Bench",
    "Expected",
    "GroupRest",
    "Judged",
    "Scene",
    "Side",
    "Step",
    "as_read",
    "checked_volts",
    "group_rests",
    "judge_reading",
    "sides_of",
    "together",
    "write_steps",
]

"""The answer in a few lines of text, to be sent to somebody."""

from __future__ import annotations

from wise_cellar.core.answer.result import Answer
from wise_cellar.core.documents import CompleteDesign
from wise_cellar.core.units import format_grams, format_minutes, format_number, of_limit
from wise_cellar.core.words import upper_first


def answer_as_text(complete: CompleteDesign, answer: Answer) -> str:
    """The name of the design, the five values of its answer, and every finding, a line each."""
    late, weak = answer.late_punch, answer.weak_link
    return "\n".join([
        complete.design.name,
        f"{upper_first(answer.where)}: {format_minutes(answer.duration_s)}",
        f"Take-off mass: {format_grams(answer.takeoff_mass_g)}",
        (
            f"Late punch: {late.volts_words}, thrust {format_number(late.thrust_margin, 1)} times"
            f" {complete.craft.margin_over}"
        ),
        f"Weakest link: {weak.name}, {of_limit(weak.worst_share)}",
        f"Ends because {answer.reason.words}",
        *(finding.sentence for finding in answer.findings),
    ])  # fmt: skip

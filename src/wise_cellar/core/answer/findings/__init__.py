"""What to be careful about in a design: each finding a sentence with its numbers and the field it hangs on.

A room is a file here and its function in :data:`ROOMS`.
"""

from wise_cellar.core.answer.findings.build import build_findings
from wise_cellar.core.answer.findings.bursts import burst_findings
from wise_cellar.core.answer.findings.bus import bus_findings
from wise_cellar.core.answer.findings.cells import cell_findings
from wise_cellar.core.answer.findings.craft import craft_findings
from wise_cellar.core.answer.findings.fit_range import fit_range_findings
from wise_cellar.core.answer.findings.groups import group_findings
from wise_cellar.core.answer.findings.landing import landing_findings
from wise_cellar.core.answer.findings.pack import pack_findings
from wise_cellar.core.answer.findings.warmth import warmth_findings
from wise_cellar.core.answer.findings.wing import wing_findings
from wise_cellar.core.answer.result import Answer, Finding, Severity
from wise_cellar.core.documents import CompleteDesign

ROOMS = (
    cell_findings,
    bus_findings,
    group_findings,
    pack_findings,
    build_findings,
    burst_findings,
    warmth_findings,
    fit_range_findings,
    landing_findings,
    craft_findings,
    wing_findings,
)


def findings(complete: CompleteDesign, answer: Answer) -> tuple[Finding, ...]:
    """All findings, those over a limit first."""
    found = [finding for room in ROOMS for finding in room(complete, answer)]
    return tuple(sorted(found, key=lambda finding: finding.severity is not Severity.OVER))

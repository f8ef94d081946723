"""Every rule by which the product judges, with its number, source and place: ``script/make-judgement`` writes
``docs/judgement.md`` from the code, ``--check`` holds the file against it.

Sentences are taken from the calls that make findings, so that none can be told and not listed; numbers from the
constants that the rules use.
"""

from __future__ import annotations

import ast
import inspect
import sys
from collections.abc import Iterator
from pathlib import Path
from types import ModuleType

from wise_cellar.core.answer import bus, hover, landing, limits, wing
from wise_cellar.core.answer.findings import build, bursts, cells, craft, fit_range, groups, pack, warmth
from wise_cellar.core.answer.findings import bus as bus_findings
from wise_cellar.core.answer.findings import landing as landing_findings
from wise_cellar.core.answer.findings import wing as wing_findings
from wise_cellar.core.cells import charging as cell_charging
from wise_cellar.core.cells import claims, inside, specimens
from wise_cellar.core.cells import limits as cell_limits
from wise_cellar.core.charge import allowed
from wise_cellar.core.documents import mission
from wise_cellar.core.extend import fuses
from wise_cellar.core.pack import cautions, joining, ledger, rating
from wise_cellar.core.physics import charging, conductor, motor

FILE = Path(__file__).parent.parent / "docs" / "judgement.md"

PLACES: tuple[tuple[str, str, tuple[ModuleType, ...]], ...] = (
    ("Cells", "Cells, and every design that rests on the cell", (cells, specimens, claims, cell_limits, inside)),
    ("The pack as it is built", "Pack", (build, pack, joining, limits)),
    ("What carries the current", "Pack: the chain", (rating, ledger, conductor)),
    ("Packs on one bus", "Extend: at the plug", (bus_findings, bus, fuses)),
    ("Bursts", "Flight: why", (bursts, motor)),
    ("Warmth", "Flight: why", (warmth,)),
    ("What a fit rests on", "Cells: curves; flight: range", (fit_range,)),
    ("Groups that differ", "Flight: weather", (groups,)),
    ("Landing", "Flight: landing", (landing_findings, landing, hover, mission)),
    ("The craft", "Craft", (craft, wing_findings, wing)),
    ("Charging", "Charge", (allowed, charging, cell_charging)),
)
HEAD = """# How it judges

Made from the code by `script/make-judgement`; a test holds it against the code. Every sentence that a design can be
told, how severe it is and the field that it points to; then the numbers behind it, with what they rest on. *over a
limit* excludes a design from a search, where the search can change it; a *caution* does not. In the sentences `{…}`
stands for numbers and names of the design at hand.
"""


def sentences(module: ModuleType) -> Iterator[tuple[str, str, str]]:
    """Severity, sentence and field of every finding that a module makes."""
    for node in ast.walk(ast.parse(inspect.getsource(module))):
        if isinstance(node, ast.Call) and len(node.args) == 2:
            names = [one.id for one in ast.walk(node.func) if isinstance(one, ast.Name)]
            told = [name for name in names if name in (*KNOWN, "told")]
            if told:
                severity = " or ".join(
                    {"over": "over a limit", "caution": "caution"}[one] for one in told if one in KNOWN
                )
                yield severity or "as the claim stands", _told(module, node.args[0]), _field(node.args[1])


KNOWN = ("over", "caution")
UNITS = {
    "format_volts": "V", "format_amps": "A", "format_watts": "W", "format_grams": "g", "format_mm": "mm",
    "format_celsius": "°C", "format_speed": "m/s", "format_metres": "m", "format_rise": "K", "format_mah": "mAh",
}  # fmt: skip
"""What a function puts behind its number, where units are shown as they are kept."""


def _told(module: ModuleType, node: ast.expr) -> str:
    """A sentence, or all that a function of ours may make of it."""
    called = node.func if isinstance(node, ast.Call) else None
    made = getattr(module, called.id, None) if isinstance(called, ast.Name) else None
    if made is None:
        return _words(node)
    tree = ast.parse(inspect.getsource(made))
    returned = [one.value for one in ast.walk(tree) if isinstance(one, ast.Return) and one.value is not None]
    return " · ".join(_words(one) for one in returned)


def _words(node: ast.expr) -> str:
    """A sentence as it stands in the code, what is filled in cut to braces."""
    if isinstance(node, ast.JoinedStr):
        return "".join(_words(part) for part in node.values)
    if isinstance(node, ast.Constant):
        return str(node.value)
    if isinstance(node, ast.BinOp):
        return _words(node.left) + _words(node.right)
    if isinstance(node, ast.FormattedValue):
        called = node.value.func if isinstance(node.value, ast.Call) else None
        return " ".join(["{…}", *([UNITS[called.id]] if isinstance(called, ast.Name) and called.id in UNITS else [])])
    if isinstance(node, ast.IfExp):
        return f"{_words(node.body)} / {_words(node.orelse)}"
    return "{…}"


def _field(node: ast.expr) -> str:
    if isinstance(node, ast.Call) and node.args:
        return _field(node.args[0])
    return _words(node) if isinstance(node, (ast.Constant, ast.JoinedStr)) else "of the link or the claim"


def numbers(module: ModuleType) -> Iterator[tuple[str, str, str]]:
    """Name, value and explanation of every constant of a module that has one."""
    body = ast.parse(inspect.getsource(module)).body
    for place, node in enumerate(body):
        if not isinstance(node, (ast.Assign, ast.AnnAssign)):
            continue
        targets = node.targets if isinstance(node, ast.Assign) else [node.target]
        names = [one.id for target in targets for one in ast.walk(target) if isinstance(one, ast.Name)]
        following = body[place + 1] if place + 1 < len(body) else None
        told = isinstance(following, ast.Expr) and isinstance(following.value, ast.Constant)
        words = " ".join(str(following.value.value).split()) if told else ""  # type: ignore[union-attr]
        for name in names:
            value = getattr(module, name, None)
            if name.isupper() and not name.startswith("_") and isinstance(value, (int, float)):
                yield name, f"{value:g}", words
            elif name.isupper() and isinstance(value, dict) and name in TABLES:
                yield name, "; ".join(f"{key}: {_cell(each)}" for key, each in value.items()), words


TABLES = {"THRESHOLDS_V", "RESERVES", "FULL_V", "CHARGE_LAG"}


def _cell(value: object) -> str:
    if isinstance(value, dict):
        return ", ".join(f"{key} {each:g}" for key, each in value.items())
    return ", ".join(f"{each:g}" for each in value) if isinstance(value, tuple) else f"{value:g}"


def laws(module: ModuleType) -> Iterator[tuple[str, str]]:
    """Functions of a module that name their source, with it."""
    for node in ast.walk(ast.parse(inspect.getsource(module))):
        if isinstance(node, ast.FunctionDef) and "Source:" in (ast.get_docstring(node) or ""):
            words = " ".join((ast.get_docstring(node) or "").split())
            yield node.name, words.split("Source:", 1)[1].split("Not modelled:")[0].strip()


def _row(*cells: str) -> str:
    return "| " + " | ".join(cell.replace("|", "\\|") for cell in cells) + " |"


def text() -> str:
    """The whole document."""
    lines = [HEAD]
    for title, place, modules in PLACES:
        lines.append(f"## {title}\n\nIn the window: {place}.\n")
        told = [one for module in modules for one in sentences(module)]
        if told:
            lines += [_row("severity", "sentence", "field"), "|---|---|---|", *(_row(*one) for one in told), ""]
        rules = [(module, *one) for module in modules for one in numbers(module)]
        if rules:
            lines += [_row("number", "value", "what it is, and what it rests on"), "|---|---|---|"]
            lines += [_row(f"`{module.__name__.split('.', 2)[2]}.{name}`", value, words or "—")
                      for module, name, value, words in rules]  # fmt: skip
            lines.append("")
        rests = [one for module in modules for one in laws(module)]
        if rests:
            lines += [_row("law", "source"), "|---|---|", *(_row(f"`{name}`", source) for name, source in rests), ""]
    lines.append("## Said while a pack is built\n\nIn the window: Pack, beside what it is about.\n")
    said = [*cautions.LEADS, *cautions.FITTINGS, *cautions.BAY, *cautions.LABEL]
    lines += [_row("severity", "sentence"), "|---|---|"]
    lines += [_row("care" if one.care else "say", one.sentence) for one in said]
    lines += [_row("care", school.caution) for school in joining.SCHOOLS.values()]
    lines += [_row("say or care", words) for words in _advised(cautions)]
    return "\n".join(lines) + "\n"


def _advised(module: ModuleType) -> Iterator[str]:
    """Sentences that the joining page says of a recipe."""
    tree = ast.parse(inspect.getsource(module))
    function = next(node for node in tree.body if isinstance(node, ast.FunctionDef))
    for node in ast.walk(function):
        if isinstance(node, ast.Call) and isinstance(node.func, ast.Name) and node.func.id == "Advice":
            words = _words(node.args[0])
            if words != "{…}":
                yield words


def main() -> int:
    """Write the document, or hold it against the code."""
    if "--check" in sys.argv:
        return 0 if FILE.read_text(encoding="utf-8") == text() else 1
    FILE.write_text(text(), encoding="utf-8")
    return 0


if __name__ == "__main__":
    sys.exit(main())

"""Every sentence that the product can say, by the file that says it: ``python -m tests.sentences [words…]``.

For reading them in one go, as one voice. What is put into a sentence is shown as its source; docstrings are left out.
With words, only sentences that hold one of them.
"""

from __future__ import annotations

import ast
import sys
from collections.abc import Iterator
from pathlib import Path

SOURCE = Path(__file__).parents[1] / "src" / "wise_cellar"
LEAST_WORDS = 3


def sentences(source: str) -> Iterator[tuple[int, str]]:
    """Line and text of what is said in a module: constants of some words, and formatted ones."""
    tree = ast.parse(source)
    silent = {id(node.value) for node in ast.walk(tree) if isinstance(node, ast.Expr)}
    inside = {id(part) for node in ast.walk(tree) if isinstance(node, ast.JoinedStr) for part in ast.walk(node)}
    for node in ast.walk(tree):
        if id(node) in silent:
            continue
        if isinstance(node, ast.JoinedStr):
            text = "".join(_said(part) for part in node.values)
        elif isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in inside:
            text = node.value
        else:
            continue
        words = text.split()
        if len(words) >= LEAST_WORDS and any(word.isalpha() for word in words):
            yield node.lineno, " ".join(words)


def _said(part: ast.expr) -> str:
    if isinstance(part, ast.Constant):
        return str(part.value)
    return "{" + ast.unparse(part.value)[:30] + "}" if isinstance(part, ast.FormattedValue) else ""


def main(wanted: list[str]) -> None:
    """Print them."""
    for path in sorted(SOURCE.rglob("*.py")):
        found = [
            each
            for each in sorted(set(sentences(path.read_text(encoding="utf-8"))))
            if not wanted or any(word in each[1] for word in wanted)
        ]
        if found:
            print(f"\n{path.relative_to(SOURCE)}")
        for line, text in found:
            print(f"  {line:4} {text}")


if __name__ == "__main__":
    main(sys.argv[1:])

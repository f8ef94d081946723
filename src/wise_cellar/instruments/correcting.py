"""What a line holds, piece by piece, and a profile that is corrected by saying what each piece is."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from wise_cellar.core.documents import DocumentError
from wise_cellar.instruments.lines import BETWEEN_ANSWERS, PAIR
from wise_cellar.instruments.profile import Form, Profile
from wise_cellar.instruments.quantities import QUANTITIES

MOST_PIECES, MOST_GROUPS = 24, 24
CHOICES = (*QUANTITIES, *(f"group-{number}" for number in range(1, MOST_GROUPS + 1)))
"""What a piece may be."""
SEPARATORS = {",": "comma", ";": "semicolon", "\t": "tab", " ": "space", "|": "bar"}
DECIMALS = {".": "point", ",": "comma"}


@dataclass(frozen=True)
class Piece:
    """One piece of a line: by what a channel names it, and its text."""

    source: str
    text: str


def pieces(profile: Profile, line: str, heads: Sequence[str] = ()) -> list[Piece]:
    """What a line holds by the form of a profile, as far as :data:`MOST_PIECES`; ``heads`` are the names of its
    columns, where a line told them."""
    lines = profile.lines
    if lines.form in (Form.PAIRS, Form.MAVLINK):
        found = [Piece(key, f"{value} {unit}".strip()) for key, value, unit in PAIR.findall(line)]
    elif lines.form is Form.ANSWERS:
        found = [Piece(str(number), text) for number, text in enumerate(line.split(BETWEEN_ANSWERS), 1)]
    elif lines.form is Form.PATTERN:
        match = re.search(lines.pattern, line)
        found = [Piece(name, text or "") for name, text in (match.groupdict() if match else {}).items()]
    else:
        cells = [cell.strip() for cell in line.split(lines.separator)]
        named = len(heads) == len(cells) and any(lines.at(head) for head in heads)
        found = [Piece(heads[at] if named else str(at + 1), cell) for at, cell in enumerate(cells)]
    return found[:MOST_PIECES]


def parted(profile: Profile, form: Form, separator: str, decimal: str) -> Profile:
    """The profile with lines of another form, before anybody has said what their pieces are.

    Raises :class:`DocumentError` where the three do not go together.
    """
    return _changed(profile, form=form, separator=separator, decimal=decimal, pattern=profile.lines.pattern)


def corrected(profile: Profile, meanings: Mapping[str, tuple[str, str]], name: str, baud: int) -> Profile:
    """The profile under a name of its own, with what each piece is: quantity and unit by source.

    Raises :class:`DocumentError` where that is no way of talking: a quantity twice, nothing that is read, another unit.
    """
    if not meanings:
        raise DocumentError("Nothing of the line is read: say of one piece at least what it is.")
    channels = [{"quantity": quantity, "source": source, "unit": unit} for source, (quantity, unit) in meanings.items()]
    if profile.lines.form is Form.MAVLINK:
        here = {source.partition(".")[0] for source in meanings}
        others = [one for one in profile.lines.channels if one.source.partition(".")[0] not in here]
        channels += [one.model_dump() for one in others]
    found = _changed(profile, channels=channels)
    data = found.model_dump(mode="json")
    return Profile.from_data({**data, "name": name, "talk": {**data["talk"], "baud": baud}})


def _changed(profile: Profile, **lines: object) -> Profile:
    data = profile.model_dump(mode="json")
    return Profile.from_data({**data, "lines": {**data["lines"], **lines}})

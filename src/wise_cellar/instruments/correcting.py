"""What a line holds, piece by piece, and a profile that is corrected by saying what each piece is."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from wise_cellar.core.documents import DocumentError
from wise_cellar.core.words import quoted
from wise_cellar.instruments.lines import BETWEEN_ANSWERS, PAIR
from wise_cellar.instruments.profile import Form, Mode, Profile
from wise_cellar.instruments.quantities import QUANTITIES, quantity_of

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


def asked_with(text: str) -> tuple[str, ...]:
    """Questions as they are typed, with semicolons between; none where it is only listened to."""
    return tuple(question.strip() for question in text.split(";") if question.strip())


def parted(
    profile: Profile, form: Form, separator: str, decimal: str, pattern: str = "", ask: Sequence[str] = ()
) -> Profile:
    """The profile with lines of another form, before anybody has said what their pieces are; ``ask`` are the questions
    whose answers they are, where it is asked.

    Raises :class:`DocumentError` where these do not go together.
    """
    lines: dict[str, object] = {"form": form, "separator": separator, "decimal": decimal, "pattern": pattern}
    if form is Form.PATTERN:
        lines["channels"] = _guessed(
            _groups(pattern), "The pattern has no group with a name, such as (?P<volts>[0-9.]+)."
        )
    elif form is Form.ANSWERS:
        numbers = [str(number) for number in range(1, len(ask) + 1)]
        lines["channels"] = _guessed(
            numbers, "Answers are to questions: write what it is asked with, such as MEAS:VOLT?"
        )
    data = profile.model_dump(mode="json")
    talk = data["talk"] | {"ask": list(ask), "mode": Mode.ASK if ask else Mode.LISTEN}
    return Profile.from_data({**data, "talk": talk, "lines": {**data["lines"], **lines}})


def corrected(
    profile: Profile, meanings: Mapping[str, tuple[str, str]], name: str, baud: int, off: str | None = None
) -> Profile:
    """The profile under a name of its own, with what each piece is: quantity and unit by source; ``off`` is what
    switches it off, where that is said anew.

    Raises :class:`DocumentError` where that is no way of talking: a quantity twice, nothing that is read, another unit.
    """
    if not meanings:
        raise DocumentError("Nothing of the line is read: say of one piece at least what it is.")
    channels = [{"quantity": quantity, "source": source, "unit": unit} for source, (quantity, unit) in meanings.items()]
    if profile.lines.form is Form.MAVLINK:
        here = {source.partition(".")[0] for source in meanings}
        others = [one for one in profile.lines.channels if one.source.partition(".")[0] not in here]
        channels += [one.model_dump() for one in others]
    data = profile.model_dump(mode="json")
    told = data["told"] if off is None else {**data["told"], "off": off}
    lines = {**data["lines"], "channels": channels}
    return Profile.from_data(
        {**data, "name": name, "talk": {**data["talk"], "baud": baud}, "told": told, "lines": lines}
    )


def _groups(pattern: str) -> list[str]:
    try:
        return list(re.compile(pattern).groupindex)
    except re.error as error:
        raise DocumentError(f"The pattern {quoted(pattern)} cannot be read: {error}.") from error


def _guessed(sources: Sequence[str], nothing: str) -> list[dict[str, str]]:
    """Something of each piece, to be put right: what it is called, where it is called by a quantity, else volts."""
    if not sources:
        raise DocumentError(nothing)
    named = [source for source in sources if source in QUANTITIES]
    found = [{"quantity": source, "source": source, "unit": quantity_of(source).unit} for source in named]
    return found or [{"quantity": "volts", "source": sources[0], "unit": "V"}]

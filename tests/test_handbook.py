"""The handbook as files: links, pictures and words that are there, and a page for what findings hang on."""

from __future__ import annotations

import re
from pathlib import Path

import pytest
from PyQt6.QtGui import QImage

from wise_cellar.core.documents import CompleteDesign, field_info
from wise_cellar.handbook import GLOSSARY, folder, glossary, meaning_of, page, page_at, page_on, pages
from wise_cellar.ui.stations import STATIONS

DOCS = Path(__file__).parents[1] / "docs" / "handbook"
LINK = re.compile(r"\]\(([^)]+)\)")
WORDS = (
    "cell", "series group", "string", "S × P", "pack", "branch", "take-off mass", "dry mass", "open-circuit voltage",
    "state of charge", "DCIR", "sag", "rebound", "knee", "loaded voltage", "resting voltage", "usable capacity",
    "reserve", "punch", "hover throttle", "thrust margin", "figure of merit", "disc loading", "bus bar", "strip", "tap",
    "weak link", "C-rate", "propeller", "landing rule", "known flight", "joining", "balance point", "AUW",
)  # fmt: skip
"""Those of the design's list."""


@pytest.mark.parametrize("one", pages(), ids=[one.name for one in pages()])
def test_links_and_pictures_are_there(one: object) -> None:
    text = one.text  # type: ignore[attr-defined]
    for target in LINK.findall(text):
        assert (folder() / target).is_file(), f"{target} is missing"
    words = re.sub(r"[#*!\[\]()]", " ", text).split()
    assert one.name == GLOSSARY or 60 < len(words) < 260, "a page is short"  # type: ignore[attr-defined]


def test_every_picture_is_shown_on_some_page() -> None:
    shown = {target for one in pages() for target in LINK.findall(one.text)}
    assert {path.name for path in folder().glob("*.png")} <= shown


def test_no_picture_lets_the_page_shine_through() -> None:
    """Its words are dark, and a page may be."""
    pictures = [QImage(str(path)) for path in folder().glob("*.png")]
    assert pictures
    assert not any(picture.isNull() or picture.hasAlphaChannel() for picture in pictures)


def test_the_same_pages_stand_in_the_documentation() -> None:
    def contents(where: Path) -> dict[str, bytes]:
        return {path.name: path.read_bytes() for path in where.iterdir()}

    assert contents(DOCS) == contents(folder())


def test_every_word_of_the_design_has_two_lines() -> None:
    plain = {word.lower(): says for word, says in glossary().items()}
    for word in WORDS:
        assert word.lower() in plain, f"{word} is not explained"
    assert all(len(says) < 170 for says in plain.values())
    assert meaning_of("Hover throttle at take-off").startswith("Hover throttle:")
    assert meaning_of("Colour") == ""


def test_pages_name_fields_and_stations_that_exist() -> None:
    titles = {doorway.title for doorway in STATIONS}
    for one in pages():
        assert one.station in titles | {""}
        for path in one.paths:
            if not path.endswith(("design.packs.1", "recipe.bus")):
                field_info(CompleteDesign, path.removesuffix(".bus"))


def test_a_field_leads_to_the_page_that_explains_it() -> None:
    for path, name in (
        ("design.landing.hold_s", "alarm"), ("design.landing.policy", "early-or-deep"),
        ("cells.0.continuous_current_a", "rated-current"), ("design.packs.0.recipe.leads.gauge_awg", "weakest-link"),
        ("craft.known_flights.2.duration_min", "known-flight"),
    ):  # fmt: skip
        found = page_on(path)
        assert found is not None
        assert found.name == name
    assert page_on("design.name") is None
    assert page_at("Charge").name == "storage"
    assert page_at("Nowhere") is pages()[0]
    with pytest.raises(KeyError):
        page("nothing")

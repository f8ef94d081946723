"""Exchange files: plain JSON, a published schema, and sentences for what is wrong."""

from __future__ import annotations

import json
from pathlib import Path

import jsonschema
import pytest

from tests.builders import cell_type, complete, craft, mission
from wise_cellar.core.documents import Document, DocumentError, export_text, import_text, json_schema

SCHEMA = Path(__file__).parents[2] / "docs" / "exchange.schema.json"


@pytest.mark.parametrize("document", [complete(), craft(), cell_type(), mission()], ids=lambda d: type(d).__name__)
def test_an_export_comes_back_equal_and_follows_the_schema(document: Document) -> None:
    text = export_text(document)
    assert import_text(text).document == document
    jsonschema.validate(json.loads(text), json_schema(), cls=jsonschema.Draft202012Validator)


def test_the_published_schema_is_the_one_the_product_writes() -> None:
    assert json.loads(SCHEMA.read_text(encoding="utf-8")) == json_schema(), "run: wise-cellar schema > docs/exchange…"


def test_the_schema_refuses_what_the_product_refuses() -> None:
    body = json.loads(export_text(complete()))
    body["document"]["design"]["packs"][0]["recipe"]["parallel_count"] = 41
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate(body, json_schema(), cls=jsonschema.Draft202012Validator)
    with pytest.raises(DocumentError, match="must be at most 40"):
        import_text(json.dumps(body))


@pytest.mark.parametrize(
    ("text", "says"),
    [
        ("", "not JSON"),
        ("[1, 2", "not JSON"),
        ("[]", 'must have "format": "wise-cellar"'),
        ('{"format": "other"}', 'must have "format": "wise-cellar"'),
        ('{"format": "wise-cellar", "kind": "boat", "document": {}}',
         "“kind” must be one of design, craft, cell type, mission; “boat” is not"),
        ('{"format": "wise-cellar", "kind": "craft"}', "must be an object with named fields"),
        ('{"format": "wise-cellar", "kind": "craft", "document": {"schema_version": 6}}', "a newer one is needed"),
        ('{"format": "wise-cellar", "kind": "design", "document": {"design": {"schema_version": 9}}}', "newer one"),
        ('{"format": "wise-cellar", "kind": "mission",'
         ' "document": {"id": "m", "name": "m", "blocks": [{"kind": "x"}]}}', "Kind of block"),
    ],
)  # fmt: skip
def test_bad_files_get_a_sentence(text: str, says: str) -> None:
    with pytest.raises(DocumentError) as refusal:
        import_text(text)
    assert says in str(refusal.value)
    assert str(refusal.value).endswith(".")

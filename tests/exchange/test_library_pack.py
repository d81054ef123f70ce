"""The library pack: round trip without a difference, and broken files named."""

from __future__ import annotations

import json
from dataclasses import replace

import jsonschema
import pytest

from reedling.demo.loader import demo_pack
from reedling.errors import InvalidInput
from reedling.exchange.library_pack import (
    LibraryPack,
    PackedRevision,
    generate_pack,
    pack_schema,
    parse_pack,
)
from tests.lists import LISTS
from tests.plans import rake_plan

HEAD = PackedRevision(document="WP-001", kind="plan", letter="A", state="Released")
PACK = LibraryPack(catalogue=LISTS, revisions=((HEAD, rake_plan()),))


def told(files: dict[str, str]) -> list[str]:
    with pytest.raises(InvalidInput) as caught:
        parse_pack(files)
    return [f"{p.path}: {p.message}" for p in caught.value.problems]


def edited(path: str, old: str, new: str) -> dict[str, str]:
    files = generate_pack(PACK)
    assert old in files[path]
    return {**files, path: files[path].replace(old, new, 1)}


def test_a_pack_reads_back_as_it_was_written() -> None:
    files = generate_pack(PACK)
    assert parse_pack(files) == PACK
    assert generate_pack(parse_pack(files)) == files


def test_the_demo_library_is_written_as_the_generator_writes_it() -> None:
    assert generate_pack(parse_pack(generate_pack(demo_pack()))) == generate_pack(demo_pack())


def test_text_that_is_not_json_is_named_with_its_line() -> None:
    assert told(edited("documents/WP-001/A.json", '"steps": [', '"steps": [,')) == [
        "documents/WP-001/A.json: this is not JSON: Expecting value at line 18, column 15."
    ]


def test_a_fault_in_a_plan_is_named_with_file_and_pointer() -> None:
    assert told(edited("documents/WP-001/A.json", '"phase": "Make safe"', '"phase": "Lunch"')) == [
        "documents/WP-001/A.json#/content/steps/0/phase: input should be 'Arrive', 'Make safe', 'Diagnose', "
        "'Put right', 'Prove' or 'Leave', got 'Lunch'."
    ]


def test_a_fault_in_a_list_and_one_in_a_head_are_told_together() -> None:
    files = edited("catalogue/parts.json", '"code"', '"kode"')
    files["documents/WP-001/A.json"] = files["documents/WP-001/A.json"].replace('"Released"', '"Loose"')
    places = [line.split(":")[0] for line in told(files)]
    assert places[0] == "catalogue/parts.json#/0/code"
    assert "documents/WP-001/A.json#/state" in places


def test_a_file_out_of_its_place_is_named() -> None:
    files = generate_pack(PACK)
    files["documents/WP-001/B.json"] = files["documents/WP-001/A.json"]
    assert told(files) == ["documents/WP-001/B.json: by what it says it belongs at documents/WP-001/A.json."]


def test_another_version_is_refused() -> None:
    assert told(edited("library.json", '"version": 3', '"version": 9')) == [
        "library.json: this reads reedling-library 3, got reedling-library 9."
    ]
    files = generate_pack(PACK)
    del files["library.json"]
    assert told(files) == ["library.json: this file is missing."]


def test_the_version_before_is_still_read() -> None:
    files = generate_pack(PACK)
    old = {path: text.replace('"questions": [', '"proofs": [') for path, text in files.items()}
    assert old["documents/WP-001/A.json"] != files["documents/WP-001/A.json"]
    assert told(old)[0].endswith("there is no “proofs” here.")
    old["library.json"] = old["library.json"].replace('"version": 3', '"version": 1')
    assert parse_pack(old) == PACK


def test_two_released_revisions_of_one_document_contradict_each_other() -> None:
    second = replace(HEAD, letter="B")
    files = generate_pack(replace(PACK, revisions=(*PACK.revisions, (second, rake_plan()))))
    assert told(files) == ["documents/WP-001: a document has at most one released revision, this has 2."]


@pytest.mark.slow
def test_the_published_schema_accepts_the_demo_and_refuses_what_the_reader_refuses() -> None:
    schema = pack_schema()
    plan_schema = schema["content"]["plan"]
    for path, text in generate_pack(demo_pack()).items():
        data = json.loads(text)
        if path.startswith("documents/"):
            jsonschema.validate(data, schema["files"]["documents/<document>/<letter>.json"])
            jsonschema.validate(data["content"], schema["content"][data["kind"]])
    with pytest.raises(jsonschema.ValidationError):
        jsonschema.validate({"title": "x", "stepps": []}, plan_schema)

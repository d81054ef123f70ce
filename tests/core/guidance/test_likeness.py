"""Parts by what somebody typed: spelled otherwise they are found, and the distance is the published one."""

from __future__ import annotations

import random
from dataclasses import replace

import pytest
from hypothesis import given
from hypothesis import strategies as st
from rapidfuzz.distance import OSA

from reedling.core.guidance.catalogue import Part
from reedling.core.guidance.likeness import PartNames, meant_parts, one_apart, words_of
from reedling.demo.loader import demo_pack

PARTS = demo_pack().catalogue.parts
NAMES = PartNames.of(PARTS)
LETTERS = "abcdefghijklmnopqrstuvwxyz"


@given(st.text("abc", max_size=6), st.text("abc", max_size=6))
def test_one_apart_is_the_optimal_string_alignment_distance(one: str, other: str) -> None:
    # rapidfuzz's OSA distance is the reference.
    assert one_apart(one, other) is (OSA.distance(one, other) <= 1)


def spelled_otherwise(name: str, rng: random.Random) -> str:
    """A name as somebody types it: words in another order, other signs between, one letter of a longer one wrong."""
    words = name.split()
    rng.shuffle(words)
    long = [i for i, word in enumerate(words) if len(word) >= 5 and word.isalpha()]
    if long and rng.random() < 0.7:
        i = rng.choice(long)
        word, at = words[i], rng.randrange(len(words[i]))
        words[i] = rng.choice(
            [
                word[:at] + word[at + 1 :],
                word[:at] + rng.choice(LETTERS) + word[at:],
                word[:at] + rng.choice(LETTERS) + word[at + 1 :],
                word[: max(0, at - 1)] + word[at : at + 1] + word[max(0, at - 1) : at] + word[at + 1 :],
            ]
        )
    text = rng.choice([" ", "-", "  ", ", "]).join(words)
    return rng.choice([text, text.upper(), text.lower()])


@pytest.mark.parametrize("part", PARTS, ids=lambda p: p.code)
def test_however_it_is_spelled_the_part_is_among_the_three_likeliest(part: Part) -> None:
    rng = random.Random(part.code)
    first = 0
    for _ in range(40):
        text = spelled_otherwise(part.name, rng)
        found = [meant.part for meant in meant_parts(text, NAMES)]
        assert part.code in found, text
        first += found[0] == part.code
    assert first >= 36, part.name


@pytest.mark.parametrize("part", PARTS, ids=lambda p: p.code)
def test_without_any_spaces_it_is_found_as_well(part: Part) -> None:
    squeezed = "".join(words_of(part.name))
    assert meant_parts(squeezed, NAMES)[0].part == part.code


def test_a_code_and_a_confirmed_spelling_are_certain() -> None:
    part = replace(PARTS[0], spellings=("the grey one behind the cover",))
    names = PartNames.of([part, *PARTS[1:]])
    for text, why in (
        (part.code.lower().replace("-", " "), "its code"),
        ("The grey one, behind the cover", "typed so before, and confirmed"),
    ):
        (first, *_) = meant_parts(text, names)
        assert (first.part, first.likeness, first.why) == (part.code, 1.0, why)


def test_what_is_like_nothing_offers_nothing() -> None:
    assert meant_parts("blue thing from the box", NAMES) == ()
    assert meant_parts("  -- ", NAMES) == ()


def test_a_number_is_never_taken_for_another() -> None:
    names = PartNames.of(
        [Part(code="A", name="Hydraulic oil ISO 32"), Part(code="B", name="Hydraulic oil ISO 46")]
    )
    (first, second) = meant_parts("oil hydrualic 46", names)
    assert (first.part, second.part) == ("B", "A")
    assert first.likeness > second.likeness
    assert first.why == "has “oil”, “46”; “hydrualic” taken for “hydraulic”"
    assert second.why.endswith("not “46”")


@given(st.text(max_size=60))
def test_likeness_lies_between_nothing_and_certain_and_is_in_order(text: str) -> None:
    found = meant_parts(text, NAMES)
    assert len(found) <= 3
    assert all(0 < meant.likeness <= 1 and meant.why for meant in found)
    assert [m.likeness for m in found] == sorted((m.likeness for m in found), reverse=True)

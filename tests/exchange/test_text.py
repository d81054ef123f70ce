"""What may stand in a text that comes in: against Python's own codec and Unicode's normal form C."""

from __future__ import annotations

import unicodedata
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from reedling.errors import InvalidInput
from reedling.exchange.json_text import read_json
from reedling.exchange.text import MAX_DEPTH, clean_data, clean_text, mended_text
from reedling.store.texts import mended_data
from tests.examples import examples

# Hypothesis leaves surrogates out unless they are asked for.
ANY_TEXT = st.text(st.characters() | st.characters(categories=["Cs", "Cc"]), max_size=40)
ANY_DATA = st.recursive(
    st.none() | st.booleans() | st.integers(-(10**6), 10**6) | ANY_TEXT,
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(ANY_TEXT, inner, max_size=4),
    max_leaves=12,
)


def is_fit(text: str) -> bool:
    """The rule read aloud: it can be written as UTF-8, and has no control character but tab and line ends."""
    try:
        text.encode("utf-8")
    except UnicodeEncodeError:
        return False
    return all(unicodedata.category(c) != "Cc" or c in "\t\n\r" for c in text)


@settings(max_examples=examples(400), deadline=None)
@given(ANY_TEXT)
def test_a_text_is_taken_just_when_everybody_can_read_it(text: str) -> None:
    if not is_fit(text):
        with pytest.raises(InvalidInput, match=r"character \d+ is"):
            clean_text(text)
        return
    clean = clean_text(text)
    assert clean == unicodedata.normalize("NFC", text.replace("\r\n", "\n").replace("\r", "\n"))
    assert clean_text(clean) == clean


@settings(max_examples=examples(300), deadline=None)
@given(ANY_TEXT)
def test_a_mended_text_is_fit_and_a_fit_one_is_only_normalised(text: str) -> None:
    mended = mended_text(text)
    assert clean_text(mended) == mended
    if is_fit(text):
        assert mended == clean_text(text)


@settings(max_examples=examples(200), deadline=None)
@given(ANY_DATA)
def test_data_is_taken_just_when_every_text_and_key_in_it_is_fit(data: Any) -> None:
    def texts(value: Any) -> list[str]:
        if isinstance(value, str):
            return [value]
        if isinstance(value, dict):
            return [t for k, v in value.items() for t in (k, *texts(v))]
        return [t for v in value for t in texts(v)] if isinstance(value, list) else []

    if all(map(is_fit, texts(data))):
        assert clean_data(data) == mended_data(data)
    else:
        with pytest.raises(InvalidInput):
            clean_data(data)


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ('{"a": "\\ud83d"}', "half a character"),
        ('{"a": "\\u0000"}', "NUL, which no text may hold"),
        ('{"a": "\\u0007"}', r"a control character \(U\+0007\)"),
        ("{", "this is not JSON: .* at line 1, column 2"),
        ('{"a": NaN}', "NaN is not a number in JSON"),
        ('{"a": -Infinity}', "-Infinity is not a number in JSON"),
        ('{"a": ' + "9" * 5000 + "}", "this is not JSON that can be read"),
        ('{"a": 1e300}', "within a thousand million million"),
        ("[" * 200_000, "more than 60 deep"),
        ("[" * 62 + "]" * 62, "more than 60 deep"),
        ('{"a":' * 80 + "1" + "}" * 80, "more than 60 deep"),
    ],
)
def test_what_is_no_json_within_bounds_is_refused_with_its_place(text: str, words: str) -> None:
    with pytest.raises(InvalidInput, match=words):
        read_json(text, where="File")


def test_json_in_another_encoding_is_told() -> None:
    with pytest.raises(InvalidInput, match="this is not JSON in UTF-8"):
        read_json('{"a": "Öl"}'.encode("latin-1"), where="File")


def test_depth_up_to_the_bound_is_taken() -> None:
    text = "[" * MAX_DEPTH + "1" + "]" * MAX_DEPTH
    assert read_json(text, where="File") is not None

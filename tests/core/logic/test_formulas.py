"""Computed values, against published worked examples; and what a formula may not be."""

from __future__ import annotations

import math
from typing import Any

import pint
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from reedling.core.logic.formulas import Named, Value, check_formula, compute, formula_names, parse_formula
from reedling.errors import InvalidInput


def worked(text: str, units: dict[str, str], values: dict[str, Value], unit: str) -> float | None:
    """Check a formula, then work it out."""
    names = {n: Named(unit=u, each=isinstance(values.get(n), tuple)) for n, u in units.items()}
    check_formula(text, names, unit)
    return compute(text, names, values, unit)


class TestWorkedCases:
    def test_voltage_unbalance_as_nema_mg_1_defines_it(self) -> None:
        # NEMA MG 1 (14.36 of recent editions): 100 times the largest deviation from the mean over
        # the mean. Its example, from memory: 460, 467 and 450 V make 9 / 459 = 1.96 %.
        mean = "mean(v1, v2, v3)"
        text = f"max(abs(v1 - {mean}), abs(v2 - {mean}), abs(v3 - {mean})) / {mean}"
        found = worked(text, dict.fromkeys(("v1", "v2", "v3"), "V"), {"v1": 460, "v2": 467, "v3": 450}, "%")
        assert found == pytest.approx(1.96, abs=0.005)

    @pytest.mark.parametrize(
        ("ohms", "celsius"),
        # IEC 60751, table of Pt100 resistance, from memory.
        [(100.00, 0.0), (103.90, 10.0), (119.40, 50.0), (138.51, 100.0), (175.86, 200.0)],
    )
    def test_pt100_from_ohms_by_iec_60751(self, ohms: float, celsius: float) -> None:
        text = (
            '0["°C"] + (3.9083e-3 - sqrt(3.9083e-3**2 + 4 * 5.775e-7 * (1 - r / 100["Ω"]))) '
            '/ (2 * 5.775e-7) * 1["K"]'
        )
        found = worked(text, {"r": "Ω"}, {"r": ohms}, "°C")
        assert found == pytest.approx(celsius, abs=0.03)

    def test_4_to_20_ma_loop_error_in_percent_of_span(self) -> None:
        # IEC 60381-1: 4 mA is the bottom of the span and 20 mA the top. 12.16 mA at half span is
        # 0.16 mA of 16 mA, 1 % too high.
        text = '(i - (4["mA"] + 16["mA"] * point)) / 16["mA"]'
        assert worked(text, {"i": "mA", "point": "%"}, {"i": 12.16, "point": 50}, "%") == pytest.approx(1.0)
        assert worked(text, {"i": "mA", "point": "%"}, {"i": 4.0, "point": 0}, "%") == 0

    def test_hydraulic_power_is_density_gravity_flow_head(self) -> None:
        # rho g Q H: 180 m3/h of water through 10 m is 4.905 kW (any pump handbook; by hand).
        text = '1000["kg/m3"] * 9.81["m/s2"] * flow * head'
        found = worked(text, {"flow": "m3/h", "head": "m"}, {"flow": 180, "head": 10}, "kW")
        assert found == pytest.approx(4.905)

    def test_least_insulation_resistance_of_ieee_43(self) -> None:
        # IEEE 43, the older rule: kV + 1 megohms. A 400 V motor wants 1.4 MΩ, one of 6.6 kV 7.6 MΩ.
        text = '(volts / 1["kV"] + 1) * 1["MΩ"]'
        assert worked(text, {"volts": "V"}, {"volts": 400}, "MΩ") == pytest.approx(1.4)
        assert worked(text, {"volts": "kV"}, {"volts": 6.6}, "MΩ") == pytest.approx(7.6)

    def test_across_repeats(self) -> None:
        spread = "max(current) - min(current)"
        assert worked(spread, {"current": "A"}, {"current": (21.0, 24.5, 22.0)}, "A") == pytest.approx(3.5)
        assert worked("count(current)", {"current": "A"}, {"current": (21.0, None)}, "") == 1

    def test_the_difference_of_two_temperatures_is_in_kelvin(self) -> None:
        units = {"bearing": "°F", "air": "°C"}
        rise = worked("bearing - air", units, {"bearing": 212, "air": 20}, "K")
        assert rise == pytest.approx(80)


class TestUnknown:
    def test_a_missing_answer_a_division_by_zero_and_a_bad_root(self) -> None:
        names = {"a": Named(unit="A"), "b": Named(unit="A")}
        assert compute("a / b", names, {"a": 1.0, "b": None}, "") is None
        assert compute("a / b", names, {"a": 1.0}, "") is None
        assert compute("a / b", names, {"a": 1.0, "b": 0.0}, "") is None
        assert compute("sqrt(0 - 1)", {}, {}, "") is None
        assert compute("mean(a)", {"a": Named(each=True)}, {"a": ()}, "") is None
        assert compute("mean(a)", {"a": Named(each=True)}, {"a": (1.0, None)}, "") is None

    def test_a_number_beyond_all_numbers(self) -> None:
        names = {"a": Named()}
        assert compute("a**3 * a**3", names, {"a": 1e200}, "") is None

    @given(st.text(max_size=80))
    def test_no_text_at_all_brings_it_down(self, text: str) -> None:
        try:
            check_formula(text, {"a": Named(unit="bar")}, "bar")
        except InvalidInput:
            assert compute(text, {}, {}, "furlong") is None
        formula_names(text)


REFUSED = [
    ("__import__('os').system('true')", "formulas.refused"),
    ("().__class__.__bases__", "formulas.refused"),
    ("a.real", "formulas.refused"),
    ("open('x')", "formulas.refused"),
    ("eval('1')", "formulas.refused"),
    ("[a for a in (1, 2)]", "formulas.refused"),
    ("(lambda: 1)()", "formulas.refused"),
    ("9**9**9", "formulas.refused"),
    ("a**0.5", "formulas.refused"),
    ("a if a else a", "formulas.refused"),
    ("a and a", "formulas.refused"),
    ("a < 3", "formulas.refused"),
    ("'text'", "formulas.refused"),
    ("True", "formulas.refused"),
    ("a[0]", "formulas.refused"),
    ("f'{a}'", "formulas.refused"),
    ("max(*a)", "formulas.refused"),
    ("round(a, ndigits=2)", "formulas.refused"),
    ("1e999", "formulas.refused"),
    ("1" * 400, "formulas.refused"),
    ("a +", "formulas.syntax"),
    ("", "formulas.syntax"),
    ("a = 3", "formulas.syntax"),
    ("while True: pass", "formulas.syntax"),
    ("max()", "formulas.syntax"),
    ("max", "formulas.syntax"),
    ("((" * 120 + "a" + "))" * 120, "formulas.syntax"),
    ("a\x00b", "formulas.syntax"),
    ("a + " * 200 + "a", "formulas.long"),
    ("b + 1", "formulas.name"),
    ("a + 1", "formulas.dimension"),
    ('a + 1["K"]', "formulas.dimension"),
    ("a * a", "formulas.dimension"),
    ("sqrt(a)", "formulas.dimension"),
    ("round(a)", "formulas.dimension"),
    ("t + t", "formulas.dimension"),
    ("2 * t", "formulas.dimension"),
    ("sum(t, t)", "formulas.dimension"),
    ('3["league"]', "units.unknown"),
    ("many", "formulas.each"),
    ("many + a", "formulas.each"),
]


@pytest.mark.parametrize(("text", "code"), REFUSED, ids=[text[:24] or "nothing" for text, _ in REFUSED])
def test_a_hostile_or_wrong_formula_is_refused_with_its_place(text: str, code: str) -> None:
    names = {"a": Named(unit="bar"), "t": Named(unit="°C"), "many": Named(unit="bar", each=True)}
    with pytest.raises(InvalidInput) as caught:
        check_formula(text, names, "bar")
    assert caught.value.code == code
    assert caught.value.where.startswith("Formula, character")
    assert caught.value.message.endswith(".")


def test_the_place_is_the_column_of_the_piece_that_is_wrong() -> None:
    with pytest.raises(InvalidInput, match=r"Formula, character 7: there is no number called “c”"):
        check_formula("a + 2*c", {"a": Named()}, "")


arithmetic = st.recursive(
    st.sampled_from(["a", "b", "2", "0.5"]),
    lambda inner: st.one_of(
        st.tuples(inner, st.sampled_from("+-*/"), inner).map(lambda t: f"({t[0]} {t[1]} {t[2]})"),
        st.tuples(st.sampled_from(["max", "min"]), inner, inner).map(lambda t: f"{t[0]}({t[1]}, {t[2]})"),
        inner.map(lambda t: f"abs({t})"),
        inner.map(lambda t: f"-{t}"),
    ),
    max_leaves=12,
)


@given(arithmetic, st.integers(-5, 5), st.integers(-5, 5))
def test_it_is_the_arithmetic_of_the_language_itself(text: str, a: int, b: int) -> None:
    names = {"a": Named(), "b": Named()}
    try:
        expected = eval(text, {"__builtins__": {}}, {"a": a, "b": b, "max": max, "min": min, "abs": abs})
    except ZeroDivisionError:
        assert compute(text, names, {"a": a, "b": b}, "") is None
        return
    found = compute(text, names, {"a": a, "b": b}, "")
    assert found is not None
    assert math.isclose(found, expected, rel_tol=1e-9, abs_tol=1e-9)


UNITS = st.sampled_from(["bar", "psi", "m3/h", "A", "Ω", "m", "s", "kg", "%", "kW", "1"])


@settings(deadline=None)
@given(UNITS, UNITS, st.sampled_from("+-*/"))
def test_dimensions_go_together_where_the_reference_library_says_so(one: str, other: str, op: str) -> None:
    registry = _registry()
    spelled = {"Ω": "ohm", "m3/h": "m**3/h", "%": "percent", "1": "dimensionless"}
    x = registry.Quantity(2.0, spelled.get(one, one))
    y = registry.Quantity(3.0, spelled.get(other, other))
    try:
        theirs = {"+": lambda: x + y, "-": lambda: x - y, "*": lambda: x * y, "/": lambda: x / y}[op]()
    except pint.DimensionalityError:
        with pytest.raises(InvalidInput):
            check_formula(f"a {op} b", {"a": Named(unit=one), "b": Named(unit=other)}, one)
        return
    if theirs.dimensionality != x.dimensionality:
        return
    found = worked(f"a {op} b", {"a": one, "b": other}, {"a": 2.0, "b": 3.0}, one)
    assert found == pytest.approx(theirs.to(x.units).magnitude)


_kept: list[Any] = []


def _registry() -> Any:
    """One registry for all tests; building one takes half a second."""
    if not _kept:
        _kept.append(pint.UnitRegistry())
    return _kept[0]


def test_names_are_found_without_running_anything() -> None:
    assert formula_names("(max(i1, i2) - i1) / i2") == ("i1", "i2")
    assert formula_names("this is not a formula") == ()
    assert parse_formula("1 + 1") == parse_formula("1 + 1")

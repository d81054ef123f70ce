"""How the kinds of the wider library are written down."""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping
from dataclasses import replace

from reedling.core.logic.conditions import Answer
from reedling.standins.field_truth import Kind, Trouble, always, among, near

Answers = Mapping[str, Callable[[random.Random], Answer]]
"""How questions come out, by document and identity."""


def answers_of(document: str, **answers: Callable[[random.Random], Answer]) -> Answers:
    """Answers of a document; ``_`` stands for the dash of an identity, ``__`` for what is asked by a form at a step."""
    return {f"{document}:{name.replace('__', '/').replace('_', '-')}": told for name, told in answers.items()}


def insulation(document: str, step: str, weakest: float) -> Answers:
    """What the insulation form reads where the weakest phase is about this."""
    values = {
        "m1": near(weakest * 1.3, weakest * 0.1),
        "m2": near(weakest, weakest * 0.1),
        "m3": near(weakest * 1.4, weakest * 0.1),
        "winding": near(16, 4),
        "at15": near(weakest * 0.7, weakest * 0.03),
        "at60": near(weakest, weakest * 0.03),
    }
    return {f"{document}:{step}/{name}": told for name, told in values.items()}


def battery(document: str, rest: float, loaded: float) -> Answers:
    """What the battery form reads at about these volts, at rest and under load."""
    values: dict[str, Callable[[random.Random], Answer]] = {
        "rest": near(rest, 0.1, 2),
        "loaded": near(loaded, 0.12, 2),
        "made": among("under3", "three5") if rest > 12.4 else always("over5"),
        "float": near(13.6, 0.08, 2),
    }
    return {f"{document}:battery/{name}": told for name, told in values.items()}


def kind_of(
    equipment: str, symptom: str, weight: float, reports: tuple[str, ...], *troubles: Trouble
) -> Kind:
    """One kind of call, with what may be wrong."""
    return Kind(weight=weight, equipment=equipment, symptom=symptom, reports=reports, troubles=troubles)


def leaving_out(
    left_out: Mapping[str, tuple[float, tuple[str, ...]]], overtaken: Mapping[str, str], kind: Kind
) -> Kind:
    """A kind of routine visit with what it leaves out, by line, how often and for which reasons; and what overtakes what."""
    return replace(kind, left_out=left_out, overtaken=overtaken)

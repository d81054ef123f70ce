"""Facts: what is known of an order before anybody sets off, which guidance may ask about.

A fact is named ``asset.model``, ``order.symptom``, ``site.district``, ``customer.name``,
``meter.run_hours``; what else is recorded of assets of a class is ``asset.<field>``. Conditions,
pre-filled answers and repeat sections all use these names, and a runsheet keeps their values. What is known of
the job itself, ``job.notes`` or ``job.cause``, only finish rules may ask about.
"""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.guidance.decision_tables import PRIORITIES
from reedling.core.guidance.questions import Option
from reedling.core.logic.conditions import (
    Answer,
    Comparison,
    QuestionName,
    fact_label,
    number_text,
)
from reedling.core.logic.units import Quantity


@dataclass(frozen=True, slots=True, kw_only=True)
class Fact:
    """One thing that is known. A number has its unit; a coded fact has its options.

    ``writable`` says that an answer may be written back to it.
    """

    name: str
    label: str
    number: bool = False
    unit: str = ""
    options: tuple[Option, ...] = ()
    writable: bool = False

    @property
    def first(self) -> Comparison:
        """What a condition on it most likely asks; as :func:`~reedling.core.guidance.comparing.first_clause`."""
        if self.number:
            return Comparison(question=self.name, operator="above", value=None)
        if self.options:
            return Comparison(question=self.name, operator="is", value=self.options[0].id)
        return Comparison(question=self.name, operator="answered", value=None)


def known_facts(catalogue: Catalogue) -> tuple[Fact, ...]:
    """Every fact that guidance may ask about, in the order menus offer them."""
    return (
        _coded("asset.equipment", [(c.code, c.name) for c in catalogue.equipment]),
        _coded("asset.model", [(m.code, m.name) for m in catalogue.models]),
        Fact(name="asset.name", label=fact_label("asset.name")),
        Fact(name="asset.serial", label=fact_label("asset.serial"), writable=True),
        *(
            Fact(
                name=f"asset.{f.code}",
                label=f"the asset's {f.name[:1].lower()}{f.name[1:]}",
                number=f.number,
                unit=f.unit,
                writable=True,
            )
            for f in catalogue.fields
        ),
        *(
            Fact(name=f"meter.{m.code}", label=f"last {m.name.lower()}", number=True, unit=m.unit)
            for m in catalogue.meters
        ),
        _coded("order.symptom", [(s.code, s.label) for s in catalogue.symptoms]),
        _coded("order.priority", [(p, p) for p in PRIORITIES]),
        Fact(name="order.report", label=fact_label("order.report")),
        Fact(name="order.reference", label=fact_label("order.reference"), writable=True),
        Fact(name="site.name", label=fact_label("site.name")),
        Fact(name="site.district", label=fact_label("site.district")),
        _coded("site.contract", [(c.code, c.name) for c in catalogue.contracts]),
        Fact(name="customer.name", label=fact_label("customer.name")),
    )


def job_facts(catalogue: Catalogue) -> tuple[Fact, ...]:
    """What finish rules may ask of the job itself, in the order menus offer it."""
    return (
        *(Fact(name=name, label=label, number=True) for name, label in _JOB_COUNTS.items()),
        _coded("job.cause", [(c.code, c.label) for c in catalogue.causes]),
        _coded("job.remedy", [(r.code, r.label) for r in catalogue.remedies]),
    )


_JOB_COUNTS = {
    "job.notes": "the number of notes",
    "job.photos": "the number of photos",
    "job.parts": "the number of different parts used",
    "job.findings": "the number of findings to act on or stop for",
    "job.left_out": "the number of steps left out",
    "job.visits": "the number of visits",
    "job.signatures": "the number of signatures beside the steps",
}


def fact_text(fact: Fact, value: Answer) -> str:
    """The value of a fact as a person would write it down; what the lists no longer name stands as its code.

    >>> fact_text(Fact(name="meter.hours", label="last run hours", number=True, unit="h"), 1200.0)
    '1200 h'
    """
    if isinstance(value, bool):
        return "yes" if value else "no"
    if isinstance(value, int | float):
        return f"{number_text(float(value))} {fact.unit}".strip()
    if isinstance(value, Quantity):
        return f"{number_text(value.value)} {value.unit}".strip()
    labels = {option.id: option.label for option in fact.options}
    return ", ".join(labels.get(one, one) for one in (value if isinstance(value, tuple) else (value,)))


def _coded(name: str, pairs: list[tuple[str, str]]) -> Fact:
    options = tuple(Option(id=code, label=label) for code, label in pairs)
    return Fact(name=name, label=fact_label(name), options=options)


def fact_names(catalogue: Catalogue) -> Mapping[str, QuestionName]:
    """How each fact is spoken of in a condition's sentence."""
    return {
        f.name: QuestionName(label=f.label, unit=f.unit, options={o.id: o.label for o in f.options})
        for f in (*known_facts(catalogue), *job_facts(catalogue))
    }

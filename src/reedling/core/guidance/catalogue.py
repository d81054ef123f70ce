"""The lists guidance refers to by code: equipment, symptoms, causes, remedies, skills, parts, tools."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, field
from datetime import date

from reedling.core.guidance.plans import Link
from reedling.core.guidance.skills import Level, level_rank
from reedling.core.logic.conditions import number_text


@dataclass(frozen=True, slots=True, kw_only=True)
class EquipmentClass:
    """A class of equipment; ``parent`` is the class above it in the tree."""

    code: str
    name: str
    parent: str | None = None
    links: tuple[Link, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Model:
    """A model of equipment, of one class."""

    code: str
    name: str
    equipment: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Symptom:
    """What the caller sees. Symptoms of one ``family`` are related to each other."""

    code: str
    label: str
    family: str = ""
    synonyms: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Cause:
    """What was wrong."""

    code: str
    label: str
    synonyms: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Remedy:
    """What put it right."""

    code: str
    label: str
    synonyms: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True, kw_only=True)
class Skill:
    """What a technician can do; a certificate is a skill with an expiry date."""

    code: str
    name: str
    certificate: bool = False


@dataclass(frozen=True, slots=True, kw_only=True)
class Part:
    """A thing consumed; quantities are counted in ``unit``.

    ``stocked`` names where it is kept, ``substitutes`` the parts that will do instead, best first,
    ``spellings`` what technicians typed for it and the office confirmed, ``price`` what one ``unit`` costs.
    """

    code: str
    name: str
    unit: str = "each"
    stocked: tuple[str, ...] = ()
    substitutes: tuple[str, ...] = ()
    links: tuple[Link, ...] = ()
    spellings: tuple[str, ...] = ()
    price: float | None = None

    def amount(self, quantity: float) -> str:
        """So much of it, in words.

        >>> Part(code="OIL", name="Oil", unit="l").amount(2.5), Part(code="S", name="Seat").amount(2)
        ('2.5 l Oil', '2 × Seat')
        """
        unit = "×" if self.unit == "each" else self.unit
        return f"{number_text(quantity)} {unit} {self.name}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Tool:
    """A thing that a job is done with and that comes back; ``stocked`` names where it is kept when no van has it."""

    code: str
    name: str
    stocked: tuple[str, ...] = ()
    links: tuple[Link, ...] = ()

    def amount(self, quantity: int) -> str:
        """So many of it, in words; one is told by its name alone.

        >>> tool = Tool(code="SLING", name="Lifting sling")
        >>> tool.amount(1), tool.amount(2)
        ('Lifting sling', '2 × Lifting sling')
        """
        return self.name if quantity == 1 else f"{quantity} × {self.name}"


@dataclass(frozen=True, slots=True, kw_only=True)
class VanStock:
    """How much of a part a technician carries, in the part's own unit."""

    technician: str
    part: str
    quantity: float

    @property
    def code(self) -> str:
        """What the entry is known by in its list."""
        return f"{self.technician} {self.part}"


@dataclass(frozen=True, slots=True, kw_only=True)
class VanTool:
    """How many of a tool a technician has in the van."""

    technician: str
    tool: str
    quantity: int = 1

    @property
    def code(self) -> str:
        """What the entry is known by in its list."""
        return f"{self.technician} {self.tool}"


@dataclass(frozen=True, slots=True, kw_only=True)
class Contract:
    """Terms under which sites are looked after."""

    code: str
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class Category:
    """What orders are sorted by in the books: call-out, inspection, project."""

    code: str
    name: str


@dataclass(frozen=True, slots=True, kw_only=True)
class CostKind:
    """What a job costs besides parts: an hour of labour, a ferry, a hired pump.

    ``rate`` is the price of one ``unit``; without one the rate is left open to the technician.
    """

    code: str
    name: str
    unit: str = "each"
    rate: float | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class AssetField:
    """Something recorded of every asset of a class, apart from name, model and serial.

    ``unit`` makes it a number; without one it is words.
    """

    code: str
    name: str
    unit: str = ""
    number: bool = False
    equipment: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Meter:
    """Something that counts up on assets of a class: hours run, starts."""

    code: str
    name: str
    unit: str = "h"
    equipment: str | None = None


@dataclass(frozen=True, slots=True, kw_only=True)
class Holding:
    """A skill that a technician holds at a level; a certificate until the day it expires."""

    technician: str
    district: str
    skill: str
    level: Level
    expires_on: date | None = None

    @property
    def code(self) -> str:
        """What the entry is known by in its list."""
        return f"{self.technician} {self.skill}"

    def holds(self, skill: str, level: Level, on: date) -> bool:
        """Whether this meets the need on a day; the day of expiry still counts."""
        meets = self.skill == skill and level_rank(self.level) >= level_rank(level)
        return meets and (self.expires_on is None or on <= self.expires_on)


@dataclass(frozen=True, slots=True, kw_only=True)
class Catalogue:
    """All the lists together."""

    equipment: tuple[EquipmentClass, ...] = ()
    models: tuple[Model, ...] = ()
    symptoms: tuple[Symptom, ...] = ()
    causes: tuple[Cause, ...] = ()
    remedies: tuple[Remedy, ...] = ()
    skills: tuple[Skill, ...] = ()
    parts: tuple[Part, ...] = ()
    fields: tuple[AssetField, ...] = ()
    meters: tuple[Meter, ...] = ()
    roster: tuple[Holding, ...] = ()
    contracts: tuple[Contract, ...] = ()
    categories: tuple[Category, ...] = ()
    van_stock: tuple[VanStock, ...] = ()
    cost_kinds: tuple[CostKind, ...] = ()
    tools: tuple[Tool, ...] = ()
    van_tools: tuple[VanTool, ...] = ()


@dataclass(frozen=True, slots=True)
class EquipmentTree:
    """The classes by code, for questions about what stands above what."""

    classes: Mapping[str, EquipmentClass] = field(default_factory=dict)

    @classmethod
    def of(cls, classes: tuple[EquipmentClass, ...]) -> EquipmentTree:
        """The tree of these classes."""
        return cls({c.code: c for c in classes})

    def lineage(self, code: str) -> Iterator[str]:
        """The class and every class above it, nearest first; a loop in the tree ends the walk."""
        seen: set[str] = set()
        above: str | None = code
        while above is not None and above not in seen:
            seen.add(above)
            yield above
            found = self.classes.get(above)
            above = found.parent if found else None

    def loop(self) -> tuple[str, ...]:
        """Classes that each stand below the next, round to the first again; nothing in a sound tree."""
        for code in self.classes:
            line = list(self.lineage(code))
            above = self.classes[line[-1]].parent if line[-1] in self.classes else None
            if above is not None and above in line:
                return tuple(line[line.index(above) :])
        return ()

    def is_a(self, code: str, wanted: str) -> bool:
        """Whether the class is the wanted one or stands below it."""
        return wanted in self.lineage(code)

    def name(self, code: str | None) -> str:
        """The class in words; "any equipment" for none, the bare code for one that is unknown."""
        if code is None:
            return "any equipment"
        found = self.classes.get(code)
        return found.name if found else code


def relation_of(catalogue: Catalogue) -> Callable[[str, str], bool]:
    """A test of two symptom codes; a symptom without a family is related to itself alone."""
    families = {s.code: s.family for s in catalogue.symptoms}

    def related(one: str, other: str) -> bool:
        family = families.get(one)
        return one == other or bool(family and family == families.get(other))

    return related

"""What a simulation of the field is made of: its clock, its dice, its people and places."""

from __future__ import annotations

import random
from collections.abc import Mapping
from dataclasses import dataclass
from dataclasses import field as field_of
from datetime import datetime

from reedling.core.people import Person
from reedling.core.register.assets import Asset, PlacedAsset
from reedling.services.context import Context
from reedling.standins.diaries import Diaries
from reedling.standins.field_habits import Habit
from reedling.standins.field_offices import Office
from reedling.standins.field_truth import Kind


@dataclass(slots=True)
class Clock:
    """A clock the simulation sets."""

    now: datetime

    def __call__(self) -> datetime:
        """The instant it was set to."""
        return self.now


@dataclass(frozen=True, slots=True)
class Field:
    """The people and places of a simulation (``districts`` by site), with its clock and its dice, and the office that takes all of it in."""

    context: Context
    office: Office
    clock: Clock
    rng: random.Random
    people: dict[str, Person]
    placed: tuple[PlacedAsset, ...]
    districts: Mapping[str, str]
    habits: dict[str, Habit]
    begun_at: datetime
    kinds: tuple[Kind, ...]
    last: dict[str, datetime] = field_of(default_factory=dict)
    diaries: Diaries = field_of(default_factory=Diaries)
    strays: bool = False
    """Whether somebody leaves the order of the runsheet now and then."""
    seasons: bool = False
    """Whether weed, storms and heat have their time of the year."""

    @property
    def assets(self) -> tuple[Asset, ...]:
        """Everything that is maintained."""
        return tuple(p.asset for p in self.placed)

    def district(self, asset: Asset) -> str:
        """Where an asset stands."""
        return self.districts[asset.site]

    def by_role(self, role: str) -> list[Person]:
        """Everybody of a role."""
        return [p for p in self.people.values() if p.role == role]

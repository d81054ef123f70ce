"""Load the demo's library, people, sites and assets."""

from __future__ import annotations

import json
from dataclasses import fields, replace
from datetime import date
from pathlib import Path
from typing import Any

from reedling.core.guidance.catalogue import Catalogue
from reedling.core.people import Person
from reedling.exchange.content import ASSETS, SITES, load_value
from reedling.exchange.library_pack import LibraryPack, parse_pack
from reedling.services.actions.library import import_library
from reedling.services.context import Context
from reedling.services.shared.passwords import hash_password

HERE = Path(__file__).parent


def demo_pack(today: date | None = None, *, wide: bool = False) -> LibraryPack:
    """The demo's library as it stands at the end of its history.

    ``wide`` is for all stations and crews, and all kinds of calls. With ``today``, certificates are moved by whole years so that the first of them expires within a
    year of that day: a demo in which every permit has run out, or none ever does, would show little.
    """
    pack = _read_pack("library")
    if wide:
        wider = _read_pack("wider_library")
        pack = replace(
            pack,
            catalogue=_with_wider_crews(_together(pack.catalogue, wider.catalogue)),
            revisions=(*pack.revisions, *wider.revisions),
        )
    return pack if today is None else replace(pack, catalogue=_near(pack.catalogue, today))


def _read_pack(folder: str) -> LibraryPack:
    root = HERE / folder
    return parse_pack(
        {str(p.relative_to(root).as_posix()): p.read_text("utf-8") for p in root.rglob("*.json")}
    )


def _together(first: Catalogue, second: Catalogue) -> Catalogue:
    """The lists of both, one after the other."""
    return Catalogue(
        **{f.name: (*getattr(first, f.name), *getattr(second, f.name)) for f in fields(Catalogue)}
    )


def _with_wider_crews(lists: Catalogue) -> Catalogue:
    """The lists with those who join the first crews: each holds and carries what one of their district does."""
    roster, stock, tools = list(lists.roster), list(lists.van_stock), list(lists.van_tools)
    for n, person in enumerate(_register("wider")["people"]):
        like = sorted({h.technician for h in lists.roster if h.district == person["district"]})
        one = like[n % len(like)]
        roster += [replace(h, technician=person["name"]) for h in lists.roster if h.technician == one]
        stock += [replace(s, technician=person["name"]) for s in lists.van_stock if s.technician == one]
        tools += [replace(t, technician=person["name"]) for t in lists.van_tools if t.technician == one]
    return replace(lists, roster=tuple(roster), van_stock=tuple(stock), van_tools=tuple(tools))


def _near(lists: Catalogue, today: date) -> Catalogue:
    first = min(h.expires_on for h in lists.roster if h.expires_on is not None)
    years = today.year - first.year + (first.replace(year=today.year) <= today)
    moved = (
        replace(h, expires_on=h.expires_on.replace(year=h.expires_on.year + years)) if h.expires_on else h
        for h in lists.roster
    )
    return replace(lists, roster=tuple(moved))


def load_start(context: Context, password: str, *, today: date, wide: bool = False) -> None:
    """People, places, and the first revision of every document, released; ``wide`` for all stations and crews.

    Fault guides come last (:func:`release_fault_guides`): they are written from what jobs show.
    """
    _load_register(context, _register("register"), password)
    if wide:
        _load_register(context, _register("wider"), password)
    pack = demo_pack(today, wide=wide)
    first = tuple(
        (replace(head, state="Released"), content)
        for head, content in pack.revisions
        if head.letter == "A" and head.kind != "fault guide"
    )
    import_library(context, replace(pack, revisions=first))


def release_later_revisions(context: Context, *, today: date, wide: bool = False) -> None:
    """Bring the library to where it stands at the end of the demo's history, but for fault guides."""
    pack = demo_pack(today, wide=wide)
    revisions = tuple(pair for pair in pack.revisions if pair[0].kind != "fault guide")
    import_library(context, replace(pack, revisions=revisions))


def release_fault_guides(context: Context, *, today: date, wide: bool = False) -> None:
    """Bring in the fault guides, released; the rest of the library stays as it is."""
    import_library(context, demo_pack(today, wide=wide))


def _register(name: str) -> dict[str, Any]:
    found: dict[str, Any] = json.loads((HERE / f"{name}.json").read_text("utf-8"))
    return found


def _load_register(context: Context, register: dict[str, Any], password: str) -> None:
    hashed = hash_password(password)
    with context.writing() as unit:
        for entry in register["people"]:
            unit.people.add(Person(**entry), hashed)
        for entry in register["sites"]:
            unit.register.put_site(load_value(SITES, entry, where="demo sites"))
        for entry in register["assets"]:
            unit.register.put_asset(load_value(ASSETS, entry, where="demo assets"))

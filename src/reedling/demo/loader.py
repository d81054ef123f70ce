"""Load the demo's library, people, sites and assets."""

from __future__ import annotations

import json
from dataclasses import replace
from pathlib import Path
from typing import Any

from reedling.exchange.library_pack import LibraryPack, parse_pack
from reedling.services.context import Context
from reedling.services.exchange_library import import_library
from reedling.services.sign_in import hash_password
from reedling.store.records import Asset, Person, Site

HERE = Path(__file__).parent


def demo_pack() -> LibraryPack:
    """The demo's library as it stands at the end of its history."""
    root = HERE / "library"
    return parse_pack(
        {str(p.relative_to(root).as_posix()): p.read_text("utf-8") for p in root.rglob("*.json")}
    )


def load_start(context: Context, password: str) -> None:
    """People, places, and the first revision of every document, released."""
    _load_register(context, json.loads((HERE / "places.json").read_text("utf-8")), password)
    pack = demo_pack()
    first = tuple(
        (replace(head, state="Released"), content) for head, content in pack.revisions if head.letter == "A"
    )
    import_library(context, replace(pack, revisions=first))


def release_later_revisions(context: Context) -> None:
    """Bring the library to where it stands at the end of the demo's history."""
    import_library(context, demo_pack())


def _load_register(context: Context, register: dict[str, Any], password: str) -> None:
    hashed = hash_password(password)
    with context.store.writing() as unit:
        for entry in register["people"]:
            unit.people.add(Person(**entry), hashed)
        sites = {entry["id"]: Site(**entry) for entry in register["sites"]}
        for site in sites.values():
            unit.places.add_site(site)
        for entry in register["assets"]:
            unit.places.add_asset(Asset(**{**entry, "site": sites[entry["site"]]}))

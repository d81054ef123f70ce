"""A job as a device carries it on: what was recorded so far, and each further event by the rules of the core.

Everything comes and goes as JSON text, so that it can be called from another language.
"""

from __future__ import annotations

import json
from base64 import b64decode
from dataclasses import dataclass
from typing import Any

from reedling.core.guidance.catalogue import Part
from reedling.core.guidance.likeness import PartNames, meant_parts
from reedling.core.orders.photo_looks import doubts_in_words, look_at_photo, photo_doubts, same_photo
from reedling.core.orders.states import state_after
from reedling.core.register.assets import PlacedAsset, Site
from reedling.core.register.distances import Position, arrival_words
from reedling.core.register.plates import plate_words
from reedling.core.runsheet.events import FieldEvent
from reedling.core.runsheet.job import record
from reedling.core.runsheet.job_state import Job, OrderState
from reedling.core.runsheet.lines import Runsheet
from reedling.core.runsheet.run_view import job_view
from reedling.device.plain import dump, load
from reedling.errors import ReedlingError


@dataclass(slots=True)
class CarriedJob:
    """The runsheet of an order and the job on it so far; ``record`` carries the job on."""

    runsheet: Runsheet
    job: Job
    state: OrderState

    def view(self) -> str:
        """Where the job stands: ``job``, ``run`` and the order's ``state``."""
        view = {
            "job": dump(self.job),
            "run": dump(job_view(self.runsheet, self.job)),
            "state": state_after(self.state, self.job),
        }
        return json.dumps(view, ensure_ascii=False)

    def record(self, events: str) -> str:
        """Carry the job on by a list of events, all or none; ``null``, or why it was refused."""
        job = self.job
        try:
            for event in json.loads(events):
                job = record(self.runsheet, job, load(FieldEvent, event))  # type: ignore[arg-type]
        except ReedlingError as refusal:
            return json.dumps(_refusal(refusal), ensure_ascii=False)
        self.job = job
        return "null"


def take_up(runsheet: str, job: str, state: OrderState) -> CarriedJob:
    """A job to carry on, from the JSON of its runsheet and of what was recorded before, and its order's state."""
    return CarriedJob(load(Runsheet, json.loads(runsheet)), load(Job, json.loads(job)), state)


def likely(text: str, parts: str) -> str:
    """The parts that may have been meant by a text, as JSON; ``parts`` are those of the catalogue, as JSON."""
    names = PartNames.of(load(Part, part) for part in json.loads(parts))
    return json.dumps([dump(found) for found in meant_parts(text, names)], ensure_ascii=False)


def plate(code: str, assets: str) -> str:
    """Whose plate was read, as :func:`plate_words`, in JSON; ``assets`` are those known here with their sites, as JSON."""
    return json.dumps(
        plate_words(code, (load(PlacedAsset, placed) for placed in json.loads(assets))), ensure_ascii=False
    )


def arrival(site: str, east: float, north: float) -> str:
    """What is noted of an arrival at a site, as :func:`arrival_words`, in JSON; ``site`` as JSON."""
    words = arrival_words(load(Site, json.loads(site)), Position(east=east, north=north))
    return json.dumps(words, ensure_ascii=False)


def look(whole: str, centre: str, others: str) -> str:
    """What is to be doubted of a photo, as JSON: ``doubts`` in words, empty where nothing is, and its ``fingerprint``.

    ``whole`` and ``centre`` are the two grey pictures of :func:`look_at_photo` in base64, ``others`` the fingerprints of
    other photos of the order by identity, as JSON.
    """
    found = look_at_photo(b64decode(whole), b64decode(centre))
    is_same = same_photo(found, json.loads(others)) is not None
    doubts = doubts_in_words(photo_doubts(found, is_same=is_same))
    return json.dumps({"doubts": doubts, "fingerprint": found.fingerprint}, ensure_ascii=False)


def _refusal(error: ReedlingError) -> dict[str, Any]:
    return {"code": error.code, "detail": str(error), "where": error.where, "hint": error.hint}

"""The lists small tests refer to."""

from __future__ import annotations

from reedling.core.guidance.catalogue import (
    Catalogue,
    Cause,
    EquipmentClass,
    Model,
    Part,
    Remedy,
    Skill,
    Symptom,
)

LISTS = Catalogue(
    equipment=(
        EquipmentClass(code="plant", name="Any plant"),
        EquipmentClass(code="rake", name="Rake", parent="plant"),
    ),
    models=(Model(code="WR2", name="WR 2", equipment="rake"),),
    symptoms=(Symptom(code="stalls", label="Stalls", family="stops"), Symptom(code="leaks", label="Leaks")),
    causes=(Cause(code="debris", label="Debris"),),
    remedies=(Remedy(code="cleared", label="Cleared"),),
    skills=(
        Skill(code="permit", name="Permit", certificate=True),
        Skill(code="hydraulics", name="Hydraulics"),
    ),
    parts=(Part(code="RV-SEAT", name="Seat kit"),),
)

"""Pumps and their stations: calls, and the weekly round. What is really wrong, invented."""

from __future__ import annotations

from reedling.standins.field_truth import Kind, Taken, Trouble, always, among, near
from reedling.standins.wider.answers import Answers, answers_of, insulation, kind_of, leaving_out


def _duty(flow: float, kw: float) -> Answers:
    """A pump that delivers so many cubic metres an hour over four metres."""
    fall = flow / 3600 * 300 / 40
    return answers_of(
        "WP-011",
        duty__area=always(40.0),
        duty__head=near(4, 0.2, 2),
        duty__l0=always(1.9),
        duty__l5=near(1.9 - fall * 0.8, 0.004, 3),
        duty__inflow=near(fall * 0.2, 0.002, 3),
        duty__kw=near(kw, 0.4),
        clearance=near(1.9, 0.2, 2),
        seconds=near(150, 20, 0),
    )


def _bearing(ohm: float, *, v: float) -> Answers:
    return answers_of(
        "WP-017",
        temp__ohm=near(ohm, 0.8, 2),
        temp__room=near(15, 4, 0),
        v_h=near(v, 0.3),
        v_v=near(v * 0.8, 0.3),
        v_a=near(v * 0.7, 0.2),
        offset_after=near(0.06, 0.015, 2),
        after=near(119, 1.5, 1),
        grams=near(70, 15, 0),
    )


SEAL_LEAK: Kind = kind_of(
    "submersible-pump",
    "seal-leak",
    0.05,
    ("Seal alarm since this morning.", "Leak alarm comes and goes."),
    Trouble(
        0.45,
        "wet-probe",
        "replaced",
        {
            **answers_of("WP-010", kohm=near(22, 6), cores=near(0.3, 0.1, 2), kohm_after=near(140, 20, 0)),
            **insulation("WP-010", "insulation", 60),
        },
        said=("Alarm only when it rains.",),
    ),
    Trouble(
        0.55,
        "worn-seal",
        "replaced",
        {
            **answers_of(
                "WP-010",
                kohm=near(2, 0.5),
                cores=near(8, 2),
                sample_is=among("milky", "water"),
                oil_in=near(1.2, 0.15, 2),
            ),
            **insulation("WP-010", "insulation", 24),
        },
        fetch=0.65,
        takes=(Taken("RING-HM", 0.35),),
    ),
)

LOW_FLOW: Kind = kind_of(
    "submersible-pump",
    "low-flow",
    0.04,
    ("Pumps little, sounds as ever.", "Level does not fall with it on."),
    Trouble(
        0.5,
        "flap-open",
        "cleared",
        {**answers_of("WP-011", flap_does=among("late", "open"), air_came=always(False)), **_duty(260, 7)},
        said=("Water runs back when it stops.",),
    ),
    Trouble(
        0.2,
        "air-lock",
        "drained",
        {**answers_of("WP-011", flap_does=always("shuts"), air_came=always(True)), **_duty(90, 5)},
    ),
    Trouble(
        0.3,
        "worn-impeller",
        "replaced",
        {**answers_of("WP-011", flap_does=always("shuts"), air_came=always(False)), **_duty(300, 8)},
        fetch=0.6,
    ),
)

HOT: Kind = kind_of(
    "submersible-pump",
    "hot",
    0.04,
    ("Bearing hot to the hand.", "Probe reads twenty degrees more than last month."),
    Trouble(
        0.5,
        "dry-bearing",
        "greased",
        {**_bearing(132.4, v=2.4), **answers_of("WP-017", grease_is=always("dry"))},
    ),
    Trouble(
        0.2,
        "over-greased",
        "drained",
        {**_bearing(131.0, v=1.9), **answers_of("WP-017", grease_is=always("much"))},
    ),
    Trouble(
        0.2,
        "misaligned",
        "aligned",
        {
            **_bearing(131.8, v=6.0),
            **answers_of(
                "WP-017", grease_is=always("good"), offset=near(0.24, 0.05, 2), angle=near(0.06, 0.02, 2)
            ),
        },
    ),
    Trouble(
        0.1,
        "bearing-gone",
        "replaced",
        {
            **_bearing(135.0, v=7.4),
            **answers_of(
                "WP-017", grease_is=always("dark"), offset=near(0.05, 0.02, 2), angle=near(0.03, 0.01, 2)
            ),
        },
        fetch=0.8,
    ),
)

WEEKLY: Kind = leaving_out(
    {
        "WP-020:turns": (0.16, ("No supply to pump 2.", "Pumps were running.", "Level too low to run them.")),
        "WP-020:weed": (0.07, ("Rake was running.",)),
    },
    {"WP-020:walk": "WP-020:weed"},
    kind_of(
        "station",
        "weekly",
        0,
        ("Weekly round.",),
        Trouble(
            1.0,
            "nothing-found",
            "none-needed",
            answers_of(
                "WP-020",
                walk__screen=among("none", "some", "some", "much"),
                walk__upstream=near(1.6, 0.2, 2),
                walk__downstream=near(3.4, 0.2, 2),
            ),
        ),
    ),
)

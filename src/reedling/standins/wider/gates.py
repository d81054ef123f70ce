"""Gates and their actuators: calls, and the yearly inspection. What is really wrong, invented."""

from __future__ import annotations

from reedling.standins.field_truth import Kind, Trouble, always, among, near
from reedling.standins.wider.answers import Answers, answers_of, kind_of, leaving_out

_GATE: Answers = {
    f"{document}:{step}/{name}": told
    for document, step in (("WP-013", "follow"), ("WP-019", "position"))
    for name, told in (
        ("g0", near(0.6, 0.2)),
        ("g25", near(25.2, 0.5)),
        ("g50", near(50.1, 0.5)),
        ("g75", near(74.8, 0.5)),
        ("g100", near(98.7, 0.25)),
        ("seconds", near(110, 8, 0)),
    )
}


def _torque(up: float, down: float) -> Answers:
    rises = {"u10": 0.8, "u30": 0.9, "u50": 1.0, "u70": 0.95, "u90": 0.85}
    falls = {"d90": 0.9, "d50": 1.0, "d10": 0.85}
    return {
        **{f"WP-014:curve/{name}": near(up * share, 4, 0) for name, share in rises.items()},
        **{f"WP-014:curve/{name}": near(down * share, 4, 0) for name, share in falls.items()},
    }


HUNTS: Kind = kind_of(
    "tilting-gate",
    "hunts",
    0.04,
    ("Gate opens and shuts all day.", "Gate never stands still."),
    Trouble(
        0.5,
        "deadband",
        "adjusted",
        {
            **answers_of(
                "WP-013",
                swing=near(22, 4, 0),
                moves=near(5, 1, 0),
                leads=always("gate"),
                still=always(True),
                tube_is=always("clear"),
                band_before=near(12, 2, 0),
                band_after=near(34, 4, 0),
            ),
            **_GATE,
        },
    ),
    Trouble(
        0.5,
        "silt",
        "desilted",
        {
            **answers_of(
                "WP-013",
                swing=near(60, 8, 0),
                moves=near(7, 1, 0),
                leads=always("level"),
                still=always(False),
                tube_is=among("silt", "wave"),
            ),
            **_GATE,
        },
    ),
)

OVER_TORQUE: Kind = kind_of(
    "actuator",
    "over-torque",
    0.04,
    ("Gate stopped half way, torque lamp on.",),
    Trouble(
        0.5,
        "stiff-spindle",
        "greased",
        {
            **answers_of(
                "WP-014",
                spindle_is=always("dry"),
                depth=near(20, 8, 0),
                shots=near(12, 3, 0),
                peak=near(96, 6, 0),
            ),
            **_torque(132, 84),
        },
    ),
    Trouble(
        0.3,
        "silt",
        "desilted",
        {
            **answers_of("WP-014", spindle_is=always("clean"), depth=near(120, 20, 0), peak=near(92, 6, 0)),
            **_torque(98, 138),
        },
    ),
    Trouble(
        0.2,
        "torque-set",
        "adjusted",
        {
            **answers_of("WP-014", spindle_is=always("clean"), depth=near(15, 6, 0), peak=near(90, 6, 0)),
            **_torque(92, 88),
        },
    ),
)

YEARLY: Kind = leaving_out(
    {
        "WP-019:grease": (0.3, ("Pivots under water.", "Grease gun empty.")),
        "WP-019:flush": (0.1, ("No water to flush with.",)),
    },
    {"WP-019:seals": "WP-019:steel"},
    kind_of(
        "tilting-gate",
        "yearly",
        0,
        ("Yearly inspection.",),
        Trouble(
            1.0,
            "nothing-found",
            "none-needed",
            {
                **answers_of(
                    "WP-019",
                    seals_are=among("good", "good", "worn", "torn"),
                    t1=near(7.6, 0.6),
                    t2=near(7.2, 0.6),
                    t3=near(7.4, 0.6),
                    depth=near(40, 25, 0),
                ),
                **_GATE,
            },
        ),
    ),
)

"""Rakes and conveyors: calls, and the season start. What is really wrong, invented."""

from __future__ import annotations

from reedling.standins.field_truth import Kind, Trouble, always, among, among_numbers, near
from reedling.standins.wider.answers import answers_of, kind_of, leaving_out

WILL_NOT_PARK: Kind = kind_of(
    "screen-rake",
    "will-not-park",
    0.07,
    ("Rake hangs at the top.", "Rake will not come home, control sees it running."),
    Trouble(
        0.5,
        "park-switch",
        "adjusted",
        answers_of("WP-008", switch_acts=among("late", "dead"), crept=near(5, 2)),
        fetch=0.3,
        said=("Stops a hand short of home, then starts again.",),
    ),
    Trouble(
        0.3,
        "slack-brake",
        "adjusted",
        answers_of(
            "WP-008",
            switch_acts=always("clean"),
            crept=near(35, 6),
            lining=near(2.8, 0.3),
            gap=near(1.1, 0.1, 2),
            gap_after=near(0.5, 0.05, 2),
        ),
        said=("Runs past its place and comes back.",),
    ),
    Trouble(
        0.2,
        "valve-leaks-down",
        "replaced",
        answers_of(
            "WP-008",
            switch_acts=always("clean"),
            crept=near(110, 20),
            lining=near(3.4, 0.3),
            gap=near(0.5, 0.05, 2),
        ),
        fetch=0.7,
        said=("Sinks by itself overnight.",),
    ),
)

CHAIN_OFF: Kind = kind_of(
    "conveyor",
    "chain-off",
    0.04,
    ("Chain lies beside the sprocket.", "Belt stands, drive turns."),
    Trouble(
        0.55,
        "slack-chain",
        "tightened",
        answers_of(
            "WP-009",
            ten=near(1022, 3),
            teeth_are=always("good"),
            bearing_is=always("smooth"),
            sag=near(30, 4),
        ),
        back=0.15,
    ),
    Trouble(
        0.3,
        "worn-sprocket",
        "replaced",
        answers_of(
            "WP-009",
            ten=near(1012, 2),
            teeth_are=among("hooked", "hooked", "broken"),
            bearing_is=always("smooth"),
        ),
        fetch=0.6,
    ),
    Trouble(
        0.15,
        "bearing-gone",
        "replaced",
        answers_of("WP-009", ten=near(1010, 2), teeth_are=always("good"), bearing_is=among("rough", "loose")),
        fetch=0.7,
        said=("Squealed for a week, now it is off.",),
    ),
)

SEASON_START: Kind = leaving_out(
    {"WP-018:grease": (0.18, ("Grease gun empty.", "Nipples painted over."))},
    {"WP-018:tines": "WP-018:oil"},
    kind_of(
        "screen-rake",
        "season-start",
        0,
        ("Season start.",),
        Trouble(
            1.0,
            "nothing-found",
            "none-needed",
            answers_of(
                "WP-018",
                bent=among_numbers(0, 1, 2, 5),
                missing=among_numbers(0, 0, 0, 1),
                oil_is=among("clear", "clear", "dark", "milky"),
                oil_level=near(6, 4, 0),
                ten=near(0.9, 0.4),
                oil_in=near(4, 1),
                nipples=always(8.0),
                runs__run1=near(9.6, 0.5),
                runs__run2=near(9.8, 0.5),
                runs__run3=near(9.7, 0.5),
            ),
        ),
    ),
)

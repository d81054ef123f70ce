"""Outstations, generators and soft starters. What is really wrong, invented."""

from __future__ import annotations

from reedling.standins.field_truth import Kind, Taken, Trouble, always, among, near
from reedling.standins.wider.answers import answers_of, battery, kind_of

_LOAD_RUN = answers_of(
    "WP-015",
    load_run__cold=near(12.7, 0.1, 2),
    load_run__crank=near(10.6, 0.3, 2),
    load_run__secs=near(6, 1),
    load_run__volts=near(400, 3, 0),
    load_run__hz=near(50, 0.15, 2),
    load_run__kw=near(14, 1),
    load_run__oil=near(4, 0.3),
    load_run__water=near(82, 3, 0),
    load_run__litres=near(2.3, 0.15),
    load_run__smoke=always("none"),
    tank=near(78, 8, 0),
    drained=near(3, 1),
)


_SUPPLY = answers_of(
    "WP-016",
    supply__u12=near(401, 2, 0),
    supply__u23=near(400, 2, 0),
    supply__u31=near(402, 2, 0),
    supply__i1=near(41, 1),
    supply__i2=near(41, 1),
    supply__i3=near(42, 1),
    nm=near(8, 1, 0),
    ramp=near(8, 1),
)


SILENT: Kind = kind_of(
    "outstation",
    "no-signal",
    0.06,
    ("Nothing heard since last night.", "Station silent, pumps run by float."),
    Trouble(
        0.3,
        "supply-lost",
        "reset",
        {**answers_of("WP-012", vdc=near(19.5, 1)), **battery("WP-012", 12.6, 12.0)},
        said=("Lights in the station are out, too.",),
    ),
    Trouble(
        0.4,
        "battery-flat",
        "charged",
        {**answers_of("WP-012", vdc=near(26, 0.5), dbm=near(-82, 4, 0)), **battery("WP-012", 11.9, 10.6)},
        back=0.05,
    ),
    Trouble(
        0.3,
        "radio-link",
        "remade",
        {
            **answers_of("WP-012", vdc=near(26.5, 0.5), dbm=near(-104, 3, 0), dbm_after=near(-83, 4, 0)),
            **battery("WP-012", 12.7, 12.1),
        },
        fetch=0.5,
        said=("Comes back for an hour when it is dry.",),
    ),
)

RUN_FAILED: Kind = kind_of(
    "generator",
    "run-failed",
    0.03,
    ("Failed its Monday run.", "Did not start on test."),
    Trouble(
        0.4,
        "battery-flat",
        "charged",
        {**answers_of("WP-015", does=always("still")), **battery("WP-015", 11.7, 9.8), **_LOAD_RUN},
    ),
    Trouble(
        0.4,
        "fuel",
        "cleaned",
        {
            **answers_of("WP-015", does=among("turns", "fires"), bowl=among("water", "sludge", "air")),
            **battery("WP-015", 12.7, 12.1),
            **_LOAD_RUN,
        },
        takes=(Taken("FILTER-F", 0.4),),
    ),
    Trouble(
        0.2,
        "avr",
        "replaced",
        {
            **answers_of(
                "WP-015", does=always("runs"), no_load=near(322, 15, 0), volts_after=near(401, 2, 0)
            ),
            **battery("WP-015", 12.7, 12.1),
            **_LOAD_RUN,
        },
        fetch=0.9,
    ),
)

STARTER_FAULT: Kind = kind_of(
    "soft-starter",
    "starter-fault",
    0.04,
    ("Starter flashes, pump stands.", "Fault on the starter, reset did not hold."),
    Trouble(
        0.45,
        "cooling",
        "cleaned",
        {
            **answers_of(
                "WP-016", shows=always("hot"), air_is=among("clogged", "dead"), drop=near(60, 10, 0)
            ),
            **_SUPPLY,
        },
        back=0.1,
    ),
    Trouble(
        0.3,
        "contactor",
        "replaced",
        {
            **answers_of(
                "WP-016",
                shows=always("bypass"),
                air_is=always("free"),
                drop=near(220, 40, 0),
                drop_after=near(45, 8, 0),
            ),
            **_SUPPLY,
        },
        fetch=0.7,
    ),
    Trouble(
        0.25,
        "phase-lost",
        "tightened",
        {
            **_SUPPLY,
            **answers_of("WP-016", shows=always("phase"), air_is=always("free"), supply__i2=near(33, 1)),
        },
    ),
)

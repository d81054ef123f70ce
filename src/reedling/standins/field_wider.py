"""What is really wrong with the rest of the plant: calls and routine visits of the demo's wider library. Invented."""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping

from reedling.core.logic.conditions import Answer
from reedling.standins.field_truth import Kind, Taken, Trouble, always, among, among_numbers, near

_Answers = Mapping[str, Callable[[random.Random], Answer]]


def _of(document: str, **answers: Callable[[random.Random], Answer]) -> _Answers:
    """Answers of a document; ``_`` stands for the dash of an identity, ``__`` for what is asked by a form at a step."""
    return {f"{document}:{name.replace('__', '/').replace('_', '-')}": told for name, told in answers.items()}


def _insulation(document: str, step: str, weakest: float) -> _Answers:
    """What the insulation form reads where the weakest phase is about this."""
    values = {
        "m1": near(weakest * 1.3, weakest * 0.1),
        "m2": near(weakest, weakest * 0.1),
        "m3": near(weakest * 1.4, weakest * 0.1),
        "winding": near(16, 4),
        "at15": near(weakest * 0.7, weakest * 0.03),
        "at60": near(weakest, weakest * 0.03),
    }
    return {f"{document}:{step}/{name}": told for name, told in values.items()}


def _battery(document: str, rest: float, loaded: float) -> _Answers:
    values: dict[str, Callable[[random.Random], Answer]] = {
        "rest": near(rest, 0.1, 2),
        "loaded": near(loaded, 0.12, 2),
        "made": among("under3", "three5") if rest > 12.4 else always("over5"),
        "float": near(13.6, 0.08, 2),
    }
    return {f"{document}:battery/{name}": told for name, told in values.items()}


_LOAD_RUN = _of(
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
_GATE: _Answers = {
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


def _torque(up: float, down: float) -> _Answers:
    rises = {"u10": 0.8, "u30": 0.9, "u50": 1.0, "u70": 0.95, "u90": 0.85}
    falls = {"d90": 0.9, "d50": 1.0, "d10": 0.85}
    return {
        **{f"WP-014:curve/{name}": near(up * share, 4, 0) for name, share in rises.items()},
        **{f"WP-014:curve/{name}": near(down * share, 4, 0) for name, share in falls.items()},
    }


_SUPPLY = _of(
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


def _bearing(ohm: float, *, v: float) -> _Answers:
    return _of(
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


def _kind(equipment: str, symptom: str, weight: float, reports: tuple[str, ...], *troubles: Trouble) -> Kind:
    return Kind(weight=weight, equipment=equipment, symptom=symptom, reports=reports, troubles=troubles)


def _duty(flow: float, kw: float) -> _Answers:
    """A pump that delivers so many cubic metres an hour over four metres."""
    fall = flow / 3600 * 300 / 40
    return _of(
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


WIDER_KINDS: tuple[Kind, ...] = (
    _kind(
        "screen-rake",
        "will-not-park",
        0.07,
        ("Rake hangs at the top.", "Rake will not come home, control sees it running."),
        Trouble(
            0.5,
            "park-switch",
            "adjusted",
            _of("WP-008", switch_acts=among("late", "dead"), crept=near(5, 2)),
            fetch=0.3,
            said=("Stops a hand short of home, then starts again.",),
        ),
        Trouble(
            0.3,
            "slack-brake",
            "adjusted",
            _of(
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
            _of(
                "WP-008",
                switch_acts=always("clean"),
                crept=near(110, 20),
                lining=near(3.4, 0.3),
                gap=near(0.5, 0.05, 2),
            ),
            fetch=0.7,
            said=("Sinks by itself overnight.",),
        ),
    ),
    _kind(
        "conveyor",
        "chain-off",
        0.04,
        ("Chain lies beside the sprocket.", "Belt stands, drive turns."),
        Trouble(
            0.55,
            "slack-chain",
            "tightened",
            _of(
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
            _of(
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
            _of("WP-009", ten=near(1010, 2), teeth_are=always("good"), bearing_is=among("rough", "loose")),
            fetch=0.7,
            said=("Squealed for a week, now it is off.",),
        ),
    ),
    _kind(
        "submersible-pump",
        "seal-leak",
        0.05,
        ("Seal alarm since this morning.", "Leak alarm comes and goes."),
        Trouble(
            0.45,
            "wet-probe",
            "replaced",
            {
                **_of("WP-010", kohm=near(22, 6), cores=near(0.3, 0.1, 2), kohm_after=near(140, 20, 0)),
                **_insulation("WP-010", "insulation", 60),
            },
            said=("Alarm only when it rains.",),
        ),
        Trouble(
            0.55,
            "worn-seal",
            "replaced",
            {
                **_of(
                    "WP-010",
                    kohm=near(2, 0.5),
                    cores=near(8, 2),
                    sample_is=among("milky", "water"),
                    oil_in=near(1.2, 0.15, 2),
                ),
                **_insulation("WP-010", "insulation", 24),
            },
            fetch=0.65,
            takes=(Taken("RING-HM", 0.35),),
        ),
    ),
    _kind(
        "submersible-pump",
        "low-flow",
        0.04,
        ("Pumps little, sounds as ever.", "Level does not fall with it on."),
        Trouble(
            0.5,
            "flap-open",
            "cleared",
            {**_of("WP-011", flap_does=among("late", "open"), air_came=always(False)), **_duty(260, 7)},
            said=("Water runs back when it stops.",),
        ),
        Trouble(
            0.2,
            "air-lock",
            "drained",
            {**_of("WP-011", flap_does=always("shuts"), air_came=always(True)), **_duty(90, 5)},
        ),
        Trouble(
            0.3,
            "worn-impeller",
            "replaced",
            {**_of("WP-011", flap_does=always("shuts"), air_came=always(False)), **_duty(300, 8)},
            fetch=0.6,
        ),
    ),
    _kind(
        "outstation",
        "no-signal",
        0.06,
        ("Nothing heard since last night.", "Station silent, pumps run by float."),
        Trouble(
            0.3,
            "supply-lost",
            "reset",
            {**_of("WP-012", vdc=near(19.5, 1)), **_battery("WP-012", 12.6, 12.0)},
            said=("Lights in the station are out, too.",),
        ),
        Trouble(
            0.4,
            "battery-flat",
            "charged",
            {**_of("WP-012", vdc=near(26, 0.5), dbm=near(-82, 4, 0)), **_battery("WP-012", 11.9, 10.6)},
            back=0.05,
        ),
        Trouble(
            0.3,
            "radio-link",
            "remade",
            {
                **_of("WP-012", vdc=near(26.5, 0.5), dbm=near(-104, 3, 0), dbm_after=near(-83, 4, 0)),
                **_battery("WP-012", 12.7, 12.1),
            },
            fetch=0.5,
            said=("Comes back for an hour when it is dry.",),
        ),
    ),
    _kind(
        "tilting-gate",
        "hunts",
        0.04,
        ("Gate opens and shuts all day.", "Gate never stands still."),
        Trouble(
            0.5,
            "deadband",
            "adjusted",
            {
                **_of(
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
                **_of(
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
    ),
    _kind(
        "actuator",
        "over-torque",
        0.04,
        ("Gate stopped half way, torque lamp on.",),
        Trouble(
            0.5,
            "stiff-spindle",
            "greased",
            {
                **_of(
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
                **_of("WP-014", spindle_is=always("clean"), depth=near(120, 20, 0), peak=near(92, 6, 0)),
                **_torque(98, 138),
            },
        ),
        Trouble(
            0.2,
            "torque-set",
            "adjusted",
            {
                **_of("WP-014", spindle_is=always("clean"), depth=near(15, 6, 0), peak=near(90, 6, 0)),
                **_torque(92, 88),
            },
        ),
    ),
    _kind(
        "generator",
        "run-failed",
        0.03,
        ("Failed its Monday run.", "Did not start on test."),
        Trouble(
            0.4,
            "battery-flat",
            "charged",
            {**_of("WP-015", does=always("still")), **_battery("WP-015", 11.7, 9.8), **_LOAD_RUN},
        ),
        Trouble(
            0.4,
            "fuel",
            "cleaned",
            {
                **_of("WP-015", does=among("turns", "fires"), bowl=among("water", "sludge", "air")),
                **_battery("WP-015", 12.7, 12.1),
                **_LOAD_RUN,
            },
            takes=(Taken("FILTER-F", 0.4),),
        ),
        Trouble(
            0.2,
            "avr",
            "replaced",
            {
                **_of("WP-015", does=always("runs"), no_load=near(322, 15, 0), volts_after=near(401, 2, 0)),
                **_battery("WP-015", 12.7, 12.1),
                **_LOAD_RUN,
            },
            fetch=0.9,
        ),
    ),
    _kind(
        "soft-starter",
        "starter-fault",
        0.04,
        ("Starter flashes, pump stands.", "Fault on the starter, reset did not hold."),
        Trouble(
            0.45,
            "cooling",
            "cleaned",
            {
                **_of("WP-016", shows=always("hot"), air_is=among("clogged", "dead"), drop=near(60, 10, 0)),
                **_SUPPLY,
            },
            back=0.1,
        ),
        Trouble(
            0.3,
            "contactor",
            "replaced",
            {
                **_of(
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
                **_of("WP-016", shows=always("phase"), air_is=always("free"), supply__i2=near(33, 1)),
            },
        ),
    ),
    _kind(
        "submersible-pump",
        "hot",
        0.04,
        ("Bearing hot to the hand.", "Probe reads twenty degrees more than last month."),
        Trouble(
            0.5,
            "dry-bearing",
            "greased",
            {**_bearing(132.4, v=2.4), **_of("WP-017", grease_is=always("dry"))},
        ),
        Trouble(
            0.2,
            "over-greased",
            "drained",
            {**_bearing(131.0, v=1.9), **_of("WP-017", grease_is=always("much"))},
        ),
        Trouble(
            0.2,
            "misaligned",
            "aligned",
            {
                **_bearing(131.8, v=6.0),
                **_of(
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
                **_of(
                    "WP-017", grease_is=always("dark"), offset=near(0.05, 0.02, 2), angle=near(0.03, 0.01, 2)
                ),
            },
            fetch=0.8,
        ),
    ),
)
"""Calls of the wider library; their weights are shares of all calls."""

WIDER_ROUTINES: tuple[tuple[Kind, int], ...] = (
    (
        _kind(
            "screen-rake",
            "season-start",
            0,
            ("Season start.",),
            Trouble(
                1.0,
                "nothing-found",
                "none-needed",
                _of(
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
        24,
    ),
    (
        _kind(
            "tilting-gate",
            "yearly",
            0,
            ("Yearly inspection.",),
            Trouble(
                1.0,
                "nothing-found",
                "none-needed",
                {
                    **_of(
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
        10,
    ),
    (
        _kind(
            "station",
            "weekly",
            0,
            ("Weekly round.",),
            Trouble(
                1.0,
                "nothing-found",
                "none-needed",
                _of(
                    "WP-020",
                    walk__screen=among("none", "some", "some", "much"),
                    walk__upstream=near(1.6, 0.2, 2),
                    walk__downstream=near(3.4, 0.2, 2),
                ),
            ),
        ),
        60,
    ),
)
"""Routine visits of the wider library, with how many of each lie in the history."""

"""The calls and surveys of the simulated field, with what is truly wrong at each. Invented."""

from __future__ import annotations

from reedling.standins.field_truth import (
    HEAT,
    STORMS,
    WEED,
    Kind,
    Taken,
    Trouble,
    always,
    among,
    near,
)

_RAKE_PROVED = {"WP-001:peak": near(9.6, 0.6), "WP-001:set-at": near(110, 0.8)}
_PUMP_PROVED = {
    "WP-002:l1": near(29.4, 1.2),
    "WP-002:l2": near(29.1, 1.2),
    "WP-002:l3": near(29.6, 1.2),
    "WP-002:set-a": near(32, 0.6),
    "WP-002:dead": always(True),
    "WP-002:ran": always(True),
    "WP-002:megohm-after": near(180, 30, 0),
}
_LEVEL_PROVED = {
    "WP-003:leave": always(True),
    "WP-003:auto-on": always(True),
    "WP-003:difference": near(0.4, 1.1),
    "WP-003:ma-after": near(11.5, 1.5),
}
KINDS: tuple[Kind, ...] = (
    Kind(
        weight=0.42,
        equipment="screen-rake",
        symptom="stalls",
        season=WEED,
        overtaken={"WP-001:plate": "WP-001:isolate"},
        reports=(
            "Rake stops about half way up.",
            "Rake stalled twice overnight, reset by control.",
            "Will lift empty, stalls with weed on.",
        ),
        troubles=(
            Trouble(
                0.45,
                "debris",
                "cleared",
                {"WP-001:bar": near(112, 6, 0), "WP-001:debris-found": always(True), **_RAKE_PROVED},
                season=WEED,
                said=(
                    "Rake groans and stops, branches in the channel.",
                    "A lot of weed since the storm, rake stuck.",
                    "Something wedged behind the tines, it hums and stops.",
                ),
            ),
            Trouble(
                0.30,
                "relief-valve",
                "reseated",
                {
                    "WP-001:bar": near(78, 6, 0),
                    "WP-001:seat": among("scored", "scored", "dirt"),
                    **_RAKE_PROVED,
                },
                fetch=0.55,
                takes=(Taken("OIL-32", 0.6, (2, 3, 3, 5)),),
                said=(
                    "Lifts slowly and gives up, no weed on it.",
                    "Weak, hisses at the valve block, then stops.",
                    "Creeps up empty, sinks back by itself.",
                ),
            ),
            Trouble(
                0.15,
                "low-oil",
                "topped-up",
                {"WP-001:bar": near(83, 4, 0), "WP-001:seat": always("sound"), **_RAKE_PROVED},
                back=0.3,
                takes=(Taken("OIL-32", 1.0, (4, 5, 8)), Taken("HOSE-WR3", 0.2)),
                said=(
                    "Oil on the floor under the rake, it jerks.",
                    "Foaming tank, jerks on the way up.",
                    "Jerks and stops, puddle below the hose.",
                ),
            ),
            Trouble(
                0.10,
                "worn-chain",
                "replaced",
                {
                    **_RAKE_PROVED,
                    "WP-001:bar": near(116, 3, 0),
                    "WP-001:debris-found": always(False),
                    "WP-001:peak": near(11.3, 0.5),
                },
                fetch=0.6,
                back=0.2,
                takes=(Taken("CHAIN-12B", 1.0, (3, 3, 6)),),
                said=(
                    "Clanks loudly, chain jumps.",
                    "Bangs on the way up, chain hangs loose.",
                ),
            ),
        ),
        slow={"WP-001:debris": 0.75, "WP-001:isolate": 1.15, "WP-001:other": 1.2},
        slow_by_model={
            ("WP-001:pressure", "A", "WR3"): 2.9,
            ("WP-001:pressure", "A", "WR2"): 1.6,
            ("WP-001:pressure", "B", "WR3"): 1.9,
            ("WP-001:pressure", "B", "WR2"): 1.5,
        },
    ),
    Kind(
        weight=0.36,
        equipment="submersible-pump",
        symptom="trips",
        season=STORMS,
        reports=(
            "Trips after two or three minutes.",
            "Breaker out this morning, would not hold.",
            "Tripped twice since the storm.",
        ),
        troubles=(
            Trouble(
                0.5,
                "fouled-impeller",
                "cleared",
                {
                    "WP-002:megohm": near(120, 40, 0),
                    "WP-002:impeller": among("jammed", "stiff", "stiff"),
                    **_PUMP_PROVED,
                },
                back=0.15,
                season=STORMS,
                also_done="Cleaned the strainer basket",
                said=(
                    "Rattles, then trips, rags in the wet well.",
                    "Hums without turning, then trips.",
                    "Little flow since the storm, trips when it labours.",
                ),
            ),
            Trouble(
                0.18,
                "motor-insulation",
                "replaced",
                {
                    "WP-002:megohm": near(0.7, 0.2),
                    "WP-002:where-low": always("motor"),
                    "WP-002:impeller": always("free"),
                    **_PUMP_PROVED,
                },
                fetch=0.8,
                said=(
                    "Trips at once, smells burnt.",
                    "Breaker goes with a bang, damp in the housing.",
                ),
            ),
            Trouble(
                0.12,
                "cable-insulation",
                "replaced",
                {
                    "WP-002:megohm": near(0.8, 0.2),
                    "WP-002:where-low": always("cable"),
                    "WP-002:impeller": always("free"),
                    **_PUMP_PROVED,
                },
                fetch=0.4,
                season=STORMS,
                said=(
                    "Trips whenever it rains.",
                    "Cable chafed at the hatch, trips at once.",
                ),
            ),
            Trouble(
                0.2,
                "overload-setting",
                "reset",
                {"WP-002:megohm": near(150, 40, 0), "WP-002:impeller": always("free"), **_PUMP_PROVED},
                back=0.2,
                season=HEAT,
                said=(
                    "Runs well for an hour, then trips on warm days.",
                    "Trips since the panel was worked on.",
                ),
            ),
        ),
        slow={"WP-002:lift": 1.35, "WP-002:ask": 1.5},
        noted={
            "WP-002:lift": (
                0.16,
                (
                    "Shackle seized, had to free it with oil.",
                    "Lifting shackle rusted fast, cut it off.",
                    "Could not open the shackle by hand.",
                    "Shackle stuck again, new one wanted.",
                ),
            ),
        },
    ),
    Kind(
        weight=0.22,
        equipment="level-sensor",
        symptom="frozen",
        reports=("Flat line since midnight.", "Level does not follow the staff gauge."),
        troubles=(
            Trouble(
                0.55,
                "fouled-sensor",
                "cleaned",
                {"WP-003:ma": near(11, 2), "WP-003:moves": always(True), **_LEVEL_PROVED},
                back=0.12,
                season=WEED,
                said=(
                    "Reading drifts slowly, grease on the water.",
                    "Level reads high, scum in the well.",
                ),
            ),
            Trouble(
                0.25,
                "loose-terminal",
                "remade",
                {"WP-003:ma": near(2.6, 0.6), "WP-003:wiring": among("loose", "no-supply"), **_LEVEL_PROVED},
                takes=(Taken("GLAND-20", 0.6, (1, 1, 2)),),
                said=(
                    "Reading comes and goes when the door slams.",
                    "Flickers between zero and full.",
                ),
            ),
            Trouble(
                0.2,
                "failed-sensor",
                "replaced",
                {
                    "WP-003:ma": near(12, 1.5),
                    "WP-003:moves": always(False),
                    **_LEVEL_PROVED,
                },
                fetch=0.5,
                said=(
                    "Stuck at one value since the lightning.",
                    "Reads the same in air and in water.",
                ),
            ),
        ),
        slow={"WP-003:clean": 1.3},
    ),
)
_PHASES = {f"WP-005:survey/l{n}": near(29.3, 0.7) for n in (1, 2, 3)}
SURVEY = Kind(
    weight=0,
    equipment="station",
    symptom="half-yearly",
    reports=("Due this month.",),
    troubles=(
        Trouble(
            0.6,
            "nothing-found",
            "none-needed",
            {
                **_PHASES,
                "WP-005:survey/megohm": near(140, 40, 0),
                "WP-005:survey/pt": near(121, 3, 2),
                "WP-005:survey/dry": always(True),
                "WP-005:ran": always(True),
            },
        ),
        Trouble(
            0.4,
            "dry-bearing",
            "greased",
            {
                **_PHASES,
                "WP-005:survey/l2": near(33.5, 0.6),
                "WP-005:survey/megohm": near(60, 30, 0),
                "WP-005:survey/pt": near(132.5, 1.0, 2),
                "WP-005:survey/dry": lambda rng: rng.random() < 0.7,
                "WP-005:ran": always(True),
                "WP-005:grams": near(90, 20, 0),
            },
        ),
    ),
)
"""The routine visit: not drawn with the call-outs, it falls due."""
UNSERVED: tuple[tuple[Kind, int], ...] = (
    (
        Kind(
            weight=0,
            equipment="conveyor",
            symptom="stalls",
            reports=("Belt stops under load.", "Belt creeps, then stands."),
            troubles=(
                Trouble(0.6, "debris", "cleared", {}, back=0.3),
                Trouble(0.4, "dry-bearing", "greased", {}),
            ),
        ),
        6,
    ),
    (
        Kind(
            weight=0,
            equipment="tilting-gate",
            symptom="hunts",
            reports=("Gate opens and shuts all night.",),
            troubles=(Trouble(1.0, "fouled-sensor", "cleaned", {}),),
        ),
        4,
    ),
)
"""Calls for which there is no plan, with how many of each came in."""

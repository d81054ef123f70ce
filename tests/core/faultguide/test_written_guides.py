"""Written guides: learned figures by conjugate updating, what is wrong with them, and what changed between two."""

from __future__ import annotations

import itertools
import random
from collections import Counter
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy import stats

from reedling.core.faultguide.guide_differences import compare_guides
from reedling.core.faultguide.guide_soundness import KnownToGuides, guide_problems
from reedling.core.faultguide.learning import ClosedJob
from reedling.core.faultguide.links import GuideLinks, Look, StepLink, links_in
from reedling.core.faultguide.strategies import Doing, best_strategy, checks_in_order
from reedling.core.faultguide.written_learning import learn_written
from reedling.core.guidance.editing import in_this_order
from reedling.core.guidance.plans import Minutes, Plan, Step
from reedling.core.guidance.questions import Limits, OneOf, Option, Reading, YesNo
from reedling.core.guidance.written_guides import GuideCause, GuideCheck, GuideRemedy, WrittenGuide
from tests.core.faultguide.test_faultguide import a_guide
from tests.examples import examples

CAUSES = ("debris", "valve", "oil")
LABELS = {
    "debris": "Debris",
    "valve": "Valve",
    "oil": "Low oil",
    "cleared": "Cleared",
    "reseated": "Reseated",
}
LINKS = GuideLinks(
    looks={
        "WP-1:bar!": Look(label="Pressure out", step="WP-1:s1", minutes=8, phase="Diagnose"),
        "WP-1:seat=scored": Look(label="Seat: scored", step="WP-1:s2", minutes=15, phase="Diagnose"),
    },
    steps={"WP-1:s9": StepLink(text="Clear it", minutes=20, phase="Put right")},
)
KNOWN = KnownToGuides(
    causes={c: LABELS[c] for c in CAUSES},
    remedies={"cleared": "Cleared", "reseated": "Reseated"},
    incident_types={"IT-1"},
    links=LINKS,
)
GUIDE = WrittenGuide(
    title="Stalls",
    incident_type="IT-1",
    causes=tuple(GuideCause(cause=c, chance=p) for c, p in zip(CAUSES, (0.5, 0.3, 0.2), strict=True)),
    checks=(
        GuideCheck(id="k1", look="WP-1:bar!", yes={"valve": 0.9, "debris": 0.1}),
        GuideCheck(id="k2", look="WP-1:seat=scored", yes={"valve": 0.8, "debris": 0.05, "oil": 0.05}),
        GuideCheck(id="k3", label="Whines", minutes=2, yes={"oil": 0.9}),
    ),
    remedies=(
        GuideRemedy(id="r1", remedy="cleared", step="WP-1:s9", fixes={"debris": 0.95}),
        GuideRemedy(id="r2", remedy="reseated", minutes=30, fixes={"valve": 0.9, "oil": 0.2}),
    ),
)


def a_job(rng: random.Random) -> ClosedJob:
    seen = {
        look: rng.random() < 0.5
        for look in ("WP-1:bar!", "WP-1:seat=scored", "FG-1:k3=yes")
        if rng.random() < 0.7
    }
    return ClosedJob(
        order="o",
        cause=rng.choice((*CAUSES, "", "unknown", "chain")),
        remedy=rng.choice(("cleared", "reseated", "other")),
        minutes=None,
        diagnosed=20,
        seen=seen,
        tried={f"FG-1:{r}": rng.random() < 0.5 for r in ("r1", "r2") if rng.random() < 0.3},
        mended=frozenset(rng.sample(("WP-1:s9", "WP-1:s8"), rng.randrange(3))),
    )


@settings(max_examples=examples(60), deadline=None)
@given(st.integers(0, 10_000), st.integers(0, 60), st.sampled_from((1.0, 5.0, 40.0)))
def test_learned_figures_are_those_of_conjugate_updating(seed: int, n: int, weight: float) -> None:
    """Counted job by job; the marginal of a Dirichlet is a Beta (Gelman et al., Bayesian Data Analysis, 3rd ed., 3.4)."""
    rng = random.Random(seed)
    jobs = [a_job(rng) for _ in range(n)]
    guide = replace(GUIDE, weight=weight)
    found = learn_written(guide, "FG-1", LINKS, jobs, unknown=("unknown",), labels=LABELS)
    assert found is not None
    known = [job for job in jobs if job.cause in CAUSES]
    assert found.n_jobs == len(known)
    assert found.n_uncoded == sum(job.cause in ("", "unknown") for job in jobs)
    assert sum(found.rare.values()) == sum(job.cause == "chain" for job in jobs)
    assert found.n_several == sum(len(job.mended) > 1 for job in jobs)
    for i, cause in enumerate(CAUSES):
        a = weight * (0.5, 0.3, 0.2)[i] + sum(job.cause == cause for job in known)
        b = weight + len(known) - a
        assert found.chances[i].value == pytest.approx(a / (a + b))
        assert (found.chances[i].low, found.chances[i].high) == pytest.approx(stats.beta(a, b).interval(0.95))
        for check, key, cells in zip(guide.checks, found.looks, found.cells, strict=True):
            told = [job.seen[key] for job in known if job.cause == cause and key in job.seen]
            guess = min(max(check.yes.get(cause, 0.5), 0.02), 0.98)
            a = weight * guess + sum(told)
            assert cells[i].value == pytest.approx(a / (weight + len(told)))
        for remedy, row in zip(guide.remedies, found.repair_cells, strict=True):
            cell = row[i]
            if cause not in remedy.fixes:
                assert cell is None
                continue
            assert cell is not None
            outcomes = []
            for job in known:
                tried = job.tried.get(f"FG-1:{remedy.id}")
                if job.cause == cause and tried is False:
                    outcomes.append(0)
                elif job.cause == cause and job.remedy == remedy.remedy:
                    outcomes.append(1)
            guess = min(max(remedy.fixes[cause], 0.02), 0.98)
            assert cell.value == pytest.approx((weight * guess + sum(outcomes)) / (weight + len(outcomes)))
    assert sum(found.guide.chances) == pytest.approx(1)


def test_without_jobs_a_guide_says_what_its_author_said() -> None:
    found = learn_written(GUIDE, "FG-1", LINKS, [], labels=LABELS)
    assert found is not None
    assert found.guide.chances == pytest.approx((0.5, 0.3, 0.2))
    assert found.guide.checks[0].minutes == 8
    assert found.guide.checks[2].label == "Whines"
    assert found.guide.repairs[0].minutes == 20
    assert found.guide.repairs[0].fixes == pytest.approx((0.95, 0, 0))
    assert learn_written(replace(GUIDE, causes=()), "FG-1", LINKS, [], labels=LABELS) is None


@pytest.mark.slow
def test_learned_parameters_come_to_the_truth_as_jobs_grow() -> None:
    """Jobs drawn from a known guide: the error falls as one over the root of their number."""
    rng = np.random.default_rng(3)
    truth = {"debris": (0.2, 0.1), "valve": (0.5, 0.85), "oil": (0.3, 0.4)}
    errors = []
    for n in (50, 800, 12_800):
        causes = rng.choice(list(truth), n, p=[p for p, _ in truth.values()])
        jobs = [
            ClosedJob(
                order=str(i),
                cause=cause,
                remedy="other",
                minutes=None,
                diagnosed=0,
                seen={"WP-1:bar!": bool(rng.random() < truth[cause][1])},
            )
            for i, cause in enumerate(causes)
        ]
        found = learn_written(GUIDE, "FG-1", LINKS, jobs, labels=LABELS)
        assert found is not None
        errors.append(
            max(
                abs(found.guide.chances[i] - truth[cause][0]) + abs(found.cells[0][i].value - truth[cause][1])
                for i, cause in enumerate(CAUSES)
            )
        )
    assert errors[2] < 0.03
    assert errors[2] < errors[1] < errors[0]


def test_a_sound_guide_has_no_problem_and_each_fault_is_named_at_its_place() -> None:
    assert guide_problems(GUIDE, KNOWN) == ()
    bad: dict[str, WrittenGuide] = {
        "guides.title": replace(GUIDE, title=" "),
        "guides.incident_type": replace(GUIDE, incident_type="IT-9"),
        "guides.causes": replace(GUIDE, causes=GUIDE.causes[:1]),
        "guides.remedies": replace(GUIDE, remedies=()),
        "guides.weight": replace(GUIDE, weight=0),
        "guides.minutes": replace(GUIDE, prove_minutes=0),
        "guides.cause": replace(GUIDE, causes=(*GUIDE.causes, GuideCause(cause="chain"))),
        "guides.chances": replace(GUIDE, checks=(replace(GUIDE.checks[0], yes={"oil": 1.2}),)),
        "guides.check": replace(GUIDE, checks=(GuideCheck(id="k9", yes={"oil": 0.9}),)),
        "guides.asked_twice": replace(
            GUIDE, checks=(*GUIDE.checks, replace(GUIDE.checks[0], id="k9", look=GUIDE.checks[0].look))
        ),
        "guides.drift": replace(GUIDE, checks=(replace(GUIDE.checks[0], look="WP-1:gone!"),)),
        "guides.remedy": replace(
            GUIDE, remedies=(*GUIDE.remedies, GuideRemedy(id="r9", remedy="x", fixes={"oil": 1}))
        ),
        "guides.no_remedy": replace(GUIDE, remedies=GUIDE.remedies[:1]),
        "guides.tells_nothing": replace(GUIDE, checks=(replace(GUIDE.checks[0], yes={}),)),
        "guides.remedy_idle": replace(
            GUIDE, remedies=(*GUIDE.remedies, GuideRemedy(id="r9", remedy="cleared"))
        ),
    }
    for code, guide in bad.items():
        assert code in {p.code for p in guide_problems(guide, KNOWN)}, code
    moved = replace(GUIDE, remedies=(replace(GUIDE.remedies[0], step="WP-1:gone"), GUIDE.remedies[1]))
    assert [p.path for p in guide_problems(moved, KNOWN)] == ["/remedies/0/step"]
    one_question = GuideLinks(
        looks={
            f"WP-1:seat={o}": Look(label=f"Seat: {o}", step="WP-1:s1", minutes=5, phase="Diagnose")
            for o in "ab"
        }
    )
    answers = tuple(GuideCheck(id=o, look=f"WP-1:seat={o}", yes={"oil": 0.9}) for o in "ab")
    told = guide_problems(replace(GUIDE, checks=answers), replace(KNOWN, links=one_question))
    assert [(p.path, p.message) for p in told if p.code == "guides.asked_twice"] == [
        (
            "/checks/1/look",
            "“Seat: b” and “Seat: a” look at the answer to one question, which then counts twice.",
        )
    ]
    taken = guide_problems(GUIDE, replace(KNOWN, taken="FG-7"))
    assert [p.code for p in taken] == ["guides.another"]


def test_what_changed_between_two_guides_is_said_in_words() -> None:
    newer = replace(
        GUIDE,
        causes=(*GUIDE.causes[1:], GUIDE.causes[0]),
        checks=(replace(GUIDE.checks[0], yes={"valve": 0.7, "debris": 0.1}), GUIDE.checks[2]),
        remedies=(*GUIDE.remedies, GuideRemedy(id="r3", remedy="cleared")),
        weight=9,
    )
    told = compare_guides(GUIDE, newer, LABELS | {"WP-1:seat=scored": "Seat: scored"})
    assert {(d.change, d.title, d.aspect, d.after) for d in told} == {
        ("changed", "the whole", "weight of the author's figures", "9 jobs"),
        ("moved", "Debris", "", ""),
        ("changed", "WP-1:bar!", "chance with Valve", "70 %"),
        ("removed", "Seat: scored", "", ""),
        ("added", "Cleared", "", ""),
    }
    assert compare_guides(GUIDE, GUIDE, LABELS) == ()


def test_what_a_plan_offers_to_link_to() -> None:
    plan = Plan(
        title="P",
        steps=(
            Step(
                id="s1",
                phase="Diagnose",
                text="Look",
                minutes=Minutes(likely=7),
                questions=(
                    OneOf(id="seat", label="Seat", options=(Option(id="scored", label="Scored"),)),
                    YesNo(id="leak", label="Leak"),
                    Reading(id="bar", label="Pressure", unit="bar", limits=Limits(low=90)),
                    Reading(id="free", label="Speed", unit="1/min"),
                ),
            ),
        ),
    )
    links = links_in([("WP-1", plan)])
    assert {key: look.label for key, look in links.looks.items()} == {
        "WP-1:seat=scored": "Seat: scored",
        "WP-1:leak=yes": "Leak: yes",
        "WP-1:bar!": "Pressure outside its limits",
    }
    assert links.steps["WP-1:s1"].minutes == 7


@given(st.permutations(["a", "b", "c", "d", "e"]), st.sets(st.sampled_from(["a", "b", "c", "d", "e"])))
def test_steps_put_in_an_order_keep_the_places_of_the_others(order: list[str], chosen: set[str]) -> None:
    steps = [Step(id=i, phase="Diagnose", text=i) for i in "abcde"]
    plan = Plan(title="P", steps=(*steps, Step(id="x", phase="Diagnose", text="x", under="b")))
    wanted = [s for s in order if s in chosen]
    after = [s.id for s in in_this_order(plan, wanted).steps]
    assert after[after.index("b") + 1] == "x"
    after.remove("x")
    assert [s for s in after if s in chosen] == wanted
    assert [s if s not in chosen else "-" for s in after] == [s if s not in chosen else "-" for s in "abcde"]


@settings(max_examples=examples(15), deadline=None)
@given(st.integers(0, 10_000))
def test_checks_stand_in_the_order_in_which_most_jobs_come_to_them(seed: int) -> None:
    """4,000 jobs are carried out by the strategy, each with a cause drawn; who meets which check is counted."""
    guide = a_guide(seed, 4, 4, 3)
    first = best_strategy(guide).first
    order = checks_in_order(first)
    rng = random.Random(seed)
    met: Counter[int] = Counter()
    for _ in range(4000):
        cause = rng.choices(range(len(guide.causes)), guide.chances)[0]
        at: Doing | None = first
        while at is not None and at.act != "last resort":
            if at.act == "check":
                met[at.place] += 1
                at = at.yes if rng.random() < guide.checks[at.place].yes[cause] else at.no
            else:
                at = None if rng.random() < guide.repairs[at.place].fixes[cause] else at.no
    assert set(met) <= set(order)
    # Five standard errors of a count apart at most, where the order says otherwise than the counts.
    for one, other in itertools.pairwise(order):
        assert met[one] >= met[other] - 5 * (met[one] + met[other]) ** 0.5

"""A small field whose truth is known: hidden causes, answers and minutes of every job, whatever its sheet asks."""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from statistics import fmean

from reedling.core.guidance.plans import Minutes, Plan, Step
from reedling.core.guidance.questions import Question, Reading, YesNo
from reedling.core.logic.conditions import Answer, Comparison, Condition, Conjunction
from reedling.core.refining.past_work import PastWork
from reedling.core.runsheet.compiling import compile_runsheet
from reedling.core.runsheet.lines import Runsheet, Source

STEPS = ("look", "listen", "read", "seal", "clean", "adjust", "prove")


@dataclass(frozen=True, slots=True)
class Hidden:
    """All that would be answered and taken on a job, asked or not."""

    order: str
    model: str
    cause: str
    leak: bool
    noise: bool
    bar: float
    minutes: Mapping[str, float]


@dataclass(frozen=True)
class World:
    """Chances and minutes of one field, from its seed."""

    seed: int

    def jobs(self, n: int, *, batch: str) -> list[Hidden]:
        """So many jobs; another batch has others of the same kind."""
        rng = random.Random(f"{self.seed} {batch}")
        of = random.Random(f"{self.seed} figures")
        causes = ("seal", "debris", "setting")
        leak = {c: of.uniform(0.1, 0.9) for c in causes}
        noise = {c: of.uniform(0.3, 0.7) for c in causes}
        bar = {(c, m): of.uniform(70, 110) for c in causes for m in "AB"}
        usual = {(s, m): of.uniform(4, 30) for s in STEPS for m in "AB"}
        out = []
        for i in range(n):
            cause, model = rng.choice(causes), rng.choice("AB")
            pace = rng.lognormvariate(0, 0.25)
            out.append(
                Hidden(
                    order=f"{batch}-{i}",
                    model=model,
                    cause=cause,
                    leak=rng.random() < leak[cause],
                    noise=rng.random() < noise[cause],
                    bar=rng.gauss(bar[cause, model], 9),
                    minutes={s: pace * usual[s, model] * rng.lognormvariate(0, 0.3) for s in STEPS},
                )
            )
        return out


LEAKS = Comparison(question="leak", operator="is", value=True)
TIGHT = Comparison(question="leak", operator="is", value=False)
NOISY = Comparison(question="noise", operator="is", value=True)
LOW = Comparison(question="bar", operator="below", value=90.0)

Wanted = Callable[[Hidden], set[str]]


@dataclass(frozen=True, slots=True)
class Guidance:
    """A plan, and the steps it wants of a job read off by hand: what the rules must agree with."""

    name: str
    when: Mapping[str, Condition]
    wants: Wanted

    def sheet(self) -> Runsheet:
        """The plan as a runsheet."""
        questions: dict[str, tuple[Question, ...]] = {
            "look": (YesNo(id="leak", label="Does it leak?"),),
            "listen": (YesNo(id="noise", label="Is it noisy?"),),
            "read": (Reading(id="bar", label="Pressure", unit="bar"),),
        }
        plan = Plan(
            title=self.name,
            steps=tuple(
                Step(
                    id=step,
                    phase="Diagnose" if step in questions else "Prove" if step == "prove" else "Put right",
                    text=step,
                    minutes=Minutes(likely=10),
                    questions=questions.get(step, ()),
                    condition=self.when.get(step),
                )
                for step in STEPS
            ),
        )
        return compile_runsheet([(Source(document="W", revision="A", title=self.name), plan)])


def wants(
    *, read: Callable[[Hidden], bool], seal: Callable[[Hidden], bool], clean: Callable[[Hidden], bool]
) -> Wanted:
    """Which steps a job wants; the adjusting goes by a reading that was taken."""

    def of(job: Hidden) -> set[str]:
        out = {"look", "listen", "prove"}
        out |= {"read"} if read(job) else set()
        out |= {"seal"} if seal(job) else set()
        out |= {"clean"} if clean(job) else set()
        out |= {"adjust"} if read(job) and job.bar < 90 else set()
        return out

    return of


BEFORE = Guidance(
    "as it is",
    {"read": NOISY, "seal": LEAKS, "clean": TIGHT, "adjust": LOW},
    wants(read=lambda j: j.noise, seal=lambda j: j.leak, clean=lambda j: not j.leak),
)
DRAFTS = (
    Guidance(
        "the reading is always taken",
        {"seal": LEAKS, "clean": TIGHT, "adjust": LOW},
        wants(read=lambda _: True, seal=lambda j: j.leak, clean=lambda j: not j.leak),
    ),
    Guidance(
        "the seal is changed only when it is noisy too",
        {"read": NOISY, "seal": Conjunction(parts=(LEAKS, NOISY)), "clean": TIGHT, "adjust": LOW},
        wants(read=lambda j: j.noise, seal=lambda j: j.leak and j.noise, clean=lambda j: not j.leak),
    ),
    Guidance(
        "it is always cleaned",
        {"read": NOISY, "seal": LEAKS, "adjust": LOW},
        wants(read=lambda j: j.noise, seal=lambda j: j.leak, clean=lambda _: True),
    ),
    Guidance(
        "the reading is taken when it leaks",
        {"read": LEAKS, "seal": LEAKS, "clean": TIGHT, "adjust": LOW},
        wants(read=lambda j: j.leak, seal=lambda j: j.leak, clean=lambda j: not j.leak),
    ),
)


def true_minutes(guidance: Guidance, job: Hidden) -> float:
    """What a job takes under the guidance."""
    return sum(job.minutes[step] for step in guidance.wants(job))


def true_difference(world: World, draft: Guidance, *, n: int = 20_000) -> float:
    """What the draft adds to a job on average, over very many."""
    jobs = world.jobs(n, batch="many")
    return fmean(true_minutes(draft, job) - true_minutes(BEFORE, job) for job in jobs)


def recorded(job: Hidden, guidance: Guidance = BEFORE) -> PastWork:
    """What is left of a job once it is closed: only what its guidance asked."""
    asked = guidance.wants(job)
    answers: dict[str, Answer] = {"W:leak": job.leak, "W:noise": job.noise}
    if "read" in asked:
        answers["W:bar"] = job.bar
    return PastWork(
        order=job.order,
        model=job.model,
        cause=job.cause,
        answers=answers,
        minutes={f"W:{step}": job.minutes[step] for step in asked},
    )


def all_known(job: Hidden) -> PastWork:
    """A job of which nothing is missing."""
    return replace(
        recorded(job),
        answers={"W:leak": job.leak, "W:noise": job.noise, "W:bar": job.bar},
        minutes={f"W:{step}": taken for step, taken in job.minutes.items()},
    )

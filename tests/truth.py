"""Whether what the screens say is true, tried in worlds whose truth is known. Run by ``make truth``; writes docs/truth.md.

The suite tries the same in fewer worlds; here each promise is tried in all of them, and the table is renewed.
"""

from __future__ import annotations

import time
from collections.abc import Callable, Iterator, Sequence
from pathlib import Path

import matplotlib
import matplotlib.pyplot as plt
import numpy as np

from reedling.core.pastfixes.ranking import FixRanker
from reedling.core.pastfixes.solved import Remedied, SolvedJob
from reedling.core.refining.missing_steps import proposals_of_missing_steps
from reedling.core.statistics.discoveries import FALSE_DISCOVERY_RATE
from reedling.core.statistics.intervals import wilson_interval
from tests.core.evidence.test_compared_jobs import n_told_of_a_district
from tests.core.evidence.test_revision_gains import n_held_by_quicker_people
from tests.core.evidence.test_trust import asked_of_readings, asked_of_times
from tests.core.faultguide.test_faultguide import distances
from tests.core.pastfixes.history import START, History
from tests.core.pastfixes.test_ranking import by_text, hits
from tests.core.refining.test_limit_proposals import field as pressures
from tests.core.refining.test_limit_proposals import judged
from tests.core.refining.test_misplaced_checks import n_put_in_order
from tests.core.refining.test_missing_steps import field
from tests.core.refining.test_proposals import PLAN, kinds, world
from tests.core.refining.test_replay import n_held
from tests.core.refining.test_trials import n_astray, n_found
from tests.core.refining.worlds import DRAFTS

DOCUMENT = Path(__file__).parents[1] / "docs/truth.md"
N_WORLDS = 100

Row = tuple[str, str, str]
"""What is promised, what was found, and whether it was kept."""


def replays() -> Iterator[Row]:
    """The range of a replay holds the difference of many simulated jobs."""
    for draft in DRAFTS:
        for n_jobs in (40, 120):
            held = n_held(draft, N_WORLDS, n_jobs)
            yield (
                f"replay on {n_jobs} jobs, {draft.name}: the range holds the true difference in at least 90 of 100 worlds",
                f"{held} of {N_WORLDS}",
                kept(held >= 90),
            )


def proposals() -> Iterator[Row]:
    """Nothing is proposed where nothing is wrong; what was planted is."""
    shown = sum(bool(kinds(world(seed))) for seed in range(N_WORLDS))
    yield (
        "proposals where nothing is wrong: in at most 14 of 100 worlds (10 % false discoveries, and chance)",
        f"{shown} of {N_WORLDS}",
        kept(shown <= 14),
    )
    slow = sum(
        ("re-time a step", "read") in kinds(world(seed, slow={"read": 1.5})) for seed in range(N_WORLDS)
    )
    yield (
        "a step that takes 1.5 times its minutes is re-timed in at least 95",
        f"{slow} of 100",
        kept(slow >= 95),
    )
    helped = sum(
        ("illustrate a step", "read") in kinds(world(seed, help_at={"read B": 0.3, "read A": 0.02}))
        for seed in range(N_WORLDS)
    )
    yield (
        "a step at which 30 % ask for help on one model is to be illustrated in at least 95",
        f"{helped} of 100",
        kept(helped >= 95),
    )
    none = sum(bool(proposals_of_missing_steps("W", "A", PLAN, 150, field(seed))) for seed in range(N_WORLDS))
    yield "a step to add where nobody does the same: in at most 5 of 100", f"{none} of 100", kept(none <= 5)
    found = sum(
        bool(proposals_of_missing_steps("W", "A", PLAN, 150, field(seed, planted=0.12)))
        for seed in range(N_WORLDS)
    )
    yield (
        "what one job in eight does beside the steps is proposed in at least 95",
        f"{found} of 100",
        kept(found >= 95),
    )

    spared = n_put_in_order(N_WORLDS, alone=True)
    yield (
        "of two checks that tell of different causes one is to be spared in at least 95",
        f"{spared} of 100",
        kept(spared >= 95),
    )
    needless = n_put_in_order(N_WORLDS, alone=False)
    yield (
        "of two checks that tell apart from each other none is called needless, but in 5 of 100 at most",
        f"{needless} of 100",
        kept(needless <= 5),
    )


def changes() -> Iterator[Row]:
    """What a change did and how lots of jobs differ, where people and faults are others on the two sides."""
    held, helped = n_held_by_quicker_people(N_WORLDS, 0.0)
    yield (
        "a change that does nothing, newer jobs by quicker people: the range holds 0 in at least 90",
        f"{held} of 100",
        kept(held >= 90),
    )
    yield ("and it is called an improvement in at most 7", f"{helped} of 100", kept(helped <= 7))
    held, helped = n_held_by_quicker_people(N_WORLDS, 14.0)
    yield (
        "a change that saves 14 min of about 100, newer jobs by quicker people: the range holds it in at least 90",
        f"{held} of 100",
        kept(held >= 90),
    )
    yield ("and it is called an improvement in at least 80", f"{helped} of 100", kept(helped >= 80))
    _, told = n_told_of_a_district(N_WORLDS, 0.0)
    yield (
        "a district that is no slower but has the long faults: called slower in at most 7",
        f"{told} of 100",
        kept(told <= 7),
    )


def trials() -> Iterator[Row]:
    """What a trial says may be looked at after every job, and it is over within the jobs said beforehand."""
    n_trials = 500
    for one_in in (2, 5):
        astray = n_astray(n_trials, one_in, saves=14)
        yield (
            f"trial on one in {one_in} orders of a change that saves 14 min, looked at after each of 240 jobs: the range "
            "once leaves the truth out in at most 5 of 100, but for chance",
            f"{astray} of {n_trials}",
            kept(astray <= 37),
        )
        found = n_found(n_trials, one_in, saves=15)
        yield (
            f"trial on one in {one_in} orders, within the jobs said beforehand: a true saving of 15 min is found in at least "
            "80 of 100, but for chance",
            f"{found} of {n_trials}",
            kept(found >= 379),
        )


def trust() -> Iterator[Row]:
    """Who copies readings, or passes over steps, is asked about; hardly anybody else."""
    for planted, promise, asked in (
        (True, "one of six writes the same reading four times of five: asked about in at least 95", copied),
        (
            False,
            "readings that nobody copies: somebody is asked about in at most 14 (one in ten, and chance)",
            copied,
        ),
        (True, "one of six passes over a quarter of the steps: asked about in at least 95", passed_over),
        (
            False,
            "steps at which people differ in pace alone: somebody is asked about in at most 14",
            passed_over,
        ),
    ):
        n = sum(asked(seed, planted=planted) for seed in range(N_WORLDS))
        yield f"{promise} of 100", f"{n} of 100", kept(n >= 95 if planted else n <= 14)


def copied(seed: int, *, planted: bool) -> bool:
    """Whether who copies is asked about; where nobody does, whether anybody is."""
    found = asked_of_readings(seed, copier=planted)
    return ("t4", "amps") in found if planted else bool(found)


def passed_over(seed: int, *, planted: bool) -> bool:
    """Whether who passes over steps is asked about; where nobody does, whether anybody is."""
    found = asked_of_times(seed, hurrier=planted)
    return "t2" in {q.technician for q in found} if planted else bool(found)


def limits() -> Iterator[Row]:
    """A limit is moved where it is off, and hardly ever where it is right."""
    for worn_below, promise, fewest, most in (
        (
            90.0,
            "a limit that lies right is moved in at most 16 of 100 worlds (one in ten, and chance)",
            0,
            16,
        ),
        (97.0, "a limit that lies 7 bar too low is tightened in at least 90", 90, 100),
        (83.0, "a limit that lies 7 bar too high is relaxed in at least 90", 90, 100),
    ):
        n = sum(
            any(
                found and p <= FALSE_DISCOVERY_RATE
                for p, found in judged(pressures(seed, worn_below=worn_below))
            )
            for seed in range(N_WORLDS)
        )
        yield promise, f"{n} of {N_WORLDS}", kept(fewest <= n <= most)


def learning() -> Iterator[Row]:
    """Learned chances come to the truth as jobs grow; drawn in docs/learning.svg."""
    n_worlds = 20
    numbers = [50 * 2**k for k in range(8)]
    found = [distances(n, n_worlds) for n in numbers]
    draw_learning(numbers, found)
    for n, before, after in zip(numbers[1:], found, found[1:], strict=False):
        yield (
            f"chances learned from {n:,} jobs: nearer to the truth than from {n // 2:,}, in the mean of {n_worlds} worlds",
            f"{np.mean(after):.3f} away ({min(after):.3f} to {max(after):.3f})",
            kept(float(np.mean(after)) < float(np.mean(before))),
        )


def draw_learning(numbers: Sequence[int], found: Sequence[Sequence[float]]) -> None:
    """The distance from the truth by the number of jobs: its mean, its range over the worlds, and what chance alone leaves."""
    matplotlib.use("svg")
    plt.rcParams["svg.hashsalt"] = "learning"
    figure, axes = plt.subplots(figsize=(7, 4))
    means = [float(np.mean(far)) for far in found]
    axes.fill_between(
        numbers, [min(far) for far in found], [max(far) for far in found], color="#3a4a54", alpha=0.15
    )
    axes.plot(numbers, means, color="#3a4a54", marker="o", label="mean of 20 worlds, and their range")
    by_chance = [means[-1] * (numbers[-1] / n) ** 0.5 for n in numbers]
    axes.plot(
        numbers, by_chance, color="#a8692a", linestyle="--", label="falling with the square root of the jobs"
    )
    axes.set(xscale="log", yscale="log", xlabel="closed jobs", ylabel="mean distance from the true chance")
    axes.set_xticks(numbers, [f"{n:,}" for n in numbers])
    axes.set_yticks([0.01, 0.02, 0.05, 0.1, 0.2], ["0.01", "0.02", "0.05", "0.10", "0.20"])
    axes.minorticks_off()
    axes.legend(frameon=False)
    figure.tight_layout()
    figure.savefig(DOCUMENT.parent / "learning.svg", metadata={"Date": None})
    plt.close(figure)


def past_fixes() -> Iterator[Row]:
    """Ranked better than by text, and as sure as it says."""
    ours, text = [], []
    bands: dict[int, list[tuple[float, bool]]] = {}
    for seed in range(20):
        history = History(seed)
        before, asked = history.solved(500), history.solved(200, 500)
        ranker = FixRanker.of(before)
        ranked = [ranker.rank(job.call) for job in asked]
        ours.append(hits([[p.fix for p in found] for found in ranked], asked))
        text.append(hits(by_text(before, asked), asked))
        for job, found in zip(asked, ranked, strict=True):
            for shown in found:
                if shown.confidence:
                    share = shown.confidence.share
                    bands.setdefault(min(int(share * 5), 4), []).append((share, shown.fix == job.fix))
    draw_calibration([shown for band in bands.values() for shown in band])
    better = sum(o > t for o, t in zip(ours, text, strict=True))
    yield (
        "past fixes: the first is the true one more often than by BM25 on the text, in each of 20 histories",
        f"in {better} of 20; {np.mean(ours):.0%} against {np.mean(text):.0%}",
        kept(better == 20),
    )
    taught = [after_marks(History(seed)) for seed in range(20)]
    before_marks, with_marks = (float(np.mean(column)) for column in zip(*taught, strict=True))
    yield (
        "calls in words that nobody used before: once six of each cause are marked, the first is the true one more often,"
        " in each of 20 histories",
        f"in {sum(after > before for before, after in taught)} of 20; {before_marks:.0%} before, {with_marks:.0%} after",
        kept(all(after > before for before, after in taught)),
    )
    for band, shown_there in sorted(bands.items()):
        told, came = (float(np.mean(column)) for column in zip(*shown_there, strict=True))
        yield (
            f"shown at {band * 20} to {band * 20 + 20} %: within 10 points of what came true",
            f"told {told:.0%}, came true {came:.0%}, {len(shown_there):,} shown",
            kept(abs(told - came) <= 0.10 or len(shown_there) < 80),
        )


def after_marks(history: History) -> tuple[float, float]:
    """Of 160 calls in other words for the same causes, the share whose first fix is the true one: before, and after six
    others of each cause were marked as solved."""
    before = history.solved(500)
    strange = {cause: [f"{word}ish" for word in words] for cause, words in history.words.items()}

    def calls(n: int, first: int, *, confirmed: bool) -> list[SolvedJob]:
        return [
            SolvedJob(
                order=f"WO-9{first + i:04d}",
                call=history.call(cause, words=strange[cause]),
                fix=Remedied(cause=cause, remedy=f"mend {cause}"),
                finished_at=START,
                confirmed=confirmed,
            )
            for i, cause in enumerate(history.causes * n)
        ]

    marked, asked = calls(6, 0, confirmed=True), calls(20, 1000, confirmed=False)

    def share(jobs: Sequence[SolvedJob]) -> float:
        ranker = FixRanker.of(jobs)
        return hits([[p.fix for p in ranker.rank(job.call)] for job in asked], asked)

    return share(before), share([*before, *marked])


def draw_calibration(shown: Sequence[tuple[float, bool]]) -> None:
    """What was told of fixes that were shown against what came true, in tenths, each with its range and its count."""
    matplotlib.use("svg")
    plt.rcParams["svg.hashsalt"] = "calibration"
    figure, axes = plt.subplots(figsize=(7, 5))
    axes.plot([0, 1], [0, 1], color="#a8692a", linestyle="--", label="told as it comes true")
    tenths: dict[int, list[tuple[float, bool]]] = {}
    for share, came in shown:
        tenths.setdefault(min(int(share * 10), 9), []).append((share, came))
    for tenth in sorted(tenths):
        told = float(np.mean([share for share, _ in tenths[tenth]]))
        found = wilson_interval(sum(came for _, came in tenths[tenth]), len(tenths[tenth]))
        assert found.share is not None
        axes.plot([told, told], [found.low, found.high], color="#3a4a54")
        axes.plot(told, found.share, color="#3a4a54", marker="o")
        axes.annotate(
            f"{len(tenths[tenth]):,}",
            (told, found.share),
            xytext=(6, -15),
            textcoords="offset points",
            fontsize=8,
        )
    axes.set(
        xlabel="confidence that was shown", ylabel="share that came true, with its 95 % range and the count"
    )
    axes.set_xticks([0, 0.2, 0.4, 0.6, 0.8, 1], ["0 %", "20 %", "40 %", "60 %", "80 %", "100 %"])
    axes.set_yticks([0, 0.2, 0.4, 0.6, 0.8, 1], ["0 %", "20 %", "40 %", "60 %", "80 %", "100 %"])
    axes.legend(frameon=False)
    figure.tight_layout()
    figure.savefig(DOCUMENT.parent / "calibration.svg", metadata={"Date": None})
    plt.close(figure)


def kept(holds: bool) -> str:
    """Whether a promise was kept, in a word."""
    return "kept" if holds else "**not kept**"


def main() -> None:
    """Try everything and write the table."""
    parts: tuple[tuple[str, Callable[[], Iterator[Row]]], ...] = (
        ("Replay", replays),
        ("Proposals", proposals),
        ("Limits", limits),
        ("Learning", learning),
        ("Changes", changes),
        ("Trials", trials),
        ("Trust", trust),
        ("Past fixes", past_fixes),
    )
    lines = [
        "# What is promised, tried in worlds whose truth is known",
        "",
        "Written by `make truth`. Each line is a promise of the screens, tried in seeded worlds that know what is so.",
        "The suite tries the same in fewer worlds.",
        "",
        "| promise | found | |",
        "|---|---|---|",
    ]
    for name, rows in parts:
        began = time.perf_counter()
        for promise, found, verdict in rows():
            lines.append(f"| {promise} | {found} | {verdict} |")
            print(f"{promise}: {found}, {verdict}")
        print(f"{name}: {time.perf_counter() - began:.0f} s")
    lines += [
        "",
        "![How far learned chances lie from the truth, by the number of closed jobs](learning.svg)",
        "",
        "![Of past fixes shown at a confidence, how many came true](calibration.svg)",
    ]
    DOCUMENT.write_text("\n".join(lines) + "\n", "utf-8")


if __name__ == "__main__":
    main()
